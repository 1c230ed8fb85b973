// Axes: levels in steps with their lines, bands by name, time from its beginning to its end.
import { hertz, num, signed } from "../parts/words";
import css from "./charts.module.css";
import { steps, type Bands, type Level } from "./scales";

type LevelProps = { y: Level; x0: number; x1: number; step?: number; unit?: string; sign?: boolean; digits?: number };

export function LevelAxis({ y, x0, x1, step = 10, unit = "dB", sign = false, digits = 0 }: LevelProps) {
  const all = steps(y, step);
  return (
    <>
      {all.map((v) => (
        <g key={v}>
          <line x1={x0} x2={x1} y1={y(v)} y2={y(v)} className={v === 0 && sign ? css.zero : css.grid} />
          <text x={x0 - 7} y={y(v) + 4} textAnchor="end" className={css.tick}>
            {sign ? signed(v, digits) : num(v, digits)}
          </text>
        </g>
      ))}
      <text x={0} y={10} className={css.tick}>
        {unit}
      </text>
    </>
  );
}

// As many bands are named as there is room for, the octaves first.
export function BandAxis({
  x,
  hz,
  y,
  x1,
  room = 34,
}: {
  x: Bands;
  hz: readonly number[];
  y: number;
  x1: number;
  room?: number;
}) {
  const octaves = hz.filter((f) => OCTAVES.includes(f));
  const named = hz.length <= octaves.length + 2 ? hz : octaves;
  const fits = Math.max(1, Math.ceil((named.length * room) / Math.max(x1 - x.middle(hz[0] ?? 0), 1)));
  return (
    <>
      {named.map((f, i) =>
        i % fits === 0 && x.middle(f) < x1 - 22 ? (
          <text key={f} x={x.middle(f)} y={y} textAnchor="middle" className={css.tick}>
            {hertz(f)}
          </text>
        ) : null,
      )}
      <text x={x1} y={y} textAnchor="end" className={css.tick}>
        Hz
      </text>
    </>
  );
}
const OCTAVES = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000];

export function TimeAxis({
  x0,
  x1,
  y,
  long,
  more = "",
}: {
  x0: number;
  x1: number;
  y: number;
  long: number;
  more?: string;
}) {
  return (
    <>
      <text x={x0} y={y} className={css.tick}>
        0 s
      </text>
      <text x={x1} y={y} textAnchor="end" className={css.tick}>
        {num(long, 0)} s{more}
      </text>
    </>
  );
}
