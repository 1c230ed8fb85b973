// A surface parted into zones of other depth or excitation, each with its own stack.
import { Button, Input } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { itemId } from "../../api/client";
import { useAddress } from "../../parts/address";
import { Ask } from "../../parts/fields";
import { Note } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { lengthUnit, sentIn, useUnits } from "../../parts/units";
import { percent } from "../../parts/words";

type Surface = Schemas["Surface"];

export function ZoneChips({ view, surface }: { view: Schemas["BuildView"]; surface: Surface }) {
  const address = useAddress();
  if (!view.zones.length) return null;
  return (
    <div className="chips" role="group" aria-label="Zones">
      {view.zones.map((z) => (
        <button
          key={z.id || "rest"}
          className="chip"
          aria-pressed={z.id === view.zone}
          onClick={() => address.go({ surface: surface.id, zone: z.id || null, plan: null, layer: null })}
        >
          {z.name} <span className="small">{percent(z.share)}</span>
          {z.alternative_id ? " ✓" : ""}
        </button>
      ))}
    </div>
  );
}

const FIELDS = [
  ["x_mm", "From the left"],
  ["y_mm", "From below"],
  ["width_mm", "Width"],
  ["height_mm", "Height"],
] as const;

export function ZoneForm({ surface, edit }: { surface: Surface; edit: StageProps["edit"] }) {
  const units = useUnits();
  const [open, setOpen] = useState(false);
  const [values, setValues] = useState<Record<string, string>>({});
  const [wrong, setWrong] = useState("");
  const set = (key: string) => (e: { target: { value: string } }) => setValues({ ...values, [key]: e.target.value });
  const keep = async () => {
    const item = Object.fromEntries(FIELDS.map(([key]) => [key, sentIn(values[key] ?? "", "length", units)]));
    try {
      await edit.operate("surfaces", surface, [
        {
          op: "add",
          at: ["zones"],
          item: {
            id: itemId(),
            name: values["name"] ?? "",
            ...item,
            excitation_db: values["louder"] || "0",
            depth_limit_mm: sentIn(values["depth"] ?? "", "length", units) || null,
          },
          after: null,
        },
      ]);
      setOpen(false);
      setValues({});
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Error ? error.message : "Not kept.");
    }
  };
  return (
    <>
      {(surface.zones ?? []).map((z) => (
        <div key={z.id} className="acts">
          <span>
            <b>{z.name}</b>{" "}
            <span className="small">
              {z.excitation_db ? `${z.excitation_db > 0 ? "+" : "−"}${Math.abs(z.excitation_db)} dB louder` : "as loud"}
            </span>
          </span>
          <Button
            size="small"
            onClick={() => void edit.tryOperate("surfaces", surface, { op: "remove", at: ["zones"], id: z.id ?? "" })}
          >
            Put back into one
          </Button>
        </div>
      ))}
      {open ? (
        <div className="form">
          <Ask label="Name of the zone">
            <Input value={values["name"] ?? ""} placeholder="deep well" onChange={set("name")} />
          </Ask>
          <div className="two">
            {FIELDS.map(([key, label]) => (
              <Ask key={key} label={label}>
                <Input value={values[key] ?? ""} suffix={lengthUnit(units)} onChange={set(key)} />
              </Ask>
            ))}
            <Ask label="Louder there by">
              <Input value={values["louder"] ?? ""} suffix="dB" placeholder="0" onChange={set("louder")} />
            </Ask>
            <Ask label="Depth there is">
              <Input
                value={values["depth"] ?? ""}
                suffix={lengthUnit(units)}
                placeholder="as all"
                onChange={set("depth")}
              />
            </Ask>
          </div>
          {wrong ? <Note kind="danger">{wrong}</Note> : null}
          <div className="acts">
            <Button type="primary" onClick={() => void keep()}>
              Part it
            </Button>
            <Button onClick={() => setOpen(false)}>Leave it whole</Button>
          </div>
        </div>
      ) : (
        <Button onClick={() => setOpen(true)}>Part off a zone …</Button>
      )}
    </>
  );
}
