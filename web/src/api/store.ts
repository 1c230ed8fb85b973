// What this browser keeps of its own: edits that wait, those set aside, numbers given meanwhile, and answers to read without a network.
import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import type { Aside, Entry, QueueStore } from "./entry";

export type Answered = { hash: string; key: readonly unknown[]; job: number; at: number; bytes: number; data: string };

interface Kept extends DBSchema {
  waiting: { key: number; value: { entry: Entry }; indexes: { id: string } };
  aside: { key: string; value: Aside };
  numbers: { key: number; value: number };
  answers: { key: string; value: Answered; indexes: { at: number } };
}
type Db = IDBPDatabase<Kept>;

const NAME = "sphagnum";
const OLD = "sphagnum.pending.";
let opened: Promise<Db> | null = null;
let gone: () => void = () => undefined;

export const database = (): Promise<Db> =>
  (opened ??= openDB<Kept>(NAME, 1, {
    upgrade(db) {
      db.createObjectStore("waiting", { autoIncrement: true }).createIndex("id", "entry.id", { unique: true });
      db.createObjectStore("aside", { keyPath: "entry.id" });
      db.createObjectStore("numbers");
      db.createObjectStore("answers", { keyPath: "hash" }).createIndex("at", "at");
    },
    // another version of the page wants it: it is let go of, and opened anew when it is needed
    blocking: (_now, next, event) => {
      (event.target as IDBDatabase).close();
      opened = null;
      if (next === null) gone();
    },
    terminated: () => {
      opened = null;
      gone();
    },
  }).catch((error: unknown) => {
    opened = null;
    throw error;
  }));

// What an earlier version of the page kept is taken over once.
export function takenOver(shelf: Pick<Storage, "getItem" | "removeItem" | "key" | "length">): Entry[] {
  const keys = Array.from({ length: shelf.length }, (_, i) => shelf.key(i)).filter((k) => k?.startsWith(OLD));
  return keys.flatMap((key) => {
    try {
      const kept = JSON.parse(shelf.getItem(key ?? "") ?? "") as { entries?: Entry[] };
      return Array.isArray(kept.entries) ? kept.entries.map((e) => ({ ...e, at: e.at ?? Date.now() })) : [];
    } catch {
      return [];
    } finally {
      shelf.removeItem(key ?? "");
    }
  });
}

export const idbStore: QueueStore = {
  async put(entry) {
    const db = await database();
    const work = db.transaction("waiting", "readwrite", { durability: "relaxed" });
    const key = await work.store.index("id").getKey(entry.id);
    await (key === undefined ? work.store.add({ entry }) : work.store.put({ entry }, key));
    await work.done;
  },
  async drop(id) {
    const db = await database();
    const work = db.transaction("waiting", "readwrite", { durability: "relaxed" });
    const key = await work.store.index("id").getKey(id);
    if (key !== undefined) await work.store.delete(key);
    await work.done;
  },
  all: async () => (await (await database()).getAll("waiting")).map((w) => w.entry),
  async setAside(aside) {
    const work = (await database()).transaction(["waiting", "aside"], "readwrite");
    const key = await work.objectStore("waiting").index("id").getKey(aside.entry.id);
    if (key !== undefined) await work.objectStore("waiting").delete(key);
    await work.objectStore("aside").put(aside);
    await work.done;
  },
  asides: async () => await (await database()).getAll("aside"),
  dropAside: async (id) => void (await (await database()).delete("aside", id)),
  async keepNumbers(numbers) {
    const work = (await database()).transaction("numbers", "readwrite", { durability: "relaxed" });
    await Promise.all(numbers.map(([temp, real]) => work.store.put(real, temp)));
    await work.done;
  },
  async numbers() {
    const db = await database();
    const [temps, reals] = await Promise.all([db.getAllKeys("numbers"), db.getAll("numbers")]);
    return temps.map((t, i) => [t, reals[i] ?? t] as const);
  },
  forgetNumbers: async () => void (await (await database()).clear("numbers")),
  onGone: (then) => void (gone = then),
};

// Signing out leaves nothing behind.
export async function forgetAll(): Promise<void> {
  const db = await database();
  await Promise.all((["waiting", "aside", "numbers", "answers"] as const).map((name) => db.clear(name)));
}
