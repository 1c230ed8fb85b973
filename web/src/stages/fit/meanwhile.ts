// What was pressed and not answered yet, laid over the order as it came: without a network a tick is seen all the same.
import type { Schemas } from "../../api/client";
import type { Entry } from "../../api/entry";

type View = Schemas["FitView"];
type Step = Schemas["StepView"];
type Event = Partial<Schemas["StepEvent"]> & Pick<Schemas["StepEvent"], "phase" | "what">;
type Fixing = Pick<Schemas["Fixing"], "id" | "back" | "count">;

// the order's own words for what holds a step, by what has to be so for them to stand
const [FIRST, FAILED, UNSEEN, LACKS] = ["First: ", "Did not pass: ", "Nobody has looked yet: ", "Not back yet: "];

const ABOUT = [
  "phase",
  "surface_id",
  "zone",
  "layer",
  "measure_id",
  "rattle_id",
  "leak_id",
  "own_id",
  "build_id",
  "part",
] as const;
const about = (ref: Partial<Record<(typeof ABOUT)[number], unknown>>): string =>
  JSON.stringify(ABOUT.map((k) => ref[k] || null));

function after(step: Step, e: Event): Step {
  const at = e.at ?? "";
  const laid = (on: boolean) => step.pieces.map((p) => (p.id === e.item ? { ...p, laid: on } : p));
  const checked = (passed: boolean) =>
    step.checks.map((c) => (c.name === e.item ? { ...c, passed, note: e.note ?? "" } : c));
  const clock = (ends_at: string) => step.timers.map((t) => (t.name === e.item ? { ...t, ends_at } : t));
  const counted = step.running_since
    ? Math.max(0, (Date.parse(at) - Date.parse(step.running_since)) / 1000) + step.clock_s
    : step.clock_s;
  switch (e.what) {
    case "done":
      return { ...step, done: true, skipped: "", who: e.who ?? "", running_since: null, clock_s: counted, blocked: [] };
    case "undone":
      return { ...step, done: false, changed: false };
    case "laid":
    case "unlaid":
      return { ...step, pieces: laid(e.what === "laid") };
    case "passed":
    case "failed":
      return { ...step, checks: checked(e.what === "passed") };
    case "started":
      return { ...step, running_since: step.running_since ?? at };
    case "paused":
      return { ...step, running_since: null, clock_s: counted };
    case "skipped":
      return { ...step, skipped: e.note ?? "" };
    case "taken up":
      return { ...step, skipped: "" };
    case "handed":
      return { ...step, handed: e.who ?? "" };
    case "timer":
      return { ...step, timers: clock(new Date(Date.parse(at) + (Number(e.minutes) || 0) * 60_000).toISOString()) };
    case "timer ended":
      return { ...step, timers: clock("") };
    case "note":
      return { ...step, note: e.note ?? step.note, taken_minutes: Number(e.minutes) || step.taken_minutes };
    default:
      return step;
  }
}

// Why a step may not be ticked by now: less what is so no more, and with a check that failed meanwhile.
function nowBlocked(step: Step, steps: readonly Step[], fixings: readonly Fixing[]): string[] {
  if (step.done) return [];
  const back = step.fixings.every((f) => {
    const row = fixings.find((r) => r.id === f.id) ?? f;
    return row.back >= row.count;
  });
  const failed = step.checks.filter((c) => c.passed === false).map((c) => c.name);
  const free: Record<string, boolean> = {
    [FIRST]: steps.every((s) => s.done || Boolean(s.skipped) || !s.holds.includes(step.key)),
    [FAILED]: !failed.length,
    [UNSEEN]: step.checks.every((c) => c.passed !== null),
    [LACKS]: back,
  };
  const still = step.blocked.filter(
    (line) => !Object.entries(free).some(([words, so]) => so && line.startsWith(words)),
  );
  const told = still.some((line) => line.startsWith(FAILED));
  return failed.length && !told ? [...still, `${FAILED}${failed.join(", ")}.`] : still;
}

export function meanwhile(view: View, entries: readonly Entry[], fixings: readonly Fixing[]): View {
  const events = entries
    .flatMap((e) => e.steps)
    .filter((s) => s.collection === "step_events" && s.row == null)
    .map((s) => s.values as Event);
  if (!events.length && !entries.length) return view;
  let steps = [...view.steps];
  for (const e of events) {
    const named = about(e);
    steps = steps.map((s) => (about(s.ref) === named ? after(s, e) : s));
  }
  steps = steps.map((s) =>
    s.blocked.length || s.checks.length ? { ...s, blocked: nowBlocked(s, steps, fixings) } : s,
  );
  const read = events
    .filter((e) => e.what === "acknowledged")
    .map((e): [string, string] => [e.who ?? "", (e.at ?? "").slice(0, 10)]);
  const warmth = events.findLast((e) => e.what === "temperature");
  const degrees = (value: unknown): number | null => (value == null || value === "" ? null : Number(value));
  return {
    ...view,
    steps,
    done: steps.filter((s) => s.done).length,
    next_key: steps.find((s) => !s.done && !s.skipped)?.key ?? null,
    acknowledged: [...view.acknowledged, ...read],
    days: [...view.days, ...events.filter((e) => e.what === "day ends").map((e) => e.item ?? "")],
    temperature: warmth
      ? { at: warmth.at ?? "", panel_c: degrees(warmth.panel_c), product_c: degrees(warmth.product_c), sentence: "" }
      : view.temperature,
  };
}
