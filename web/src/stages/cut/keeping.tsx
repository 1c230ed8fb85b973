// Dialogs of Cut: how a surface is reached, and keeping it as a template.
import { Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWorkshop } from "../../api/workshop";
import { useBegun } from "../../parts/begun";
import { Dialog, type InDialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { lengthUnit, sentIn, shownIn, useUnits } from "../../parts/units";

type Surface = Schemas["Surface"];

// How a surface is reached, and how its boards meet their neighbours.
export function Access({ row, edit, close }: InDialog & { row: Surface }) {
  const begun = useBegun(row);
  const given = begun.opening;
  const units = useUnits();
  const text = (v: number | null | undefined) => (v == null ? "" : shownIn(v, "length", units));
  const [values, setValues] = useState<Record<string, string>>({
    width_mm: text(given?.width_mm),
    height_mm: text(given?.height_mm),
    x_mm: text(given?.x_mm),
    y_mm: text(given?.y_mm),
  });
  const [butts, setButts] = useState(begun.butts ?? "");
  const save = async () => {
    const open = values["width_mm"]?.trim() && values["height_mm"]?.trim();
    const mm = (key: string) => sentIn(values[key] ?? "", "length", units);
    const blank = (key: string) => (values[key]?.trim() ? mm(key) : null);
    await edit.change("surfaces", begun, {
      opening: open
        ? { width_mm: mm("width_mm"), height_mm: mm("height_mm"), x_mm: blank("x_mm"), y_mm: blank("y_mm") }
        : null,
      butts,
    });
  };
  return (
    <Dialog title={`How the ${row.name.toLowerCase()} is reached`} ok="Keep it so" save={save} close={close}>
      <p className="small">
        A panel reached only through a hole is cut in strips that pass it, numbered as they go in. Leave the size empty
        where it lies open.
      </p>
      <div className="two">
        {(
          [
            ["width_mm", "Opening, width"],
            ["height_mm", "Opening, height"],
            ["x_mm", "From the left (empty: its middle)"],
            ["y_mm", "From below (empty: its middle)"],
          ] as const
        ).map(([key, label]) => (
          <Ask key={key} label={label}>
            <Input
              value={values[key]}
              suffix={lengthUnit(units)}
              onChange={(e) => setValues({ ...values, [key]: e.target.value })}
            />
          </Ask>
        ))}
      </div>
      <Ask label="Its boards stand between their neighbours">
        <Select
          value={butts}
          options={[
            { value: "", label: "no: they run through" },
            { value: "across", label: "across: shorter in width by their thickness, twice" },
            { value: "up", label: "up: shorter in height by their thickness, twice" },
            { value: "both", label: "both ways" },
          ]}
          onChange={setButts}
        />
      </Ask>
    </Dialog>
  );
}

// A surface kept for the next job alike, under the workshop's own label.
type Template = { row: Surface; layers: unknown; fixings: readonly Schemas["Fixing"][]; close: () => void };
export function KeepTemplate({ row, layers, fixings, close }: Template) {
  const workshop = useWorkshop();
  const [label, setLabel] = useState("");
  const [what, setWhat] = useState("");
  const [day, setDay] = useState(new Date().toISOString().slice(0, 10));
  const save = async () => {
    const surface: Record<string, unknown> = { ...row, made_from: "" };
    delete surface["id"];
    delete surface["version"];
    const held = fixings.map(({ kind, size, count, place, x_mm, y_mm, bag, note }) => ({
      ...{ kind, size, count, place, x_mm, y_mm, bag, note },
    }));
    await workshop.add("outlines", { label, what, measured_on: day, surface, layers, fixings: held });
  };
  return (
    <Dialog title="Keep as a template" ok="Keep it on the shelf" save={save} close={close}>
      <p className="small">
        Its outline, what stays clear, its panel, the layers chosen for it and its fixings, for the next job alike: as
        it is, or mirrored.
      </p>
      <Ask label="Label">
        <Input autoFocus value={label} placeholder="RD-L" onChange={(e) => setLabel(e.target.value)} />
      </Ask>
      <Ask label="What it fits">
        <Input value={what} placeholder="panel van, long, rear door left" onChange={(e) => setWhat(e.target.value)} />
      </Ask>
      <Ask label="Measured on">
        <Input type="date" value={day} onChange={(e) => setDay(e.target.value)} />
      </Ask>
    </Dialog>
  );
}
