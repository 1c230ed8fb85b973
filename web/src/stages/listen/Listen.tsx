// Listen: the board of positions × conditions for a round, and the panel that takes readings.
import { Segmented, type InputRef } from "antd";
import { useEffect, useRef } from "react";
import { useAddress } from "../../parts/address";
import { serverNow } from "../../api/client";
import { useStage } from "../../api/hooks";
import { StripGate, useGate } from "../../parts/gate";
import { Empty, Note, Said, State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { typing } from "../../parts/typing";
import { Working } from "../../parts/Working";
import { BoardTable } from "./BoardTable";
import { Capture } from "./Capture";
import { Context, Remarks } from "./cards";
import { Goals } from "./Goals";
import css from "./listen.module.css";
import { Places } from "./Places";

const MARKS = { "like for like": "=", "with caution": "≈", "not comparable": "≠" } as const;
const PANELS = ["reading", "context", "goal", "heard"] as const;
const FAIR = {
  "like for like": css.likeForLike,
  "with caution": css.withCaution,
  "not comparable": css.notComparable,
} as const;

export default function Listen({ id, page, edit, settled = true }: StageProps) {
  const doc = page.document;
  const address = useAddress();
  const asked = address.number("round");
  const round = doc.rounds.find((r) => r.id === asked) ?? doc.rounds[0];
  // asked to read the finished work, a round for it is begun where none is; to read it again, always
  const wanted = address.get("round");
  const view = useStage(id, "listen", page.revision, round ? { round_id: round.id } : {});
  const [place, condition] = (address.get("at") ?? "").split(".").map(Number);
  const picked: [number, number] | null = place && condition ? [place, condition] : null;
  const panel = address.oneOf("panel", PANELS) ?? "reading";
  const setPanel = (name: (typeof PANELS)[number]) => address.put({ panel: name === "reading" ? null : name });
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
  });

  const gate = useGate(page.overview.baseline_read);
  const addRound = async (
    state: "as found" | "stripped" | "finished" | "in between",
    without_baseline = "",
    name = "",
  ) => {
    const last = doc.rounds.at(-1);
    const names = {
      "as found": "As found",
      stripped: "Stripped",
      finished: "Finished",
      "in between": `Round ${doc.rounds.length + 1}`,
    };
    const made = await edit
      .create("rounds", [
        { name: name || names[state], state, without_baseline, ...(last ? { follows_id: round?.id ?? last.id } : {}) },
      ])
      .catch(edit.say);
    const fresh = made?.[0]?.["id"];
    if (typeof fresh === "number") address.go({ round: fresh });
  };
  const finished = doc.rounds.some((r) => r.state === "finished");
  const begun = useRef(false);
  useEffect(() => {
    if ((wanted !== "finished" && wanted !== "again") || begun.current || !doc.rounds.length || !settled) return;
    begun.current = true;
    const there = doc.rounds.findLast((r) => r.state === "finished");
    if (there && wanted === "again")
      void addRound("finished", "", `Looked at again ${new Date(serverNow()).toISOString().slice(0, 10)}`);
    else if (there) address.put({ round: there.id });
    else void addRound("finished");
  });
  const mark = (n: number) => view.data?.rounds.find((m) => m.round_id === n);
  const ready = doc.positions.length > 0 && doc.conditions.length > 0;
  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={view.data?.sentence ?? ""} detail={view.data?.detail} />
          <div className={`chips ${css.rounds}`} role="group" aria-label="Rounds">
            {doc.rounds.map((r) => (
              <button
                key={r.id}
                className="chip"
                aria-pressed={r.id === round?.id}
                title={mark(r.id)?.words}
                onClick={() => address.go({ round: r.id })}
              >
                {r.name}
                {mark(r.id)?.fairness ? (
                  <i
                    className={`${css.fairMark} ${FAIR[mark(r.id)?.fairness ?? "with caution"]}`}
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
                address.put({ at: p.join("."), panel: null });
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
              open={(n) => address.go({ round: n })}
              widths={view.data?.rings ?? []}
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
        {panel === "goal" ? (
          <Goals doc={doc} edit={edit} revision={page.revision} asFound={page.overview.goal_rule?.as_found ?? null} />
        ) : null}
        {panel === "heard" && round ? <Remarks doc={doc} round={round} edit={edit} /> : null}
      </aside>
    </>
  );
}
