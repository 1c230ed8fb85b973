// What a tape and an eye give of a build: each field is kept at once, and what the core refuses stays beside it.
import { Select } from "antd";
import { Ask, Field } from "../../../parts/fields";
import { Unfold } from "../../../parts/Unfold";
import { remedyWords, type FormProps, type Row } from "./kinds";
import { number, points, put, told } from "./values";

type Absorbers = Extract<Row["given"], { kind: "absorbers" }>;
type Window = Extract<Row["given"], { kind: "window" }>;
export function AbsorberForm({ row, given, view, change, edit }: FormProps<Absorbers>) {
  const surfaces = view.surfaces.map((s) => ({ value: s.id, label: s.name }));
  const frame = (values: Record<string, unknown>) => change(values, ["frame"]);
  const say = (done: Promise<unknown>) => void done.catch(edit.say);
  const long = ["Length", "Width", "Height"] as const;
  return (
    <>
      <Field label="Name" value={row.name} save={(name) => edit.change("builds", row, { name })} />
      <label className="field">
        <span>What the room is for</span>
        <Select
          value={given.use}
          options={view.uses.map((u) => ({ value: u.id, label: u.name }))}
          onChange={(use) => say(change({ use }))}
        />
      </label>
      <h2>The room</h2>
      <div className="two">
        {long.map((label, i) => (
          <Field
            key={label}
            label={label}
            unit="mm"
            value={String(given.room_mm[i] ?? "")}
            save={(text) => change({ room_mm: put(given.room_mm, i, number(text)) })}
          />
        ))}
        <Field
          label="Furniture swallows"
          unit="m²"
          value={String(given.furniture_m2 ?? 0)}
          save={(text) => change({ furniture_m2: number(text) })}
        />
      </div>
      {(["floor", "ceiling", "walls"] as const).map((side) => (
        <Ask key={side} label={side.charAt(0).toUpperCase() + side.slice(1)}>
          <Select
            value={given.surfaces[side] ?? null}
            options={surfaces}
            onChange={(value) => say(change({ [side]: value }, ["surfaces"]))}
          />
        </Ask>
      ))}
      <h2>Each absorber</h2>
      <div className="two">
        {(["Long", "Wide"] as const).map((label, i) => (
          <Field
            key={label}
            label={label}
            unit="mm"
            value={String(given.frame.size_mm[i] ?? "")}
            save={(text) => frame({ size_mm: put(given.frame.size_mm, i, number(text)) })}
          />
        ))}
        <Field
          label="Deep"
          unit="mm"
          value={String(given.frame.depth_mm)}
          save={(text) => frame({ depth_mm: number(text) })}
        />
        <Field
          label="Gap behind"
          unit="mm"
          value={String(given.frame.gap_mm ?? 0)}
          save={(text) => frame({ gap_mm: number(text) })}
        />
        <Field
          label="How many"
          value={given.count == null ? "" : String(given.count)}
          placeholder="as many as it takes"
          save={(text) => change({ count: number(text) })}
        />
      </div>
      <Ask label="Filled with">
        <Select
          showSearch
          value={given.frame.fill}
          options={view.fills.map(([value, label]) => ({ value, label }))}
          onChange={(fill) => say(frame({ fill }))}
        />
      </Ask>
      <Ask label="Sheet before it, for low notes">
        <Select
          showSearch
          allowClear
          placeholder="none: cloth alone"
          value={given.frame.facing?.material ?? undefined}
          options={view.facings.map(([value, label]) => ({ value, label }))}
          onChange={(material: string | undefined) => {
            const sheet = view.facings.find(([id]) => id === material);
            say(frame({ facing: sheet ? { material: sheet[0], thickness_mm: sheet[2] } : null }));
          }}
        />
      </Ask>
      <div className="two">
        {given.frame.facing ? (
          <Field
            label="That sheet is"
            unit="mm"
            value={String(given.frame.facing.thickness_mm)}
            save={(text) => change({ thickness_mm: number(text) }, ["frame", "facing"])}
          />
        ) : null}
        <Field
          label="Its cloth lets breath through with"
          unit="Pa·s/m"
          value={String(given.frame.cloth_pa_s_m ?? 0)}
          save={(text) => frame({ cloth_pa_s_m: number(text) })}
        />
      </div>
      <button
        className="chip"
        aria-pressed={given.corners ?? false}
        onClick={() => say(change({ corners: !given.corners }))}
      >
        stacked in the corners
      </button>
      <button
        className="chip"
        aria-pressed={given.ceiling ?? false}
        onClick={() => say(change({ ceiling: !given.ceiling }))}
      >
        on the ceiling too
      </button>
      <Unfold summary={<b>Loudspeakers and listener</b>}>
        <p className="small">
          Along, across, up from the left front corner, in mm: the first absorbers hang where a mirror would show them.
        </p>
        <Field
          label="Listener"
          value={given.listener_mm ? told([given.listener_mm]) : ""}
          placeholder="2600, 1550, 1200"
          save={(text) => change({ listener_mm: points(text)[0] ?? null })}
        />
        <Field
          label="Loudspeakers"
          value={told(given.speakers_mm ?? [])}
          placeholder="900, 900, 1200; 900, 2200, 1200"
          save={(text) => change({ speakers_mm: points(text) })}
        />
      </Unfold>
    </>
  );
}

const SEALS = ["none", "worn", "good", "new"] as const;
const PANES = [
  { value: "window-glass@4", label: "one pane of 4 mm" },
  { value: "window-glass@6", label: "one pane of 6 mm" },
  { value: "window-glass@4|window-glass@4", label: "two panes of 4 mm" },
  { value: "window-glass@6|window-glass@4", label: "two panes, 6 and 4 mm" },
  { value: "acrylic@6", label: "one pane of acrylic, 6 mm" },
  { value: "particle-board@30", label: "a door leaf of 30 mm board" },
];
const WITH: Record<string, string> = {
  "second sash": "@100",
  "lined second sash": "@100",
  "thicker pane": "@8",
  "laminated pane": "@8",
};

export function WindowForm({ row, given, view, change, edit, doc }: FormProps<Window>) {
  const stands = (values: Record<string, unknown>) => change(values, ["stands"]);
  const say = (done: Promise<unknown>) => void done.catch(edit.say);
  const panes = given.stands.panes.map((p) => p.join("+")).join("|");
  const remedies = given.remedies ?? [];
  const has = (name: string) => remedies.find((r) => r.split("@")[0]?.trim() === name);
  const toggle = (name: string) => {
    const there = has(name);
    const next = there ? remedies.filter((r) => r !== there) : [...remedies, `${name}${WITH[name] ?? ""}`];
    say(change({ remedies: next }));
  };
  return (
    <>
      <Field label="Name" value={row.name} save={(name) => edit.change("builds", row, { name })} />
      <div className="two">
        {(["Wide", "High"] as const).map((label, i) => (
          <Field
            key={label}
            label={label}
            unit="mm"
            value={String(given.size_mm[i] ?? "")}
            save={(text) => change({ size_mm: put(given.size_mm, i, number(text)) })}
          />
        ))}
        <Field
          label="Gap between its panes"
          unit="mm"
          value={String(given.stands.gap_mm ?? 12)}
          save={(text) => stands({ gap_mm: number(text) })}
        />
        <Field
          label="Open under it"
          unit="mm"
          value={String(given.stands.sill_gap_mm ?? 0)}
          save={(text) => stands({ sill_gap_mm: number(text) })}
        />
      </div>
      <Ask label="What stands">
        <Select
          value={panes}
          options={PANES.some((p) => p.value === panes) ? PANES : [...PANES, { value: panes, label: panes }]}
          onChange={(value: string) => say(stands({ panes: value.split("|").map((p) => p.split("+")) }))}
        />
      </Ask>
      <Ask label="Its seal">
        <Select
          value={given.stands.seal ?? "worn"}
          options={SEALS.map((value) => ({ value, label: value }))}
          onChange={(seal) => say(stands({ seal }))}
        />
      </Ask>
      <Ask label="Which way in it is">
        <Select
          allowClear
          placeholder="none yet"
          value={row.path_id ?? undefined}
          options={doc.paths.map((p) => ({ value: p.id, label: p.name }))}
          onChange={(path_id: number | undefined) => void edit.tryChange("builds", row, { path_id: path_id ?? null })}
        />
      </Ask>
      <h2>Remedies</h2>
      <div className="chips">
        {view.remedies.map((name) => (
          <button key={name} className="chip" aria-pressed={has(name) !== undefined} onClick={() => toggle(name)}>
            {remedyWords(has(name) ?? name)}
          </button>
        ))}
      </div>
    </>
  );
}
