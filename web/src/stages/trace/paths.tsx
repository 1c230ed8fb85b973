// The ways in: usual ones to start from, one typed by hand, and the card that edits one.
import { AskWhere, saidWhere } from "../../parts/where";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { Dialog, type InDialog } from "../../parts/Dialog";
import { Ask, Field } from "../../parts/fields";
import { NO_OCTAVES, Octaves } from "../../parts/octaves";
import { length, useUnits, amount } from "../../parts/units";
import css from "./trace.module.css";
import { UnitInput } from "../../parts/UnitInput";

export type Traced = InDialog & { doc: Schemas["JobDocument"] };

type Edited = Traced & { row: Schemas["Path"]; size: (surface: number) => void };

export function EditPath({ row, doc, edit, close, size }: Edited) {
  const save = (key: string) => (text: string) => edit.change("paths", row, { [key]: text });
  const leaves = doc.surfaces.filter((s) => s.id === row.surface_id || !doc.paths.some((p) => p.surface_id === s.id));
  const text = (v: number | null | undefined) => (v == null ? "" : String(v));
  return (
    <div className="form">
      <Field label="Name" value={row.name} save={save("name")} />
      {row.flank ? (
        <Ask label="The panel that runs on past the wall">
          <Select
            allowClear
            placeholder="a usual one"
            value={row.surface_id ?? undefined}
            options={leaves.map((s) => ({ value: s.id, label: s.name }))}
            onChange={(id: number | undefined) => void edit.tryChange("paths", row, { surface_id: id ?? null })}
          />
        </Ask>
      ) : null}
      {row.surface_id != null ? (
        <>
          <AskWhere
            kind={doc.job.kind}
            value={row.where ?? ""}
            set={(w) => void edit.tryChange("paths", row, w ? saidWhere(w) : { where: "" })}
          />
          <Sized doc={doc} surface_id={row.surface_id} size={size} />
        </>
      ) : null}
      <div className="two">
        {row.flank ? null : (
          <>
            <Field label="Open area now" unit="cm²" value={text(row.leak_cm2)} save={save("leak_cm2")} />
            <Field
              label="Open area as planned"
              unit="cm²"
              value={text(row.planned_leak_cm2)}
              placeholder="as now"
              save={save("planned_leak_cm2")}
            />
          </>
        )}
        <Field
          label="Louder there than elsewhere by"
          unit="dB"
          value={text(row.incident_offset_db)}
          save={save("incident_offset_db")}
        />
        <Field
          label="What comes round it: at most it keeps out"
          unit="dB"
          value={text(row.cap_db)}
          placeholder="usual"
          save={save("cap_db")}
        />
        {row.surface_id != null ? (
          <Field
            label="Of it, what comes by shaking the panel"
            unit="0–1"
            value={text(row.shaken_share)}
            save={save("shaken_share")}
          />
        ) : null}
        {row.surface_id != null || row.transmission_loss_db ? (
          <Field label="Area" unit="m²" value={text(row.area_m2)} placeholder="as the panel" save={save("area_m2")} />
        ) : null}
        {row.flank ? (
          <Field
            label="How long the joint is"
            unit="m"
            value={String(row.flank.length_m)}
            save={(text) => edit.change("paths", row, { flank: { ...row.flank, length_m: text } })}
          />
        ) : null}
        {row.level_dba != null || row.unknown ? (
          <Field
            label="Level at the listener"
            unit="dB(A)"
            value={text(row.level_dba)}
            placeholder="not known yet"
            save={(v) => edit.change("paths", row, { level_dba: v, unknown: v.trim() === "" })}
          />
        ) : null}
        {row.level_dba != null ? (
          <Field
            label="Level as planned"
            unit="dB(A)"
            value={text(row.planned_level_dba)}
            placeholder="as now"
            save={save("planned_level_dba")}
          />
        ) : null}
      </div>
      <div className="acts">
        <button
          className="chip"
          aria-pressed={row.easy}
          onClick={() => void edit.tryChange("paths", row, { easy: !row.easy })}
        >
          easy to reach
        </button>
        <button
          className="chip"
          aria-pressed={!row.allowed}
          onClick={() => void edit.tryChange("paths", row, { allowed: !row.allowed })}
        >
          may not be treated
        </button>
        <Button
          danger
          onClick={() => {
            void edit.remove("paths", row);
            close();
          }}
        >
          Remove this path
        </Button>
      </div>
    </div>
  );
}

// How large its panel is, and whether anybody measured it.
function Sized({ doc, surface_id, size }: Pick<Edited, "doc" | "size"> & { surface_id: number }) {
  const units = useUnits();
  const surface = doc.surfaces.find((s) => s.id === surface_id);
  if (!surface) return null;
  const span = (k: 0 | 1) => {
    const at = surface.outline_mm.map((p) => p[k] ?? 0);
    return length(Math.max(...at) - Math.min(...at), units);
  };
  return (
    <p className="acts">
      <span>
        {(surface.count ?? 1) > 1 ? `${surface.count ?? 1} × ` : ""}
        {span(0)} × {span(1)}
        {surface.made_from ? `, ${surface.made_from}` : ""}
      </span>
      <Button onClick={() => size(surface_id)}>Measure and draw it</Button>
    </p>
  );
}

// Usual ways in for this kind of job, ticked, added with their surfaces in one go.
export function Templates({ doc, edit, close }: Traced) {
  const units = useUnits();
  const shelf = useShelf();
  const offered = (shelf.data?.offers.templates ?? []).filter((t) => t.kind === doc.job.kind);
  const taken = new Set(doc.paths.map((p) => p.name));
  const [left, setLeft] = useState<Set<string>>(new Set());
  const chosen = offered.filter((t) => !left.has(t.id) && !taken.has(t.name));
  const how = (t: Schemas["PathTemplate"]) =>
    t.how === "surface"
      ? `${t.count > 1 ? `${t.count} × ` : ""}${length(t.width_mm, units)} × ${length(t.height_mm, units)}`
      : t.how === "leak"
        ? `${amount(t.leak_cm2, "cm²", units, 0)} open`
        : "level not known yet";
  const add = () => edit.post("trace-templates", { templates: chosen.map((t) => t.id) });
  return (
    <Dialog
      title="Which ways in does it have?"
      ok={`Add ${chosen.length} ways in`}
      save={add}
      close={close}
      ready={chosen.length > 0}
    >
      <p className="small">Tick off what is not there. Sizes are usual ones: measure and change them afterwards.</p>
      <div className={css.ticks}>
        {offered.map((t) => (
          <label key={t.id} className="tickline">
            <input
              type="checkbox"
              disabled={taken.has(t.name)}
              checked={!taken.has(t.name) && !left.has(t.id)}
              onChange={(e) =>
                setLeft((old) => {
                  const next = new Set(old);
                  if (e.target.checked) next.delete(t.id);
                  else next.add(t.id);
                  return next;
                })
              }
            />
            <b>{t.name}</b>
            <span className="small">{taken.has(t.name) ? "is there" : how(t)}</span>
          </label>
        ))}
      </div>
    </Dialog>
  );
}

const KINDS = [
  { value: "surface", label: "through a panel" },
  { value: "leak", label: "an opening or leak" },
  { value: "known", label: "a wall whose R I know" },
  { value: "level", label: "a level I know (what comes by shaking)" },
];

const ASKED: Record<string, [string, string]> = {
  leak: ["Open area", "cm²"],
  known: ["Area", "m²"],
  level: ["Level at the listener", "dB(A)"],
};

export function AddPath({ doc, edit, close, panel }: Traced & { panel: () => void }) {
  const free = doc.surfaces.filter((s) => !doc.paths.some((p) => p.surface_id === s.id));
  const [kind, setKind] = useState("surface");
  const [name, setName] = useState("");
  const [surface, setSurface] = useState<number | "new">(free[0]?.id ?? "new");
  const [where, setWhere] = useState<Schemas["Where"]>();
  const [value, setValue] = useState("");
  const [octaves, setOctaves] = useState(NO_OCTAVES);
  const save = async () => {
    let body: Record<string, unknown> = { name: name || doc.surfaces.find((s) => s.id === surface)?.name };
    if (kind === "surface") {
      if (surface === "new") return panel();
      body = { ...body, surface_id: surface, ...saidWhere(where) };
    } else if (kind === "known") body = { ...body, area_m2: value, transmission_loss_db: octaves };
    else body = { ...body, [kind === "leak" ? "leak_cm2" : "level_dba"]: value };
    await edit.create("paths", [body]);
  };
  const asked = ASKED[kind];
  return (
    <Dialog
      title="Another way in"
      ok={kind === "surface" && surface === "new" ? "Measure the panel" : "Add"}
      save={save}
      close={close}
    >
      <Ask label="How does the noise come?">
        <Select value={kind} options={KINDS} onChange={setKind} />
      </Ask>
      {kind === "surface" ? (
        <Ask label="Panel">
          <Select
            value={surface}
            options={[
              ...free.map((s) => ({ value: s.id as number | "new", label: s.name })),
              { value: "new" as const, label: "a new panel" },
            ]}
            onChange={setSurface}
          />
        </Ask>
      ) : null}
      {kind === "surface" ? (
        surface === "new" ? null : (
          <AskWhere kind={doc.job.kind} value={where?.id ?? ""} set={setWhere} />
        )
      ) : (
        <Ask label="Name">
          <Input value={name} onChange={(e) => setName(e.target.value)} placeholder="Rear doors" />
        </Ask>
      )}
      {asked ? (
        <Ask label={asked[0]}>
          <UnitInput value={value} unit={asked[1]} onText={setValue} />
        </Ask>
      ) : null}
      {kind === "known" ? (
        <Octaves values={octaves} change={setOctaves} hint="R in each octave, dB, as its maker or a test gives it." />
      ) : null}
    </Dialog>
  );
}
