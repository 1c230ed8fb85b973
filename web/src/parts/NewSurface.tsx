// A new surface: its name, size and skin.
import { Input, Modal, Segmented, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import { Ask } from "./fields";
import { Note } from "./said";
import { Drawn, isGiven, outlineOf, ShapeFields, useOutline, type Form, type Outline } from "./shape";
import { BEHIND } from "./standing";
import type { StageProps } from "./stage";
import { lengthUnit, sentIn, shownIn, useUnits } from "./units";

type Dialog = { edit: StageProps["edit"]; close: () => void };

const message = (error: unknown) => (error instanceof Error ? error.message : "Not kept.");

type Skin = { material: string; thickness_mm: number | string };

// What a panel is made of where nobody said it yet.
export const FIRST_SKIN: Record<Schemas["Job"]["kind"], Skin> = {
  vehicle: { material: "steel", thickness_mm: 0.8 },
  enclosure: { material: "plywood", thickness_mm: 9 },
  room: { material: "gypsum-board", thickness_mm: 12.5 },
};

const WITHOUT = {
  drawing: "Choose a drawing, and the outline in it.",
  photo: "Mark the outline on a photograph, and something of known size.",
  template: "Choose a template.",
};

// An upright panel as it is typed; the program reads the numbers.
export const panelOf = (name: string, width: string, height: string, substrate: Skin) => ({
  name,
  outline_mm: [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ],
  substrate,
});

export function NewSurface({
  edit,
  close,
  kind,
  done,
}: Dialog & { kind: Schemas["Job"]["kind"]; done: (id: number) => void }) {
  const shelf = useShelf();
  const [name, setName] = useState("");
  const [form, setForm] = useState<Form>({ kind: "rectangle" });
  const [read, setRead] = useState<Outline["outline"] | null>(null);
  const [kept, setKept] = useState<Schemas["SurfaceDrawn"] | null>(null);
  const shape = useOutline(form, read);
  const [material, setMaterial] = useState<string>(FIRST_SKIN[kind].material);
  const units = useUnits();
  const [thickness, setThickness] = useState(shownIn(Number(FIRST_SKIN[kind].thickness_mm), "length", units));
  const [planned, setPlanned] = useState(false);
  const [behind, setBehind] = useState(0);
  const [wrong, setWrong] = useState("");
  const stands = planned ? [] : (BEHIND[kind][behind]?.layers ?? []);
  const substrates = (shelf.data?.materials ?? []).filter(
    (m) => m.material.roles.includes("substrate") && !m.material.retired,
  );
  const save = async () => {
    if (isGiven(form.kind) && !read) return setWrong(WITHOUT[form.kind]);
    if (form.kind === "template" && kept) return saveKept(kept);
    try {
      const outline_mm = isGiven(form.kind) ? read : (await outlineOf(form, units)).outline_mm;
      const typed = (text: string) => sentIn(text, "length", units);
      const skin = { material, thickness_mm: typed(thickness) };
      const made = await edit.together([
        edit.adding("surfaces", { name, outline_mm, substrate: skin, planned, present: stands }),
        edit.adding("paths", { name, surface_id: "#0" }),
        ...(planned ? [edit.adding("alternatives", { surface_id: "#0", name: "Plan A", layers: [] })] : []),
      ]);
      const id = made[0]?.["id"];
      if (typeof id === "number") done(id);
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  // as it was kept, with the layers that were cut for it
  const saveKept = async ({ surface, layers }: Schemas["SurfaceDrawn"]) => {
    try {
      const made = await edit.together([
        edit.adding("surfaces", { ...surface, name: name.trim() || surface.name }),
        edit.adding("paths", { name: name.trim() || surface.name, surface_id: "#0" }),
        ...(layers?.length ? [edit.adding("alternatives", { surface_id: "#0", name: "Plan A", layers })] : []),
      ]);
      const id = made[0]?.["id"];
      if (typeof id === "number") done(id);
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal title="A new surface" open onCancel={close} onOk={() => void save()} okText="Draw it">
      <div className="form">
        <Ask label="Name">
          <Input autoFocus value={name} placeholder="Sliding door" onChange={(e) => setName(e.target.value)} />
        </Ask>
        <ShapeFields form={form} set={setForm} read={setRead} picked={setKept} />
        {shape.wrong ? <Note kind="warn">{shape.wrong}</Note> : <Drawn {...shape} />}
        <div className="two">
          <Ask label="What it is made of">
            <Select
              value={material}
              options={substrates.map((m) => ({ value: m.material.id, label: m.material.name }))}
              onChange={(v) => {
                setMaterial(v);
                setThickness(
                  shownIn(substrates.find((m) => m.material.id === v)?.thicknesses_mm[0] ?? 1, "length", units),
                );
              }}
            />
          </Ask>
          <Ask label="Thickness">
            <Input value={thickness} suffix={lengthUnit(units)} onChange={(e) => setThickness(e.target.value)} />
          </Ask>
        </div>
        {BEHIND[kind].length > 1 && !planned ? (
          <Ask label="What stands behind it">
            <Segmented
              block
              vertical
              value={behind}
              onChange={setBehind}
              options={BEHIND[kind].map((b, value) => ({ value, label: b.name }))}
            />
          </Ask>
        ) : null}
        <label className="tickline">
          <input type="checkbox" checked={planned} onChange={(e) => setPlanned(e.target.checked)} />
          <span>It does not stand yet: it is to be built, and its boards are bought</span>
        </label>
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}
