// What tests of the queue stand on: a browser with its windows, and a server that counts an edit once and can be down.
import { type Answer, type Aside, type Entry, type Lead, type Message, type QueueStore } from "./entry";
import { BLANK, type Step } from "./operations";

const noop = () => undefined;
export const DOWN = { status: 0, message: "no answer" };
export const step = (more: Partial<Step>): Step => ({ ...BLANK, collection: "positions", ...more });
export const set = (row: number, value: number): Step =>
  step({
    collection: "alternatives",
    row,
    version: 1,
    operations: [{ op: "set", at: ["layers", "a", "coverage"], value }],
  });

// A browser: one store for its windows, a channel between them, and who leads.
export function browser() {
  const waiting: Entry[] = [];
  const aside = new Map<string, Aside>();
  const given = new Map<number, number>();
  const rooms = new Set<{ hear: (m: Message) => void; gain: () => void; alive: boolean }>();
  let leader: unknown = null;
  let gone: () => void = noop;
  const done = () => Promise.resolve();
  const at = (id: string) => waiting.findIndex((e) => e.id === id);
  const store: QueueStore = {
    put: (entry) => {
      const copy = structuredClone(entry);
      if (at(entry.id) < 0) waiting.push(copy);
      else waiting[at(entry.id)] = copy;
      return done();
    },
    drop: (id) => (at(id) >= 0 && waiting.splice(at(id), 1), done()),
    all: () => Promise.resolve(structuredClone(waiting)),
    setAside: (a) => (at(a.entry.id) >= 0 && waiting.splice(at(a.entry.id), 1), aside.set(a.entry.id, a), done()),
    asides: () => Promise.resolve([...aside.values()]),
    dropAside: (id) => (aside.delete(id), done()),
    keepNumbers: (n) => (n.forEach(([t, r]) => given.set(t, r)), done()),
    numbers: () => Promise.resolve([...given]),
    forgetNumbers: () => (given.clear(), done()),
    onGone: (then) => void (gone = then),
  };
  const clear = () => (waiting.splice(0), aside.clear(), gone());
  const room = (): Lead & { close: () => void } => {
    const own = { hear: noop as (m: Message) => void, gain: noop as () => void, alive: true };
    rooms.add(own);
    leader ??= own;
    return {
      leading: () => leader === own && own.alive,
      onLead: (then) => void (own.gain = then),
      tell: (m) => rooms.forEach((r) => r !== own && own.alive && r.hear(structuredClone(m))),
      hear: (l) => void (own.hear = (m) => own.alive && l(m)),
      close: () => {
        own.alive = false;
        rooms.delete(own);
        if (leader === own) leader = [...rooms][0] ?? null;
        [...rooms][0]?.gain();
      },
    };
  };
  return { store, room, clear, waiting, aside, given };
}

// A server that counts an edit once by its id, and can be down.
export function server() {
  const seen = new Map<string, Answer>();
  const got: Entry[] = [];
  let next = 100;
  const box = {
    down: 0,
    loses: 0,
    got,
    send: async (entry: Entry): Promise<Answer> => {
      await Promise.resolve();
      if (box.down > 0) {
        box.down -= 1;
        throw DOWN;
      }
      const answer = seen.get(entry.id) ?? {
        rows: entry.steps.map((s) => ({ id: typeof s.row === "number" ? s.row : next++ })),
        revision: 10 + seen.size,
      };
      if (!seen.has(entry.id)) {
        seen.set(entry.id, answer);
        got.push(structuredClone(entry));
      }
      if (box.loses > 0) {
        box.loses -= 1;
        throw DOWN;
      } // done, but the answer never arrives
      return answer;
    },
  };
  return box;
}
