// A platform under machines, and holes closed beside a loudspeaker.
import { Button, Select } from "antd";
import { Ask, Field } from "../../../parts/fields";
import { useUnits } from "../../../parts/units";
import type { FormProps, Row } from "./kinds";
import { SheetAsk, sheetKey, sheetName, sheetOf } from "./SheetAsk";
import { number, points, put, told, without } from "./values";

type Platform = Extract<Row["given"], { kind: "platform" }>;
type Baffle = Extract<Row["given"], { kind: "baffle" }>;

export function PlatformForm({ row, given, view, change, edit, doc }: FormProps<Platform>) {
  const units = useUnits();
  const say = (done: Promise<unknown>) => void done.catch(edit.say);
  const pads = (values: Record<string, unknown>) => change(values, ["pads"]);
  const floor = (values: Record<string, unknown>) => change(values, ["floor"]);
  const mass = (i: number, values: Record<string, unknown>) =>
    change({ masses: put(given.masses, i, { ...given.masses[i], ...values }) });
  const boards = given.boards ?? [];
  const size = given.floor.size_mm ?? [4000, 5000];
  return (
    <>
      <Field label="Name" value={row.name} save={(name) => edit.change("builds", row, { name })} />
      <h2>What stands on it</h2>
      {given.masses.map((m, i) => (
        <div key={i} className="two">
          <Field label="Weighs" unit="kg" value={String(m.kg)} save={(t) => mass(i, { kg: number(t) })} />
          <Field
            label="Along, across, high, mm"
            value={m.size_mm.join(", ")}
            save={(t) => mass(i, { size_mm: points(t)[0] ?? [] })}
          />
          <Field
            label="Its middle at, mm"
            value={(m.at_mm ?? [0, 0, 0]).join(", ")}
            save={(t) => mass(i, { at_mm: points(t)[0] ?? [] })}
          />
          {given.masses.length > 1 ? (
            <Button danger onClick={() => say(change({ masses: without(given.masses, i) }))}>
              Remove it
            </Button>
          ) : null}
        </div>
      ))}
      <button
        className="chip proposed"
        onClick={() => say(change({ masses: [...given.masses, { kg: 20, size_mm: [300, 300, 300] }] }))}
      >
        + another machine
      </button>
      <Field
        label="Notes it knocks at, Hz"
        value={(given.notes_hz ?? []).join(", ")}
        placeholder="25, 50"
        save={(t) => change({ notes_hz: points(t)[0] ?? [] })}
      />
      <Field
        label="Speeds, turns a minute"
        value={(given.speeds_rpm ?? []).join(", ")}
        placeholder="1450"
        save={(t) => change({ speeds_rpm: points(t)[0] ?? [] })}
      />
      <h2>Pads</h2>
      <Ask label="From the shelf">
        <Select
          allowClear
          placeholder="by the maker’s table"
          value={given.pads.material ?? undefined}
          options={view.pads.map(([value, label]) => ({ value, label }))}
          onChange={(material: string | undefined) => say(pads({ material: material ?? null }))}
        />
      </Ask>
      <Field
        label="Maker’s table, kg, N/mm"
        value={told(given.pads.stiffness_n_mm ?? [])}
        placeholder="5, 20; 25, 60"
        save={(t) => pads({ stiffness_n_mm: points(t) })}
      />
      <Field
        label="Where they sit, from the middle, mm"
        value={told(given.pads.at_mm)}
        save={(t) => pads({ at_mm: points(t) })}
      />
      <Ask label="Boards on top">
        <Select
          mode="multiple"
          value={boards.map((b, i) => `${sheetKey(b)}#${i}`)}
          options={[
            ...boards.map((b, i) => ({ value: `${sheetKey(b)}#${i}`, label: sheetName(b, view.sheets, units) })),
            ...view.sheets.map(([material, , thickness_mm]) => {
              const sheet = { material, thickness_mm };
              return { value: `${sheetKey(sheet)}#${boards.length}`, label: sheetName(sheet, view.sheets, units) };
            }),
          ]}
          onChange={(chosen: string[]) =>
            say(change({ boards: chosen.map((text) => sheetOf(text.split("#")[0] ?? "")) }))
          }
        />
      </Ask>
      <h2>The floor</h2>
      <Ask label="It is">
        <Select
          value={given.floor.kind ?? "slab"}
          options={[
            { value: "slab", label: "a slab on the ground, or a thick one" },
            { value: "span", label: "a floor that spans" },
          ]}
          onChange={(kind: "slab" | "span") =>
            say(
              kind === "slab" ? floor({ kind }) : floor({ size_mm: size, first_hz: given.floor.first_hz ?? 12, kind }),
            )
          }
        />
      </Ask>
      <div className="two">
        <Field
          label="Weighs"
          unit="kg/m²"
          value={String(given.floor.mass_kg_m2)}
          save={(t) => floor({ mass_kg_m2: number(t) })}
        />
        {given.floor.kind === "span" ? (
          <>
            <Field
              label="Its first frequency"
              unit="Hz"
              value={String(given.floor.first_hz ?? "")}
              save={(t) => floor({ first_hz: number(t) })}
            />
            {(["Spans", "Is wide"] as const).map((label, i) => (
              <Field
                key={label}
                label={label}
                unit="mm"
                value={String(size[i] ?? "")}
                save={(t) => floor({ size_mm: put(size, i, number(t)) })}
              />
            ))}
          </>
        ) : null}
      </div>
      <Ask label="Which way in goes by its feet">
        <Select
          allowClear
          placeholder="none yet: then it changes nothing that is heard"
          value={row.path_id ?? undefined}
          options={doc.paths.map((p) => ({ value: p.id, label: p.name }))}
          onChange={(path_id: number | undefined) => void edit.tryChange("builds", row, { path_id: path_id ?? null })}
        />
      </Ask>
    </>
  );
}

export function BaffleForm({ row, given, view, change, edit }: FormProps<Baffle>) {
  const say = (done: Promise<unknown>) => void done.catch(edit.say);
  return (
    <>
      <Field label="Name" value={row.name} save={(name) => edit.change("builds", row, { name })} />
      <div className="two">
        <Field
          label="Loudspeaker across"
          unit="mm"
          value={String(given.cone_mm)}
          save={(t) => change({ cone_mm: number(t) })}
        />
        <Field
          label="It plays down to"
          unit="Hz"
          value={String(given.lowest_hz)}
          save={(t) => change({ lowest_hz: number(t) })}
        />
        <Field
          label="Open beside it"
          unit="cm²"
          value={given.open_cm2 == null ? "" : String(given.open_cm2)}
          placeholder="by the holes below"
          save={(t) => change({ open_cm2: number(t) })}
        />
        <Field
          label="Air behind it"
          unit="l"
          value={String(given.volume_l ?? 35)}
          save={(t) => change({ volume_l: number(t) })}
        />
      </div>
      <Field
        label="Holes by the tape, wide, high, mm"
        value={told(given.holes_mm ?? [])}
        placeholder="200, 120; 90, 60"
        save={(t) => change({ holes_mm: points(t), open_cm2: t.trim() ? null : given.open_cm2 })}
      />
      <Ask label="Closed by">
        <Select
          value={given.closed ?? "patch"}
          options={[
            { value: "patch", label: "a stiff patch, where it is flat" },
            { value: "formable", label: "two formable layers, where it bulges" },
          ]}
          onChange={(closed) => say(change({ closed }))}
        />
      </Ask>
      <SheetAsk label="Patch of" value={given.sheet} sheets={view.sheets} pick={(sheet) => say(change({ sheet }))} />
    </>
  );
}
