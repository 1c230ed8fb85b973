// What is to be kept, as it waits: what it is, what becomes of it, and the words of the header.
import { BLANK, type Step } from "./operations";

export type Entry = {
  id: string;
  job: number;
  author: string;
  tab: string;
  gesture: string;
  seen: number | null;
  url: string;
  // steps of an edit, or the body of another request that keeps something
  steps: Step[];
  body: unknown;
  // a picture that goes with it; its one step says what it is of
  file?: Blob | null;
  // the numbers below zero that rows added by the steps have until then
  temps: number[];
  // when it was made, by this device's clock
  at: number;
  // whether it was ever without an answer
  waited?: boolean;
};
export type Answer = { rows: Record<string, unknown>[]; revision?: number | null };
export type Asked = "mine" | "theirs" | "later";
// An edit the server refused: kept, with what it said, until somebody decides.
export type Aside = { entry: Entry; why: string; status: number; at: number };
type Failure = { status: number; message: string };

export type Door = {
  send: (entry: Entry) => Promise<Answer>;
  // which version should stand, where somebody else changed the same
  ask: (entry: Entry, failure: unknown) => Promise<Asked>;
  wait: (failures: number) => number;
  // how long changes of one gesture are gathered before they are sent, ms
  hold?: number;
};
export type QueueStore = {
  put: (entry: Entry) => Promise<void>;
  drop: (id: string) => Promise<void>;
  all: () => Promise<Entry[]>;
  setAside: (aside: Aside) => Promise<void>;
  asides: () => Promise<Aside[]>;
  dropAside: (id: string) => Promise<void>;
  keepNumbers: (numbers: readonly (readonly [number, number])[]) => Promise<void>;
  numbers: () => Promise<readonly (readonly [number, number])[]>;
  forgetNumbers: () => Promise<void>;
  // what was kept is there no more, though nobody here let go of it
  onGone: (then: () => void) => void;
};
export type Message =
  | { kind: "put"; entry: Entry }
  | { kind: "done"; id: string; answer: Answer }
  | { kind: "refused"; aside: Aside }
  | { kind: "decided"; id: string }
  | { kind: "state"; failing: boolean; signedOut: boolean }
  | { kind: "jobs"; jobs: number[] | null };
export type Lead = {
  leading: () => boolean;
  onLead: (then: () => void) => void;
  tell: (message: Message) => void;
  hear: (listener: (message: Message) => void) => void;
};

export const statusOf = (error: unknown): number =>
  typeof error === "object" && error !== null && "status" in error ? (error as Failure).status : 0;
export const words = (error: unknown): string =>
  typeof error === "object" && error !== null && "message" in error ? String(error.message) : "It was not kept.";
// no answer, or one that says the program was not able to: the edit stands and is sent again
export const again = (error: unknown): boolean => [0, 429, 500, 502, 503, 504, 507].includes(statusOf(error));
export const fresh = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(12)), (b) => b.toString(16).padStart(2, "0")).join("");
// of no other window and no other day: the number of a row that has none yet
export const temporary = (): number => {
  const [low = 0, high = 0] = crypto.getRandomValues(new Uint32Array(2));
  return -1 - low - (high % 2 ** 20) * 2 ** 32;
};

type Found = Partial<Record<keyof Entry, unknown>> | null;
const text = (value: unknown, most: number): value is string => typeof value === "string" && value.length <= most;
const isStep = (s: unknown): boolean =>
  typeof s === "object" && s !== null && typeof (s as Partial<Step>).collection === "string";

// An entry as it was found, in a file or as another version of the page wrote it: what it lacks is as if it had never been
// there. Null where it cannot be sent.
export function entryOf(entry: unknown): Entry | null {
  const found = entry as Found;
  if (typeof found !== "object" || found === null) return null;
  const { id, author, tab, url, job, steps = [], temps = [] } = found;
  if (
    !text(id, 80) ||
    !text(author, 64) ||
    !text(tab, 80) ||
    !text(url, 200) ||
    !/^\/api\/jobs\/\d+\/[a-z-]+$/.test(url)
  )
    return null;
  if (typeof job !== "number" || !Array.isArray(steps) || !steps.every(isStep) || !Array.isArray(temps)) return null;
  return {
    id,
    job,
    author,
    tab,
    url,
    gesture: "",
    seen: typeof found.seen === "number" ? found.seen : null,
    steps: steps.map((s: Partial<Step>) => ({ ...BLANK, ...s })),
    body: found.body ?? null,
    file: found.file instanceof Blob ? found.file : null,
    temps: temps.map(Number),
    at: typeof found.at === "number" ? found.at : Date.now(),
    waited: found.waited === true,
  };
}

export const newEntry = (me: { author: string; tab: string }, job: number, more: Partial<Entry>): Entry => ({
  id: fresh(),
  job,
  author: me.author,
  tab: me.tab,
  gesture: "",
  seen: null,
  url: `/api/jobs/${job}/edits`,
  steps: [],
  body: null,
  temps: [],
  at: Date.now(),
  ...more,
});
// What cannot be made out: kept as it is, and not sent.
export const foreign = (found: Entry): Aside => ({
  entry:
    found.url === ""
      ? found
      : newEntry({ author: String(found.author), tab: String(found.tab) }, 0, { id: found.id, url: "", body: found }),
  why: "Another version of this page wrote it, and it cannot be sent: keep the list as a file for whoever can read it.",
  status: 0,
  at: Date.now(),
});

const ids = (values: unknown): unknown[] =>
  Object.entries((values ?? {}) as Record<string, unknown>).flatMap(([k, v]) => (k.endsWith("_id") ? [v] : []));

// With the numbers that rows were given meanwhile, where it names them by those they had until then.
export function numbered(entry: Entry, numbers: ReadonlyMap<number, number>): void {
  const number = (n: unknown): unknown => (typeof n === "number" && n < 0 ? (numbers.get(n) ?? n) : n);
  const mapped = (values: Record<string, unknown>) =>
    Object.fromEntries(Object.entries(values).map(([k, v]) => [k, k.endsWith("_id") ? number(v) : v]));
  entry.steps = entry.steps.map((step) => ({
    ...step,
    row: number(step.row) as Step["row"],
    values: mapped(step.values ?? {}),
  }));
  if (typeof entry.body === "object" && entry.body !== null && !Array.isArray(entry.body))
    entry.body = mapped(entry.body as Record<string, unknown>);
}
// Whether it names a row that has no number yet.
export const rootless = (entry: Entry): boolean =>
  [...entry.steps.flatMap((s) => [s.row, ...ids(s.values)]), ...ids(entry.body)].some(
    (n) => typeof n === "number" && n < 0,
  );

export function sameFields(a: Step, b: Step): boolean {
  const fields = (s: Step) =>
    JSON.stringify([Object.keys(s.values ?? {}), (s.operations ?? []).map((o) => [o.op, o.at])]);
  return (
    fields(a) === fields(b) &&
    [...(a.operations ?? []), ...(b.operations ?? [])].every((o) => o.op === "set") &&
    !b.remove &&
    b.row != null
  );
}

export type Status = { pending: number; failing: boolean; signedOut: boolean; since: number; unstored: boolean };

// The words of the header.
export function keeping({ pending, failing, signedOut, since, unstored }: Status): string {
  if (signedOut && pending) return `${pending} waiting: sign in`;
  if (unstored && pending) return `${pending} waiting in this window alone`;
  if (failing && pending) return `${pending} waiting since ${clock(since)}`;
  return pending ? "keeping …" : "all changes kept";
}

// A time of this device's clock, with its day where it is not today's.
export const clock = (at: number): string => {
  const then = new Date(at);
  const day = Date.now() - at > 20 * 3600_000 ? `${then.toLocaleDateString([], { weekday: "short" })} ` : "";
  return `${day}${String(then.getHours()).padStart(2, "0")}:${String(then.getMinutes()).padStart(2, "0")}`;
};
