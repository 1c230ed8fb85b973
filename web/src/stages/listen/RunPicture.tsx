// A run with its window: read like every picture; both ends are dragged, or moved with the arrow keys.
import { useRef } from "react";
import type { Schemas } from "../../api/client";
import { TimeAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Curve, Key } from "../../charts/marks";
import { linear, type Level } from "../../charts/scales";
import { num } from "../../parts/words";
import css from "./listen.module.css";

type Look = Schemas["RunView"];
export type Window = readonly [number, number];

const [HEIGHT, TOP, EDGE] = [190, 8, 16];
const BOTTOM = HEIGHT - 24;
const KEYS: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 };

type Props = { look: Look; window: Window; choose: (w: Window) => void };

export function RunPicture({ look, window: chosen, choose }: Props) {
  const low = Math.min(...look.level_db);
  const high = Math.max(...look.level_db, low + 6);
  const y = linear([low, high], [BOTTOM, TOP]);
  const at = (width: number) => linear([0, look.length_s], [EDGE, width - EDGE]);
  const time = (i: number) => ((i + 0.5) / look.level_db.length) * look.length_s;
  const least = look.length_s / 200;
  const move = (end: 0 | 1, s: number) => {
    const to = Math.round(Math.min(Math.max(s, 0), look.length_s) * 100) / 100;
    choose(end === 0 ? [Math.min(to, chosen[1] - least), chosen[1]] : [chosen[0], Math.max(to, chosen[0] + least)]);
  };
  return (
    <>
      <div className={css.run}>
        <Chart
          label="Level over time"
          columns={["time", "level", "smoothed"]}
          height={HEIGHT}
          first={700}
          points={(width) =>
            look.level_db.map((v, i) => ({
              at: at(width)(time(i)),
              name: `${num(time(i))} s`,
              values: [`${num(v)} dB`, look.smooth_db[i] === undefined ? null : `${num(look.smooth_db[i])} dB`],
            }))
          }
          legend={
            <Key colour="var(--water)" dash="5 3">
              smoothed, for looking; the result comes from the energy inside the window
            </Key>
          }
          over={(width) =>
            ([0, 1] as const).map((end) => (
              <End key={end} end={end} chosen={chosen} look={look} x={at(width)} width={width} move={move} />
            ))
          }
        >
          {(width) => {
            const x = at(width);
            return (
              <>
                <rect
                  x={x(chosen[0])}
                  y={TOP}
                  width={x(chosen[1]) - x(chosen[0])}
                  height={HEIGHT - TOP - 20}
                  fill="var(--moss-wash)"
                />
                <g opacity={0.6}>
                  <Curve
                    xs={look.level_db.map((_, i) => x(time(i)))}
                    values={look.level_db}
                    y={y}
                    colour="var(--bark)"
                    width={1}
                  />
                </g>
                <Curve
                  xs={look.level_db.map((_, i) => x(time(i)))}
                  values={look.smooth_db}
                  y={y}
                  colour="var(--water)"
                  width={2}
                  dash="5 3"
                />
                <text x={EDGE + 4} y={TOP + 12} fontSize={12} className="soft">
                  {num(high)} dB
                </text>
                <text x={EDGE + 4} y={HEIGHT - 26} fontSize={12} className="soft">
                  {num(low)} dB
                </text>
                <TimeAxis x0={EDGE} x1={width - EDGE} y={HEIGHT - 4} long={look.length_s} />
              </>
            );
          }}
        </Chart>
      </div>
      <div className="chips" role="group" aria-label="Steady stretches">
        <button className="chip" onClick={() => choose([0, look.length_s])}>
          all of it
        </button>
        {look.steady_s
          .filter(([a, b]) => b - a < look.length_s * 0.98)
          .map(([a, b]) => (
            <button key={a} className="chip" onClick={() => choose([a, b])}>
              steady {num(a, 0)} to {num(b, 0)} s
            </button>
          ))}
      </div>
    </>
  );
}

type EndProps = {
  end: 0 | 1;
  chosen: Window;
  look: Look;
  x: Level;
  width: number;
  move: (end: 0 | 1, s: number) => void;
};

function End({ end, chosen, look, x, width, move }: EndProps) {
  const grip = useRef<SVGRectElement | null>(null);
  const at = x(chosen[end]);
  const drag = (e: React.PointerEvent<SVGGElement>) => {
    if (e.type === "pointerdown") e.currentTarget.setPointerCapture(e.pointerId);
    if (e.type === "pointermove" && !e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const box = grip.current?.ownerSVGElement?.getBoundingClientRect();
    if (box) move(end, x.invert(e.clientX - box.left));
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      className={css.windowEnd}
      aria-label={end ? "End of the window" : "Start of the window"}
      aria-valuemin={0}
      aria-valuemax={look.length_s}
      aria-valuenow={chosen[end]}
      aria-valuetext={`${num(chosen[end])} s`}
      onPointerDown={drag}
      onPointerMove={drag}
      onKeyDown={(e) => {
        const by = KEYS[e.key];
        if (!by) return;
        e.preventDefault();
        move(end, chosen[end] + by * Math.max(look.length_s / 100, 0.125));
      }}
    >
      <rect ref={grip} x={at - 22} y={TOP} width={44} height={HEIGHT - TOP - 20} fill="transparent" />
      <line x1={at} x2={at} y1={TOP} y2={HEIGHT - 20} stroke="var(--moss)" strokeWidth={3} />
      <circle cx={at} cy={(HEIGHT - 20) / 2} r={9} fill="var(--card)" stroke="var(--moss)" strokeWidth={3} />
      <text
        x={Math.min(Math.max(at, 24), width - 32)}
        y={HEIGHT - 4}
        textAnchor="middle"
        fontSize={13}
        fontWeight={700}
        stroke="var(--card)"
        strokeWidth={4}
        paintOrder="stroke"
      >
        {num(chosen[end])} s
      </text>
    </g>
  );
}
