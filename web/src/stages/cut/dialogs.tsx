// Dialogs of Cut: what stays clear, an outline by points, a piece beside the plan.
import { Input, Select } from "antd";
import { useState } from "react";
import { api, ask, itemId, type Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { Dialog, type InDialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";

type Surface = Schemas["Surface"];

const ZONES = [
  "drain",
  "vent",
  "fixing",
  "moving part",
  "airbag seam",
  "hot part",
  "module",
  "cable run",
  "sealing face",
  "loudspeaker",
  "stiffener",
] as const;

export function NewZone({ row, edit, close }: InDialog & { row: Surface }) {
  const [kind, setKind] = useState<(typeof ZONES)[number]>("drain");
  const [values, setValues] = useState<Record<string, string>>({
    x_mm: "0",
    y_mm: "0",
    width_mm: "80",
    height_mm: "30",
    margin_mm: "",
    count: "1",
    step: "90",
    angle: "0",
    name: "",
  });
  const [pierce, setPierce] = useState(false);
  const [shape, setShape] = useState("rectangle");
  const save = async () => {
    const { x_mm, y_mm, width_mm, height_mm } = values;
    const place =
      shape === "circle" ? { at_mm: [x_mm, y_mm], diameter_mm: width_mm } : { x_mm, y_mm, width_mm, height_mm };
    const zone = { kind, shape, name: values["name"], ...place, margin_mm: values["margin_mm"] || null, pierce };
    const typed = { zone, count: values["count"] || "1", step_mm: values["step"], angle_deg: values["angle"] };
    const found = await ask(api.POST("/api/clear-row", { body: typed as never }));
    await edit.operate(
      "surfaces",
      row,
      found.zones.map((item) => ({
        op: "add" as const,
        at: ["keep_clear"],
        item: { ...item, id: itemId() },
        after: null,
      })),
    );
  };
  return (
    <Dialog title={`Keep clear on the ${row.name.toLowerCase()}`} ok="Keep it clear" save={save} close={close}>
      <div className="two">
        <Ask label="What is there">
          <Select
            value={kind}
            listHeight={440}
            options={ZONES.map((value) => ({ value, label: value }))}
            onChange={setKind}
          />
        </Ask>
        <Ask label="Shape">
          <Select
            value={shape}
            options={["rectangle", "circle"].map((value) => ({ value, label: value }))}
            onChange={setShape}
          />
        </Ask>
        {(shape === "circle"
          ? ([
              ["x_mm", "Centre from the left"],
              ["y_mm", "Centre from below"],
              ["width_mm", "Diameter"],
              ["margin_mm", "Margin (empty: by kind)"],
            ] as const)
          : ([
              ["x_mm", "From the left"],
              ["y_mm", "From below"],
              ["width_mm", "Width"],
              ["height_mm", "Height"],
              ["margin_mm", "Margin (empty: by kind)"],
            ] as const)
        ).map(([key, label]) => (
          <Ask key={key} label={label}>
            <Input value={values[key]} suffix="mm" onChange={(e) => setValues({ ...values, [key]: e.target.value })} />
          </Ask>
        ))}
      </div>
      <div className="two">
        <Ask label="How many in a row">
          <Input value={values["count"]} onChange={(e) => setValues({ ...values, count: e.target.value })} />
        </Ask>
        <Ask label="Why, or which">
          <Input value={values["name"]} onChange={(e) => setValues({ ...values, name: e.target.value })} />
        </Ask>
        {Number(values["count"]) > 1 ? (
          <>
            <Ask label="From one to the next">
              <Input
                value={values["step"]}
                suffix="mm"
                onChange={(e) => setValues({ ...values, step: e.target.value })}
              />
            </Ask>
            <Ask label="Which way, from the right upwards">
              <Input
                value={values["angle"]}
                suffix="°"
                onChange={(e) => setValues({ ...values, angle: e.target.value })}
              />
            </Ask>
          </>
        ) : null}
      </div>
      {kind === "fixing" ? (
        <label className="tickline">
          <input type="checkbox" checked={pierce} onChange={(e) => setPierce(e.target.checked)} />
          <span>Covered, and pierced when the layer lies</span>
        </label>
      ) : null}
    </Dialog>
  );
}

export function Points({ row, edit, close }: InDialog & { row: Surface }) {
  const [text, setText] = useState(row.outline_mm.map((p) => p.join("; ")).join("\n"));
  const save = async () => {
    const outline_mm = text
      .split("\n")
      .filter((l) => l.trim())
      .map((l) => l.split(/[;\t]|\s+/).filter(Boolean));
    await edit.change("surfaces", row, { outline_mm });
  };
  return (
    <Dialog title={`Outline of the ${row.name.toLowerCase()}`} ok="Keep the outline" save={save} close={close}>
      <p className="small">One corner a line, in millimetres from the lower left: across; up.</p>
      <Input.TextArea value={text} aria-label="Corners" rows={8} onChange={(e) => setText(e.target.value)} />
    </Dialog>
  );
}

export function NewPiece({ edit, close }: InDialog) {
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
    await edit.create("pieces", [{ ...values, material, quantity: Number(values["quantity"]) }]);
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
            ["width_mm", "Width", "mm"],
            ["height_mm", "Height", "mm"],
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
    .map((m) => ({ value: m.material.id, label: m.material.name }));
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
      <Ask label="Metres, or pieces of what is sold by the piece">
        <Input value={amount} onChange={(e) => setAmount(e.target.value)} />
      </Ask>
    </Dialog>
  );
}
