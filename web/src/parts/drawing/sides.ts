// The numbers of an outline's sides, from 1, side n from corner n to the next, where a corner comes in or goes.

export const withCorner = (sides: readonly number[], on: number): number[] =>
  sides.flatMap((n) => (n < on ? [n] : n === on ? [n, n + 1] : [n + 1]));

// Of so many; the side that ends at the corner (from 0) and the one that begins there are one then.
export const withoutCorner = (sides: readonly number[], corner: number, count: number): number[] => {
  const told = sides.map((n) => (corner ? n - Number(n > corner) : n === 1 ? count - 1 : n - 1));
  return [...new Set(told)].sort((a, b) => a - b);
};
