// Two rounds band by band with their difference under them; runs laid over each other.
import type { Schemas } from "../../api/client";
import { BandAxis, LevelAxis, TimeAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Bars, Curve, Interval, Key } from "../../charts/marks";
import { bands, levels, linear } from "../../charts/scales";
import { hertz, num, signed } from "../../parts/words";
import css from "./prove.module.css";

type View = Schemas["ProveView"];
const [LEFT, TOP, MIDDLE, BOTTOM] = [44, 18, 176, 262];
const MOST_DB = 12; // a tone that went is written out, lest it flatten the rest

type Props = {
  change: Schemas["SpectrumChange"];
  response: Schemas["Response"] | null;
  before: string;
  after: string;
  good: boolean;
};

export function Spectra({ change, response, before, after, good }: Props) {
  const keep = change.frequency_hz
    .map((f, i) => ({
      f,
      b: change.before_db[i] ?? null,
      a: change.after_db[i] ?? null,
      c: change.change_db[i] ?? null,
      u: change.within_db?.[i] ?? null,
    }))
    .filter((r) => r.f >= 25 && r.f <= 10000 && (r.b !== null || r.a !== null));
  if (keep.length < 2) return null;
  const hz = keep.map((r) => r.f);
  const y = levels(
    keep.flatMap((r) => [r.b, r.a]).filter((v): v is number => v !== null),
    TOP,
    MIDDLE,
  );
  const reach = Math.min(MOST_DB, Math.max(6, ...keep.map((r) => Math.abs(r.c ?? 0))));
  const d = linear([-reach, reach], [BOTTOM, MIDDLE + 14]);
  const at = (width: number) => bands(hz, LEFT, width - 12, 0.3);
  return (
    <div className={css.spectra}>
      <h2>Band by band, at the goal’s place</h2>
      <Chart
        label={`Levels per band, ${before} and ${after}, and their difference`}
        columns={["band", before, after, "change"]}
        height={BOTTOM + 22}
        points={(width) =>
          keep.map((r) => ({
            at: at(width).middle(r.f),
            name: `${hertz(r.f)} Hz`,
            values: [
              r.b === null ? null : `${num(r.b)} dB`,
              r.a === null ? null : `${num(r.a)} dB`,
              r.c === null ? null : `${signed(r.c)}${r.u === null ? "" : ` ± ${num(r.u)}`} dB`,
            ],
          }))
        }
        legend={
          <>
            <Key colour="var(--ink)">{before}</Key>
            <Key colour="var(--water)">{after}</Key>
          </>
        }
      >
        {(width) => {
          const x = at(width);
          const xs = hz.map((f) => x.middle(f));
          const x1 = width - 12;
          return (
            <>
              <LevelAxis y={y} x0={LEFT} x1={x1} />
              <Curve xs={xs} values={keep.map((r) => r.b)} y={y} colour="var(--ink)" width={2.4} />
              <Curve xs={xs} values={keep.map((r) => r.a)} y={y} colour="var(--water)" width={2.8} />
              <line x1={LEFT} x2={x1} y1={d(0)} y2={d(0)} stroke="var(--bark)" />
              <Bars
                xs={xs}
                values={keep.map((r) => r.c)}
                y={d}
                from={d(0)}
                width={x.width}
                colour={(v) => (v > 0 !== good ? "var(--cranberry)" : "var(--moss)")}
              />
              {keep.map((r) =>
                r.c !== null && r.u !== null ? (
                  <Interval key={r.f} x={x.middle(r.f)} low={r.c - r.u} high={r.c + r.u} y={d} colour="var(--ink)" />
                ) : null,
              )}
              {keep.map((r) =>
                r.c !== null && Math.abs(r.c) > reach ? (
                  <text
                    key={r.f}
                    x={x.middle(r.f) + x.width / 2 + 4}
                    y={d(r.c) + (r.c > 0 ? 10 : 0)}
                    fontSize={12}
                    fontWeight={700}
                  >
                    {signed(r.c)} dB
                  </text>
                ) : null,
              )}
              {[reach, 0, -reach].map((v) => (
                <text key={v} x={LEFT - 8} y={d(v) + 4} textAnchor="end" fontSize={12} className="soft">
                  {signed(v, 0)}
                </text>
              ))}
              <BandAxis x={x} hz={hz} y={BOTTOM + 18} x1={x1} />
            </>
          );
        }}
      </Chart>
      {response ? (
        <p>
          <b>{response.words}</b> Peaks and dips of more than 3 dB: {response.peaks_before}, then {response.peaks_after}
          .
        </p>
      ) : null}
      {change.sayings.map((s) => (
        <p key={s} className={css.saying}>
          {s}
        </p>
      ))}
    </div>
  );
}

const TALL = 150;
const READ_AT = 60;

export function Runs({ runs, unit }: { runs: View["runs"]; unit: string }) {
  const all = runs.flatMap((r) => r.level_db);
  const y = linear([Math.min(...all) - 1, Math.max(...all) + 1], [TALL - 26, 8]);
  const [low = 0, high = 0] = y.domain();
  const long = Math.max(...runs.map((r) => r.length_s), 1);
  const at = (width: number) => linear([0, long], [LEFT, width - 12]);
  const moments = Array.from({ length: READ_AT }, (_, i) => ((i + 0.5) / READ_AT) * long);
  const level = (run: View["runs"][number], s: number) =>
    run.level_db[Math.floor((s / run.length_s) * run.level_db.length)] ?? null;
  return (
    <div className={css.spectra}>
      <h2>The runs, laid over each other</h2>
      <Chart
        label={`Level over time of ${runs.map((r) => r.name).join(" and ")}`}
        columns={["time", ...runs.map((r) => r.name)]}
        height={TALL}
        points={(width) =>
          moments.map((s) => ({
            at: at(width)(s),
            name: `${num(s)} s`,
            values: runs.map((r) => {
              const v = level(r, s);
              return v === null ? null : `${num(v)} ${unit}`;
            }),
          }))
        }
        legend={
          <>
            {runs.map((r, k) => (
              <Key key={r.name} colour={k ? "var(--water)" : "var(--ink)"}>
                {r.name}
              </Key>
            ))}
            <span>bars below: the windows</span>
          </>
        }
      >
        {(width) => {
          const x = at(width);
          return (
            <>
              {runs.map((r, k) => {
                const colour = k ? "var(--water)" : "var(--ink)";
                return (
                  <g key={r.name}>
                    {r.window_s ? (
                      <rect
                        x={x(r.window_s[0])}
                        width={x(r.window_s[1]) - x(r.window_s[0])}
                        y={k ? TALL - 24 : TALL - 18}
                        height={5}
                        fill={colour}
                        opacity={0.7}
                      />
                    ) : null}
                    <Curve
                      xs={r.level_db.map((_, i) => x(((i + 0.5) / r.level_db.length) * r.length_s))}
                      values={r.level_db}
                      y={y}
                      colour={colour}
                      width={1.6}
                    />
                  </g>
                );
              })}
              {[high - 1, low + 1].map((v) => (
                <text key={v} x={38} y={y(v) + 4} textAnchor="end" fontSize={12} className="soft">
                  {num(v, 0)}
                </text>
              ))}
              <TimeAxis x0={LEFT} x1={width - 12} y={TALL - 1} long={long} more={`, ${unit}`} />
            </>
          );
        }}
      </Chart>
    </div>
  );
}
