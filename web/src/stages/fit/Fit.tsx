// Fit: one step at a time, large enough for a gloved hand; the whole order at the side.
import { GoTo } from "../../parts/GoTo";
import { useAddress } from "../../parts/address";
import { ThumbAction } from "../../parts/thumb";
import { Button, Input } from "antd";
import { useEffect, useState } from "react";
import { author, type Schemas } from "../../api/client";
import { useStage } from "../../api/hooks";
import { StripGate, useGate } from "../../parts/gate";
import { Empty, Note, Said, State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { num } from "../../parts/words";
import css from "./fit.module.css";

type Step = Schemas["StepView"];

export default function Fit({ id, page, edit }: StageProps) {
  const view = useStage(id, "fit", page.revision);
  const address = useAddress();
  const picked = address.get("step");
  const setPicked = (step: string | null) => address.put({ step });
  const data = view.data;
  const gate = useGate(page.overview.baseline_read);
  // the first strip with no baseline asks; the answer is kept as the round that begins stripped
  const guard = (phase: string, go: () => Promise<unknown>) => {
    if (phase !== "strip") return void go();
    gate.ask(async (why) => {
      if (why)
        await edit.create("rounds", [{ name: "Stripped", state: "stripped", without_baseline: why }]).catch(edit.say);
      await go();
    });
  };
  const step =
    data?.steps.find((s) => s.key === picked) ?? data?.steps.find((s) => s.key === data.next_key) ?? data?.steps.at(-1);
  const following = step && data ? data.steps.find((s, i) => i > data.steps.indexOf(step) && !s.done) : undefined;
  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={data?.sentence ?? ""} detail={data?.detail} />
          {step && data ? (
            <>
              <Current
                key={step.key}
                id={id}
                step={step}
                number={data.steps.indexOf(step) + 1}
                of={data.steps.length}
                edit={edit}
                guard={guard}
                next={() => setPicked(null)}
              />
              {following ? (
                <div className={css.then}>
                  <b>Then</b>
                  <p>{following.text}</p>
                </div>
              ) : null}
            </>
          ) : (
            <Empty title="No order yet" text="The steps follow from the stacks chosen in Build.">
              <GoTo to={`/jobs/${id}/build`} type="primary" size="large">
                Go to Build
              </GoTo>
            </Empty>
          )}
        </State>
        <StripGate gate={gate} id={id} />
      </section>
      <aside className={`sheet ${css.order}`}>
        <h2>{data ? `${data.done} of ${data.steps.length} done` : "…"}</h2>
        {data?.minutes_left ? (
          <p>
            {hours(data.minutes_left)} of work left; begun now it is ready <b>{clockIn(data.ready_minutes)}</b>.
          </p>
        ) : null}
        <ol>
          {data?.steps.map((s, i) => (
            <li key={s.key}>
              {s.phase !== data.steps[i - 1]?.phase ? <h3>{s.phase}</h3> : null}
              <button
                className={`${css.step} ${s.done ? css.done : ""}`}
                aria-current={s.key === step?.key ? "step" : undefined}
                onClick={() => setPicked(s.key)}
              >
                <span aria-hidden>{s.done ? "●" : "○"}</span> {s.what}
                <span className="small">
                  {s.done && s.taken_minutes != null
                    ? `${num(s.taken_minutes, 0)} min`
                    : `about ${num(s.minutes, 0)} min`}
                </span>
              </button>
            </li>
          ))}
        </ol>
      </aside>
    </>
  );
}

const hours = (minutes: number) => (minutes >= 60 ? `${num(minutes / 60)} h` : `${num(minutes, 0)} min`);
// A time of day so many minutes from now, with its weekday where that is another day.
function clockIn(minutes: number): string {
  const then = new Date(Date.now() + minutes * 60_000);
  const day = then.toDateString() === new Date().toDateString() ? {} : { weekday: "short" as const };
  return `at ${then.toLocaleTimeString([], { ...day, hour: "2-digit", minute: "2-digit" })}`;
}

const DEVICE = `browser ${author().slice(0, 4)}`;

function Current({
  id,
  step,
  number,
  of,
  edit,
  guard,
  next,
}: {
  id: number;
  step: Step;
  number: number;
  of: number;
  edit: StageProps["edit"];
  guard: (phase: string, go: () => Promise<unknown>) => void;
  next: () => void;
}) {
  const [note, setNote] = useState(step.note);
  const [minutes, setMinutes] = useState(step.taken_minutes == null ? "" : String(step.taken_minutes));
  const [now, setNow] = useState(() => Date.now());
  const running = step.running_since ? Date.parse(step.running_since) : null;
  useEffect(() => {
    if (running === null) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [running]);
  // what the clock counted is kept as events; only the seconds since it was started last are counted here
  const passed = step.clock_s * 1000 + (running === null ? 0 : Math.max(0, now - running));
  const clock = `${Math.floor(passed / 60000)}:${String(Math.floor(passed / 1000) % 60).padStart(2, "0")}`;

  const happened = async (what: Schemas["StepEvent"]["what"], more: Record<string, unknown> = {}) => {
    try {
      await edit.create("step_events", [
        { ...step.ref, what, at: new Date().toISOString(), device: DEVICE, text: step.text, note, ...more },
      ]);
      return true;
    } catch (error) {
      edit.say(error);
      return false;
    }
  };
  const finish = async () => {
    if (await happened(step.done ? "undone" : "done", { minutes: minutes || null })) next();
  };
  return (
    <article className={css.current}>
      <p className="small">
        Step {number} of {of} · {step.phase}
        {step.surface ? ` · ${step.surface}` : ""}
      </p>
      <p className={css.doing}>{step.text}</p>
      {step.changed ? (
        <Note kind="warn">
          <b>The plan has changed</b> since this was done: look whether it still holds, then tick it anew.
        </Note>
      ) : null}
      {step.hazards.map((h) => (
        <Note key={h} kind="danger">
          <b>Take care.</b> {h}
        </Note>
      ))}
      {step.hold ? (
        <Note>
          <b>Hold.</b> {step.hold}
        </Note>
      ) : null}
      <ThumbAction>
        <Button type="primary" onClick={() => (step.done ? void finish() : guard(step.phase, finish))}>
          {step.done ? "Not done after all" : "Done ✓"}
        </Button>
      </ThumbAction>
      <div className={css.fitActs}>
        <button
          className={`${css.doneButton} ${step.done ? css.again : ""}`}
          onClick={() => (step.done ? void finish() : guard(step.phase, finish))}
        >
          {step.done ? "Not done after all" : "Done ✓"}
        </button>
        <button
          className={css.timeButton}
          onClick={() => {
            setNow(Date.now());
            void happened(running === null ? "started" : "paused");
          }}
        >
          {running === null ? (step.clock_s ? `Go on · ${clock}` : "Start the clock") : `Stop · ${clock}`}
          <span className="small">
            about {num(step.minutes, 0)} min{step.wait_minutes ? `, then wait ${num(step.wait_minutes / 60)} h` : ""}
          </span>
        </button>
      </div>
      {step.phase === "read again" ? (
        <GoTo to={`/jobs/${id}/listen?round=finished`} size="large">
          Take the readings
        </GoTo>
      ) : null}
      <div className={css.fitNotes}>
        <Input
          size="large"
          value={minutes}
          suffix="min"
          placeholder="time taken"
          aria-label="Time taken"
          onChange={(e) => setMinutes(e.target.value)}
          onBlur={() => {
            if (minutes && minutes !== String(step.taken_minutes ?? "")) void happened("note", { minutes });
          }}
        />
        <Input
          size="large"
          value={note}
          placeholder="a note: what was found, what was used"
          aria-label="Note"
          onChange={(e) => setNote(e.target.value)}
          onBlur={() => {
            if (note !== step.note) void happened("note");
          }}
        />
      </div>
    </article>
  );
}
