// What closing the panel round a loudspeaker may give, as a span per band, with the goal across it.
import type { Schemas } from "../../api/client";
import { BandAxis, LevelAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Key } from "../../charts/marks";
import { bands, linear } from "../../charts/scales";
import { hertz, signed } from "../../parts/words";

const [LEFT, TOP, BOTTOM, HEIGHT] = [50, 24, 326, 356];

export function Gain({ gain }: { gain: Schemas["GainView"] }) {
  const hz = gain.frequency_hz;
  const known = [...gain.least_db, ...gain.most_db].filter((v): v is number => v !== null);
  const step = 3;
  const top = Math.ceil((Math.max(6, ...known, gain.goal_db ?? 0) + 1) / step) * step;
  const low = Math.floor((Math.min(-3, ...known) - 1) / step) * step;
  const y = linear([low, top], [BOTTOM, TOP]);
  const at = (width: number) => bands(hz, LEFT, width - 8, 0.4);
  return (
    <Chart
      label="What closing the panel may give, per band"
      columns={["band", "at least", "at most", "goal"]}
      height={HEIGHT}
      points={(width) =>
        hz.map((f, i) => {
          const [least, most] = [gain.least_db[i] ?? null, gain.most_db[i] ?? null];
          return {
            at: at(width).middle(f),
            name: `${hertz(f)} Hz`,
            values:
              least === null || most === null
                ? ["not played", null, null]
                : [
                    `${signed(least)} dB`,
                    `${signed(most)} dB`,
                    gain.goal_db == null ? null : `${signed(gain.goal_db)} dB`,
                  ],
          };
        })
      }
      legend={
        <>
          <Key colour="var(--heather)" dash="5 3">
            an estimate, from least to most
          </Key>
          {gain.goal_db == null ? null : <Key colour="var(--moss)">goal {signed(gain.goal_db)} dB</Key>}
        </>
      }
    >
      {(width) => {
        const x = at(width);
        const bar = Math.min(34, x.width);
        return (
          <>
            <LevelAxis y={y} x0={LEFT} x1={width} step={step} sign />
            {hz.map((f, i) => {
              const [least, most] = [gain.least_db[i] ?? null, gain.most_db[i] ?? null];
              if (least === null || most === null)
                return (
                  <text key={f} x={x.middle(f)} y={y(0) - 8} textAnchor="middle" fontSize={13} className="soft">
                    –
                  </text>
                );
              return (
                <g key={f}>
                  <rect
                    x={x.middle(f) - bar / 2}
                    y={y(most)}
                    width={bar}
                    height={Math.max(y(least) - y(most), 4)}
                    rx={6}
                    fill="var(--heather-wash)"
                    stroke="var(--heather)"
                    strokeWidth={2}
                    strokeDasharray="5 3"
                  />
                  {x.width > 20 ? (
                    <>
                      <text x={x.middle(f)} y={y(most) - 7} textAnchor="middle" fontSize={13} fontWeight={700}>
                        {signed(most, 0)}
                      </text>
                      <text x={x.middle(f)} y={y(least) + 17} textAnchor="middle" fontSize={13} fontWeight={700}>
                        {signed(least, 0)}
                      </text>
                    </>
                  ) : null}
                </g>
              );
            })}
            {gain.goal_db != null ? (
              <line
                x1={LEFT}
                x2={width}
                y1={y(gain.goal_db)}
                y2={y(gain.goal_db)}
                stroke="var(--moss)"
                strokeWidth={3}
              />
            ) : null}
            <BandAxis x={x} hz={hz} y={HEIGHT - 8} x1={width} />
          </>
        );
      }}
    </Chart>
  );
}
