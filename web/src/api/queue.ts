// One queue of all that is to be kept: written down in this browser, sent in order by one window, each counting once by its name.
import {
  again,
  entryOf,
  foreign,
  newEntry,
  numbered,
  rootless,
  sameFields,
  statusOf,
  temporary,
  words,
  type Answer,
  type Aside,
  type Door,
  type Entry,
  type Lead,
  type QueueStore,
} from "./entry";
import { BLANK, type Step } from "./operations";
import { resting } from "./resting";

const FRAME_MS = 16;
const [SIGN_IN_MS, SHOWN_MS, FIVE_HUNDREDS] = [5000, 15_000, 5];

export function makeQueue(door: Door, store: QueueStore, lead: Lead, me: { author: string; tab: string }) {
  const waiting: Entry[] = [];
  const asides: Aside[] = [];
  const settled: { entry: Entry; revision: number; at: number }[] = [];
  const numbers = new Map<number, number>();
  const listeners = new Set<() => void>();
  const promised = new Map<
    string,
    { resolve: (a: Answer) => void; reject: (e: unknown) => void; answer: Promise<Answer> }
  >();
  const own = new Set<string>(); // made in this window since it was opened: its forms are told what becomes of them
  const told = new Set<string>(); // what another window, or the server, may have taken up already
  const lost = new Set<(aside: Aside) => void>();
  const since = new Set<(jobs: number[] | null) => void>();
  const patient = new Set<() => void>();
  let other = 0;
  let unwritten = 0;
  let unstored = false;
  let failing = false;
  let signedOut = false;
  let telling = false;
  let pumping = false;
  let version = 0;
  let calm = true;
  const rest = resting(door.hold ?? 0);
  let later: ReturnType<typeof setTimeout> | undefined;

  const say = () => {
    calm = !waiting.length && !other;
    version += 1;
    listeners.forEach((l) => l());
  };
  const tell = () => {
    // nobody may read "all changes kept" after a press; what follows is told once a frame
    if (calm && (waiting.length || other)) return say();
    if (telling) return;
    telling = true;
    setTimeout(() => {
      telling = false;
      say();
    }, FRAME_MS);
  };
  const fail = (out = false) => {
    failing = true;
    signedOut = out;
    patient.forEach((go) => go());
    patient.clear();
    tell();
  };
  const write = (work: Promise<unknown>) => {
    unwritten += 1;
    void work
      .then(
        () => (unstored = false),
        () => (unstored = true),
      )
      .then(() => {
        unwritten -= 1;
        if (unstored) tell();
      });
  };
  const real = (entry: Entry) => numbered(entry, numbers);

  const leave = (id: string): Entry | undefined => {
    const at = waiting.findIndex((w) => w.id === id);
    return at < 0 ? undefined : waiting.splice(at, 1)[0];
  };
  const settle = (entry: Entry, answer: Answer) => {
    const given = entry.temps.flatMap((t, i) => {
      const made = answer.rows[i]?.["id"];
      return t < 0 && typeof made === "number" ? [[t, made] as const] : [];
    });
    given.forEach(([t, n]) => numbers.set(t, n));
    if (leave(entry.id) && answer.revision != null) settled.push({ entry, revision: answer.revision, at: Date.now() });
    if (given.length) [...waiting, ...asides.map((a) => a.entry), ...settled.map((s) => s.entry)].forEach(real);
    if (!waiting.length) failing = false;
    promised.get(entry.id)?.resolve(answer);
    promised.delete(entry.id);
    tell();
    return given;
  };
  const done = (entry: Entry, answer: Answer) => {
    const given = settle(entry, answer);
    if (given.length && (waiting.length || asides.length)) write(store.keepNumbers(given));
    write(store.drop(entry.id));
    if (!waiting.length && !asides.length && numbers.size) write(store.forgetNumbers());
    lead.tell({ kind: "done", id: entry.id, answer });
  };
  // Told at once to the form it came from; else kept aside until somebody decides.
  const refuse = (entry: Entry, error: unknown) => {
    leave(entry.id);
    if (!waiting.length) failing = false;
    if (own.has(entry.id) && !entry.waited && statusOf(error) === 422) {
      write(store.drop(entry.id));
      lead.tell({ kind: "decided", id: entry.id });
    } else setAside({ entry, why: words(error), status: statusOf(error), at: Date.now() });
    promised.get(entry.id)?.reject(error);
    promised.delete(entry.id);
    tell();
  };
  const setAside = (aside: Aside) => {
    asides.push(aside);
    write(store.setAside(aside));
    lead.tell({ kind: "refused", aside });
    lost.forEach((l) => l(aside));
  };

  // One after another, in order, by the window that leads.
  const pump = async () => {
    if (pumping || !lead.leading()) return;
    pumping = true;
    let failures = 0;
    let entry: Entry | undefined;
    while (lead.leading() && (entry = waiting[0])) {
      // a quick hand's changes of one number become one before they are sent; they are kept here meanwhile
      if (entry.gesture && !told.has(entry.id)) await rest.of(() => entry?.steps);
      told.add(entry.id);
      real(entry);
      if (rootless(entry)) {
        refuse(entry, { status: 424, message: "What this was done to was not kept." });
        continue;
      }
      try {
        const answer = await door.send(entry);
        failures = 0;
        failing = signedOut = false;
        done(entry, answer);
      } catch (error) {
        if (again(error) && !(statusOf(error) === 500 && failures >= FIVE_HUNDREDS)) {
          if (!entry.waited) {
            entry.waited = true;
            write(store.put(entry));
          }
          fail();
          lead.tell({ kind: "state", failing, signedOut });
          await rest.pause(door.wait(failures++));
        } else if (statusOf(error) === 401) {
          entry.waited = true;
          fail(true);
          lead.tell({ kind: "state", failing, signedOut });
          await rest.pause(SIGN_IN_MS);
        } else if (statusOf(error) === 409 && entry.steps.length) await decided(entry, error);
        else refuse(entry, error);
      }
    }
    pumping = false;
  };
  const decided = async (entry: Entry, error: unknown) => {
    const choice = await door.ask(entry, error);
    if (choice === "later") {
      entry.waited = true;
      return refuse(entry, error);
    }
    if (choice === "theirs") return done(entry, { rows: [] });
    entry.steps = entry.steps.map((s) => ({ ...s, force: true }));
    write(store.put(entry));
  };
  const promise = (id: string): Promise<Answer> => {
    const known = promised.get(id);
    if (known) return known.answer;
    let resolve: (a: Answer) => void = () => undefined;
    let reject: (e: unknown) => void = () => undefined;
    const answer = new Promise<Answer>((yes, no) => ((resolve = yes), (reject = no)));
    answer.catch(() => undefined);
    promised.set(id, { resolve, reject, answer });
    return answer;
  };
  // Written down and handed to the window that sends; of a gesture once it is over.
  const publish = (entry: Entry) => {
    if (told.has(entry.id) && !lead.leading()) return;
    if (!lead.leading()) told.add(entry.id);
    write(store.put(entry));
    lead.tell({ kind: "put", entry });
  };
  const put = (entry: Entry): Promise<Answer> => {
    waiting.push(entry);
    own.add(entry.id);
    const answer = promise(entry.id);
    if (entry.gesture && !lead.leading()) setTimeout(() => publish(entry), door.hold ?? 0);
    else publish(entry);
    tell();
    void pump();
    return answer;
  };
  const made = (job: number, more: Partial<Entry>): Entry => newEntry(me, job, more);

  lead.hear((message) => {
    if (message.kind === "put") {
      const at = waiting.findIndex((w) => w.id === message.entry.id);
      if (at < 0) waiting.push(message.entry);
      else waiting[at] = message.entry;
      void pump();
    } else if (message.kind === "done") {
      const entry = waiting.find((w) => w.id === message.id);
      if (entry) settle(entry, message.answer);
    } else if (message.kind === "refused") {
      const { entry, why, status } = message.aside;
      leave(entry.id);
      promised.get(entry.id)?.reject(Object.assign(new Error(why), { status }));
      promised.delete(entry.id);
      if (own.has(entry.id) && !entry.waited && status === 422) {
        write(store.dropAside(entry.id));
        lead.tell({ kind: "decided", id: entry.id });
      } else if (!asides.some((a) => a.entry.id === entry.id)) asides.push(message.aside);
    } else if (message.kind === "decided") {
      leave(message.id);
      promised.get(message.id)?.resolve({ rows: [] });
      promised.delete(message.id);
      const at = asides.findIndex((a) => a.entry.id === message.id);
      if (at >= 0) asides.splice(at, 1);
    } else if (message.kind === "state") fail(message.signedOut);
    else since.forEach((l) => l(message.jobs));
    tell();
  });
  // As this version of the page writes it; what it cannot make out is kept aside as it is.
  const readable = (found: Entry): Entry[] => {
    const entry = entryOf(found);
    if (!entry) setAside(foreign(found));
    return entry ? [entry] : [];
  };
  // What a closed window left behind, in the order it was made; what is here already stays where it is.
  const restore = async (older: readonly Entry[] = []): Promise<boolean> => {
    const [kept, refused, given] = await Promise.all([store.all(), store.asides(), store.numbers()]);
    given.forEach(([t, n]) => numbers.set(t, n));
    const known = new Set([...waiting, ...asides.map((a) => a.entry)].map((e) => e.id));
    const found = [...older, ...kept].filter((e) => !known.has(e.id)).flatMap(readable);
    waiting.unshift(...found);
    for (const a of refused.filter((r) => !known.has(r.entry.id)))
      asides.push({ ...a, entry: entryOf(a.entry) ?? foreign(a.entry).entry });
    for (const entry of found) entry.waited = true;
    older.forEach((entry) => write(store.put(entry)));
    tell();
    void pump();
    return found.length > 0;
  };
  // Somebody cleared what this browser keeps: what is still here is written down anew.
  store.onGone(() => {
    waiting.forEach((entry) => write(store.put(entry)));
    asides.forEach((aside) => write(store.setAside(aside)));
  });
  lead.onLead(() => void restore().catch(() => void pump()));

  return {
    // Steps as one edit; those of one gesture that are still to be sent become one. Told once the hand rests where ``tried``:
    // then what it does is in sight already.
    edit(job: number, steps: Step[], gesture = "", seen: number | null = null, tried = false): Promise<Answer> {
      const last = waiting.at(-1);
      if (gesture && last?.gesture === gesture && last.job === job && !told.has(last.id) && last.tab === me.tab) {
        const [a, b] = [last.steps[0], steps[0]];
        const one = last.steps.length === 1 && steps.length === 1;
        if (one && a && b && a.collection === b.collection && a.row === b.row && sameFields(a, b)) {
          last.steps = [{ ...b, version: a.version }];
          write(store.put(last));
          clearTimeout(later);
          later = setTimeout(tell, tried ? (door.hold ?? 0) : 0);
          return promise(last.id);
        }
      }
      return put(made(job, { gesture, seen, steps, temps: steps.map((s) => (s.row == null ? temporary() : 0)) }));
    },
    post: (job: number, url: string, body: unknown): Promise<Answer> => put(made(job, { url, body })),
    // A picture with what it is of: a row of its own at once, sent as a file.
    picture: (job: number, url: string, file: Blob, values: Record<string, unknown>): Promise<Answer> =>
      put(
        made(job, {
          url,
          file,
          steps: [{ ...BLANK, collection: "photos", values }],
          temps: [temporary()],
        }),
      ),
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
    restore,
    // Sent again as it was made; what it was refused for may be gone.
    sendAgain(id: string): void {
      const at = asides.findIndex((a) => a.entry.id === id);
      const entry = asides.splice(at, at < 0 ? 0 : 1)[0]?.entry;
      if (!entry) return;
      write(store.dropAside(id));
      lead.tell({ kind: "decided", id });
      void put({ ...entry, gesture: "", waited: true }).catch(() => undefined);
    },
    throwAway(id: string): void {
      const at = asides.findIndex((a) => a.entry.id === id);
      if (at >= 0) asides.splice(at, 1);
      write(store.dropAside(id));
      lead.tell({ kind: "decided", id });
      tell();
    },
    // Entries of a waiting list that was kept as a file, in their order; each counts once wherever it was sent before.
    takeIn(entries: readonly Entry[]): number {
      const known = new Set([...waiting, ...asides.map((a) => a.entry)].map((e) => e.id));
      const found = entries.filter((e) => !known.has(e.id));
      for (const entry of found) void put({ ...entry, gesture: "", waited: true }).catch(() => undefined);
      return found.length;
    },
    onRefused(listener: (aside: Aside) => void): () => void {
      lost.add(listener);
      return () => lost.delete(listener);
    },
    // Which jobs somebody else changed, as any window of this browser hears of it; null: any may have.
    onNews(listener: (jobs: number[] | null) => void): () => void {
      since.add(listener);
      return () => since.delete(listener);
    },
    news(jobs: number[] | null): void {
      lead.tell({ kind: "jobs", jobs });
      since.forEach((l) => l(jobs));
    },
    // The server was reached, or somebody signed in: what waits goes now.
    poke: rest.poke,
    // Resolves when what waits will wait on: nobody answers.
    waits: (): Promise<void> => (failing ? Promise.resolve() : new Promise((go) => patient.add(go))),
    // Resolves once nothing waits: a gesture that is held back goes at once.
    idle: async () => {
      rest.hurry(true);
      while (waiting.length) await Promise.allSettled(waiting.map((w) => promise(w.id)));
      rest.hurry(false);
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
      const all =
        own.every((w) => w.steps.length) && steps.every((s) => typeof s.row === "number" && s.row > 0 && !s.remove);
      return all ? steps : [];
    },
    // The newest revision an answer told of: a stage can be asked for it before the document came.
    newest: (job: number): number => Math.max(0, ...settled.filter((s) => s.entry.job === job).map((s) => s.revision)),
    forget(job: number, revision: number): void {
      const late = Date.now() - SHOWN_MS; // a stage may show what was before a while longer
      const kept = settled.filter((s) => s.entry.job !== job || s.revision > revision || s.at > late);
      settled.splice(0, settled.length, ...kept);
    },
    number: (n: number): number => numbers.get(n) ?? n,
    waiting: (): readonly Entry[] => waiting,
    asides: (): readonly Aside[] => asides,
    status: () => ({
      pending: waiting.length + other,
      failing,
      signedOut,
      asides: asides.length,
      // what would be lost if this window closed now
      unwritten: unwritten + other > 0 || (unstored && waiting.length > 0),
      unstored,
      since: waiting[0]?.at ?? 0,
      version,
    }),
    subscribe(listener: () => void): () => void {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
}

export type Queue = ReturnType<typeof makeQueue>;
