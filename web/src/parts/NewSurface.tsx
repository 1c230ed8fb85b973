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
import { USUAL_SIZE } from "./drawing/measured";
import { AskWhere, saidWhere, type Where } from "./where";

type Skin = { material: string; thickness_mm: number | string };

// What a panel is made of where nobody said it yet.
const FIRST_SKIN: Record<Schemas["Job"]["kind"], Skin> = {
  vehicle: { material: "steel", thickness_mm: 0.8 },
  enclosure: { material: "plywood", thickness_mm: 9 },
  room: { material: "gypsum-board", thickness_mm: 12.5 },
};

const WITHOUT = {
  drawing: "Choose a drawing, and the outline in it.",
  photo: "Mark the outline on a photograph, and something of known size.",
  template: "Choose a template.",
};

// A surface with its way in, and a stack that goes on it where there is one; gives its number.
export async function addSurface(
  edit: StageProps["edit"],
  surface: Record<string, unknown> & { name: string },
  layers: readonly unknown[] | null,
  way: Record<string, unknown> = {},
  fixings: readonly Record<string, unknown>[] = [],
): Promise<number> {
  const made = await edit.together([
    edit.adding("surfaces", surface),
    edit.adding("paths", { name: surface.name, surface_id: "#0", ...way }),
    ...(layers ? [edit.adding("alternatives", { surface_id: "#0", name: "Plan A", layers })] : []),
    ...fixings.map((f) => edit.adding("fixings", { ...f, surface_id: "#0" })),
  ]);
  return Number(made[0]?.["id"]);
}

// A way in of the usual size at that place, which nobody has measured: what is measured there takes its place.
function usualAt(doc: Schemas["JobDocument"], where: string | undefined) {
  const path = doc.paths.find(
    (p) => where && p.where === where && doc.surfaces.some((s) => s.id === p.surface_id && s.made_from === USUAL_SIZE),
  );
  const surface = doc.surfaces.find((s) => s.id === path?.surface_id);
  return path && surface ? { path, surface } : null;
}

export function NewSurface({
  doc,
  edit,
  close,
  done,
}: InDialog & { doc: Schemas["JobDocument"]; done: (id: number) => void }) {
  const kind = doc.job.kind;
  const shelf = useShelf();
  const [where, setWhere] = useState<Where>();
  const [beside, setBeside] = useState(false);
  const usual = usualAt(doc, where?.id);
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
      const { surface, layers, fixings } = found.kept;
      const named = { ...surface, name: name.trim() || surface.name };
      return done(await addSurface(edit, named, layers?.length ? layers : null, {}, fixings));
    }
    const typed = (text: string) => sentIn(text, "length", units);
    const substrate = { material, thickness_mm: typed(thickness) };
    const panel = { name, outline_mm: found.outline_mm, substrate, planned, present: stands };
    if (usual && !beside) {
      await edit.together([
        edit.altering("surfaces", usual.surface, { ...panel, made_from: "" }),
        edit.altering("paths", usual.path, { name }),
      ]);
      return done(usual.surface.id);
    }
    const flags = (where?.flags ?? []) as Schemas["Surface"]["flags"];
    done(await addSurface(edit, { ...panel, flags }, planned ? [] : null, saidWhere(where)));
  };
  return (
    <Dialog title="A new surface" ok="Draw it" save={save} close={close}>
      <Ask label="Name">
        <Input autoFocus value={name} placeholder="Sliding door" onChange={(e) => setName(e.target.value)} />
      </Ask>
      <AskWhere kind={kind} value={where?.id ?? ""} set={setWhere} />
      {usual ? (
        <label className="tickline">
          <input type="checkbox" checked={!beside} onChange={(e) => setBeside(!e.target.checked)} />
          <span>
            It takes the place of the usual {usual.surface.name}
            {(usual.surface.count ?? 1) > 1 ? ` (${usual.surface.count ?? 1} of them)` : ""}, which nobody measured
          </span>
        </label>
      ) : null}
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
