// Dialogs of Cut: what stays clear, an outline by points, a piece beside the plan.
import { Input, Modal, Select } from "antd";
import { useState } from "react";
import { itemId, type Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { Ask } from "../../parts/fields";
import { Note } from "../../parts/said";
import type { StageProps } from "../../parts/stage";

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

type Dialog = { edit: StageProps["edit"]; close: () => void };

const message = (error: unknown) => (error instanceof Error ? error.message : "Not kept.");

export function NewZone({ row, edit, close }: Dialog & { row: Surface }) {
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
  const [wrong, setWrong] = useState("");
  const save = async () => {
    try {
      const { x_mm, y_mm, width_mm, height_mm } = values;
      const place =
        shape === "circle" ? { at_mm: [x_mm, y_mm], diameter_mm: width_mm } : { x_mm, y_mm, width_mm, height_mm };
      const zone = { kind, shape, name: values["name"], ...place, margin_mm: values["margin_mm"] || null, pierce };
      const count = Math.max(1, Math.min(100, Math.round(Number(values["count"]) || 1)));
      await edit.operate(
        "surfaces",
        row,
        Array.from({ length: count }, (_, n) => ({
          op: "add" as const,
          at: ["keep_clear"],
          item: { id: itemId(), ...moved(zone, values, n) },
          after: null,
        })),
      );
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal
      title={`Keep clear on the ${row.name.toLowerCase()}`}
      open
      onCancel={close}
      onOk={() => void save()}
      okText="Keep it clear"
    >
      <div className="form">
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
              <Input
                value={values[key]}
                suffix="mm"
                onChange={(e) => setValues({ ...values, [key]: e.target.value })}
              />
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
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

// The n-th of a row of clear places.
function moved<Z extends object>(zone: Z, values: Record<string, string>, n: number): Z {
  if (n === 0) return zone;
  const number = (text: unknown) => Number(String(text ?? 0).replace(",", ".")) || 0;
  const turn = (number(values["angle"]) * Math.PI) / 180;
  const [dx, dy] = [n * number(values["step"]) * Math.cos(turn), n * number(values["step"]) * Math.sin(turn)];
  const round = (v: number) => Math.round(v * 10) / 10;
  const at = (zone as { at_mm?: unknown[] }).at_mm;
  if (at) return { ...zone, at_mm: [round(number(at[0]) + dx), round(number(at[1]) + dy)] };
  return { ...zone, x_mm: round(number(values["x_mm"]) + dx), y_mm: round(number(values["y_mm"]) + dy) };
}

export function Points({ row, edit, close }: Dialog & { row: Surface }) {
  const [text, setText] = useState(row.outline_mm.map((p) => p.join("; ")).join("\n"));
  const [wrong, setWrong] = useState("");
  const save = async () => {
    try {
      const outline_mm = text
        .split("\n")
        .filter((l) => l.trim())
        .map((l) => l.split(/[;\t]|\s+/).filter(Boolean));
      await edit.change("surfaces", row, { outline_mm });
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal
      title={`Outline of the ${row.name.toLowerCase()}`}
      open
      onCancel={close}
      onOk={() => void save()}
      okText="Keep the outline"
    >
      <p className="small">One corner a line, in millimetres from the lower left: across; up.</p>
      <div className="form">
        <Input.TextArea value={text} aria-label="Corners" rows={8} onChange={(e) => setText(e.target.value)} />
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

export function NewPiece({ edit, close }: Dialog) {
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
  const [wrong, setWrong] = useState("");
  const save = async () => {
    try {
      await edit.create("pieces", [{ ...values, material, quantity: Number(values["quantity"]) }]);
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal title="A piece beside those of the plan" open onCancel={close} onOk={() => void save()} okText="Add">
      <div className="form">
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
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

export function NewGood({ edit, close }: Dialog) {
  const shelf = useShelf();
  const options = (shelf.data?.materials ?? [])
    .filter((m) => !m.lies && !m.material.retired)
    .map((m) => ({ value: m.material.id, label: m.material.name }));
  const [material, setMaterial] = useState("");
  const [amount, setAmount] = useState("1");
  const [wrong, setWrong] = useState("");
  const save = async () => {
    try {
      await edit.create("goods", [{ material: material || options[0]?.value, amount }]);
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal title="Goods beside those of the plan" open onCancel={close} onOk={() => void save()} okText="Add">
      <div className="form">
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
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}
