// Fit: one step at a time, large enough for a gloved hand; the whole order at the side.
import { useMemo, useRef, useState } from "react";
import { useEdits } from "../../api/edits";
import { useQueueStatus, useStage } from "../../api/hooks";
import { ClockNote } from "../../parts/ClockNote";
import { GoTo } from "../../parts/GoTo";
import { useAddress } from "../../parts/address";
import { StripGate, useGate } from "../../parts/gate";
import { Empty, Said, State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { Hazards, isRead, Warm, Who } from "./Before";
import { Current } from "./Current";
import { Here } from "./Here";
import { OrderList } from "./OrderList";
import { Timers } from "./Timers";
import { runningOf } from "./clock";
import { meanwhile } from "./meanwhile";
import { useHand, useSun, useWho } from "./person";
import css from "./fit.module.css";

const SWIPE_PX = 70;
// where the warmth of panel and product matters
const STICKS = ["dry-fit", "apply", "seal"];

export default function Fit({ id, page, edit, here = [] }: StageProps) {
  const kept = useStage(id, "fit", page.revision);
  const queue = useEdits();
  const { version } = useQueueStatus();
  const fixings = page.document.fixings;
  // of which revision the order in sight is; of an older one all that was done lately is laid over it
  const of = kept.isPlaceholderData ? 0 : Math.max(page.revision, queue.newest(id));
  const data = useMemo(
    () => (kept.data && version >= 0 ? meanwhile(kept.data, queue.over(id, of), fixings ?? []) : kept.data),
    [kept.data, version, queue, id, of, fixings],
  );
  const address = useAddress();
  const [who, setWho] = useWho();
  const [hand, setHand] = useHand();
  const [sun, setSun] = useSun();
  const [renaming, setRenaming] = useState(false);
  const steps = data?.steps ?? [];
  const gate = useGate(page.overview.baseline_read);
  const begun = useRef<[number, number] | null>(null);
  // the first strip with no baseline asks; the answer is kept as the round that begins stripped
  const guard = (phase: string, go: () => Promise<unknown>) => {
    if (phase !== "strip") return void go();
    gate.ask(async (why) => {
      if (why)
        await edit.create("rounds", [{ name: "Stripped", state: "stripped", without_baseline: why }]).catch(edit.say);
      await go();
    });
  };
  const picked = address.get("step");
  const step = steps.find((s) => s.key === picked) ?? steps.find((s) => s.key === data?.next_key) ?? steps.at(-1);
  const at = step ? steps.indexOf(step) : -1;
  const go = (key: string | null) => address.put({ step: key });
  const turn = (by: -1 | 1) => {
    const to = steps[at + by];
    if (to) go(to.key);
  };
  // an order that is through may be looked at by anybody
  const open = data?.next_key != null;
  const following = steps.slice(at + 1).find((s) => !s.done && !s.skipped);
  return (
    <>
      <section
        className={css.fit}
        data-hand={hand || undefined}
        data-sun={sun || undefined}
        onTouchStart={(e) => (begun.current = e.touches[0] ? [e.touches[0].clientX, e.touches[0].clientY] : null)}
        onTouchEnd={(e) => {
          const [from, to] = [begun.current, e.changedTouches[0]];
          if (!from || !to) return;
          const [dx, dy] = [to.clientX - from[0], to.clientY - from[1]];
          if (Math.abs(dx) > SWIPE_PX && Math.abs(dx) > 3 * Math.abs(dy)) turn(dx < 0 ? 1 : -1);
        }}
      >
        <State query={kept}>
          <Said sentence={data?.sentence ?? ""} detail={data?.detail} />
          {step && data ? (
            <>
              <Timers running={runningOf(steps)} edit={edit} who={who} go={go} />
              {(open && !who) || renaming ? (
                <Who
                  who={who}
                  keep={(name) => {
                    setWho(name);
                    setRenaming(false);
                  }}
                />
              ) : open && !isRead(data, who) ? (
                <Hazards view={data} who={who} edit={edit} />
              ) : (
                <>
                  <ClockNote />
                  <Here id={id} step={step.key} who={who} here={here} />
                  {STICKS.includes(step.phase) ? <Warm view={data} who={who} edit={edit} /> : null}
                  <Current
                    key={step.key}
                    id={id}
                    step={step}
                    number={at + 1}
                    of={steps.length}
                    who={who}
                    page={page}
                    edit={edit}
                    place={data.places.find((p) => p.id === step.ref.surface_id)}
                    guard={guard}
                    next={() => go(null)}
                    turn={turn}
                  />
                  {following ? (
                    <div className={css.then}>
                      <b>Then</b>
                      <p>{following.text}</p>
                    </div>
                  ) : null}
                  <div className={css.person} role="group" aria-label="This device">
                    <button className={css.chip} onClick={() => setRenaming(true)}>
                      {who || "Who are you?"}
                    </button>
                    <button
                      className={css.chip}
                      aria-pressed={hand === "left"}
                      onClick={() => setHand(hand ? "" : "left")}
                    >
                      left hand
                    </button>
                    <button className={css.chip} aria-pressed={Boolean(sun)} onClick={() => setSun(sun ? "" : "sun")}>
                      sun
                    </button>
                  </div>
                </>
              )}
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
        <OrderList id={id} view={data} at={step?.key} pick={go} here={here} />
      </aside>
    </>
  );
}
