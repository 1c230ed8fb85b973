// Sides keep to what they lie along, whichever corner comes in or goes.
import { expect, test } from "vitest";
import { withCorner, withoutCorner } from "./sides";

type Point = readonly [number, number];
const OUTLINE: Point[] = [
  [0, 0],
  [100, 0],
  [120, 40],
  [100, 80],
  [0, 80],
];
const along = (outline: readonly Point[], sides: readonly number[]) =>
  sides.map((n) => [outline[n - 1], outline[n % outline.length]]);
const middle = ([a, b]: (Point | undefined)[]): Point => [
  ((a?.[0] ?? 0) + (b?.[0] ?? 0)) / 2,
  ((a?.[1] ?? 0) + (b?.[1] ?? 0)) / 2,
];

test.each([1, 2, 3, 4, 5])("a corner drawn out of side %i leaves every side where it was, that one in two", (on) => {
  const half = middle(along(OUTLINE, [on])[0] ?? []);
  const after = [...OUTLINE.slice(0, on), half, ...OUTLINE.slice(on)];
  for (const side of [1, 2, 3, 4, 5]) {
    const lies = along(after, withCorner([side], on));
    const was = along(OUTLINE, [side])[0];
    expect([lies[0]?.[0], lies.at(-1)?.[1]]).toEqual(was);
    expect(lies).toHaveLength(side === on ? 2 : 1);
  }
});

test.each([0, 1, 2, 3, 4])(
  "corner %i taken away makes one of the two sides that met there, and moves no other",
  (corner) => {
    const after = OUTLINE.filter((_, i) => i !== corner);
    for (const side of [1, 2, 3, 4, 5]) {
      const [lies] = along(after, withoutCorner([side], corner, OUTLINE.length));
      const was = along(OUTLINE, [side])[0] ?? [];
      const kept = was.filter((p) => p !== OUTLINE[corner]);
      expect(kept.every((p) => lies?.includes(p))).toBe(true);
      if (kept.length === 2) expect(lies).toEqual(was);
    }
    const both = [corner || OUTLINE.length, corner + 1];
    expect(withoutCorner(both, corner, OUTLINE.length)).toHaveLength(1);
  },
);

test("a corner drawn out and taken back leaves the numbers as they were", () => {
  for (const on of [1, 2, 3, 4, 5])
    for (const sides of [[1], [2, 3], [5], [1, 5], [1, 2, 3, 4, 5]])
      expect(withoutCorner(withCorner(sides, on), on, OUTLINE.length + 1)).toEqual(sides);
});
