// The whole order beside the step: by place, what is done, left out, handed on, where the days end, what fell away.
import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { serverNow } from "../../api/client";
import { GoTo } from "../../parts/GoTo";
import { longOf, useFirst } from "../../parts/first";
import { num } from "../../parts/words";
import { timeOfDay } from "./clock";
import { namesAt } from "./Here";
import css from "./fit.module.css";

type View = Schemas["FitView"];
const NONE: View["steps"] = [];

export function OrderList({
  id,
  view,
  at,
  pick,
  here,
}: {
  id: number;
  view: View | undefined;
  at: string | undefined;
  pick: (key: string) => void;
  here: readonly Schemas["Somebody"][];
}) {
  const list = useRef<HTMLOListElement>(null);
  const steps = useFirst(view?.steps ?? NONE, 40);
  // on a desk, where the list scrolls by itself, it follows the step that is open
  useEffect(() => {
    const [row, box] = [list.current?.querySelector("[aria-current]"), list.current?.parentElement];
    if (!row || !box || box.scrollHeight <= box.clientHeight) return;
    const follow = () => {
      box.scrollTop += row.getBoundingClientRect().top - box.getBoundingClientRect().top - box.clientHeight / 3;
    };
    follow();
    // of a long order only the rows now in sight are as tall as they are
    const again = requestAnimationFrame(follow);
    return () => cancelAnimationFrame(again);
  }, [at, steps.length]);
  if (!view) return <h2>…</h2>;
  const head = (s: View["steps"][number]) => s.surface || (s.phase === "own" ? "" : s.phase);
  return (
    <>
      <h2>
        {view.done} of {view.steps.length} done
      </h2>
      {view.minutes_left ? (
        <p>
          {hours(view.minutes_left)} of work left; begun now it is ready{" "}
          <b>at {timeOfDay(serverNow() + view.ready_minutes * 60_000)}</b>.
        </p>
      ) : null}
      {view.was_done ? (
        <p className="small">
          {view.was_done.sentence} {view.was_done.differs.join(" ")}
        </p>
      ) : null}
      {view.steps.length ? (
        <p className="small">
          <a href={`/api/jobs/${id}/order.pdf`}>On paper (PDF)</a> ·{" "}
          <a href={`/api/jobs/${id}/look-again.ics`}>Days to look again (calendar)</a>
        </p>
      ) : null}
      <ol ref={list} className={longOf(steps)}>
        {steps.map((s, i) => (
          <li key={s.key}>
            {head(s) && head(s) !== (steps[i - 1] && head(steps[i - 1] as View["steps"][number])) ? (
              <h3>{head(s)}</h3>
            ) : null}
            <button
              className={`${css.step} ${s.done || s.skipped ? css.done : ""}`}
              aria-current={s.key === at ? "step" : undefined}
              onClick={() => pick(s.key)}
            >
              <span aria-hidden>{s.done ? "●" : s.skipped ? "–" : "○"}</span>
              <span>
                {s.what}
                {s.changed ? <b> · changed</b> : null}
                {s.skipped ? " · left out" : ""}
                {namesAt(here, s.key) ? <i> · {namesAt(here, s.key)} now</i> : null}
                {s.handed && !s.done ? ` · ${s.handed}` : ""}
              </span>
              <span className="small">
                {s.done && s.taken_minutes != null
                  ? `${num(s.taken_minutes, 0)} min`
                  : `about ${num(Math.max(1, s.minutes), 0)} min`}
              </span>
            </button>
            {view.days.includes(s.key) ? <p className={css.day}>here a day ended</p> : null}
          </li>
        ))}
      </ol>
      {view.look_again?.length ? (
        <>
          <h3>Look again</h3>
          <ul className="small">
            {view.look_again.map((d) => (
              <li key={d.what}>
                <b>{d.due_on}</b> {d.what} <GoTo to={`/jobs/${id}/listen?round=again`}>Read it again</GoTo>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      {view.fell_away.length ? (
        <>
          <h3>Done, and no longer in the plan</h3>
          <ul className="small">
            {view.fell_away.map((f) => (
              <li key={`${f.phase} ${f.text}`}>
                {f.text}
                {f.who ? ` (${f.who})` : ""}
              </li>
            ))}
          </ul>
        </>
      ) : null}
    </>
  );
}

const hours = (minutes: number) => (minutes >= 60 ? `${num(minutes / 60)} h` : `${num(minutes, 0)} min`);
