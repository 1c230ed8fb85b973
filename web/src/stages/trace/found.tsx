// What was found at the job: is it in the structure or in the air, treatment already there, leaks, rattles with their cures.
import { Button, Input, Modal, Segmented, Select } from "antd";
import { useRef, useState } from "react";
import { upload, type Schemas } from "../../api/client";
import { useKeeping, useShelf } from "../../api/hooks";
import { Ask, Note } from "../../parts/parts";
import { num } from "../../parts/words";
import type { Dialog } from "./paths";

type Props = { doc: Dialog["doc"]; edit: Dialog["edit"]; view: Schemas["TraceView"] };
const SAYS = { structure: "structure", air: "air", neither: "neither" } as const;

export function Found({ doc, edit, view }: Props) {
  return (
    <>
      <Telling doc={doc} edit={edit} view={view} />
      <Rattles doc={doc} edit={edit} view={view} />
      <Leaks doc={doc} edit={edit} view={view} />
      {view.surveys.length ? <Survey doc={doc} edit={edit} view={view} /> : null}
    </>
  );
}

function Telling({ doc, edit, view }: Props) {
  const s = view.statement;
  const question = s.open_questions[0];
  const answer = (says: string) => {
    if (!question) return;
    const row = doc.hints.find((h) => h.hint === question.id);
    void (row
      ? edit.tryChange("hints", row, { says })
      : edit.create("hints", [{ hint: question.id, says }]).catch(edit.say));
  };
  return (
    <>
      <h2>Through the air, or through the structure?</h2>
      <Note kind={s.verdict === "neither" ? "info" : "good"}>
        <b>{s.sentence}</b>
      </Note>
      <div className="rows">
        {s.indications.map((i) => (
          <div key={i.words}>
            <span>{i.words}</span>
            <span className="small">{SAYS[i.says]}</span>
          </div>
        ))}
      </div>
      {question ? (
        <div className="test">
          <b>{question.question}</b>
          <span className="acts">
            {["yes", "no"].map((a) => (
              <Button key={a} onClick={() => answer(a)}>
                {a}
              </Button>
            ))}
          </span>
        </div>
      ) : null}
      {doc.hints.length ? (
        <button
          className="plain small"
          onClick={() => {
            const last = doc.hints[doc.hints.length - 1];
            if (last) void edit.remove("hints", last);
          }}
        >
          take the last answer back
        </button>
      ) : null}
    </>
  );
}

const KINDS = ["clip", "cable", "rod", "switch", "latch", "bracket", "loose trim", "brace that rings"] as const;
const WAYS = ["slow sweep", "bass through the loudspeaker", "knocking", "driving"] as const;

function Rattles({ doc, edit, view }: Props) {
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

function Rattle({ rattle, doc, edit }: { rattle: Schemas["RattleView"]; doc: Dialog["doc"]; edit: Dialog["edit"] }) {
  const picker = useRef<HTMLInputElement>(null);
  const row = doc.rattles.find((r) => r.id === rattle.id);
  if (!row) return null;
  const keep = (file: File | undefined) =>
    file && void edit.run(() => upload(`/api/jobs/${doc.job.id}/photographs`, { file, rattle_id: String(rattle.id) }));
  return (
    <div className={`test ${rattle.done ? "done" : ""}`}>
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
        <img className="thumb" src={`/api/pictures/${rattle.photo}`} alt={`${rattle.kind} at ${rattle.place}`} />
      ) : null}
      <span className="acts">
        <button className="key" onClick={() => picker.current?.click()}>
          photograph
        </button>
        <button className="key" onClick={() => void edit.remove("rattles", row)}>
          remove
        </button>
      </span>
      <input ref={picker} type="file" accept="image/*" hidden onChange={(e) => keep(e.target.files?.[0])} />
    </div>
  );
}

function AddRattle({ doc, edit, close }: Dialog) {
  const shelf = useShelf();
  const [kind, setKind] = useState<(typeof KINDS)[number]>("clip");
  const [place, setPlace] = useState("");
  const [found_by, setWay] = useState<(typeof WAYS)[number]>("slow sweep");
  const [frequency_hz, setFrequency] = useState("");
  const [surface_id, setSurface] = useState<number | null>(null);
  const [cure, setCure] = useState("");
  const { wrong, keep } = useKeeping(close);
  const cures = (shelf.data?.offers.cures ?? []).filter((c) => c.kinds.includes(kind));
  const save = () =>
    keep(async () => {
      await edit.create("rattles", [
        { kind, place, found_by, frequency_hz, surface_id, cure: cure || (cures[0]?.id ?? "") },
      ]);
    });
  return (
    <Modal title="What rattles?" open onCancel={close} onOk={() => void save()} okText="Keep it">
      <div className="form">
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
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

const HOW = ["light", "air", "listening tube", "paper strip", "smoke", "eye"] as const;

function Leaks({ doc, edit, view }: Props) {
  const shelf = useShelf();
  const [place, setPlace] = useState("");
  const [how, setHow] = useState<(typeof HOW)[number]>("light");
  const [area_cm2, setArea] = useState("");
  const spots = (shelf.data?.offers.spots ?? []).filter((s) => s.kind === doc.job.kind);
  const add = () =>
    place.trim() &&
    void edit
      .create("leaks", [{ place: place.trim(), how, area_cm2 }])
      .then(() => {
        setPlace("");
        setArea("");
      })
      .catch(edit.say);
  return (
    <>
      <h2>Leak hunt</h2>
      <details>
        <summary>Where to look and listen</summary>
        <ul className="small">
          {spots.map((s) => (
            <li key={s.text}>{s.text}</li>
          ))}
        </ul>
      </details>
      {view.leaks.map((l) => {
        const row = doc.leaks.find((x) => x.id === l.id);
        return row ? (
          <div key={l.id} className={`test ${l.sealed ? "done" : ""}`}>
            <span className="tickline">
              <input
                type="checkbox"
                aria-label={`${l.place} sealed`}
                checked={l.sealed}
                onChange={(e) => void edit.tryChange("leaks", row, { sealed: e.target.checked })}
              />
              <b>{l.place}</b>
            </span>
            <span className="small">{l.words}</span>
            <Select
              size="small"
              aria-label={`Way in of ${l.place}`}
              allowClear
              placeholder="which way in is it?"
              value={row.path_id ?? undefined}
              options={doc.paths.map((p) => ({ value: p.id, label: p.name }))}
              onChange={(path_id: number | undefined) =>
                void edit.tryChange("leaks", row, { path_id: path_id ?? null })
              }
            />
            <span className="two">
              <Small
                label="before, dB(A)"
                value={row.before_db}
                save={(before_db) => void edit.tryChange("leaks", row, { before_db })}
              />
              <Small
                label="after sealing, dB(A)"
                value={row.after_db}
                save={(after_db) => void edit.tryChange("leaks", row, { after_db })}
              />
            </span>
            <button className="key" onClick={() => void edit.remove("leaks", row)}>
              remove
            </button>
          </div>
        ) : null;
      })}
      <div className="form">
        <Ask label="A leak found">
          <Input
            value={place}
            placeholder="sliding door, lower rear corner"
            onChange={(e) => setPlace(e.target.value)}
            onPressEnter={add}
          />
        </Ask>
        <div className="two">
          <Ask label="by">
            <Select value={how} options={HOW.map((h) => ({ value: h, label: h }))} onChange={setHow} />
          </Ask>
          <Ask label="Open area">
            <Input value={area_cm2} suffix="cm²" onChange={(e) => setArea(e.target.value)} onPressEnter={add} />
          </Ask>
        </div>
        <Button onClick={add} disabled={!place.trim()}>
          Keep the leak
        </Button>
      </div>
    </>
  );
}

function Small({
  label,
  value,
  save,
}: {
  label: string;
  value: number | null | undefined;
  save: (text: string) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  return (
    <Input
      aria-label={label}
      placeholder={label}
      value={text ?? (value == null ? "" : String(value))}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (text !== null) save(text);
        setText(null);
      }}
    />
  );
}

const STATES = ["whole", "missing", "broken", "worn", "glued"] as const;
const DO = ["keep", "restore", "replace", "build on"] as const;

function Survey({ doc, edit, view }: Props) {
  return (
    <>
      <h2>Treatment already there</h2>
      {view.surveys.map((s) => {
        const row = doc.surfaces.find((x) => x.id === s.surface_id);
        return row ? (
          <details key={s.surface_id} className="test" open={Boolean(row.survey) || undefined}>
            <summary>
              <b>{s.name}</b>: {s.state || s.present}
            </summary>
            <span className="small">{s.present}</span>
            <Segmented
              size="small"
              value={row.survey || undefined}
              options={[...STATES]}
              onChange={(survey) => void edit.tryChange("surfaces", row, { survey })}
            />
            <Segmented
              size="small"
              value={row.survey_do || undefined}
              options={[...DO]}
              onChange={(survey_do) => void edit.tryChange("surfaces", row, { survey_do })}
            />
            <p>{s.words}</p>
          </details>
        ) : null;
      })}
    </>
  );
}
