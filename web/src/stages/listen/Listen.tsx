// Listen: the board of positions × conditions for a round, and the panel that takes readings.
import { Segmented, type InputRef } from "antd";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useStage } from "../../api/hooks";
import { Empty, Note, Said, State, Working } from "../../parts/parts";
import type { StageProps } from "../../shell/JobShell";
import { typing } from "../../parts/typing";
import { num, signed } from "../../parts/words";
import "./listen.module.css";
import { Capture } from "./Capture";
import { StripGate, useGate } from "../../parts/gate";
import { Context, Goals, Places, Remarks } from "./cards";

type Cell = Schemas["Cell"];
const MARKS = { "like for like": "=", "with caution": "≈", "not comparable": "≠" } as const;

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
      if (e.key !== "n" || e.ctrlKey || e.metaKey || typing(e.target)) return;
      e.preventDefault();
      setPanel("reading");
      setTimeout(() => input.current?.focus());
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);

  const gate = useGate(page.overview.baseline_read);
  const addRound = async (state: "as found" | "stripped" | "finished" | "in between", without_baseline = "") => {
    const last = doc.rounds.at(-1);
    const names = {
      "as found": "As found",
      stripped: "Stripped",
      finished: "Finished",
      "in between": `Round ${doc.rounds.length + 1}`,
    };
    const made = await edit
      .create("rounds", [
        { name: names[state], state, without_baseline, ...(last ? { follows_id: round?.id ?? last.id } : {}) },
      ])
      .catch(edit.say);
    const fresh = made?.[0]?.["id"];
    if (typeof fresh === "number") setSearch({ round: String(fresh) });
  };
  const finished = doc.rounds.some((r) => r.state === "finished");
  const mark = (n: number) => view.data?.rounds.find((m) => m.round_id === n);
  const ready = doc.positions.length > 0 && doc.conditions.length > 0;
  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={view.data?.sentence ?? ""} detail={view.data?.detail} />
          <div className="chips rounds" role="group" aria-label="Rounds">
            {doc.rounds.map((r) => (
              <button
                key={r.id}
                className="chip"
                aria-pressed={r.id === round?.id}
                title={mark(r.id)?.words}
                onClick={() => setSearch({ round: String(r.id) })}
              >
                {r.name}
                {mark(r.id)?.fairness ? (
                  <i
                    className={`fair-mark ${mark(r.id)?.fairness?.replaceAll(" ", "-") ?? ""}`}
                    aria-label={mark(r.id)?.words}
                  >
                    {MARKS[mark(r.id)?.fairness ?? "with caution"]}
                  </i>
                ) : null}
              </button>
            ))}
            {!ready ? null : doc.rounds.length ? (
              <>
                <button className="chip" onClick={() => void addRound(finished ? "in between" : "finished")}>
                  + {finished ? "another try" : "finished"}
                </button>
                <button className="chip" onClick={() => gate.ask((why) => addRound("stripped", why))}>
                  + stripped
                </button>
              </>
            ) : (
              <>
                <button className="chip" onClick={() => void addRound("as found")}>
                  + begin: as found
                </button>
                <button className="chip" onClick={() => gate.ask((why) => addRound("stripped", why))}>
                  it is stripped already
                </button>
              </>
            )}
          </div>
          {ready && round ? (
            <BoardTable
              doc={doc}
              cells={view.data?.cells ?? []}
              picked={cell}
              pick={(p) => {
                setPicked(p);
                setPanel("reading");
                input.current?.focus();
              }}
            />
          ) : ready ? null : (
            <Empty
              title="Where does it hurt?"
              text="Name the places where somebody hears it and what the source does then. They stay the same for every round."
            />
          )}
          <Places doc={doc} edit={edit} open={!ready} />
          {view.data?.background_note ? <Note>{view.data.background_note}</Note> : null}
          <Working items={view.data?.working} />
        </State>
        <StripGate gate={gate} id={id} />
      </section>
      <aside className="sheet">
        <Segmented
          block
          value={panel}
          onChange={setPanel}
          options={[
            { value: "reading", label: "Reading" },
            { value: "context", label: "Context" },
            { value: "goal", label: "Goal" },
            { value: "heard", label: "Heard" },
          ]}
        />
        {panel === "reading" ? (
          round && cell ? (
            <Capture
              key={`${round.id}.${cell.join(".")}`}
              id={id}
              doc={doc}
              edit={edit}
              round={round}
              cell={cell}
              input={input}
              view={view.data?.cells.find((c) => c.position_id === cell[0] && c.condition_id === cell[1])}
            />
          ) : (
            <p className="small">
              {round
                ? "Pick a cell of the board to take its reading."
                : "First name places and conditions, then begin the round as found."}
            </p>
          )
        ) : null}
        {panel === "context" && round ? (
          <Context
            key={round.id}
            doc={doc}
            round={round}
            edit={edit}
            items={view.data?.context_items ?? []}
            gate={gate}
          />
        ) : null}
        {panel === "goal" ? <Goals doc={doc} edit={edit} /> : null}
        {panel === "heard" && round ? <Remarks doc={doc} round={round} edit={edit} /> : null}
      </aside>
    </>
  );
}

function BoardTable({
  doc,
  cells,
  picked,
  pick,
}: {
  doc: Schemas["JobDocument"];
  cells: readonly Cell[];
  picked: [number, number] | null;
  pick: (p: [number, number]) => void;
}) {
  return (
    <table className="cells">
      <thead>
        <tr>
          <td />
          {doc.conditions.map((c) => (
            <th key={c.id} scope="col">
              {c.name}
            </th>
          ))}
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
                  <button
                    className={`cell ${cell?.is_goal ? "goal" : ""} ${on ? "on" : ""} ${cell?.repeats ? "" : "bare"}`}
                    aria-label={label}
                    aria-pressed={on}
                    onClick={() => pick([p.id, c.id])}
                  >
                    {cell?.level_db != null ? (
                      <Filled cell={cell} />
                    ) : (
                      <span className="take">
                        {on ? (
                          <>
                            <b>n</b> take reading
                          </>
                        ) : (
                          "not read"
                        )}
                      </span>
                    )}
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
        {cell.upper_bound ? "≤ " : ""}
        {num(cell.level_db)} <small>{cell.unit}</small>
      </span>
      <span className="spread">
        <span aria-hidden>{"●".repeat(Math.min(cell.repeats, 6))}</span>
        <br />
        {cell.change_db != null ? (
          <b className="change">{signed(cell.change_db)} dB</b>
        ) : cell.spread_db == null ? (
          "one reading"
        ) : (
          `± ${num(cell.spread_db)} dB`
        )}
      </span>
      <Trace values={cell.history_db} />
    </>
  );
}

function Trace({ values }: { values: readonly number[] }) {
  if (values.length < 2) return <span className="no-trace" />;
  const low = Math.min(...values);
  const span = Math.max(Math.max(...values) - low, 3);
  const d = values
    .map(
      (v, i) =>
        `${i ? "L" : "M"}${((i / (values.length - 1)) * 200).toFixed(1)} ${(28 - ((v - low) / span) * 25).toFixed(1)}`,
    )
    .join("");
  return (
    <svg className="trace" viewBox="0 0 200 30" preserveAspectRatio="none" aria-hidden>
      <path d={d} fill="none" stroke="var(--bark)" strokeWidth={1.4} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}
