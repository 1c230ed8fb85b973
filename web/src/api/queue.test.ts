// The queue of pending edits: nothing is lost by a cut network or a closed window, and nothing is sent twice as two.
import { beforeEach, describe, expect, it, vi } from "vitest";
import { apply, BLANK, overlay, subject, type Operation } from "./operations";
import { keeping, type Answer, type Entry, type Lead } from "./entry";
import { makeQueue } from "./queue";
import { browser, DOWN, server, set, step } from "./queue.fixture";

type Browser = ReturnType<typeof browser>;
const open = (
  s: { send: (entry: Entry) => Promise<Answer> },
  b: Browser,
  tab = "t1",
  ask = vi.fn(() => Promise.resolve("theirs" as const)),
  lead: Lead = b.room(),
) => makeQueue({ send: s.send, ask, wait: () => 5 }, b.store, lead, { author: "a", tab });

describe("the queue of pending edits", () => {
  it("tries only what can be done twice over, and tells the newest revision", async () => {
    const s = server();
    const queue = open(s, browser());
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
  let shelf: Browser;
  beforeEach(() => {
    s = server();
    shelf = browser();
  });

  it("sends in order, says so, and keeps trying while nobody answers", async () => {
    const queue = open(s, shelf);
    s.down = 1e9;
    const words = new Set<string>();
    queue.subscribe(() => words.add(keeping(queue.status())));
    const all = ["one", "two", "three"].map((name) => queue.edit(1, [step({ values: { name } })]));
    expect([...words]).toEqual(["keeping …"]); // at once: nothing is read as kept that is not
    // what is said changes at most once a frame, so the network comes back only after it was said
    await vi.waitFor(() => expect([...words].some((w) => /^3 waiting since \d\d:\d\d$/.test(w))).toBe(true));
    s.down = 0;
    await Promise.all(all);
    expect(s.got.map((e) => e.steps[0]?.values?.["name"])).toEqual(["one", "two", "three"]);
    expect(keeping(queue.status())).toBe("all changes kept");
    expect(shelf.waiting).toEqual([]);
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

  it("is taken up after a closed browser in order, with the numbers its rows had, and sent by one window alone", async () => {
    s.down = 1e9;
    const room = shelf.room();
    const first = open(s, shelf, "t1", undefined, room);
    void first.edit(1, [step({ values: { name: "kept" } })]);
    const temp = first.over(1, 0)[0]?.temps[0] ?? 0;
    void first.post(1, "/api/jobs/1/typed-readings", { text: "74.8", position_id: temp });
    const other = open(s, shelf, "t2");
    void other.edit(1, [step({ collection: "remarks", values: { text: "from another window" } })]);
    await first.waits();
    expect(s.got).toEqual([]);
    expect(shelf.waiting.length).toBe(3);
    s.down = 0;
    room.close(); // the other window takes over
    await other.idle();
    expect(s.got.map((e) => [e.tab, e.url, (e.body as { position_id?: number } | null)?.position_id])).toEqual([
      ["t1", "/api/jobs/1/edits", undefined],
      ["t1", "/api/jobs/1/typed-readings", 100],
      ["t2", "/api/jobs/1/edits", undefined],
    ]);
    expect([shelf.waiting, [...shelf.given]]).toEqual([[], []]);
  });

  it("sets aside what is refused after it waited, with what hangs on it, until somebody decides", async () => {
    const gone = { status: 404, message: "There is no job 1." };
    const send = vi.fn((e: Entry) =>
      e.steps[0]?.collection === "remarks"
        ? s.send(e)
        : Promise.reject<Answer>(send.mock.calls.length > 1 ? gone : DOWN),
    );
    const queue = open({ send }, shelf);
    const lost: string[] = [];
    queue.onRefused((a) => lost.push(a.why));
    void queue.edit(1, [step({ values: { name: "Ear" } })]);
    const temp = queue.over(1, 0)[0]?.temps[0] ?? 0;
    void queue.edit(1, [step({ collection: "goals", values: { position_id: temp } })]);
    void queue.edit(2, [step({ collection: "remarks", values: { text: "goes on" } })]);
    await queue.idle();
    expect(s.got.map((e) => e.steps[0]?.collection)).toEqual(["remarks"]);
    expect(lost).toEqual(["There is no job 1.", "What this was done to was not kept."]);
    expect([queue.status().asides, shelf.aside.size, shelf.waiting.length]).toEqual([2, 2, 0]);
    // in another browser's day the job is back: sent again, both go, the second by the first one's number
    send.mockImplementation((e) => s.send(e));
    for (const a of [...queue.asides()]) queue.sendAgain(a.entry.id);
    await queue.idle();
    expect(s.got.at(-1)?.steps[0]?.values?.["position_id"]).toBeGreaterThan(0);
    expect([queue.status().asides, shelf.aside.size]).toEqual([0, 0]);
  });

  it("waits for whoever is signed out, and says so", async () => {
    const send = vi.fn((e: Entry) =>
      send.mock.calls.length < 3 ? Promise.reject<Answer>({ status: 401 }) : s.send(e),
    );
    const queue = open({ send }, shelf);
    void queue.edit(1, [step({ values: { name: "Ear" } })]);
    await queue.waits();
    expect(keeping(queue.status())).toBe("1 waiting: sign in");
    const timer = setInterval(queue.poke, 5);
    await queue.idle();
    clearInterval(timer);
    expect(s.got.length).toBe(1);
  });

  it("loses and doubles nothing in 200 days away: two devices, windows that die, answers lost, lists taken in twice", async () => {
    for (let n = 0; n < 200; n++) {
      let seed = n + 1;
      const chance = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
      const all = server();
      const flaky = {
        send: async (e: Entry): Promise<Answer> => {
          if (chance() < 0.3) throw chance() < 0.2 ? { status: 401 } : DOWN;
          const answer = await all.send(e);
          if (chance() < 0.2) throw DOWN; // kept, and the answer lost
          return answer;
        },
      };
      const devices = [browser(), browser()];
      const made: string[] = [];
      const lists: Entry[][] = [];
      for (const [d, b] of devices.entries()) {
        let room = b.room();
        let queue = makeQueue(
          { send: flaky.send, ask: () => Promise.resolve("theirs"), wait: () => 0 },
          b.store,
          room,
          {
            author: `d${d}`,
            tab: `d${d}`,
          },
        );
        for (let k = 0; k < 8; k++) {
          const name = `${d}.${k}`;
          made.push(name);
          void queue.edit(1, [step({ collection: "step_events", values: { name, own_id: null } })]);
          if (chance() < 0.2) await Promise.resolve();
          if (chance() < 0.1) lists.push(structuredClone([...queue.waiting()]));
          if (chance() < 0.15) {
            room.close(); // it lost power
            room = b.room();
            const next = makeQueue(
              { send: flaky.send, ask: () => Promise.resolve("theirs"), wait: () => 0 },
              b.store,
              room,
              {
                author: `d${d}`,
                tab: `d${d}+`,
              },
            );
            await next.restore();
            queue = next;
          }
        }
        for (const list of lists.splice(0)) queue.takeIn(list);
        const poked = setInterval(queue.poke, 1);
        await queue.idle();
        clearInterval(poked);
        room.close();
      }
      const got = all.got.map((e) => String(e.steps[0]?.values?.["name"]));
      expect([...got].sort(), `day ${n}`).toEqual([...made].sort());
      for (const d of ["0", "1"]) {
        const own = got.filter((name) => name.startsWith(d));
        expect(own, `order of day ${n}`).toEqual([...own].sort());
      }
    }
  }, 60_000);

  it("folds a gesture that still waits, and nothing else", async () => {
    const queue = open(s, shelf);
    const all = [...Array(40).keys()].map((i) => queue.edit(1, [set(7, i)], "drag"));
    all.push(queue.edit(1, [set(8, 1)], "drag"), queue.edit(1, [set(8, 2)]));
    await Promise.all(all);
    expect(s.got.length).toBeLessThanOrEqual(4);
    const last = s.got.filter((e) => e.steps[0]?.row === 7).at(-1)?.steps[0]?.operations?.[0] as { value: number };
    expect(last.value).toBe(39);
  });

  it("waits for a hand that goes on, with each of its changes written down, and hurries for who waits", async () => {
    vi.useFakeTimers();
    const door = { send: s.send, ask: vi.fn(() => Promise.resolve("later" as const)), wait: () => 1, hold: 300 };
    const queue = makeQueue(door, shelf.store, shelf.room(), { author: "a", tab: "t" });
    const value = (e: Entry | undefined) => (e?.steps[0]?.operations?.[0] as { value: number } | undefined)?.value;
    for (let i = 0; i < 20; i++) {
      void queue.edit(1, [set(7, i)], "drag");
      await vi.advanceTimersByTimeAsync(250);
      expect([s.got.length, shelf.waiting.map(value)]).toEqual([0, [i]]);
    }
    await vi.advanceTimersByTimeAsync(600);
    expect(s.got.map(value)).toEqual([19]);
    void queue.edit(1, [set(7, 20)], "again");
    await vi.advanceTimersByTimeAsync(10);
    expect(s.got).toHaveLength(1);
    const idle = queue.idle();
    await vi.advanceTimersByTimeAsync(10);
    await idle;
    vi.useRealTimers();
    expect(s.got.map(value)).toEqual([19, 20]);
  });

  it("hands a refusal to who asked and goes on; a conflict is asked about once", async () => {
    const send = vi
      .fn<(e: Entry) => Promise<Answer>>()
      .mockRejectedValueOnce({ status: 422 })
      .mockRejectedValueOnce({ status: 409 })
      .mockResolvedValueOnce({ rows: [{ id: 7 }], revision: 3 });
    const ask = vi.fn(() => Promise.resolve("mine" as const));
    const queue = open({ send }, shelf, "t", ask as never);
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
    expect(queue.over(1, 0)).toHaveLength(1); // a stage may show what was before a while longer
    vi.useFakeTimers({ now: Date.now() + 60_000 });
    queue.forget(1, 10);
    vi.useRealTimers();
    expect(queue.over(1, 0)).toEqual([]);
  });

  it("sends what an older version of the page left, and keeps what it cannot make out", async () => {
    const s = server();
    const b = browser();
    const old = (i: number) => ({ id: `old${i}`, job: 1, author: "a", tab: "t0", url: "/api/jobs/1/edits" });
    const steps = [{ collection: "positions", row: 3, values: { name: "Seat" } }];
    for (let i = 0; i < 40; i += 1) b.waiting.push({ ...old(i), steps } as unknown as Entry); // as nobody writes it today
    b.waiting.splice(20, 0, { id: "new", moves: [1, 2] } as unknown as Entry); // as nobody wrote it yet
    const queue = open(s, b);
    await queue.restore();
    await queue.idle();
    expect(s.got.map((e) => e.id)).toEqual(Array.from({ length: 40 }, (_, i) => `old${i}`));
    expect(s.got[0]?.steps[0]).toMatchObject({ row: 3, operations: [], remove: false });
    const again = open(s, b, "t2");
    await again.restore();
    await again.restore();
    expect(again.asides()).toHaveLength(1);
    expect(again.asides()[0]).toMatchObject({ entry: { id: "new", body: { moves: [1, 2] } }, status: 0 });
  });

  it("writes down anew what somebody cleared, and says so where it cannot write", async () => {
    const s = server();
    const b = browser();
    s.down = 1000;
    const queue = open(s, b);
    void queue.edit(1, [set(5, 0.4)]);
    await vi.waitFor(() => expect(b.waiting).toHaveLength(1));
    b.clear();
    await vi.waitFor(() => expect(b.waiting).toHaveLength(1));
    b.store.put = () => Promise.reject(new Error("QuotaExceededError"));
    void queue.edit(1, [set(6, 0.5)]);
    await vi.waitFor(() => expect(keeping(queue.status())).toBe("2 waiting in this window alone"));
    expect(queue.status().unwritten).toBe(true);
    s.down = 0;
    queue.poke();
    await queue.idle();
    expect(s.got).toHaveLength(2);
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

describe("what a step is about", () => {
  it("is the same of steps that set the same, whatever they set, and of no others", () => {
    const at = ["layers", "a", "coverage"];
    const set = (value: number, row = 1): Operation[] => [
      { op: "set", at: row === 1 ? at : ["layers", "b", "coverage"], value },
    ];
    const step = { ...BLANK, collection: "alternatives", row: 1 };
    const of = (operations: Operation[], more = {}) => subject({ ...step, operations, ...more });
    expect(of(set(0.5), { version: 3 })).toBe(of(set(0.6), { version: 4 }));
    const others = [of(set(0.5), { row: 2 }), of(set(0.5, 2)), of([{ op: "remove", at: ["layers"], id: "a" }]), of([])];
    expect(new Set([of(set(0.5)), ...others]).size).toBe(5);
    const item = (thickness_mm: number): Operation => ({
      op: "add",
      at: ["layers"],
      item: { id: "c", thickness_mm },
      after: null,
    });
    expect(of([item(2)])).not.toBe(of([item(3)])); // what is added twice lies there twice
  });
});
