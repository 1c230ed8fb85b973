// One queue of pending edits: sent one after another, kept in the browser's storage until answered, replayed by their ids.
import type { MutationCache, QueryClient } from "@tanstack/react-query";
import type { Step } from "./operations";

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
  // the numbers below zero that rows added by the steps have until then
  temps: number[];
};
export type Answer = { rows: Record<string, unknown>[]; revision?: number | null };
export type Asked = "mine" | "theirs";
type Failure = { status: number };

export type Door = {
  send: (entry: Entry) => Promise<Answer>;
  // which version should stand, where somebody else changed the same
  ask: (entry: Entry, failure: unknown) => Promise<Asked>;
  wait: (failures: number) => number;
  // how long changes of one gesture are gathered before they are sent, ms
  hold?: number;
};
export type Shelf = Pick<Storage, "getItem" | "setItem" | "removeItem" | "key" | "length">;

const KEY = "sphagnum.pending.";
const statusOf = (error: unknown): number =>
  typeof error === "object" && error !== null && "status" in error ? (error as Failure).status : 0;
// no answer, or one that says the program was not able to: the edit stands and is sent again
const again = (error: unknown): boolean => [0, 429, 500, 502, 503, 504].includes(statusOf(error));
const fresh = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(12)), (b) => b.toString(16).padStart(2, "0")).join("");

export function makeQueue(client: QueryClient, door: Door, shelf: Shelf, me: { author: string; tab: string }) {
  const cache: MutationCache = client.getMutationCache();
  const waiting: Entry[] = [];
  const settled: { entry: Entry; revision: number }[] = [];
  const numbers = new Map<number, number>();
  const listeners = new Set<() => void>();
  const sending = new Set<string>();
  const running = new Map<string, Promise<Answer>>();
  const lost = new Set<(error: unknown) => void>();
  let other = 0;
  let failing = false;
  let opened = false;
  let telling = false;
  let version = 0;
  let temp = -1;
  let calm = true;

  const say = () => {
    calm = !waiting.length && !other;
    version += 1;
    listeners.forEach((l) => l());
  };
  const tell = () => {
    if (waiting.length) shelf.setItem(KEY + me.tab, JSON.stringify({ at: Date.now(), entries: waiting }));
    else shelf.removeItem(KEY + me.tab);
    // nobody may read "all changes kept" after a press; what follows is told once a frame
    if (calm && (waiting.length || other)) say();
    if (telling) return;
    telling = true;
    setTimeout(() => {
      telling = false;
      say();
    }, FRAME_MS);
  };
  const number = (n: unknown): unknown => (typeof n === "number" && n < 0 ? (numbers.get(n) ?? n) : n);
  const real = (step: Step): Step => ({
    ...step,
    row: number(step.row) as Step["row"],
    values: Object.fromEntries(
      Object.entries(step.values ?? {}).map(([k, v]) => [k, k.endsWith("_id") ? number(v) : v]),
    ),
  });
  const done = (entry: Entry, answer: Answer | null) => {
    entry.temps.forEach((t, i) => {
      const made = answer?.rows[i]?.["id"];
      if (typeof made === "number") numbers.set(t, made);
    });
    for (const later of waiting) later.steps = later.steps.map(real);
    for (const s of settled) s.entry.steps = s.entry.steps.map(real);
    waiting.splice(waiting.indexOf(entry), 1);
    if (answer?.revision != null) settled.push({ entry, revision: answer.revision });
    if (!waiting.length) failing = false;
    tell();
  };

  const run = (entry: Entry): Promise<Answer> =>
    cache
      .build<Answer, unknown, Entry, unknown>(client, {
        mutationKey: ["edit", entry.id],
        scope: { id: "edits" },
        networkMode: "always",
        retry: (_n, error) => again(error),
        retryDelay: (failures) => door.wait(failures),
        mutationFn: async (sent) => {
          // a quick hand's changes of one number become one before they are sent; they are kept here meanwhile
          if (sent.gesture && !sending.has(sent.id)) await new Promise((go) => setTimeout(go, door.hold ?? 0));
          sending.add(sent.id);
          sent.steps = sent.steps.map(real);
          if (sent.steps.some((s) => typeof s.row === "number" && s.row < 0))
            throw Object.assign(new Error("What this was done to was not kept."), { status: 422 });
          try {
            const answer = await door.send(sent);
            failing = false;
            return answer;
          } catch (error) {
            if (again(error)) {
              failing = true;
              tell();
              throw error;
            }
            if (statusOf(error) !== 409 || !sent.steps.length) throw error;
            if ((await door.ask(sent, error)) === "theirs") return { rows: [] };
            sent.steps = sent.steps.map((s) => ({ ...s, force: true }));
            return door.send(sent);
          }
        },
      })
      .execute(entry)
      .then(
        (answer) => {
          done(entry, answer);
          return answer;
        },
        (error: unknown) => {
          done(entry, null);
          throw error;
        },
      );

  const put = (entry: Entry): Promise<Answer> => {
    waiting.push(entry);
    tell();
    const answer = run(entry);
    running.set(entry.id, answer);
    void answer.catch(() => undefined).then(() => running.delete(entry.id));
    return answer;
  };

  return {
    // Steps as one edit; those of one gesture that are still to be sent become one.
    edit(job: number, steps: Step[], gesture = "", seen: number | null = null): Promise<Answer> {
      const last = waiting.at(-1);
      if (
        gesture &&
        last?.gesture === gesture &&
        last.job === job &&
        !sending.has(last.id) &&
        last.steps.length === 1 &&
        steps.length === 1
      ) {
        const [a, b] = [last.steps[0], steps[0]];
        if (a && b && a.collection === b.collection && a.row === b.row && sameFields(a, b)) {
          last.steps = [{ ...b, version: a.version }];
          tell();
          return running.get(last.id) ?? Promise.resolve({ rows: [] });
        }
      }
      const temps = steps.map((s) => (s.row == null ? temp-- : 0));
      return put({
        id: fresh(),
        job,
        author: me.author,
        tab: me.tab,
        gesture,
        seen,
        url: `/api/jobs/${job}/edits`,
        steps,
        body: null,
        temps,
      });
    },
    post(job: number, url: string, body: unknown): Promise<Answer> {
      return put({
        id: fresh(),
        job,
        author: me.author,
        tab: me.tab,
        gesture: "",
        seen: null,
        url,
        steps: [],
        body,
        temps: [],
      });
    },
    // Work beside the queue, such as an upload: counted as not kept until it ends.
    async beside<T>(work: () => Promise<T>): Promise<T> {
      other += 1;
      tell();
      try {
        return await work();
      } finally {
        other -= 1;
        tell();
      }
    },
    // Edits that a closed window left behind; true when there were some.
    restore(now = Date.now()): boolean {
      const found: Entry[] = [];
      for (let i = shelf.length - 1; i >= 0; i--) {
        const key = shelf.key(i);
        if (!key?.startsWith(KEY)) continue;
        const kept = read(shelf.getItem(key));
        // this window's own are taken up once, when it opens; those of another only when it no longer lives
        if (key === KEY + me.tab ? opened : now - kept.at < STALE_MS) continue;
        found.push(...kept.entries);
        shelf.removeItem(key);
      }
      opened = true;
      for (const entry of found) {
        temp = Math.min(temp, ...entry.temps.map((t) => t - 1));
        put(entry).catch((error: unknown) => lost.forEach((l) => l(error)));
      }
      return found.length > 0;
    },
    onRefused(listener: (error: unknown) => void): () => void {
      lost.add(listener);
      return () => lost.delete(listener);
    },
    // Says that this window lives, so that no other takes its edits over.
    beat: () => {
      if (waiting.length) shelf.setItem(KEY + me.tab, JSON.stringify({ at: Date.now(), entries: waiting }));
    },
    idle: async () => {
      while (waiting.length) await Promise.allSettled([...running.values()]);
    },
    // What lies over a document of this revision: edits not answered, and those it does not show yet.
    over(job: number, revision: number): Entry[] {
      return [
        ...settled.filter((s) => s.entry.job === job && s.revision > revision).map((s) => s.entry),
        ...waiting.filter((w) => w.job === job),
      ];
    },
    // The steps nobody answered yet, where all of them can be tried twice over: an edit may be kept already and not answered.
    // None where something else is on its way.
    untried(job: number): Step[] {
      const own = waiting.filter((w) => w.job === job);
      const steps = own.flatMap((w) => w.steps);
      const told =
        own.every((w) => w.steps.length) && steps.every((s) => typeof s.row === "number" && s.row > 0 && !s.remove);
      return told ? steps : [];
    },
    // The newest revision an answer told of: a stage can be asked for it before the document came.
    newest: (job: number): number => Math.max(0, ...settled.filter((s) => s.entry.job === job).map((s) => s.revision)),
    forget(job: number, revision: number): void {
      const kept = settled.filter((s) => s.entry.job !== job || s.revision > revision);
      settled.splice(0, settled.length, ...kept);
    },
    number: (n: number): number => numbers.get(n) ?? n,
    status: () => ({ pending: waiting.length + other, failing, version }),
    subscribe(listener: () => void): () => void {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
}

const FRAME_MS = 16;
const STALE_MS = 8000;

function read(text: string | null): { at: number; entries: Entry[] } {
  try {
    const kept = JSON.parse(text ?? "") as { at: number; entries: Entry[] };
    return Array.isArray(kept.entries) ? kept : { at: 0, entries: [] };
  } catch {
    return { at: 0, entries: [] };
  }
}

function sameFields(a: Step, b: Step): boolean {
  const fields = (s: Step) =>
    JSON.stringify([Object.keys(s.values ?? {}), (s.operations ?? []).map((o) => [o.op, o.at])]);
  return (
    fields(a) === fields(b) &&
    [...(a.operations ?? []), ...(b.operations ?? [])].every((o) => o.op === "set") &&
    !b.remove &&
    b.row != null
  );
}

export type Queue = ReturnType<typeof makeQueue>;

// The words of the header.
export function keeping({ pending, failing }: { pending: number; failing: boolean }): string {
  if (failing && pending) return `${pending} not kept yet, trying again`;
  return pending ? "keeping …" : "all changes kept";
}
