// What a box trades: decibels against degrees, every dot a box that could be built; and which way is loudest now.
import type { Schemas } from "../../../api/client";
import { amount, useUnits } from "../../../parts/units";
import { num, signed } from "../../../parts/words";
import css from "./builds.module.css";

type Spot = Schemas["TradeSpot"];
const [WIDE, TALL, LEFT, BASE] = [640, 240, 54, 200];

export function BoxTrade({
  spots,
  most,
  pick,
}: {
  spots: readonly Spot[];
  most: number | null;
  pick: (spot: Spot) => void;
}) {
  const units = useUnits();
  // what is far too hot is not worth looking at: half as warm again as the machine bears
  const near = spots.filter((s) => most === null || s.yours || s.inside_c <= Math.max(1.6 * most, most + 25));
  const hot = near.map((s) => s.inside_c);
  const quiet = near.map((s) => -s.change_dba);
  const span = (values: readonly number[], least: number) => {
    const [low, high] = [Math.min(...values), Math.max(...values)];
    const middle = (low + high) / 2;
    const half = Math.max((high - low) / 2, least / 2) * 1.12;
    return [middle - half, middle + half] as const;
  };
  const [c0, c1] = span(most === null ? hot : [...hot, most], 10);
  const [d0, d1] = span(quiet, 4);
  const x = (c: number) => LEFT + ((WIDE - LEFT - 14) * (c - c0)) / (c1 - c0);
  const y = (d: number) => BASE - ((BASE - 18) * (d - d0)) / (d1 - d0);
  const fans = [...new Set(near.map((s) => s.fan_m3_h))].sort((a, b) => a - b);
  const said = (s: Spot) =>
    `${s.fan_m3_h ? `fan of ${amount(s.fan_m3_h, "m³/h", units, 0)}` : "no fan"}, air ways of ${amount(s.vent_cm2, "cm²", units, 0)}: ` +
    `${signed(s.change_dba)} dB(A), ${num(s.inside_c, 0)} °C`;
  return (
    <figure className={css.trade}>
      <figcaption className="small">Quieter by dB(A), over how warm it gets inside: pick a point.</figcaption>
      <svg viewBox={`0 0 ${WIDE} ${TALL}`} role="group" aria-label="Decibels against degrees">
        {most !== null ? (
          <g>
            <rect
              x={x(most)}
              y={10}
              width={Math.max(WIDE - 14 - x(most), 0)}
              height={BASE - 10}
              className={css.tooHot}
            />
            <line x1={x(most)} x2={x(most)} y1={10} y2={BASE} className={css.limit} />
            <text x={WIDE - 18} y={BASE - 8} fontSize={14} className={css.left}>
              too hot from {num(most, 0)} °C
            </text>
          </g>
        ) : null}
        <path d={`M${LEFT} 10V${BASE}H${WIDE - 14}`} className={css.axis} />
        {[c0 + (c1 - c0) * 0.06, c1 - (c1 - c0) * 0.06].map((c) => (
          <text key={c} x={x(c)} y={BASE + 18} fontSize={14} className={css.name}>
            {num(c, 0)} °C
          </text>
        ))}
        {[d0 + (d1 - d0) * 0.06, d1 - (d1 - d0) * 0.06].map((d) => (
          <text key={d} x={LEFT - 6} y={y(d) + 5} fontSize={14} textAnchor="end" fill="var(--ink)">
            {num(d, 0)} dB
          </text>
        ))}
        {fans.map((fan) => (
          <path
            key={fan}
            d={near
              .filter((s) => s.fan_m3_h === fan)
              .map((s, i) => `${i ? "L" : "M"}${x(s.inside_c)} ${y(-s.change_dba)}`)
              .join("")}
            className={css.line}
            strokeDasharray={fan ? "6 4" : undefined}
          />
        ))}
        {near.map((s, i) => (
          <circle
            key={i}
            cx={x(s.inside_c)}
            cy={y(-s.change_dba)}
            r={s.yours ? 9 : 6}
            className={css.spot}
            data-yours={s.yours || undefined}
            role="button"
            tabIndex={0}
            aria-label={`${said(s)}${s.yours ? ", yours" : ""}`}
            onClick={() => pick(s)}
            onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && (e.preventDefault(), pick(s))}
          >
            <title>{said(s)}</title>
          </circle>
        ))}
      </svg>
      <p className="small">
        Full line without a fan, dashed with one. Yours:{" "}
        {near
          .filter((s) => s.yours)
          .map(said)
          .join("; ")}
        .
      </p>
    </figure>
  );
}

// Each way out by itself, the loudest first.
export function Loudest({ ways }: { ways: readonly (readonly [string, number])[] }) {
  const top = ways[0]?.[1] ?? 0;
  return (
    <ul className={css.ways} aria-label="What leaves by each way">
      {ways.map(([name, level]) => (
        <li key={name}>
          <b>{name}</b>
          <span className={css.bar} aria-hidden>
            <i style={{ width: `${Math.max(0, 100 - 4 * (top - level))}%` }} />
          </span>
          <b className="num">{num(level, 0)} dB(A)</b>
        </li>
      ))}
    </ul>
  );
}
