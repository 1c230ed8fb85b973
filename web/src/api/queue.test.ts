// The queue of pending edits: nothing is lost by a cut network or a closed window, and nothing is sent twice as two.
import { QueryClient } from "@tanstack/react-query";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { apply, overlay, type Operation, type Step } from "./operations";
import { keeping, makeQueue, type Answer, type Entry, type Shelf } from "./queue";

const DOWN = { status: 0, message: "no answer" };
const step = (more: Partial<Step>): Step => ({
  collection: "positions",
  row: null,
  version: 0,
  values: {},
  operations: [],
  remove: false,
  force: false,
  ...more,
});
const set = (row: number, value: number): Step =>
  step({
    collection: "alternatives",
    row,
    version: 1,
    operations: [{ op: "set", at: ["layers", "a", "coverage"], value }],
  });

function memory(): Shelf {
  const kept = new Map<string, string>();
  return {
    getItem: (k) => kept.get(k) ?? null,
    setItem: (k, v) => void kept.set(k, v),
    removeItem: (k) => void kept.delete(k),
    key: (i) => [...kept.keys()][i] ?? null,
    get length() {
      return kept.size;
    },
  };
}

// A server that counts an edit once by its id, and can be down.
function server() {
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

const open = (
  s: ReturnType<typeof server>,
  shelf: Shelf,
  tab = "t1",
  ask = vi.fn(() => Promise.resolve("theirs" as const)),
) => makeQueue(new QueryClient(), { send: s.send, ask, wait: () => 40 }, shelf, { author: "a", tab });

describe("the queue of pending edits", () => {
  it("tries only what can be done twice over, and tells the newest revision", async () => {
    const s = server();
    const queue = open(s, memory());
    void queue.edit(1, [set(5, 0.4)], "g");
    expect(queue.untried(1)).toHaveLength(1);
    expect(queue.untried(2)).toEqual([]);
    void queue.edit(1, [step({ values: { name: "Ear" } })]); // kept already and not answered, it would be there twice
    expect(queue.untried(1)).toEqual([]);
    await queue.idle();
    expect(queue.newest(1)).toBe(11);
    expect(queue.newest(2)).toBe(0);
  });

  let s: ReturnType<typeof server>;
  let shelf: Shelf;
  beforeEach(() => {
    s = server();
    shelf = memory();
  });

  it("sends in order, says so, and keeps trying while nobody answers", async () => {
    const queue = open(s, shelf);
    s.down = 3;
    const words = new Set<string>();
    queue.subscribe(() => words.add(keeping(queue.status())));
    const all = ["one", "two", "three"].map((name) => queue.edit(1, [step({ values: { name } })]));
    expect([...words]).toEqual(["keeping …"]); // at once: nothing is read as kept that is not
    await Promise.all(all);
    expect(s.got.map((e) => e.steps[0]?.values?.["name"])).toEqual(["one", "two", "three"]);
    expect(words).toContain("3 not kept yet, trying again");
    expect(keeping(queue.status())).toBe("all changes kept");
    expect(shelf.length).toBe(0);
  });

  it("counts an edit once whose answer was lost, and gives its rows their numbers", async () => {
    const queue = open(s, shelf);
    s.loses = 2;
    const made = queue.edit(1, [step({ collection: "alternatives", values: { surface_id: 4, layers: [] } })]);
    const temp = queue.over(1, 0)[0]?.temps[0] ?? 0;
    expect(temp).toBeLessThan(0);
    const grown = queue.edit(1, [
      step({
        collection: "alternatives",
        row: temp,
        operations: [{ op: "add", at: ["layers"], item: { id: "a" }, after: null }],
      }),
    ]);
    await Promise.all([made, grown]);
    expect(s.got.length).toBe(2);
    expect(s.got[1]?.steps[0]?.row).toBe(100);
    expect(queue.number(temp)).toBe(100);
  });

  it("is taken up again after a closed window, by its ids, and by no other window while this one lives", async () => {
    s.down = 1e9;
    const first = open(s, shelf);
    void first.edit(1, [step({ values: { name: "kept" } })]).catch(() => undefined);
    void first.post(1, "/api/jobs/1/typed-readings", { text: "74.8" }).catch(() => undefined);
    const other = open(server(), shelf, "t2");
    expect(other.restore(Date.now())).toBe(false);
    const s2 = server();
    const later = open(s2, shelf, "t2");
    expect(later.restore(Date.now() + 60_000)).toBe(true);
    expect(later.restore(Date.now() + 60_000)).toBe(false); // not its own once more
    await later.idle();
    expect(s2.got.map((e) => [e.tab, e.url])).toEqual([
      ["t1", "/api/jobs/1/edits"],
      ["t1", "/api/jobs/1/typed-readings"],
    ]);
  });

  it("folds a gesture that still waits, and nothing else", async () => {
    const queue = open(s, shelf);
    const all = [...Array(40).keys()].map((i) => queue.edit(1, [set(7, i)], "drag"));
    all.push(queue.edit(1, [set(8, 1)], "drag"), queue.edit(1, [set(8, 2)]));
    await Promise.all(all);
    expect(s.got.length).toBeLessThanOrEqual(4);
    const last = s.got.filter((e) => e.steps[0]?.row === 7).at(-1)?.steps[0]?.operations?.[0] as { value: number };
    expect(last.value).toBe(39);
  });

  it("hands a refusal to who asked and goes on; a conflict is asked about once", async () => {
    const send = vi
      .fn<(e: Entry) => Promise<Answer>>()
      .mockRejectedValueOnce({ status: 422 })
      .mockRejectedValueOnce({ status: 409 })
      .mockResolvedValueOnce({ rows: [{ id: 7 }], revision: 3 });
    const ask = vi.fn(() => Promise.resolve("mine" as const));
    const queue = makeQueue(new QueryClient(), { send, ask, wait: () => 1 }, shelf, { author: "a", tab: "t" });
    await expect(queue.edit(1, [set(7, 1)])).rejects.toEqual({ status: 422 });
    await queue.edit(1, [set(7, 2)]);
    expect(ask).toHaveBeenCalledTimes(1);
    expect(send.mock.calls[2]?.[0].steps[0]?.force).toBe(true);
    expect(queue.status().pending).toBe(0);
  });

  it("lies over the document until a newer one shows what was done", async () => {
    const queue = open(s, shelf);
    const doc = {
      job: { id: 1 },
      alternatives: [{ id: 7, layers: [{ id: "a", coverage: 1 }] }],
    } as unknown as Parameters<typeof overlay>[0];
    await queue.edit(1, [set(7, 0.4)]);
    const shown = (revision: number) =>
      (overlay(doc, queue.over(1, revision)).alternatives[0]?.layers[0] as { coverage: number }).coverage;
    expect([shown(9), shown(10)]).toEqual([0.4, 1]);
    queue.forget(1, 10);
    expect(queue.over(1, 0)).toEqual([]);
  });
});

it("does operations on items by their ids", () => {
  const at = ["layers"];
  const ops: Operation[] = [
    { op: "add", at, item: { id: "c" }, after: null },
    { op: "add", at, item: { id: "b" }, after: "a" },
    { op: "move", at, id: "a", after: "c" },
    { op: "remove", at, id: "b" },
    { op: "set", at: ["layers", "c", "t"], value: 4 },
    { op: "add", at: ["flags"], item: "wet", after: null },
    { op: "set", at: ["limits", "hours"], value: 3 },
    { op: "set", at: ["limits", "hours"], value: "3,5" },
  ];
  expect(ops.reduce<unknown>(apply, { layers: [{ id: "a" }], flags: [], limits: null })).toEqual({
    layers: [{ id: "c", t: 4 }, { id: "a" }],
    flags: ["wet"],
    limits: { hours: 3 },
  }); // typed text waits for its answer
});
