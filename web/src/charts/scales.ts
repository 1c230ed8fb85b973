// Scales of the pictures: bands side by side, levels on round steps, time and other lengths.
import { scaleBand, scaleLinear, scaleLog, type ScaleBand, type ScaleLinear, type ScaleLogarithmic } from "d3-scale";

export type Level = ScaleLinear<number, number>;

// Bands of equal width; ``middle`` is where a band is drawn.
export type Bands = { scale: ScaleBand<number>; width: number; middle: (hz: number) => number };
export function bands(hz: readonly number[], from: number, to: number, gap = 0.28): Bands {
  const scale = scaleBand<number>()
    .domain(hz)
    .range([from, to])
    .paddingInner(gap)
    .paddingOuter(gap / 2);
  const width = scale.bandwidth();
  return { scale, width, middle: (f) => (scale(f) ?? from) + width / 2 };
}

// Where any frequency stands among third-octave bands, between their middles too.
export function between(found: Bands, hz: readonly number[]): ScaleLogarithmic<number, number> {
  return scaleLog()
    .domain(hz)
    .range(hz.map((f) => found.middle(f)));
}

export const logarithmic = (from: number, to: number, x0: number, x1: number): ScaleLogarithmic<number, number> =>
  scaleLog().domain([from, to]).range([x0, x1]);

// Levels on round steps, the highest at the top; what lies further below than ``most`` stands at the bottom.
export function levels(
  values: readonly number[],
  top: number,
  bottom: number,
  more: { step?: number; most?: number; room?: number } = {},
): Level {
  const { step = 10, most = 60, room = 2 } = more;
  const high = Math.ceil((Math.max(...values) + room) / step) * step;
  const low = Math.max(Math.floor((Math.min(...values) - room) / step) * step, high - most);
  return scaleLinear().domain([low, high]).range([bottom, top]).clamp(true);
}

export const linear = (domain: readonly number[], range: readonly number[]): Level =>
  scaleLinear().domain(domain).range(range).clamp(true);

// Round steps of a level scale.
export function steps(scale: Level, step = 10): number[] {
  const [low = 0, high = 0] = scale.domain();
  return Array.from(
    { length: Math.floor((high - low) / step + 1e-6) + 1 },
    (_, i) => Math.ceil(low / step) * step + i * step,
  );
}
