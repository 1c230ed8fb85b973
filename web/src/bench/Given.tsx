// What is given of a series: its box and signal, how often each is put on, the samples and what they are made of.
import { Button, Select } from "antd";
import type { Schemas } from "../api/client";
import type { useWorkshop } from "../api/workshop";
import { Ask, Field } from "../parts/fields";
import { Note } from "../parts/said";
import { Unfold } from "../parts/Unfold";
import { hertz, num } from "../parts/words";
import { SheetAsk, type Sheet } from "../stages/build/builds/SheetAsk";

type Kept = Schemas["SeriesKept"];
type Card = Schemas["SeriesCard"];
type View = Schemas["BenchView"];
type Workshop = ReturnType<typeof useWorkshop>;
type Sample = NonNullable<Kept["samples"]>[number];

const numbers = (text: string) =>
  text
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((t) => Number(t.replace(",", ".")));
const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));

export function Given({ row, card, view, workshop }: { row: Kept; card: Card; view: View; workshop: Workshop }) {
  const from = (made: (now: Kept) => Record<string, unknown>) =>
    workshop.change("series", row, (doc) =>
      Object.entries(made((doc.series ?? []).find((r) => r.id === row.id) ?? row)).map(([key, value]) => ({
        op: "set" as const,
        at: [key],
        value,
      })),
    );
  const set = (values: Record<string, unknown>) => from(() => values);
  const rig = (values: Record<string, unknown>) => from((now) => ({ rig: { ...now.rig, ...values } }));
  const choose = (values: Record<string, unknown>) => void set(values).catch(workshop.say);
  const bands = row.bands_hz ?? [];
  const samples = row.samples ?? [];
  const sample = (i: number, values: Record<string, unknown>) =>
    from((now) => ({ samples: (now.samples ?? []).map((s, k) => (k === i ? { ...s, ...values } : s)) }));
  const begun = (row.runs?.length ?? 0) > 0;
  const words = (key: "loudspeaker" | "microphone" | "clamp", label: string) => (
    <Field label={label} value={row[key] ?? ""} save={(text) => set({ [key]: text })} />
  );
  return (
    <>
      <Field label="Name" value={row.name} save={(name) => set({ name })} />
      <h2>Samples</h2>
      {samples.map((s, i) => (
        <OneSample
          key={i}
          sample={s}
          said={card.samples?.[i]}
          sheets={view.sheets}
          save={(values) => sample(i, values)}
          say={workshop.say}
          remove={begun ? null : () => choose({ samples: samples.filter((_, k) => k !== i) })}
        />
      ))}
      {begun ? null : <NewSample add={(name) => from((now) => ({ samples: [...(now.samples ?? []), { name }] }))} />}
      <h2>What is read</h2>
      <Ask label="Of what">
        <Select
          value={row.kind ?? "blocking"}
          options={[
            { value: "blocking", label: "sound through the opening" },
            { value: "laid round the source", label: "absorbers laid round the source: nothing of blocking" },
            { value: "in the open", label: "between source and meter in the open: nothing of blocking" },
          ]}
          onChange={(kind: string) => choose({ kind })}
        />
      </Ask>
      <Ask label="For what is argued over">
        <Select
          value={row.question ?? ""}
          options={[
            { value: "", label: "none of it" },
            ...view.myths.map((m) => ({ value: m.question, label: m.words })),
          ]}
          onChange={(question: string) => choose({ question })}
        />
      </Ask>
      <Ask label="Ranked by the sound of">
        <Select
          showSearch
          optionFilterProp="label"
          value={row.spectrum ?? ""}
          options={[
            { value: "", label: "no source: all bands alike" },
            ...view.spectra.map(([id, name]) => ({ value: id, label: name })),
          ]}
          onChange={(spectrum: string) => choose({ spectrum })}
        />
      </Ask>
      <Signal row={row} card={card} choose={choose} begun={begun} />
      <h2>The box</h2>
      {begun ? null : (
        <Field
          label="Bands, Hz"
          value={bands.join(" ")}
          save={(text) =>
            from((now) => ({ bands_hz: numbers(text), rig: { ...now.rig, ceiling_db: {} }, gains_db: {} }))
          }
        />
      )}
      <Field
        label="Its own ceiling, dB a band"
        value={bands.map((f) => row.rig?.ceiling_db?.[String(f)] ?? "-").join(" ")}
        save={(text) => {
          const read = text.split(/[\s;]+/).filter(Boolean);
          const pairs = bands.map((f, i) => [String(f), Number((read[i] ?? "-").replace(",", "."))] as const);
          const ceiling_db = Object.fromEntries(pairs.filter(([, v]) => Number.isFinite(v)));
          return rig({ ceiling_db });
        }}
      />
      <div className="two">
        <Field
          label="Its opening"
          unit="m²"
          value={String(row.rig?.opening_m2 ?? 0.09)}
          save={(text) => rig({ opening_m2: number(text) })}
        />
        <Field
          label="Each is put on, times"
          value={String(row.times ?? 3)}
          save={(text) => set({ times: number(text) })}
        />
      </div>
      {words("loudspeaker", "Loudspeaker")}
      {words("microphone", "Where the microphone sits")}
      {words("clamp", "Seal and clamp")}
      <div className="acts">
        {begun ? (
          <Button onClick={() => choose({ runs: row.runs?.slice(0, -1) })}>Take the last reading back</Button>
        ) : (
          <Button onClick={() => choose({ drawn: ((row.drawn ?? 1) % 999_983) + 1 })}>Draw another order</Button>
        )}
        <Button danger onClick={() => void workshop.remove("series", row).catch(workshop.say)}>
          Remove it
        </Button>
      </div>
      {begun ? <Note kind="info">Bands and samples stay as they are once something is read.</Note> : null}
    </>
  );
}

// The signal it is read with: played here, its bands evened out by what the empty opening gave.
function Signal(props: { row: Kept; card: Card; choose: (values: Record<string, unknown>) => void; begun: boolean }) {
  const { row, card, choose } = props;
  const even = card.even_gains_db ?? {};
  const off = Object.entries(even).some(([f, db]) => Math.abs(db - (row.gains_db?.[f] ?? 0)) > 1);
  return (
    <>
      <Ask label="Signal">
        <Select
          aria-label="Signal"
          value={row.signal ?? "bands"}
          disabled={props.begun}
          options={[
            { value: "bands", label: "bands of noise, one after another" },
            { value: "tones", label: "tones, one after another" },
            { value: "noise", label: "noise, all bands at once" },
          ]}
          onChange={(signal: string) => choose({ signal })}
        />
      </Ask>
      <audio
        controls
        preload="none"
        src={`/api/series/${row.id}/signal.wav?v=${row.version}`}
        aria-label="The signal"
      />
      {off && (row.runs?.length ?? 0) === 1 ? (
        <Button onClick={() => choose({ gains_db: even, runs: [] })}>
          Even its bands out, and read the empty opening again
        </Button>
      ) : null}
      {Object.values(row.gains_db ?? {}).some((g) => g < 0) ? (
        <p className="small">
          Turned down:{" "}
          {Object.entries(row.gains_db ?? {})
            .filter(([, db]) => db < 0)
            .map(([f, db]) => `${hertz(Number(f))} Hz by ${num(-db, 1)} dB`)
            .join(", ")}
          .
        </p>
      ) : null}
    </>
  );
}

function OneSample(props: {
  sample: Sample;
  said: Schemas["SampleSaid"] | undefined;
  sheets: View["sheets"];
  save: (values: Record<string, unknown>) => Promise<unknown>;
  say: (error: unknown) => void;
  remove: (() => void) | null;
}) {
  const { sample: s, said, save } = props;
  const layers: Sheet[] = s.layers ?? [];
  const keep = (values: Record<string, unknown>) => void save(values).catch(props.say);
  const field = (key: keyof Sample, label: string, unit?: string) => (
    <Field
      label={label}
      {...(unit ? { unit } : {})}
      value={s[key] == null ? "" : String(s[key] as number)}
      save={(text) => save({ [key]: number(text) })}
    />
  );
  return (
    <Unfold summary={<b>{s.name}</b>}>
      {layers.map((layer, i) => (
        <div key={i}>
          <SheetAsk
            label={i ? "then" : "Made of, from the loudspeaker on"}
            value={layer}
            sheets={props.sheets}
            pick={(to) => keep({ layers: layers.map((x, k) => (k === i ? to : x)) })}
          />
          <button className="chip" onClick={() => keep({ layers: layers.filter((_, k) => k !== i) })}>
            take it out
          </button>
        </div>
      ))}
      <SheetAsk
        label={layers.length ? "and on it" : "Made of, from the loudspeaker on"}
        value={undefined}
        sheets={props.sheets}
        pick={(to) => keep({ layers: [...layers, to] })}
      />
      {said?.predicted ? (
        <p className="small">
          Predicted at this size: {num(said.predicted.all, 1)} ± {num(said.predicted.within_db, 1)} dB over all bands.
        </p>
      ) : null}
      <div className="two">
        {layers.length ? null : field("mass_kg_m2", "Weighs", "kg/m²")}
        {layers.length ? null : field("money_m2", "Price of a square metre")}
        {field("dose_ml", "A cartridge holds, ml")}
        {field("dose_on_m2", "and goes on", "m²")}
        {field("stroke_mm", "its piston goes", "mm")}
      </div>
      {said?.dose ? <p className="small">On this sample: {said.dose}</p> : null}
      <div className="acts">
        <Button onClick={() => keep({ sealed: !(s.sealed ?? true) })}>
          {(s.sealed ?? true) ? "Its edge cannot be sealed" : "Its edge is sealed"}
        </Button>
        {props.remove ? (
          <Button danger onClick={props.remove}>
            Remove it
          </Button>
        ) : null}
      </div>
    </Unfold>
  );
}

function NewSample({ add }: { add: (name: string) => Promise<unknown> }) {
  return (
    <Field
      label="Another sample"
      value=""
      placeholder="board + vinyl"
      save={(name) => (name.trim() ? add(name.trim()) : Promise.resolve())}
    />
  );
}
