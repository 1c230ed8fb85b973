// One step: what can hurt, what is done, where each piece goes, what it needs, and what happened to it.
import { Button, Input, Modal } from "antd";
import { useState } from "react";
import { useEdits } from "../../api/edits";
import { Dialog } from "../../parts/Dialog";
import { GoTo } from "../../parts/GoTo";
import { Note } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { ThumbAction } from "../../parts/thumb";
import { num } from "../../parts/words";
import type { Schemas } from "../../api/client";
import { api, ask, serverNow } from "../../api/client";
import { Checks } from "./Checks";
import { Fixings } from "./Fixings";
import { More } from "./More";
import { Photos } from "./Photos";
import { Pieces } from "./Pieces";
import { minutesAndSeconds, timeOfDay, unlockSound, useAwake, useNow } from "./clock";
import { happenedTo } from "./happened";
import css from "./fit.module.css";

type Step = Schemas["StepView"];

type Props = {
  id: number;
  step: Step;
  number: number;
  of: number;
  who: string;
  page: StageProps["page"];
  edit: StageProps["edit"];
  place: Schemas["Place"] | undefined;
  guard: (phase: string, go: () => Promise<unknown>) => void;
  next: () => void;
  turn: (by: -1 | 1) => void;
};

// Why a step may not be ticked as it stands.
function heldBy(step: Step): string[] {
  const until = step.not_before ? Date.parse(step.not_before) : 0;
  return [...step.blocked, ...(until > serverNow() ? [`It cures until ${timeOfDay(until)}.`] : [])];
}

const LOGS = ["strip", "log fixings", "refit"];

export function Current(props: Props) {
  const { id, step, number, of, who, edit, place, guard, next, turn } = props;
  const [asks, setAsks] = useState<string[] | null>(null);
  const [picked, setPicked] = useState<string | null>(null);
  const happened = happenedTo(edit, who, step);
  const finish = (note?: string) =>
    guard(step.phase, async () => {
      const kept = happened("done", note ? { note } : {});
      next(); // at once, as the tick is seen: an answer that is late moves nobody
      await kept;
    });
  const queue = useEdits();
  // what was pressed just before may be on its way: what holds the step is asked for once that is kept
  const whole = async () => {
    if (!heldBy(step).length) return finish();
    if (queue.status().failing) return setAsks(heldBy(step));
    await queue.idle();
    const asked = api.GET("/api/jobs/{job_id}/fit", { params: { path: { job_id: id } } });
    const now = (await ask(asked).catch(() => undefined)) as Schemas["FitView"] | undefined;
    const why = heldBy(now?.steps.find((s) => s.key === step.key) ?? step);
    if (why.length) setAsks(why);
    else finish();
  };
  const piece = step.pieces.find((p) => p.id === picked) ?? step.pieces.find((p) => !p.laid);
  const lays = step.done ? undefined : piece;
  const press = async () => {
    if (step.done) return void happened("undone");
    if (!lays) return whole();
    if (await happened(lays.laid ? "unlaid" : "laid", { item: lays.id }))
      setPicked((now) => (now === lays.id ? null : now));
  };
  const done = step.done
    ? "Not done after all"
    : lays
      ? lays.laid
        ? `${lays.label} off again`
        : `${lays.label} is laid`
      : "Done ✓";
  return (
    <article className={css.current} aria-label={step.what}>
      <p className={css.at}>
        <b>
          Step {number} of {of}
        </b>{" "}
        · {step.phase}
        {step.surface ? ` · ${step.surface}` : ""}
        {step.people > 1 ? <b className={css.two}> · {step.people} people</b> : null}
      </p>
      {step.hazards.map((h) => (
        <Note key={h} kind="danger">
          <b>Take care.</b> {h}
        </Note>
      ))}
      <p className={css.doing}>{step.text}</p>
      {step.changed ? (
        <Note kind="warn">
          <b>The plan has changed</b> since this was done: look whether it still holds, then tick it anew.
          {step.asked_then ? <span className="small"> Then: {step.asked_then}</span> : null}
        </Note>
      ) : null}
      {step.skipped ? (
        <Note kind="warn">
          <b>Left out:</b> {step.skipped}
        </Note>
      ) : null}
      {step.hold ? (
        <Note>
          <b>Hold.</b> {step.hold}
        </Note>
      ) : null}
      {step.pieces.length ? (
        <Pieces step={step} place={place} next={piece} pick={(p) => setPicked(p.id)} all={() => void whole()} />
      ) : null}
      {step.checks.length ? <Checks step={step} happened={happened} /> : null}
      {LOGS.includes(step.phase) ? <Fixings step={step} page={props.page} edit={edit} place={place} /> : null}
      {step.how.length ? (
        <ul className={css.how}>
          {step.how.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      ) : null}
      <Needs step={step} />
      <Clocks step={step} happened={happened} />
      {step.phase === "read again" ? (
        <GoTo to={`/jobs/${id}/listen?round=finished`} size="large">
          Take the readings
        </GoTo>
      ) : null}
      <ThumbAction>
        <Button aria-label="Step before" onClick={() => turn(-1)} disabled={number === 1}>
          ‹
        </Button>
        <Button type="primary" onClick={() => void press()}>
          {done}
        </Button>
        <Button aria-label="Step after" onClick={() => turn(1)} disabled={number === of}>
          ›
        </Button>
      </ThumbAction>
      <div className={css.acts}>
        <button className={css.turn} aria-label="Step before" onClick={() => turn(-1)} disabled={number === 1}>
          ‹
        </button>
        <button className={`${css.doneButton} ${step.done ? css.again : ""}`} onClick={() => void press()}>
          {done}
        </button>
        <button className={css.turn} aria-label="Step after" onClick={() => turn(1)} disabled={number === of}>
          ›
        </button>
      </div>
      <Photos step={step} photos={props.page.document.photos ?? []} edit={edit} />
      <More key={`${step.key} more`} step={step} edit={edit} happened={happened} who={who} page={props.page} />
      {asks ? (
        <Early
          why={asks}
          close={() => setAsks(null)}
          go={(reason) => {
            setAsks(null);
            finish(reason);
          }}
        />
      ) : null}
    </article>
  );
}

// What holds a step is said; it is ticked all the same only with a reason, which stands beside the tick.
function Early({ why, close, go }: { why: string[]; close: () => void; go: (reason: string) => void }) {
  const [reason, setReason] = useState("");
  return (
    <Modal
      open
      title="Hold"
      onCancel={close}
      onOk={() => go(reason.trim())}
      okText="Done all the same"
      okButtonProps={{ disabled: !reason.trim(), danger: true }}
      cancelText="Go back"
    >
      <div className="form">
        {why.map((w) => (
          <p key={w}>
            <b>{w}</b>
          </p>
        ))}
        <label className="field">
          <span>Why it is done all the same</span>
          <Input value={reason} onChange={(e) => setReason(e.target.value)} />
        </label>
      </div>
    </Modal>
  );
}

function Needs({ step }: { step: Step }) {
  return (
    <dl className={css.needs}>
      {step.tools.length ? (
        <div>
          <dt>Tools</dt>
          <dd>{step.tools.join(", ")}</dd>
        </div>
      ) : null}
      {step.consumables.length ? (
        <div>
          <dt>Takes</dt>
          <dd>{step.consumables.map((c) => c.said).join("; ")}</dd>
        </div>
      ) : null}
      <div>
        <dt>Time</dt>
        <dd>
          about {num(Math.max(1, step.minutes), 0)} min
          {step.wait_minutes ? `, then wait ${num(step.wait_minutes / 60, step.wait_minutes % 60 ? 1 : 0)} h` : ""}
        </dd>
      </div>
    </dl>
  );
}

const LEFT_ON_MS = 4 * 3600_000;

function Clocks({ step, happened }: { step: Step; happened: ReturnType<typeof happenedTo> }) {
  const running = step.running_since ? Date.parse(step.running_since) : null;
  const [asks, setAsks] = useState(false);
  const [minutes, setMinutes] = useState("");
  const worked = Number(minutes.replace(",", "."));
  const now = useNow(running !== null);
  useAwake(running !== null);
  // what the clock counted is kept as events; only the seconds since it was started last are counted here
  const passed = step.clock_s * 1000 + (running === null ? 0 : Math.max(0, now - running));
  return (
    <div className={css.row}>
      <button
        className={css.chip}
        onClick={() => {
          unlockSound();
          if (running !== null && serverNow() - running > LEFT_ON_MS) return setAsks(true);
          void happened(running === null ? "started" : "paused");
        }}
      >
        {running === null
          ? step.clock_s
            ? `Go on · ${minutesAndSeconds(passed)}`
            : "Start the clock"
          : `Stop · ${minutesAndSeconds(passed)}`}
      </button>
      {step.timers
        .filter((t) => !t.ends_at)
        .map((t) => (
          <button
            key={t.name}
            className={css.chip}
            onClick={() => {
              unlockSound();
              void happened("timer", { item: t.name, minutes: t.minutes });
            }}
          >
            {t.name}:{" "}
            {t.minutes >= 120 ? `${num(t.minutes / 60, t.minutes % 60 ? 1 : 0)} h` : `${num(t.minutes, 0)} min`}
          </button>
        ))}
      {asks && running !== null ? (
        <Dialog
          title={`The clock ran for ${num((serverNow() - running) / 3600_000)} h`}
          ok="That is how long it took"
          ready={worked > 0}
          close={() => setAsks(false)}
          save={() => happened("paused", { at: new Date(running + worked * 60_000).toISOString() })}
        >
          <label className="field">
            <span>It was left running. How long was really worked?</span>
            <Input autoFocus suffix="min" value={minutes} onChange={(e) => setMinutes(e.target.value)} />
          </label>
        </Dialog>
      ) : null}
    </div>
  );
}
