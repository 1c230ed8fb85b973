// What is tried: every newest answer is seen, what comes next is there before it is asked for.
import { describe, expect, it, vi } from "vitest";
import { trier } from "./trier";

function server() {
  const open: { body: number; answer: (ok?: boolean) => Promise<void> }[] = [];
  const ask = vi.fn(
    (body: number) =>
      new Promise<string>((yes, no) =>
        open.push({
          body,
          answer: async (ok = true) => {
            if (ok) yes(`of ${body}`);
            else no(new Error("refused"));
            await new Promise((go) => setTimeout(go));
          },
        }),
      ),
  );
  return { open, ask, last: () => open.at(-1) ?? expect.fail("nothing was asked") };
}

describe("what is tried", () => {
  it("asks one at a time, the newest next, and shows each answer", async () => {
    const [s, seen] = [server(), vi.fn()];
    const tries = trier(s.ask, seen);
    for (const n of [1, 2, 3]) tries.want(n, []);
    await s.last().answer();
    expect(s.ask.mock.calls).toEqual([[1], [3]]);
    await s.last().answer();
    expect(seen.mock.calls).toEqual([["of 1"], ["of 3"]]);
  });

  it("asks ahead while the hand rests, and shows that at once", async () => {
    const [s, seen] = [server(), vi.fn()];
    const tries = trier(s.ask, seen);
    tries.want(1, [2]);
    await s.last().answer();
    expect(s.ask.mock.calls).toEqual([[1], [2]]);
    await s.last().answer();
    expect(seen.mock.calls).toEqual([["of 1"]]);
    tries.want(2, [3]);
    expect(seen).toHaveBeenLastCalledWith("of 2");
    expect(s.last().body).toBe(3);
    tries.want(1, [0]); // back to what it knows
    expect(seen).toHaveBeenLastCalledWith("of 1");
  });

  it("asks ahead for a hand that lies ready, shows nothing of it, and forgets it once things are otherwise", async () => {
    const [s, seen] = [server(), vi.fn()];
    const tries = trier(s.ask, seen);
    tries.want(null, [1, 3], "a");
    await s.last().answer();
    await s.last().answer();
    expect(s.ask.mock.calls).toEqual([[1], [3]]);
    expect(seen).not.toHaveBeenCalled();
    tries.want(3, [4], "b"); // the hand moves: what is known of it stands
    expect(seen).toHaveBeenLastCalledWith("of 3");
    await s.last().answer();
    tries.want(null, [1, 3], "b");
    await s.last().answer();
    await s.last().answer();
    expect(s.ask.mock.calls.slice(3)).toEqual([[1], [3]]); // of another state it is asked anew
    tries.want(1, [], "b");
    expect(seen).toHaveBeenLastCalledWith("of 1");
  });

  it("forgets what it knew once the hand is done, and goes on after a refusal", async () => {
    const [s, seen] = [server(), vi.fn()];
    const tries = trier(s.ask, seen);
    tries.want(1, []);
    tries.want(null, []);
    tries.want(1, []);
    await s.last().answer();
    expect(seen).not.toHaveBeenCalled(); // it may have been of another state
    await s.last().answer(false);
    tries.want(1, []); // drawn again, it is not asked again
    expect(s.ask).toHaveBeenCalledTimes(2);
    tries.want(2, []);
    await s.last().answer();
    expect(seen.mock.calls).toEqual([["of 2"]]);
  });
});
