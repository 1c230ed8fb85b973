// Marks: a curve that breaks where nothing is known, the band of its uncertainty, bars from a line, an interval.
import { area, line } from "d3-shape";
import css from "./charts.module.css";
import type { Level } from "./scales";

type Value = number | null;
type CurveProps = {
  xs: readonly number[];
  values: readonly Value[];
  y: Level;
  colour: string;
  width?: number;
  dash?: string;
  name?: string;
};

export function Curve({ xs, values, y, colour, width = 2.6, dash, name }: CurveProps) {
  const d = line<Value>()
    .defined((v) => v !== null)
    .x((_, i) => xs[i] ?? 0)
    .y((v) => y(v ?? 0))
    .digits(1)(values);
  return (
    <path
      d={d ?? ""}
      fill="none"
      stroke={colour}
      strokeWidth={width}
      strokeDasharray={dash}
      vectorEffect="non-scaling-stroke"
      data-curve={name}
    />
  );
}

export function Ribbon({
  xs,
  low,
  high,
  y,
  colour,
}: {
  xs: readonly number[];
  low: readonly number[];
  high: readonly number[];
  y: Level;
  colour: string;
}) {
  const d = area<number>()
    .x((_, i) => xs[i] ?? 0)
    .y0((_, i) => y(low[i] ?? 0))
    .y1((v) => y(v))
    .digits(1)(high);
  return <path d={d ?? ""} fill={colour} opacity={0.2} />;
}

type BarsProps = {
  xs: readonly number[];
  values: readonly Value[];
  y: Level;
  from: number;
  width: number;
  colour: (v: number) => string;
};

export function Bars({ xs, values, y, from, width, colour }: BarsProps) {
  return (
    <>
      {values.map((v, i) =>
        v === null ? null : (
          <rect
            key={xs[i]}
            x={(xs[i] ?? 0) - width / 2}
            y={Math.min(from, y(v))}
            width={width}
            height={Math.max(1, Math.abs(y(v) - from))}
            fill={colour(v)}
          />
        ),
      )}
    </>
  );
}

// From low to high at one place, with a foot at each end.
export function Interval({
  x,
  low,
  high,
  y,
  colour,
}: {
  x: number;
  low: number;
  high: number;
  y: Level;
  colour: string;
}) {
  return (
    <path
      d={`M${x} ${y(high)}V${y(low)}M${x - 6} ${y(high)}h12M${x - 6} ${y(low)}h12`}
      stroke={colour}
      strokeWidth={2}
      fill="none"
    />
  );
}

// What a mark of a picture means, beside it.
export function Key({ colour, dash, children }: { colour: string; dash?: string; children: React.ReactNode }) {
  return (
    <span className={css.key}>
      <svg width={22} height={8} aria-hidden>
        <line x1={0} x2={22} y1={4} y2={4} stroke={colour} strokeWidth={3} strokeDasharray={dash} />
      </svg>
      {children}
    </span>
  );
}
