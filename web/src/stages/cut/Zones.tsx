// What stays clear on a surface, one by one: its margin changed, copied, mirrored across the middle, taken away.
import { itemId, type Schemas } from "../../api/client";
import { Field } from "../../parts/fields";
import type { StageProps } from "../../parts/stage";
import { Unfold } from "../../parts/Unfold";
import { length, lengthUnit, sentIn, shownIn, useUnits, type Units } from "../../parts/units";

type Zone = Schemas["KeepClear"];
const COPIED_BY_MM = 60;

function sizeOf(z: Zone, units: Units): string {
  if (z.shape === "circle") return `Ø ${length(z.width_mm, units)}`;
  if (z.shape !== "edge") return `${length(z.width_mm, units)} × ${length(z.height_mm, units)}`;
  return `${length(z.width_mm, units)} along ${z.edges?.length ? `side ${z.edges.join(", ")}` : "the whole edge"}`;
}

export function Zones({ row, edit }: { row: Schemas["Surface"]; edit: StageProps["edit"] }) {
  const units = useUnits();
  const xs = row.outline_mm.map((p) => p[0]);
  const both = Math.min(...xs) + Math.max(...xs);
  const add = (z: Zone, x_mm: number) =>
    void edit.tryOperate("surfaces", row, {
      op: "add",
      at: ["keep_clear"],
      item: { ...z, id: itemId(), x_mm },
      after: z.id ?? null,
    });
  return (
    <Unfold summary={`${row.keep_clear.length} kept clear`}>
      <div className="rows">
        {row.keep_clear.map((z, i) => (
          <div key={z.id || `${z.kind}${i}`}>
            <span>
              {z.kind}
              {z.name ? `, ${z.name}` : ""}
              {z.pierce ? ", pierced" : ""}{" "}
              <span className="small">
                {sizeOf(z, units)}
                {z.away_mm != null ? `, ${length(z.away_mm, units)} off the panel` : ""}
              </span>
              <Field
                label="Margin"
                unit={lengthUnit(units)}
                value={shownIn(z.margin_mm, "length", units)}
                placeholder="by its kind"
                save={(text) =>
                  edit.operate("surfaces", row, [
                    {
                      op: "set",
                      at: ["keep_clear", z.id ?? "", "margin_mm"],
                      value: text.trim() ? sentIn(text, "length", units) : null,
                    },
                  ])
                }
              />
            </span>
            <span>
              {z.shape === "edge" ? null : (
                <>
                  <button className="key" aria-label={`Copy ${z.kind}`} onClick={() => add(z, z.x_mm + COPIED_BY_MM)}>
                    copy
                  </button>{" "}
                  <button
                    className="key"
                    aria-label={`Mirror ${z.kind}`}
                    onClick={() => add(z, both - z.x_mm - z.width_mm)}
                  >
                    mirror
                  </button>{" "}
                </>
              )}
              <button
                className="key"
                aria-label={`Remove ${z.kind}`}
                onClick={() =>
                  void edit.tryOperate("surfaces", row, { op: "remove", at: ["keep_clear"], id: z.id ?? "" })
                }
              >
                remove
              </button>
            </span>
          </div>
        ))}
      </div>
    </Unfold>
  );
}
