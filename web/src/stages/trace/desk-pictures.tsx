// Small pictures of the desk: what is gained over what it costs; one figure per band.
import type { Schemas } from "../../api/client";
import { BandAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Curve } from "../../charts/marks";
import { bands, levels, linear, logarithmic } from "../../charts/scales";
import { hertz, num } from "../../parts/words";
import css from "./trace.module.css";
import { amount, useUnits } from "../../parts/units";

const [TALL, SIDE] = [100, 10];

// What is gained over what it costs, with the choices that lie on the curve.
export function Trade({ trade }: { trade: Schemas["Trade"] }) {
  const units = useUnits();
  const low = Math.min(0, ...trade.values);
  const y = linear([low, Math.max(low + 1, ...trade.values)], [TALL - 8, 20]);
  const at = (width: number) => logarithmic(trade.x[0] ?? 1, trade.x[trade.x.length - 1] ?? 10, SIDE, width - SIDE);
  const sorted = [...trade.points].sort((a, b) => a.x - b.x);
  return (
    <div className={css.trade} data-part="trade">
      <p className="small">
        {trade.label}, over {trade.x_label}
      </p>
      <Chart
        label={`${trade.label} over ${trade.x_label}`}
        columns={["choice", trade.x_label, trade.label]}
        height={TALL}
        first={312}
        points={(width) =>
          sorted.map((p) => ({
            at: at(width)(p.x),
            name: p.label,
            values: [amount(p.x, trade.x_unit, units, 0), `${num(-p.value)} ${trade.unit}`],
          }))
        }
      >
        {(width) => {
          const x = at(width);
          return (
            <>
              <path d={`M${SIDE} ${y(0)}H${width - SIDE}`} stroke="var(--line)" />
              <Curve xs={trade.x.map(x)} values={trade.values} y={y} colour="var(--moss)" width={2.5} />
              {sorted.map((p) => (
                <g key={p.label} fontSize={12} fontWeight={700}>
                  <circle
                    cx={x(p.x)}
                    cy={y(p.value)}
                    r={p.yours ? 7 : 4.5}
                    fill={p.yours ? "var(--moss)" : "var(--card)"}
                    stroke="var(--moss)"
                    strokeWidth={2}
                  />
                  {p.yours ? (
                    <text
                      x={x(p.x)}
                      y={y(p.value) - 12}
                      textAnchor={x(p.x) > width - 70 ? "end" : x(p.x) < 70 ? "start" : "middle"}
                    >
                      {p.label}
                    </text>
                  ) : null}
                </g>
              ))}
            </>
          );
        }}
      </Chart>
      <div className="rows">
        {sorted.map((p) => (
          <div key={p.label} className={p.yours ? "strong" : undefined}>
            <span>{p.label}</span>
            <span className="num">{amount(p.x, trade.x_unit, units, 0)}</span>
            <span className="num">
              {num(-p.value)} {trade.unit}
            </span>
          </div>
        ))}
      </div>
    </div>
  );
}

// The one-third octaves the desk predicts in.
const HZ = [
  50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000,
] as const;

// A small curve over the bands.
export function Line({ line }: { line: Schemas["BandLine"] }) {
  const known = line.values.filter((v): v is number => v !== null);
  const y = levels([0, ...known], 8, 62, { step: 5, most: 200, room: 0.5 });
  const [low = 0, high = 0] = y.domain();
  const at = (width: number) => bands(HZ, 4, width - 4);
  return (
    <div>
      <p className="small">
        {line.label}, {num(low, 0)} to {num(high, 0)} {line.unit}
      </p>
      <Chart
        label={`${line.label}, per band`}
        columns={["band", line.label]}
        height={84}
        first={312}
        points={(width) =>
          HZ.map((f, i) => ({
            at: at(width).middle(f),
            name: `${hertz(f)} Hz`,
            values: [line.values[i] == null ? "unknown" : `${num(line.values[i])} ${line.unit}`],
          }))
        }
      >
        {(width) => {
          const x = at(width);
          return (
            <>
              <path d={`M4 ${y(0)}H${width - 4}`} stroke="var(--line)" />
              <Curve xs={HZ.map((f) => x.middle(f))} values={line.values} y={y} colour="var(--moss)" width={2.5} />
              <BandAxis x={x} hz={HZ} y={80} x1={width - 4} room={38} />
            </>
          );
        }}
      </Chart>
    </div>
  );
}
