// Labels side by side.

// Where labels begin so that they stand side by side within a width, each as near to its own place as it can be.
export function parted(wanted: readonly number[], widths: readonly number[], room: number): number[] {
  const starts = [...wanted];
  for (let i = starts.length - 1; i >= 0; i -= 1) {
    const limit = i === starts.length - 1 ? room : (starts[i + 1] ?? room) - 4;
    starts[i] = Math.min(starts[i] ?? 0, limit - (widths[i] ?? 0));
  }
  for (let i = 0; i < starts.length; i += 1) {
    const least = i === 0 ? 0 : (starts[i - 1] ?? 0) + (widths[i - 1] ?? 0) + 4;
    starts[i] = Math.max(starts[i] ?? 0, least);
  }
  return starts;
}
