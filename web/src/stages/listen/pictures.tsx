// Pictures of Listen: the last seconds of an instrument, its bands, and what was read at a place so far.
import type { Schemas } from "../../api/client";
import { BandAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Bars, Curve } from "../../charts/marks";
import { bands, linear } from "../../charts/scales";
import { hertz, num } from "../../parts/words";
import css from "./listen.module.css";

const LAST_S = 30;

export function LiveTrace({ values, unit }: { values: readonly number[]; unit: string }) {
  const low = values.length ? Math.min(...values) : 0;
  const y = linear([low, Math.max(...values, low + 6)], [58, 4]);
  const at = (width: number) => linear([0, Math.max(values.length - 1, 1)], [0, width]);
  const ago = (i: number) => (1 - i / Math.max(values.length - 1, 1)) * Math.min(LAST_S, values.length / 4);
  return (
    <div className={css.liveTrace}>
      <Chart
        label="Level of the last 30 seconds"
        columns={["time", "level"]}
        height={62}
        first={300}
        points={(width) =>
          values.map((v, i) => ({ at: at(width)(i), name: `${num(ago(i), 0)} s ago`, values: [`${num(v)} ${unit}`] }))
        }
        legend={<span>the last {LAST_S} s</span>}
      >
        {(width) => (
          <Curve xs={values.map((_, i) => at(width)(i))} values={values} y={y} colour="var(--water)" width={1.8} />
        )}
      </Chart>
    </div>
  );
}

const DEEP_DB = 50;

export function LiveBands({ hz, db }: { hz: readonly number[]; db: readonly (number | null)[] }) {
  const shown = hz.map((f, i) => ({ f, v: db[i] ?? null })).filter((b) => b.f >= 25 && b.f <= 10000);
  const known = shown.map((b) => b.v).filter((v): v is number => v !== null);
  if (!known.length) return null;
  const high = Math.max(...known);
  const y = linear([high - DEEP_DB, high], [66, 4]);
  const names = shown.map((b) => b.f);
  const at = (width: number) => bands(names, 0, width, 0.2);
  return (
    <Chart
      label="One-third octaves, unweighted"
      columns={["band", "level"]}
      height={84}
      first={300}
      points={(width) =>
        shown.map((b) => ({
          at: at(width).middle(b.f),
          name: `${hertz(b.f)} Hz`,
          values: [b.v === null ? null : `${num(b.v)} dB`],
        }))
      }
      legend={<span>the loudest band reads {num(high, 0)} dB</span>}
    >
      {(width) => {
        const x = at(width);
        return (
          <>
            <Bars
              xs={names.map((f) => x.middle(f))}
              values={shown.map((b) => b.v)}
              y={y}
              from={66}
              width={x.width}
              colour={() => "var(--water)"}
            />
            <BandAxis x={x} hz={names} y={82} x1={width} room={40} />
          </>
        );
      }}
    </Chart>
  );
}

// How the level of a kept reading went while it was taken.
export function History({ reading, unit }: { reading: Schemas["Reading"]; unit: string }) {
  const values = reading.history_db;
  const low = Math.min(...values);
  const y = linear([low, Math.max(...values, low + 3)], [58, 6]);
  const at = (width: number) => linear([0, values.length - 1], [4, width - 4]);
  return (
    <Chart
      label="The level while it was read"
      columns={["time", "level"]}
      height={64}
      first={300}
      points={(width) =>
        values.map((v, i) => ({
          at: at(width)(i),
          name: reading.history_s
            ? `${num(((i + 0.5) / values.length) * reading.history_s)} s`
            : `${i + 1} of ${values.length}`,
          values: [`${num(v)} ${unit}`],
        }))
      }
      legend={<span>the level while it was read{reading.history_s ? `, ${num(reading.history_s, 0)} s` : ""}</span>}
    >
      {(width) => (
        <Curve xs={values.map((_, i) => at(width)(i))} values={values} y={y} colour="var(--bark)" width={1.6} />
      )}
    </Chart>
  );
}
