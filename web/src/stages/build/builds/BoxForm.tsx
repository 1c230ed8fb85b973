// A box round a machine, as a name plate and a tape give it.
import { Button, Select } from "antd";
import { Ask, Field } from "../../../parts/fields";
import { Unfold } from "../../../parts/Unfold";
import type { FormProps, Row } from "./kinds";
import { SheetAsk } from "./SheetAsk";
import { levels, levelsTold, number, put, without } from "./values";

type Box = Extract<Row["given"], { kind: "box" }>;
type Props = FormProps<Box>;

const AXES = ["Length", "Width", "Height"] as const;
const SIDES = ["left", "right", "front", "back", "top"] as const;
const some = (list: readonly string[]) => list.map((value) => ({ value, label: value }));

export function BoxForm({ row, given, view, change, edit, doc }: Props) {
  const machine = (values: Record<string, unknown>) => change(values, ["machine"]);
  const say = (done: Promise<unknown>) => void done.catch(edit.say);
  const m = given.machine;
  const wall = given.walls[0];
  const lining = given.lining?.[0];
  return (
    <>
      <Field label="Name" value={row.name} save={(name) => edit.change("builds", row, { name })} />
      <h2>The machine</h2>
      <div className="two">
        {AXES.map((label, i) => (
          <Field
            key={label}
            label={label}
            unit="mm"
            value={String(m.size_mm[i] ?? "")}
            save={(text) => machine({ size_mm: put(m.size_mm, i, number(text)) })}
          />
        ))}
        <Field label="Weighs" unit="kg" value={String(m.mass_kg)} save={(t) => machine({ mass_kg: number(t) })} />
        <Field
          label="It takes"
          unit="W"
          value={m.input_w == null ? "" : String(m.input_w)}
          placeholder="as its plate says"
          save={(t) => machine({ input_w: number(t) })}
        />
        <Field
          label="Of that leaves by shaft or pipe"
          unit="W"
          value={String(m.leaves_w ?? 0)}
          save={(t) => machine({ leaves_w: number(t) ?? 0 })}
        />
        <Field
          label="Heat, if it is known"
          unit="W"
          value={m.heat_w == null ? "" : String(m.heat_w)}
          placeholder="the rest of what it takes"
          save={(t) => machine({ heat_w: number(t) })}
        />
        <Field
          label="It bears inside"
          unit="°C"
          value={m.most_c == null ? "" : String(m.most_c)}
          placeholder="nobody said"
          save={(t) => machine({ most_c: number(t) })}
        />
        <Field
          label="Hottest part open to the lining"
          unit="°C"
          value={m.hot_c == null ? "" : String(m.hot_c)}
          placeholder="none"
          save={(t) => machine({ hot_c: number(t) })}
        />
        <Field
          label="Outside it is"
          unit="°C"
          value={String(given.outside_c ?? 25)}
          save={(t) => change({ outside_c: number(t) })}
        />
      </div>
      <Field
        label="Sound power by bands, Hz dB"
        value={levelsTold(m.sound_power_db)}
        placeholder="125 78, 250 80"
        save={(text) => machine({ sound_power_db: levels(text) })}
      />
      <div className="chips">
        <button className="chip" aria-pressed={m.fuel ?? false} onClick={() => say(machine({ fuel: !m.fuel }))}>
          burns fuel
        </button>
        {m.fuel ? (
          <button
            className="chip"
            aria-pressed={m.exhaust_outside ?? false}
            onClick={() => say(machine({ exhaust_outside: !m.exhaust_outside }))}
          >
            exhaust leads into the open
          </button>
        ) : null}
      </div>
      <h2>The box</h2>
      <div className="two">
        <Field
          label="Machine to the lining"
          unit="mm"
          value={String(given.clearance_mm ?? 80)}
          save={(t) => change({ clearance_mm: number(t) })}
        />
        <Field
          label="Its walls measure"
          unit="mm"
          value={String(wall?.thickness_mm ?? "")}
          save={(t) => change({ walls: put(given.walls, 0, { ...wall, thickness_mm: number(t) }) })}
        />
      </div>
      <SheetAsk
        label="Walls of"
        value={wall}
        sheets={view.sheets}
        pick={(sheet) => say(change({ walls: put(given.walls, 0, sheet) }))}
      />
      <Ask label="Lined with">
        <Select
          showSearch
          allowClear
          placeholder="nothing"
          value={lining?.material}
          options={view.fills.map(([value, label]) => ({ value, label }))}
          onChange={(material: string | undefined) =>
            say(change({ lining: material ? [{ material, thickness_mm: lining?.thickness_mm ?? 50 }] : [] }))
          }
        />
      </Ask>
      {lining ? (
        <Field
          label="That lining is"
          unit="mm"
          value={String(lining.thickness_mm)}
          save={(t) => change({ lining: put(given.lining ?? [], 0, { ...lining, thickness_mm: number(t) }) })}
        />
      ) : null}
      <div className="chips">
        {[
          ["a bottom of its own", "base", given.base ?? true],
          ["two leaves", "leaves", given.walls.length > 1],
          ["battens in its edges", "frame", given.frame ?? false],
          ["the machine’s own case", "own_case", given.own_case ?? false],
          ["rain reaches it", "rain", given.rain ?? false],
        ].map(([label, key, on]) => (
          <button
            key={String(key)}
            className="chip"
            aria-pressed={Boolean(on)}
            onClick={() =>
              say(
                key === "leaves"
                  ? change({ walls: on ? given.walls.slice(0, 1) : [...given.walls, given.walls[0]] })
                  : change({ [String(key)]: !on }),
              )
            }
          >
            {label}
          </button>
        ))}
      </div>
      {given.walls.length > 1 ? (
        <Field
          label="Between its leaves"
          unit="mm"
          value={String(given.leaf_gap_mm ?? 0)}
          save={(t) => change({ leaf_gap_mm: number(t) })}
        />
      ) : null}
      <Ask label="It stands">
        <Select
          value={given.stands ?? "floor"}
          options={[
            { value: "floor", label: "free on the floor" },
            { value: "wall", label: "beside a wall" },
            { value: "corner", label: "in a corner" },
            { value: "outdoors", label: "outdoors" },
          ]}
          onChange={(stands) => say(change({ stands }))}
        />
      </Ask>
      <Ask label="A side that is missing">
        <Select
          allowClear
          placeholder="none: it is closed"
          value={given.open_side ?? undefined}
          options={some(SIDES)}
          onChange={(side: string | undefined) => say(change({ open_side: side ?? null }))}
        />
      </Ask>
      {given.open_side ? (
        <Ask label="It looks">
          <Select
            value={given.faces ?? "towards"}
            options={some(["towards", "beside", "away"])}
            onChange={(faces) => say(change({ faces }))}
          />
        </Ask>
      ) : null}
      <Openings {...{ given, change, say }} />
      <Ask label="Which way in it acts on">
        <Select
          allowClear
          placeholder="all that is heard of it"
          value={row.path_id ?? undefined}
          options={doc.paths.map((p) => ({ value: p.id, label: p.name }))}
          onChange={(path_id: number | undefined) => void edit.tryChange("builds", row, { path_id: path_id ?? null })}
        />
      </Ask>
      <Ask label="The machine’s feet">
        <Select
          allowClear
          placeholder="rigid"
          value={given.feet?.material}
          options={view.pads.map(([value, label]) => ({ value, label }))}
          onChange={(material: string | undefined) => say(change({ feet: material ? { material, count: 4 } : null }))}
        />
      </Ask>
    </>
  );
}

type Part = { given: Box; change: Props["change"]; say: (done: Promise<unknown>) => void };

function Openings({ given, change, say }: Part) {
  const openings = given.openings ?? [];
  const doors = given.doors ?? [];
  const opening = (i: number, values: Record<string, unknown>) =>
    change({ openings: put(openings, i, { ...openings[i], ...values }) });
  const door = (i: number, values: Record<string, unknown>) =>
    change({ doors: put(doors, i, { ...doors[i], ...values }) });
  return (
    <>
      <h2>Air, cables, doors</h2>
      <Field
        label="A fan moves"
        unit="m³/h"
        value={given.fan_m3_h ? String(given.fan_m3_h) : ""}
        placeholder="none"
        save={(t) => change({ fan_m3_h: number(t) ?? 0 })}
      />
      {openings.map((o, i) => (
        <Unfold key={i} summary={<b>{`${o.role}, ${o.side}: ${o.width_mm} × ${o.height_mm} mm`}</b>}>
          <div className="two">
            <Ask label="What for">
              <Select
                value={o.role}
                options={some(["in", "out", "cable", "shaft"])}
                onChange={(role) => say(opening(i, { role }))}
              />
            </Ask>
            <Ask label="Side">
              <Select value={o.side} options={some(SIDES)} onChange={(side) => say(opening(i, { side }))} />
            </Ask>
            <Field
              label="Wide"
              unit="mm"
              value={String(o.width_mm)}
              save={(t) => opening(i, { width_mm: number(t) })}
            />
            <Field
              label="High"
              unit="mm"
              value={String(o.height_mm)}
              save={(t) => opening(i, { height_mm: number(t) })}
            />
            <Field
              label="Duct before it"
              unit="mm"
              value={String(o.duct_mm ?? 0)}
              save={(t) => opening(i, { duct_mm: number(t) ?? 0, lined_mm: 25 })}
            />
            <Field label="Bends" value={String(o.bends ?? 0)} save={(t) => opening(i, { bends: number(t) ?? 0 })} />
          </div>
          <div className="acts">
            {o.role === "cable" || o.role === "shaft" ? (
              <Button onClick={() => say(opening(i, { closed: !o.closed }))}>
                {o.closed ? "It is open round it" : "It is packed round it"}
              </Button>
            ) : null}
            <Button danger onClick={() => say(change({ openings: without(openings, i) }))}>
              Remove it
            </Button>
          </div>
        </Unfold>
      ))}
      {doors.map((d, i) => (
        <Unfold key={i} summary={<b>{`door, ${d.side}: ${d.leaf_mm.join(" × ")} mm`}</b>}>
          <div className="two">
            <Ask label="Side">
              <Select value={d.side} options={some(SIDES)} onChange={(side) => say(door(i, { side }))} />
            </Ask>
            <Ask label="Seal">
              <Select
                value={d.seal ?? "compressed"}
                options={some(["none", "worn", "compressed", "double"])}
                onChange={(seal) => say(door(i, { seal }))}
              />
            </Ask>
            {(["Leaf, wide", "Leaf, high"] as const).map((label, k) => (
              <Field
                key={label}
                label={label}
                unit="mm"
                value={String(d.leaf_mm[k] ?? "")}
                save={(t) => door(i, { leaf_mm: put(d.leaf_mm, k, number(t)) })}
              />
            ))}
          </div>
          <Button danger onClick={() => say(change({ doors: without(doors, i) }))}>
            Remove it
          </Button>
        </Unfold>
      ))}
      <div className="chips">
        <button
          className="chip proposed"
          onClick={() =>
            say(change({ openings: [...openings, { role: "out", side: "top", width_mm: 200, height_mm: 100 }] }))
          }
        >
          + opening
        </button>
        <button
          className="chip proposed"
          onClick={() => say(change({ doors: [...doors, { side: "front", leaf_mm: [450, 450] }] }))}
        >
          + door
        </button>
      </div>
    </>
  );
}
