// How long a room rings, per octave: one state beside another, each with what is known of its width, and what is wanted.
import { hertz, num } from "../parts/words";
import { BandAxis, LevelAxis } from "./axes";
import { Chart } from "./Chart";
import css from "./charts.module.css";
import { Key } from "./marks";
import { bands, linear } from "./scales";

type Values = readonly (number | null)[];
type Props = {
  hz: readonly number[];
  before: Values;
  after: Values;
  beforeWithin?: Values;
  afterWithin?: Values;
  target?: number | null;
  names: readonly [string, string];
};

const [LEFT, TOP, BOTTOM, HEIGHT] = [44, 20, 206, 236];
const shown = (t: number | null, within: number | null | undefined) =>
  t === null ? null : `${num(t, 2)}${within ? ` ± ${num(within, 2)}` : ""} s`;

export function Ringing({ hz, before, after, beforeWithin = [], afterWithin = [], target, names }: Props) {
  const known = [...before, ...after, target ?? null].filter((v): v is number => v !== null);
  const step = Math.max(...known, 0.1) > 1.6 ? 0.5 : 0.2;
  const y = linear([0, Math.ceil((Math.max(...known, 0.2) * 1.15) / step) * step], [BOTTOM, TOP]);
  const at = (width: number) => bands(hz, LEFT, width - 8, 0.3);
  const bar = (f: number, side: 0 | 1, width: number) => {
    const x = at(width);
    return { x: x.middle(f) + (side ? 1 : -1 - x.width / 2), wide: x.width / 2 };
  };
  const pairs = [
    { of: before, within: beforeWithin, fill: "var(--bark)" },
    { of: after, within: afterWithin, fill: "var(--moss)" },
  ] as const;
  return (
    <Chart
      label="How long the room rings, per octave"
      columns={["octave", names[0], names[1]]}
      height={HEIGHT}
      points={(width) =>
        hz.map((f, i) => ({
          at: at(width).middle(f),
          name: `${hertz(f)} Hz`,
          values: [shown(before[i] ?? null, beforeWithin[i]), shown(after[i] ?? null, afterWithin[i])],
        }))
      }
      legend={
        <>
          <Key colour="var(--bark)">{names[0]}</Key>
          <Key colour="var(--moss)">{names[1]}</Key>
          {target == null ? null : (
            <Key colour="var(--ink)" dash="5 4">
              wanted {num(target, 2)} s
            </Key>
          )}
        </>
      }
    >
      {(width) => (
        <>
          <LevelAxis y={y} x0={LEFT} x1={width} step={step} unit="s" digits={1} />
          {pairs.map(({ of, within, fill }, side) =>
            hz.map((f, i) => {
              const t = of[i] ?? null;
              if (t === null) return null;
              const { x, wide } = bar(f, side as 0 | 1, width);
              const half = within[i] ?? 0;
              return (
                <g key={`${side}-${f}`}>
                  <rect x={x} width={wide} y={y(t)} height={BOTTOM - y(t)} style={{ fill }} />
                  {half ? (
                    <line
                      x1={x + wide / 2}
                      x2={x + wide / 2}
                      y1={y(t + half)}
                      y2={y(Math.max(t - half, 0))}
                      className={css.whisker}
                    />
                  ) : null}
                </g>
              );
            }),
          )}
          {target == null ? null : (
            <line
              x1={LEFT}
              x2={width}
              y1={y(target)}
              y2={y(target)}
              stroke="var(--ink)"
              strokeWidth={1.6}
              strokeDasharray="5 4"
            />
          )}
          <BandAxis x={at(width)} hz={hz} y={BOTTOM + 18} x1={width} />
        </>
      )}
    </Chart>
  );
}
