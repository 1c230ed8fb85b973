// A new surface: its name, size and skin.
import { Input, Segmented, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import { Dialog, type InDialog } from "./Dialog";
import { Ask } from "./fields";
import { useLatest, type Given } from "./given";
import { Note } from "./said";
import { Drawn, isGiven, outlineOf, ShapeFields, useOutline, type Form } from "./shape";
import { BEHIND } from "./standing";
import type { StageProps } from "./stage";
import { lengthUnit, sentIn, shownIn, useUnits } from "./units";

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

// A surface with its way in, and a stack that goes on it where there is one; gives its number.
export async function addSurface(
  edit: StageProps["edit"],
  surface: Record<string, unknown> & { name: string },
  layers: readonly unknown[] | null,
): Promise<number> {
  const made = await edit.together([
    edit.adding("surfaces", surface),
    edit.adding("paths", { name: surface.name, surface_id: "#0" }),
    ...(layers ? [edit.adding("alternatives", { surface_id: "#0", name: "Plan A", layers })] : []),
  ]);
  return Number(made[0]?.["id"]);
}

export function NewSurface({
  edit,
  close,
  kind,
  done,
}: InDialog & { kind: Schemas["Job"]["kind"]; done: (id: number) => void }) {
  const shelf = useShelf();
  const [name, setName] = useState("");
  const [form, setForm] = useState<Form>({ kind: "rectangle" });
  const given = useLatest<Given>();
  const shape = useOutline(form, given.value?.outline_mm ?? null);
  const [material, setMaterial] = useState<string>(FIRST_SKIN[kind].material);
  const units = useUnits();
  const [thickness, setThickness] = useState(shownIn(Number(FIRST_SKIN[kind].thickness_mm), "length", units));
  const [planned, setPlanned] = useState(false);
  const [behind, setBehind] = useState(0);
  const stands = planned ? [] : (BEHIND[kind][behind]?.layers ?? []);
  const substrates = (shelf.data?.materials ?? []).filter(
    (m) => m.material.roles.includes("substrate") && !m.material.retired,
  );
  const save = async () => {
    const found = isGiven(form.kind) ? await given.latest() : await outlineOf(form, units);
    if (!found) throw new Error(WITHOUT[form.kind as keyof typeof WITHOUT]);
    if ("kept" in found && found.kept) {
      const { surface, layers } = found.kept;
      return done(
        await addSurface(edit, { ...surface, name: name.trim() || surface.name }, layers?.length ? layers : null),
      );
    }
    const typed = (text: string) => sentIn(text, "length", units);
    const substrate = { material, thickness_mm: typed(thickness) };
    const panel = { name, outline_mm: found.outline_mm, substrate, planned, present: stands };
    done(await addSurface(edit, panel, planned ? [] : null));
  };
  return (
    <Dialog title="A new surface" ok="Draw it" save={save} close={close}>
      <Ask label="Name">
        <Input autoFocus value={name} placeholder="Sliding door" onChange={(e) => setName(e.target.value)} />
      </Ask>
      <ShapeFields form={form} set={setForm} give={given.ask} />
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
    </Dialog>
  );
}
