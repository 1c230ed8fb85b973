// What is known of a surface: depth, weight, what it stands, its frame.
import { Button } from "antd";
import type { Schemas } from "../../api/client";
import { Field } from "../../parts/fields";
import type { StageProps } from "../../parts/stage";
import { Frames } from "./frame";

const FLAGS = ["wet", "hot", "curved", "hidden", "walked on", "overhead", "trim over it"] as const;

export function SurfaceCard({
  surface,
  alternative,
  edit,
}: {
  surface: Schemas["Surface"];
  alternative: Schemas["Alternative"] | undefined;
  edit: StageProps["edit"];
}) {
  const text = (v: number | null) => (v == null ? "" : String(v));
  return (
    <details>
      <summary>
        <b>About this surface</b>
      </summary>
      <div className="form">
        <Field label="Name" value={surface.name} save={(name) => edit.change("surfaces", surface, { name })} />
        <div className="two">
          <Field
            label="Depth there is"
            unit="mm"
            value={text(surface.depth_limit_mm)}
            placeholder="none"
            save={(v) => edit.change("surfaces", surface, { depth_limit_mm: v })}
          />
          <Field
            label="Weight each may gain"
            unit="kg"
            value={text(surface.kg_limit)}
            placeholder="none"
            save={(v) => edit.change("surfaces", surface, { kg_limit: v })}
          />
          <Field
            label="How many alike"
            value={String(surface.count)}
            save={(v) => edit.change("surfaces", surface, { count: Number(v) })}
          />
        </div>
        <div className="chips">
          {FLAGS.map((f) => (
            <button
              key={f}
              className="chip"
              aria-pressed={surface.flags.includes(f)}
              onClick={() =>
                void edit.tryOperate(
                  "surfaces",
                  surface,
                  surface.flags.includes(f)
                    ? { op: "remove", at: ["flags"], id: f }
                    : { op: "add", at: ["flags"], item: f, after: null },
                )
              }
            >
              {f}
            </button>
          ))}
        </div>
        <Frames surface={surface} alternative={alternative} edit={edit} />
        <Button danger onClick={() => void edit.remove("surfaces", surface)}>
          Remove this surface and its plans
        </Button>
      </div>
    </details>
  );
}
