// What a platform passes into its floor, thirds from 12.5 Hz: on a rigid floor, and against standing straight on this one.
import type { Schemas } from "../../../api/client";
import { BandAxis, LevelAxis } from "../../../charts/axes";
import { Chart } from "../../../charts/Chart";
import { Curve, Key } from "../../../charts/marks";
import { bands, linear } from "../../../charts/scales";
import { hertz, signed } from "../../../parts/words";

const [LEFT, TOP, BOTTOM, HEIGHT] = [44, 16, 206, 236];
const SHOWN_HZ = 500; // above it waves in the pads take over

export function Passed({ of }: { of: Schemas["Transmissibility"] }) {
  const hz = of.frequency_hz.filter((f) => f <= SHOWN_HZ);
  const cut = (values: readonly number[]) => values.slice(0, hz.length).map((v) => Math.max(v, -40));
  const [rigid, here] = [cut(of.rigid), cut(of.worse_db)];
  const y = linear([-40, Math.max(10, ...rigid, ...here) + 2], [BOTTOM, TOP]);
  const at = (width: number) => bands(hz, LEFT, width - 8);
  return (
    <Chart
      label="What passes into the floor"
      columns={["third", "against straight on this floor", "on a rigid floor"]}
      height={HEIGHT}
      points={(width) =>
        hz.map((f, i) => ({
          at: at(width).middle(f),
          name: `${hertz(f)} Hz`,
          values: [`${signed(here[i] ?? 0)} dB`, `${signed(rigid[i] ?? 0)} dB`],
        }))
      }
      legend={
        <>
          <Key colour="var(--moss)">against straight on this floor (over 0: worse)</Key>
          <Key colour="var(--bark)" dash="5 4">
            on a rigid floor
          </Key>
        </>
      }
    >
      {(width) => {
        const x = at(width);
        const xs = hz.map((f) => x.middle(f));
        return (
          <>
            <LevelAxis y={y} x0={LEFT} x1={width} step={10} unit="dB" sign />
            <Curve xs={xs} values={rigid} y={y} colour="var(--bark)" width={2} dash="5 4" />
            <Curve xs={xs} values={here} y={y} colour="var(--moss)" width={3} />
            <BandAxis x={x} hz={hz} y={BOTTOM + 18} x1={width} />
          </>
        );
      }}
    </Chart>
  );
}
