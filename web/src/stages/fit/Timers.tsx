// The clocks that run down: each large, with what to do when it ends; they ring where the page is seen, and say what ended when.
import { useEffect, useRef } from "react";
import type { StageProps } from "../../parts/stage";
import { minutesAndSeconds, ring, timeOfDay, useAwake, useNow, type Running } from "./clock";
import { happenedTo } from "./happened";
import css from "./fit.module.css";
import ownCss from "./timers.module.css";

type Props = { running: readonly Running[]; edit: StageProps["edit"]; who: string; go: (key: string) => void };

export function Timers({ running, edit, who, go }: Props) {
  const now = useNow(running.length > 0);
  const rung = useRef(new Set<string>());
  useAwake(running.some((r) => r.endsAt > now));
  useEffect(() => {
    for (const r of running) {
      const name = `${r.step.key} ${r.name} ${r.endsAt}`;
      if (r.endsAt > now || rung.current.has(name) || document.visibilityState !== "visible") continue;
      rung.current.add(name);
      ring();
    }
  }, [running, now]);
  if (!running.length) return null;
  return (
    <section className={ownCss.timers} aria-label="Clocks">
      {running.map((r) => {
        const over = r.endsAt <= now;
        return (
          <div key={`${r.step.key} ${r.name}`} className={ownCss.timer} data-over={over || undefined} role="timer">
            <b className={ownCss.left}>{over ? "0:00" : minutesAndSeconds(r.endsAt - now)}</b>
            <button className={ownCss.timerWords} onClick={() => go(r.step.key)}>
              <b>{over ? `${r.then.charAt(0).toUpperCase()}${r.then.slice(1)}` : `${r.name}, then ${r.then}`}</b>
              <span className="small">
                {r.step.what}; {over ? `ended at ${timeOfDay(r.endsAt)}` : `until ${timeOfDay(r.endsAt)}`}
              </span>
            </button>
            <button
              className={css.chip}
              onClick={() => void happenedTo(edit, who, r.step)("timer ended", { item: r.name })}
            >
              {over ? "Seen" : "Stop"}
            </button>
          </div>
        );
      })}
    </section>
  );
}
