// A measure that is no stack: one figure, a figure for each octave, or what was read between two rounds.
import { Input, Segmented, Select } from "antd";
import { useState } from "react";
import { query } from "../../api/client";
import { useJob, useShelf } from "../../api/hooks";
import { Dialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { NO_OCTAVES, Octaves } from "../../parts/octaves";
import { Note } from "../../parts/said";
import { num } from "../../parts/words";
import { Line } from "./desk-pictures";
import type { Traced } from "./paths";
import { UnitInput } from "../../parts/UnitInput";

const WAYS = [
  { value: "one" as const, label: "one figure" },
  { value: "octaves" as const, label: "by octave" },
  { value: "rounds" as const, label: "from two rounds" },
];

export function AddMeasure({ doc, edit, close }: Traced) {
  const shelf = useShelf();
  const usual = (shelf.data?.offers.source_measures ?? []).filter((m) => m.kind === doc.job.kind);
  const [name, setName] = useState("");
  const [place, setPlace] = useState<string>("source");
  const [way, setWay] = useState<(typeof WAYS)[number]["value"]>("one");
  const [effect, setEffect] = useState("");
  const [octaves, setOctaves] = useState(NO_OCTAVES);
  const [measured, setMeasured] = useState(false);
  const [structure, setStructure] = useState(false);
  const [air, setAir] = useState("");
  const [before, setBefore] = useState(doc.rounds[0]?.id ?? 0);
  const [after, setAfter] = useState(doc.rounds.at(-1)?.id ?? 0);
  const revision = useJob(doc.job.id).data?.revision;
  const read = query.useQuery(
    "get",
    "/api/jobs/{job_id}/trace-effect",
    { params: { path: { job_id: doc.job.id }, query: { before_id: before, after_id: after } }, revision },
    { enabled: way === "rounds", retry: false },
  );
  const note = usual.find((m) => m.name === name)?.note ?? "";
  const save = async () => {
    const path_id = place.startsWith("path") ? Number(place.slice(4)) : null;
    const takes = {
      one: { effect_db: effect, measured },
      octaves: { effect_bands_db: octaves.map((v) => v.trim() || "0"), measured },
      rounds: { effect_bands_db: read.data?.effect_bands_db ?? null, measured: true },
    }[way];
    await edit.create("measures", [
      {
        name,
        at: path_id ? "path" : place,
        path_id,
        note: way === "rounds" ? (read.data?.words ?? "") : note,
        structure_borne: place === "source" && structure,
        air_m3_h: air.trim() || null,
        ...takes,
      },
    ]);
  };
  const rounds = doc.rounds.map((r) => ({ value: r.id, label: r.name }));
  return (
    <Dialog
      title="A measure that is no stack"
      ok="Add"
      save={save}
      close={close}
      ready={way !== "rounds" || Boolean(read.data)}
    >
      <div className="chips">
        {usual.map((m) => (
          <button
            key={m.name}
            className="chip"
            aria-pressed={name === m.name}
            onClick={() => {
              setName(m.name);
              setEffect(num(m.effect_db, 0));
              setStructure(m.structure_borne);
            }}
          >
            {m.name}
          </button>
        ))}
      </div>
      {note ? <Note>{note}</Note> : null}
      <Ask label="What">
        <Input value={name} onChange={(e) => setName(e.target.value)} />
      </Ask>
      <Ask label="Where">
        <Select
          value={place}
          onChange={setPlace}
          options={[
            { value: "source", label: "at the source" },
            { value: "listener", label: "at the listener" },
            ...doc.paths.map((p) => ({ value: `path${p.id}`, label: p.name })),
          ]}
        />
      </Ask>
      {place === "source" ? (
        <button
          className="chip"
          aria-pressed={structure}
          title="Feet and mounts do; a box or a screen does not"
          onClick={() => setStructure(!structure)}
        >
          takes down what comes by shaking too
        </button>
      ) : null}
      {doc.job.kind === "enclosure" ? (
        <Ask label="Air it moves, of a fan">
          <UnitInput value={air} unit="m³/h" onText={setAir} />
        </Ask>
      ) : null}
      <Segmented block value={way} onChange={setWay} options={WAYS} />
      {way === "one" ? (
        <Ask label="Takes off">
          <Input value={effect} suffix="dB" onChange={(e) => setEffect(e.target.value)} />
        </Ask>
      ) : null}
      {way === "octaves" ? (
        <Octaves values={octaves} change={setOctaves} placeholder="0" hint="dB less in each octave; empty: nothing." />
      ) : null}
      {way === "rounds" ? (
        <>
          <div className="two">
            <Ask label="Read without it">
              <Select value={before} onChange={setBefore} options={rounds} />
            </Ask>
            <Ask label="Read with it">
              <Select value={after} onChange={setAfter} options={rounds} />
            </Ask>
          </div>
          {read.data ? (
            <>
              <Line line={{ label: "Takes off", unit: "dB", values: read.data.effect_bands_db }} />
              <p className="small">{read.data.words}</p>
            </>
          ) : null}
          {read.error ? <Note kind="warn">{(read.error as unknown as Error).message}</Note> : null}
        </>
      ) : (
        <button className="chip" aria-pressed={measured} onClick={() => setMeasured(!measured)}>
          I measured this
        </button>
      )}
    </Dialog>
  );
}
