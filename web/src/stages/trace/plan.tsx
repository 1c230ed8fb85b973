// The answer of Trace: what to treat, in which order, how deep; what any set of paths can give; measures that are no stack.
import { GoTo } from "../../parts/GoTo";
import { Button } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { longOf, useFirst } from "../../parts/first";
import { Note } from "../../parts/said";
import { num, percent, signed } from "../../parts/words";
import { AddMeasure } from "./measure";
import type { Traced } from "./paths";
import css from "./trace.module.css";

type Props = {
  id: number;
  doc: Traced["doc"];
  edit: Traced["edit"];
  view: Schemas["TraceView"];
  gone: number[];
  thinkAway: (path: number, away: boolean) => void;
  open: (id: number) => void;
  addPath: () => void;
  addUsual: () => void;
  addRound?: () => void;
};

const NONE: Schemas["RankingView"]["wishes"] = [];

export function Plan({ id, edit, view }: Pick<Props, "id" | "edit" | "view">) {
  const ranking = view.ranking;
  const wishes = useFirst(ranking?.wishes ?? NONE, 12);
  const send = () => edit.post("trace-plan", {}).catch(edit.say);
  return (
    <>
      {ranking ? (
        <>
          <h2>Treat these, in this order</h2>
          {ranking.reached ? null : <Note kind="danger">{ranking.sentence}</Note>}
          {ranking.counted.length ? <p className="small">Counted already: {ranking.counted.join(", ")}.</p> : null}
          <ol className={`${css.wishes} ${longOf(wishes)}`}>
            {wishes.map((w) => (
              <li key={w.path_id}>
                <b>{w.name}</b>
                <span className="num">{signed(w.at_ear_db)} dB</span>
                <span className={`small ${css.through}`}>{num(w.depth_db)} dB less through it</span>
              </li>
            ))}
          </ol>
          {ranking.wishes.length ? (
            <p className={css.sum}>
              <span>At the ear together</span> <b className="num">{signed(ranking.change_db)} dB</b>
            </p>
          ) : null}
          {ranking.reached ? <p className="small">{ranking.sentence}</p> : null}
          {ranking.wishes.length ? (
            <div className="acts">
              {ranking.sent ? (
                <span className="note good">Build has this plan.</span>
              ) : (
                <Button type="primary" onClick={() => void send()}>
                  Send this plan to Build
                </Button>
              )}
              <GoTo to={`/jobs/${id}/build`}>Go to Build</GoTo>
            </div>
          ) : null}
        </>
      ) : (
        <Note>
          {view.not_ranked
            ? view.not_ranked
            : view.paths.length
              ? "Set a goal in dB(A) and read it as found: then the order of treatment follows."
              : "List the ways in: then the order of treatment follows."}
        </Note>
      )}
      {view.planned_words ? <p className="small">{view.planned_words}</p> : null}
    </>
  );
}

// What any path carries, and what is done elsewhere than on a surface: under the picture.
export function Gains({ doc, edit, view, gone, thinkAway, open, addPath, addUsual, addRound }: Omit<Props, "id">) {
  const paths = useFirst(view.paths, 12);
  return (
    <div className={css.below}>
      <section className="sheet">
        {view.paths.length ? <h2>Most you can gain without …</h2> : null}
        <div className={`rows ${longOf(paths)}`}>
          {paths.map((p) => (
            <div key={p.id}>
              <span className="tickline">
                <input
                  type="checkbox"
                  aria-label={`Think ${p.name} away`}
                  checked={gone.includes(p.id)}
                  onChange={(e) => thinkAway(p.id, e.target.checked)}
                />
                <button className="plain" onClick={() => open(p.id)}>
                  {p.name}
                </button>
              </span>
              <span>
                {p.level_dba == null ? (
                  <span className="small">unknown</span>
                ) : (
                  <>
                    {percent(p.share)}{" "}
                    <span className={`small ${css.whole}`}>
                      ({num(100 * p.share_low, 0)} to {num(100 * p.share_high, 0)})
                    </span>
                  </>
                )}{" "}
                <b className="num">
                  {p.level_dba == null ? "" : p.ceiling_db == null ? "all" : `${signed(-p.ceiling_db)} dB`}
                </b>
              </span>
            </div>
          ))}
        </div>
        {view.closed ? (
          <Note kind="good">
            <b>{view.closed.words}</b>
          </Note>
        ) : view.paths.length ? (
          <p className="small">Tick several to see what they can give together.</p>
        ) : null}
        <div className="acts">
          <Button onClick={addPath}>Add a path</Button>
          <Button onClick={addUsual}>Usual ways in</Button>
          {addRound ? <Button onClick={addRound}>Round the wall …</Button> : null}
        </div>
      </section>
      <section className="sheet">
        <Measures doc={doc} edit={edit} view={view} />
      </section>
    </div>
  );
}

function Measures({ doc, edit, view }: { doc: Traced["doc"]; edit: Traced["edit"]; view: Schemas["TraceView"] }) {
  const [adding, setAdding] = useState(false);
  return (
    <>
      <h2>At the source and elsewhere</h2>
      {view.measures.map((m) => {
        const row = doc.measures.find((x) => x.id === m.id);
        return row ? (
          <div role="article" key={m.id} className={css.test}>
            <b>{m.name}</b>
            <span className="small">{m.words}</span>
            <span className="acts">
              <button
                className="chip"
                aria-pressed={row.chosen}
                onClick={() => void edit.tryChange("measures", row, { chosen: !row.chosen })}
              >
                in the plan
              </button>
              <button className="key" onClick={() => void edit.remove("measures", row)}>
                remove
              </button>
            </span>
          </div>
        ) : null;
      })}
      {view.measures.length ? null : (
        <p className="small">
          A hose on an outlet, a gasket under a fan, a quieter part: often cheaper than any lining.
        </p>
      )}
      <Button onClick={() => setAdding(true)}>Add a measure</Button>
      {adding ? <AddMeasure doc={doc} edit={edit} close={() => setAdding(false)} /> : null}
    </>
  );
}
