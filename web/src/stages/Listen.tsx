// Listen: the board of positions × conditions for a round, and the panel that takes readings.
import { App, Button, Input, Segmented, Select, type InputRef } from "antd";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, Refused, upload, type Schemas } from "../api/client";
import { useShelf, useStage } from "../api/hooks";
import { Empty, Note, Said, State, Working } from "../shell/parts";
import type { StageProps } from "../shell/JobShell";
import { num } from "../shell/words";
import "./listen.css";
import { Context, Goals, Places, Remarks } from "./listen-cards";

type Cell = Schemas["Cell"];

export default function Listen({ id, page, edit }: StageProps) {
  const doc = page.document;
  const [search, setSearch] = useSearchParams();
  const asked = Number(search.get("round"));
  const round = doc.rounds.find((r) => r.id === asked) ?? doc.rounds[0];
  const view = useStage(id, "listen", page.revision, round ? { round_id: round.id } : {});
  const [picked, setPicked] = useState<[number, number] | null>(null);
  const [panel, setPanel] = useState<"reading" | "context" | "goal" | "heard">("reading");
  const input = useRef<InputRef | null>(null);
  const goal = doc.goals.find((g) => g.headline);
  const cell: [number, number] | null = picked ?? (goal ? [goal.position_id, goal.condition_id] : null);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== "n" || e.ctrlKey || e.metaKey || (e.target instanceof HTMLElement && /INPUT|TEXTAREA/.test(e.target.tagName))) return;
      e.preventDefault();
      setPanel("reading");
      setTimeout(() => input.current?.focus());
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);

  const addRound = async () => {
    const made = await edit.create("rounds", [
      doc.rounds.length
        ? { name: doc.rounds.some((r) => r.state === "finished") ? `Round ${doc.rounds.length + 1}` : "Finished", state: doc.rounds.some((r) => r.state === "finished") ? "in between" : "finished", follows_id: doc.rounds.at(-1)?.id, context: doc.rounds.at(-1)?.context ?? {} }
        : { name: "As found", state: "as found" },
    ]).catch(edit.say);
    const fresh = made?.[0]?.["id"];
    if (typeof fresh === "number") setSearch({ round: String(fresh) });
  };

  const ready = doc.positions.length > 0 && doc.conditions.length > 0;
  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={view.data?.sentence ?? ""} detail={view.data?.detail} />
          <div className="chips rounds" role="group" aria-label="Rounds">
            {doc.rounds.map((r) => (
              <button key={r.id} className="chip" aria-pressed={r.id === round?.id} onClick={() => setSearch({ round: String(r.id) })}>{r.name}</button>
            ))}
            {ready ? <button className="chip" onClick={() => void addRound()}>+ {doc.rounds.length ? "next round" : "begin: as found"}</button> : null}
          </div>
          {ready && round ? (
            <BoardTable doc={doc} cells={view.data?.cells ?? []} picked={cell} pick={(p) => { setPicked(p); setPanel("reading"); input.current?.focus(); }} />
          ) : ready ? null : (
            <Empty title="Where does it hurt?" text="Name the places where somebody hears it and what the source does then. They stay the same for every round." />
          )}
          <Places doc={doc} edit={edit} open={!ready} />
          {view.data?.background_note ? <Note>{view.data.background_note}</Note> : null}
          <Working items={view.data?.working} />
        </State>
      </section>
      <aside className="sheet">
        <Segmented block value={panel} onChange={setPanel} options={[
          { value: "reading", label: "Reading" }, { value: "context", label: "Context" }, { value: "goal", label: "Goal" }, { value: "heard", label: "Heard" },
        ]} />
        {panel === "reading" ? (
          round && cell ? (
            <Capture key={`${round.id}.${cell.join(".")}`} id={id} doc={doc} edit={edit} round={round} cell={cell} input={input} view={view.data?.cells.find((c) => c.position_id === cell[0] && c.condition_id === cell[1])} />
          ) : (
            <p className="small">{round ? "Pick a cell of the board to take its reading." : "First name places and conditions, then begin the round as found."}</p>
          )
        ) : null}
        {panel === "context" && round ? <Context key={round.id} doc={doc} round={round} edit={edit} items={view.data?.context_items ?? []} /> : null}
        {panel === "goal" ? <Goals doc={doc} edit={edit} /> : null}
        {panel === "heard" && round ? <Remarks doc={doc} round={round} edit={edit} /> : null}
      </aside>
    </>
  );
}

function BoardTable({ doc, cells, picked, pick }: { doc: Schemas["JobDocument"]; cells: readonly Cell[]; picked: [number, number] | null; pick: (p: [number, number]) => void }) {
  return (
    <table className="cells">
      <thead>
        <tr>
          <td />
          {doc.conditions.map((c) => <th key={c.id} scope="col">{c.name}</th>)}
        </tr>
      </thead>
      <tbody>
        {doc.positions.map((p) => (
          <tr key={p.id}>
            <th scope="row">{p.name}</th>
            {doc.conditions.map((c) => {
              const cell = cells.find((x) => x.position_id === p.id && x.condition_id === c.id);
              const on = picked?.[0] === p.id && picked[1] === c.id;
              const label = `${p.name}, ${c.name}: ${cell?.level_db != null ? `${num(cell.level_db)} ${cell.unit}, ${cell.repeats} read` : "not read"}`;
              return (
                <td key={c.id}>
                  <button className={`cell ${cell?.is_goal ? "goal" : ""} ${on ? "on" : ""} ${cell?.repeats ? "" : "bare"}`} aria-label={label} aria-pressed={on} onClick={() => pick([p.id, c.id])}>
                    {cell?.level_db != null ? <Filled cell={cell} /> : <span className="take">{on ? <><b>n</b> take reading</> : "not read"}</span>}
                  </button>
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Filled({ cell }: { cell: Cell }) {
  return (
    <>
      <span className="level">
        {cell.upper_bound ? "≤ " : ""}{num(cell.level_db)} <small>{cell.unit}</small>
      </span>
      <span className="spread">
        <span aria-hidden>{"●".repeat(Math.min(cell.repeats, 6))}</span>
        <br />{cell.spread_db == null ? "one reading" : `± ${num(cell.spread_db)} dB`}
      </span>
      <Trace values={cell.history_db} />
    </>
  );
}

function Trace({ values }: { values: readonly number[] }) {
  if (values.length < 2) return <span className="no-trace" />;
  const low = Math.min(...values);
  const span = Math.max(Math.max(...values) - low, 3);
  const d = values.map((v, i) => `${i ? "L" : "M"}${((i / (values.length - 1)) * 200).toFixed(1)} ${(28 - ((v - low) / span) * 25).toFixed(1)}`).join("");
  return (
    <svg className="trace" viewBox="0 0 200 30" preserveAspectRatio="none" aria-hidden>
      <path d={d} fill="none" stroke="var(--bark)" strokeWidth={1.4} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

type CaptureProps = Pick<StageProps, "id" | "edit"> & {
  doc: Schemas["JobDocument"]; round: Schemas["Round"]; cell: [number, number]; view: Cell | undefined; input: React.RefObject<InputRef | null>;
};

function Capture({ id, doc, edit, round, cell, view, input }: CaptureProps) {
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState("");
  const [background, setBackground] = useState(false);
  const [column, setColumn] = useState("");
  const picker = useRef<HTMLInputElement>(null);
  const { message } = App.useApp();
  const [position_id, condition_id] = cell;
  const place = doc.positions.find((p) => p.id === position_id)?.name;
  const condition = doc.conditions.find((c) => c.id === condition_id)?.name;
  const kept = doc.readings.filter((r) => r.round_id === round.id && r.position_id === position_id && r.condition_id === condition_id);

  const keep = async () => {
    try {
      await ask(api.POST("/api/jobs/{job_id}/typed-readings", { params: { path: { job_id: id } }, body: { position_id, condition_id, round_id: round.id, text, background, note: "" } }));
      setText("");
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Refused ? error.message : String(error));
    }
    await edit.refresh();
    input.current?.focus();
  };
  const bring = async (file: File | undefined) => {
    if (!file) return;
    try {
      const done = await upload<Schemas["LogImported"]>(`/api/jobs/${id}/logs`, { file, position_id: String(position_id), condition_id: String(condition_id), round_id: String(round.id), column, background: String(background) });
      void message.success(`Column “${done.column}”: ${done.analysis.samples} samples, every ${done.interval_s} s, energy mean ${num(done.analysis.Leq)} dB.`, 8);
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Refused ? error.message : String(error));
    }
    await edit.refresh();
  };
  return (
    <>
      <div>
        <h2>{place}</h2>
        <span className="small">{condition}, round “{round.name}”</span>
      </div>
      <div className="digits" aria-live="polite">
        {view?.level_db != null ? num(view.level_db) : "––.–"} <small>{view?.unit ?? "dB(A)"}</small>
      </div>
      <p className="small">{view?.repeats ? `energy mean of ${view.repeats}, ± ${num(view.half_width_db)} dB (95 %)${view.background_correction_db ? `, background took ${num(view.background_correction_db)} dB` : ""}` : "nothing kept here yet"}</p>
      <label className="field">
        <span>What does the meter say? A level, several, or a range</span>
        <Input ref={input} size="large" inputMode="text" value={text} placeholder="74.8   or   73.9..75.8" status={wrong ? "error" : undefined} onChange={(e) => setText(e.target.value)} onPressEnter={() => void keep()} />
        {wrong ? <span className="wrong" role="alert">{wrong}</span> : null}
      </label>
      <div className="acts">
        <Button type="primary" size="large" onClick={() => void keep()}>Keep this reading ↵</Button>
        <button className="chip" aria-pressed={background} onClick={() => setBackground(!background)}>background</button>
      </div>
      <div className="acts">
        <Button onClick={() => picker.current?.click()}>Bring in a level log</Button>
        <Input className="narrow" value={column} placeholder="column (if asked)" aria-label="Level column" onChange={(e) => setColumn(e.target.value)} />
        <input ref={picker} type="file" accept=".csv,.tsv,.txt,text/*" hidden aria-label="Level log" onChange={(e) => { void bring(e.target.files?.[0]); e.target.value = ""; }} />
      </div>
      <div className="rows">
        {kept.map((r) => (
          <div key={r.id}>
            <span>
              <span className="num">{r.level_db != null ? num(r.level_db) : `${num(r.low_db)} to ${num(r.high_db)}`}</span> dB{r.background ? " background" : ""}{" "}
              <span className="small">{r.file_name || r.note || r.source}</span>
            </span>
            <button className="key" aria-label={`Remove reading ${num(r.level_db ?? r.low_db)}`} onClick={() => void edit.remove("readings", r)}>remove</button>
          </div>
        ))}
      </div>
      <Method doc={doc} edit={edit} />
    </>
  );
}

function Method({ doc, edit }: { doc: Schemas["JobDocument"]; edit: StageProps["edit"] }) {
  const shelf = useShelfMethods();
  return (
    <label className="field">
      <span>How it is read (its repeatability stands in for a single reading)</span>
      <Select value={doc.job.method} options={shelf} onChange={(method) => void edit.tryChange("jobs", doc.job, { method })} />
    </label>
  );
}

function useShelfMethods() {
  const shelf = useShelf();
  return (shelf.data?.methods ?? []).map((m) => ({ value: m.id, label: `${m.name} (± ${m.repeatability_db} dB)` }));
}
