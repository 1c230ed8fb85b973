// What comes through the surface per band, now and after; its loss, what it takes off, what its face absorbs; and what rules it.
import { Segmented } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { BandAxis, LevelAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Bars, Curve, Key, Ribbon } from "../../charts/marks";
import { bands, between, levels, linear } from "../../charts/scales";
import { hertz, num, signed } from "../../parts/words";
import css from "./build.module.css";

const [LEFT, TOP, HEIGHT] = [44, 14, 246];
const BOTTOM = HEIGHT - 24;
type Which = "noise" | "loss" | "less" | "absorbed";
type Found = Schemas["Curves"];

// Now and after of each view, and whether more is better there.
const SERIES: Record<Which, (c: Found) => { now: readonly number[]; after: readonly number[] }> = {
  noise: (c) => ({ now: c.now_db, after: c.after_db }),
  loss: (c) => ({ now: c.loss_now_db, after: c.loss_after_db }),
  less: (c) => ({ now: c.change_db.map(() => 0), after: c.change_db.map((v) => -v) }),
  absorbed: (c) => ({ now: [], after: c.absorbed ?? [] }),
};
const WORDS: Record<Which, string> = {
  noise: "Level at the listener",
  loss: "Transmission loss R",
  less: "Insertion loss",
  absorbed: "Absorbed",
};

export function Curves({ view, name }: { view: Schemas["BuildView"]; name: string }) {
  const [which, setWhich] = useState<Which>("noise");
  const c = view.curves;
  if (!c) return null;
  const shown = which === "absorbed" && !c.absorbed ? "noise" : which;
  const { now, after } = SERIES[shown](c);
  const hz = c.frequency_hz;
  const share = shown === "absorbed";
  const same = !share && c.change_db.every((v) => v === 0);
  const error = share ? 0 : c.error_db;
  const y = share ? linear([0, 1.2], [BOTTOM, TOP]) : levels([...now, ...after], TOP, BOTTOM, { most: 70, room: 3 });
  const at = (width: number) => bands(hz, LEFT, width - 14);
  const resonance = view.resonance_hz;
  const text = (v: number | undefined) => (share ? num(v, 2) : `${num(v)} dB`);
  return (
    <>
      <div className={css.which}>
        <Segmented<Which>
          value={shown}
          onChange={setWhich}
          options={[
            { value: "noise", label: "noise" },
            { value: "loss", label: "loss R" },
            { value: "less", label: "taken off" },
            ...(c.absorbed ? [{ value: "absorbed" as const, label: "absorbed" }] : []),
          ]}
        />
      </div>
      <Chart
        label={`${WORDS[shown]} through ${name}, per band`}
        columns={
          share
            ? ["band", "absorbed"]
            : same
              ? ["band", "now", "ruled by"]
              : ["band", "now", "after", "change", "ruled by"]
        }
        height={HEIGHT}
        points={(width) =>
          hz.map((f, i) => ({
            at: at(width).middle(f),
            name: `${hertz(f)} Hz`,
            values: share
              ? [text(after[i])]
              : [
                  text(now[i]),
                  ...(same ? [] : [text(after[i]), `${signed((after[i] ?? 0) - (now[i] ?? 0))} dB`]),
                  c.ruled_by[i] ?? null,
                ],
          }))
        }
        legend={
          share ? (
            <Key colour="var(--heather)">absorbed share of what falls on it</Key>
          ) : (
            <>
              <Key colour="var(--ink)">{shown === "noise" ? "through it now" : "now"}</Key>
              {same ? null : (
                <Key colour="var(--heather)" dash="6 4">
                  after, predicted ± {num(c.error_db, 0)} dB{view.rating ? ` · ${view.rating}` : ""}
                </Key>
              )}
            </>
          )
        }
      >
        {(width) => {
          const x = at(width);
          const xs = hz.map((f) => x.middle(f));
          const x1 = width - 14;
          const note = resonance && !share ? between(x, hz)(resonance) : null;
          return (
            <>
              {share ? (
                [0, 0.5, 1].map((v) => (
                  <text key={v} x={LEFT - 7} y={y(v) + 4} textAnchor="end" fontSize={12.5}>
                    {num(v)}
                  </text>
                ))
              ) : (
                <LevelAxis y={y} x0={LEFT} x1={x1} />
              )}
              {shown === "noise" ? (
                <Bars xs={xs} values={now} y={y} from={BOTTOM} width={x.width} colour={() => "var(--tape)"} />
              ) : null}
              {same || share ? null : (
                <Ribbon
                  xs={xs}
                  low={after.map((v) => v - error)}
                  high={after.map((v) => v + error)}
                  y={y}
                  colour="var(--heather)"
                />
              )}
              {now.length ? <Curve xs={xs} values={now} y={y} colour="var(--ink)" /> : null}
              {same ? null : <Curve xs={xs} values={after} y={y} colour="var(--heather)" dash="6 4" name="after" />}
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
    </>
  );
}
