// Rattles: what was found, and its cure.
import { FileInput } from "../../parts/FileInput";
import { Button, Input, Select } from "antd";
import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { Dialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { keepPhoto } from "../../parts/photo";
import { Note } from "../../parts/said";
import { num } from "../../parts/words";
import type { Traced } from "./paths";
import css from "./trace.module.css";

type Props = { doc: Traced["doc"]; edit: Traced["edit"]; view: Schemas["TraceView"] };

const KINDS = ["clip", "cable", "rod", "switch", "latch", "bracket", "loose trim", "brace that rings"] as const;

const WAYS = ["slow sweep", "bass through the loudspeaker", "knocking", "driving"] as const;

export function Rattles({ doc, edit, view }: Props) {
  const [adding, setAdding] = useState(false);
  const left = view.rattles.filter((r) => !r.done).length;
  return (
    <>
      <h2>
        Rattles{" "}
        {view.rattles.length ? (
          <span className="small">{left ? `${left} of ${view.rattles.length} to cure` : "all cured"}</span>
        ) : null}
      </h2>
      <details>
        <summary>Play a slow sweep and listen for what answers</summary>
        <p className="small">
          Or bass through the loudspeaker, or knocking along the panels. Three seconds of noise set the volume first.
        </p>
        <audio controls preload="none" src="/api/signals/sweep.wav?seconds=60" aria-label="Slow sweep" />
      </details>
      {view.rattles.map((r) => (
        <Rattle key={r.id} rattle={r} doc={doc} edit={edit} />
      ))}
      <Button onClick={() => setAdding(true)}>Add a rattle</Button>
      {adding ? <AddRattle doc={doc} edit={edit} close={() => setAdding(false)} /> : null}
    </>
  );
}

function Rattle({ rattle, doc, edit }: { rattle: Schemas["RattleView"]; doc: Traced["doc"]; edit: Traced["edit"] }) {
  const picker = useRef<HTMLInputElement>(null);
  const row = doc.rattles.find((r) => r.id === rattle.id);
  if (!row) return null;
  const keep = (file: File | undefined) => keepPhoto(edit, file, { rattle_id: rattle.id });
  return (
    <div role="article" className={`${css.test} ${rattle.done ? css.done : ""}`}>
      <span className="tickline">
        <input
          type="checkbox"
          aria-label={`${rattle.kind} at ${rattle.place} cured`}
          checked={rattle.done}
          onChange={(e) => void edit.tryChange("rattles", row, { done: e.target.checked })}
        />
        <b>
          {rattle.kind}, {rattle.place}
        </b>
        {rattle.frequency_hz ? <span className="num">{num(rattle.frequency_hz, 0)} Hz</span> : null}
      </span>
      <span>{rattle.cure}</span>
      <span className="small">
        {rattle.material}; found by {row.found_by}
      </span>
      {rattle.photo ? (
        <img className={css.thumb} src={`/api/pictures/${rattle.photo}`} alt={`${rattle.kind} at ${rattle.place}`} />
      ) : null}
      <span className="acts">
        <button className="key" onClick={() => picker.current?.click()}>
          photograph
        </button>
        <button className="key" onClick={() => void edit.remove("rattles", row)}>
          remove
        </button>
      </span>
      <FileInput picker={picker} label="Photograph of the rattle" accept="image/*" take={keep} />
    </div>
  );
}

function AddRattle({ doc, edit, close }: Traced) {
  const shelf = useShelf();
  const [kind, setKind] = useState<(typeof KINDS)[number]>("clip");
  const [place, setPlace] = useState("");
  const [found_by, setWay] = useState<(typeof WAYS)[number]>("slow sweep");
  const [frequency_hz, setFrequency] = useState("");
  const [surface_id, setSurface] = useState<number | null>(null);
  const [cure, setCure] = useState("");
  const cures = (shelf.data?.offers.cures ?? []).filter((c) => c.kinds.includes(kind));
  const save = async () => {
    await edit.create("rattles", [
      { kind, place, found_by, frequency_hz, surface_id, cure: cure || (cures[0]?.id ?? "") },
    ]);
  };
  return (
    <Dialog title="What rattles?" ok="Keep it" save={save} close={close}>
      <div className="chips">
        {KINDS.map((k) => (
          <button
            key={k}
            className="chip"
            aria-pressed={kind === k}
            onClick={() => {
              setKind(k);
              setCure("");
            }}
          >
            {k}
          </button>
        ))}
      </div>
      <Ask label="Where">
        <Input value={place} placeholder="left tray rack, upper rail" onChange={(e) => setPlace(e.target.value)} />
      </Ask>
      <div className="two">
        <Ask label="Found by">
          <Select value={found_by} options={WAYS.map((w) => ({ value: w, label: w }))} onChange={setWay} />
        </Ask>
        <Ask label="Answers at">
          <Input value={frequency_hz} suffix="Hz" onChange={(e) => setFrequency(e.target.value)} />
        </Ask>
        <Ask label="On which panel">
          <Select
            value={surface_id}
            allowClear
            options={doc.surfaces.map((s) => ({ value: s.id as number | null, label: s.name }))}
            onChange={(v) => setSurface(v ?? null)}
          />
        </Ask>
        <Ask label="Cure">
          <Select
            value={cure || cures[0]?.id}
            options={cures.map((c) => ({ value: c.id, label: c.id }))}
            onChange={setCure}
          />
        </Ask>
      </div>
      <Note>{(cures.find((c) => c.id === cure) ?? cures[0])?.text}</Note>
    </Dialog>
  );
}
