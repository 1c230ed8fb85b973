// What comes through the surface per band, now and after.
import type { Schemas } from "../../api/client";
import { BandAxis, LevelAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Bars, Curve, Key, Ribbon } from "../../charts/marks";
import { bands, between, levels } from "../../charts/scales";
import { hertz, num, signed } from "../../parts/words";

const [LEFT, TOP, HEIGHT] = [44, 14, 246];
const BOTTOM = HEIGHT - 24;

export function Curves({ view, name }: { view: Schemas["BuildView"]; name: string }) {
  const c = view.curves;
  if (!c) return null;
  const hz = c.frequency_hz;
  const same = c.change_db.every((v) => v === 0);
  const y = levels([...c.now_db, ...c.after_db], TOP, BOTTOM, { most: 70, room: 3 });
  const at = (width: number) => bands(hz, LEFT, width - 14);
  const resonance = view.resonance_hz;
  return (
    <Chart
      label={`Level at the listener through ${name}, per band`}
      columns={same ? ["band", "now"] : ["band", "now", "after", "change"]}
      height={HEIGHT}
      points={(width) =>
        hz.map((f, i) => ({
          at: at(width).middle(f),
          name: `${hertz(f)} Hz`,
          values: [
            `${num(c.now_db[i])} dB`,
            ...(same ? [] : [`${num(c.after_db[i])} dB`, `${signed(c.change_db[i])} dB`]),
          ],
        }))
      }
      legend={
        <>
          <Key colour="var(--ink)">through it now</Key>
          {same ? null : (
            <Key colour="var(--heather)" dash="6 4">
              after, predicted ± {num(c.error_db, 0)} dB{view.rating ? ` · ${view.rating}` : ""}
            </Key>
          )}
        </>
      }
    >
      {(width) => {
        const x = at(width);
        const xs = hz.map((f) => x.middle(f));
        const x1 = width - 14;
        const note = resonance ? between(x, hz)(resonance) : null;
        return (
          <>
            <LevelAxis y={y} x0={LEFT} x1={x1} />
            <Bars xs={xs} values={c.now_db} y={y} from={BOTTOM} width={x.width} colour={() => "var(--tape)"} />
            {same ? null : (
              <Ribbon
                xs={xs}
                low={c.after_db.map((v) => v - c.error_db)}
                high={c.after_db.map((v) => v + c.error_db)}
                y={y}
                colour="var(--heather)"
              />
            )}
            <Curve xs={xs} values={c.now_db} y={y} colour="var(--ink)" />
            {same ? null : <Curve xs={xs} values={c.after_db} y={y} colour="var(--heather)" dash="6 4" name="after" />}
            <BandAxis x={x} hz={hz} y={HEIGHT - 6} x1={x1} />
            {resonance && note !== null && note < x1 ? (
              <g>
                <path d={`M${note} ${TOP - 10}v18`} stroke="var(--cranberry)" strokeWidth={2.2} />
                <text
                  x={note > width / 2 ? note - 7 : note + 7}
                  y={TOP}
                  textAnchor={note > width / 2 ? "end" : "start"}
                  fontSize={12.5}
                  style={{ fill: "var(--cranberry)" }}
                >
                  lining resonates at {num(resonance, 0)} Hz
                </text>
              </g>
            ) : null}
          </>
        );
      }}
    </Chart>
  );
}
