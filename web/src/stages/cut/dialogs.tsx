// Dialogs of Cut: an outline by points, a piece and goods beside the plan.
import { Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { useBegun } from "../../parts/begun";
import { Dialog, type InDialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { lengthUnit, sentIn, useUnits } from "../../parts/units";

type Surface = Schemas["Surface"];

export function Points({ row, edit, close }: InDialog & { row: Surface }) {
  const [text, setText] = useState(row.outline_mm.map((p) => p.join("; ")).join("\n"));
  const begun = useBegun(row);
  const save = async () => {
    const outline_mm = text
      .split("\n")
      .filter((l) => l.trim())
      .map((l) => l.split(/[;\t]|\s+/).filter(Boolean));
    await edit.change("surfaces", begun, { outline_mm });
  };
  return (
    <Dialog title={`Outline of the ${row.name.toLowerCase()}`} ok="Keep the outline" save={save} close={close}>
      <p className="small">One corner a line, in millimetres from the lower left: across; up.</p>
      <Input.TextArea value={text} aria-label="Corners" rows={8} onChange={(e) => setText(e.target.value)} />
    </Dialog>
  );
}

export function NewPiece({ edit, close }: InDialog) {
  const units = useUnits();
  const shelf = useShelf();
  const options = (shelf.data?.materials ?? [])
    .map((m) => m.material)
    .filter((m) => !m.retired && m.stock.some((f) => f.form === "sheet" || f.form === "roll"))
    .map((m) => ({ value: m.id, label: m.name }));
  const [material, setMaterial] = useState("butyl-foil");
  const [values, setValues] = useState<Record<string, string>>({
    name: "",
    width_mm: "",
    height_mm: "",
    quantity: "1",
  });
  const save = async () => {
    const mm = (key: string) => sentIn(values[key] ?? "", "length", units);
    const sizes = { width_mm: mm("width_mm"), height_mm: mm("height_mm") };
    await edit.create("pieces", [{ ...values, ...sizes, material, quantity: Number(values["quantity"]) }]);
  };
  return (
    <Dialog title="A piece beside those of the plan" ok="Add" save={save} close={close}>
      <Ask label="Material">
        <Select value={material} options={options} onChange={setMaterial} />
      </Ask>
      <div className="two">
        {(
          [
            ["name", "Name", ""],
            ["quantity", "How many", ""],
            ["width_mm", "Width", lengthUnit(units)],
            ["height_mm", "Height", lengthUnit(units)],
          ] as const
        ).map(([key, label, unit]) => (
          <Ask key={key} label={label}>
            <Input
              value={values[key]}
              suffix={unit}
              onChange={(e) => setValues({ ...values, [key]: e.target.value })}
            />
          </Ask>
        ))}
      </div>
    </Dialog>
  );
}

export function NewGood({ edit, close }: InDialog) {
  const shelf = useShelf();
  const options = (shelf.data?.materials ?? [])
    .filter((m) => !m.lies && !m.material.retired)
    .map((m) => ({ value: m.material.id, label: m.material.name, unit: m.measure || "pieces" }));
  const [material, setMaterial] = useState("");
  const [amount, setAmount] = useState("1");
  const save = async () => {
    await edit.create("goods", [{ material: material || options[0]?.value, amount }]);
  };
  return (
    <Dialog title="Goods beside those of the plan" ok="Add" save={save} close={close}>
      <Ask label="What">
        <Select
          value={material || options[0]?.value}
          options={options}
          onChange={setMaterial}
          showSearch
          optionFilterProp="label"
        />
      </Ask>
      <Ask label="How much">
        <Input
          value={amount}
          suffix={(options.find((o) => o.value === material) ?? options[0])?.unit}
          onChange={(e) => setAmount(e.target.value)}
        />
      </Ask>
    </Dialog>
  );
}
