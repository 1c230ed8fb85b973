// The picture of Trace: a wall with gates as wide as the energy they let through; each can be pulled down to try what that gives.
import { useRef } from "react";
import type { Schemas } from "../../api/client";
import { useWidth } from "../../parts/GoalRule";
import { num, percent, short, signed } from "../../parts/words";

type View = Schemas["TraceView"];
type PathView = Schemas["PathView"];
export type Pulls = Record<number, number>;
const MOST_PULL = 30;

const COLOURS = ["#b5453d", "#cc7a52", "#d3a05f", "#c2aa66", "#a3ab78", "#8ba68c", "#7d9d99", "#8893a3"];

export function Gates({
  view,
  pulls,
  pull,
  total,
  active,
}: {
  view: View;
  pulls: Pulls;
  pull: (id: number, db: number) => void;
  total: number | null;
  active: boolean;
}) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const height = 470;
  const paths = view.paths.filter((p) => p.share > 0);
  const gap = 15;
  const room = height - 44 - gap * (paths.length - 1);
  // a band is as tall as its share of the energy, never thinner than a hair
  const heights = paths.map((p) => Math.max(5, p.share * room));
  const over = heights.reduce((a, b) => a + b, 0) / room;
  const scaled = heights.map((h) => h / Math.max(1, over));
  const tops: number[] = [];
  scaled.reduce((y, h) => {
    tops.push(y);
    return y + h + gap;
  }, 22);
  const wall = Math.round(width * 0.5);
  const ear = { x: width - 66, y: height / 2 };
  const inner = scaled.reduce((a, b) => a + b, 0) * 0.55;
  const ends = scaled.map((_, i) => ear.y - inner / 2 + scaled.slice(0, i).reduce((a, b) => a + b, 0) * 0.55);
  return (
    <div ref={ref}>
      <svg width={width} height={height} className="gates">
        <rect x={0} y={height * 0.12} width={98} height={height * 0.76} rx={7} fill="var(--tape)" />
        {words(view.condition).map((w, i, all) => (
          <text
            key={w}
            x={49}
            y={height / 2 - 4 + (i - all.length + 1) * 17}
            textAnchor="middle"
            fontWeight={700}
            fontSize={14}
          >
            {w}
          </text>
        ))}
        {(view.calibrated ? ["held to what", "was read"] : ["assumed"]).map((w, i) => (
          <text key={w} x={49} y={height / 2 + 15 + i * 16} textAnchor="middle" fontSize={12.5} className="soft">
            {w}
          </text>
        ))}
        <rect x={wall - 5} y={4} width={10} height={height - 8} fill="var(--ink)" />
        {paths.map((p, i) => {
          const y = tops[i] ?? 0;
          const h = scaled[i] ?? 0;
          const from = height * 0.15 + (i / Math.max(1, paths.length)) * height * 0.7;
          const fromH = ((height * 0.7) / Math.max(1, paths.length)) * 0.72;
          const db = pulls[p.id] ?? 0;
          const left = h * Math.pow(10, -db / 10);
          const colour = COLOURS[Math.min(i, COLOURS.length - 1)] ?? "#888";
          const toH = left * 0.55;
          const end = ends[i] ?? ear.y;
          const mid = wall + (ear.x - wall) * 0.5;
          return (
            <g key={p.id} className="ease">
              <path
                d={band(98, from, from + fromH, wall - 7, y, y + h, 98 + (wall - 98) * 0.5)}
                fill={colour}
                opacity={0.34}
              />
              <path
                d={band(wall + 7, y + h - left, y + h, ear.x - 40, end + (h * 0.55 - toH), end + h * 0.55, mid)}
                fill={colour}
                opacity={0.92}
              />
              <rect x={wall - 7} y={y} width={14} height={h} fill="var(--card)" />
              <rect x={wall - 7} y={y} width={14} height={h - left} fill="var(--ink)" />
              <Knob path={p} x={wall} y={y} h={h} db={db} pull={pull} />
            </g>
          );
        })}
        {paths.map((p, i) => {
          const y = tops[i] ?? 0;
          const h = scaled[i] ?? 0;
          const db = pulls[p.id] ?? 0;
          return (
            <g key={p.id} pointerEvents="none">
              <text x={wall - 16} y={y + h / 2 + (i ? 5 : 9)} textAnchor="end" fontWeight={700} fontSize={i ? 15 : 27}>
                {percent(p.share)}
              </text>
              <text x={wall + 22} y={y + h / 2 + (i ? 5 : 8)} fontWeight={700} fontSize={i ? 15 : 21} className="halo">
                {short(p.name, Math.floor((width - wall - (db > 0 ? 100 : 30)) / (i ? 7.6 : 10.6)))}
                {db > 0 ? ` −${num(db, 0)} dB` : ""}
                {db === 0 && p.easy && i > 0 && p.ceiling_db != null ? (
                  <tspan fontWeight={400} fontSize={14} dx={8}>
                    {fitting(
                      [`easy to reach, gives ${gives(p.ceiling_db)}`, `easy: ${gives(p.ceiling_db)}`, "easy"],
                      width - wall - 40 - p.name.length * 7.4,
                    )}
                  </tspan>
                ) : null}
              </text>
            </g>
          );
        })}
        <circle cx={ear.x} cy={ear.y} r={60} fill="var(--card)" stroke="var(--ink)" strokeWidth={2} />
        <text x={ear.x} y={ear.y + 2} textAnchor="middle" fontSize={29} fontWeight={700} data-testid="at-ear">
          {num(total)}
        </text>
        <text x={ear.x} y={ear.y + 22} textAnchor="middle" fontSize={13}>
          dB(A) at ear
        </text>
        {active && total != null && view.total_dba != null ? (
          <text
            x={ear.x}
            y={ear.y + 40}
            textAnchor="middle"
            fontSize={13}
            fontWeight={700}
            style={{ fill: "var(--moss)" }}
          >
            {signed(total - view.total_dba)} dB
          </text>
        ) : null}
      </svg>
    </div>
  );
}

// A condition's name on at most three short lines.
function words(name: string): string[] {
  const lines: string[] = [];
  for (const word of name.replaceAll(",", "").split(" ")) {
    const last = lines[lines.length - 1];
    if (last !== undefined && `${last} ${word}`.length <= 11) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  return lines.slice(0, 3);
}

function band(x1: number, a1: number, b1: number, x2: number, a2: number, b2: number, mid: number): string {
  return `M${x1} ${a1}C${mid} ${a1} ${mid} ${a2} ${x2} ${a2}L${x2} ${b2}C${mid} ${b2} ${mid} ${b1} ${x1} ${b1}Z`;
}

function Knob({
  path,
  x,
  y,
  h,
  db,
  pull,
}: {
  path: PathView;
  x: number;
  y: number;
  h: number;
  db: number;
  pull: (id: number, db: number) => void;
}) {
  const from = useRef<{ y: number; db: number } | null>(null);
  const set = (value: number) => pull(path.id, Math.min(MOST_PULL, Math.max(0, value)));
  const closed = h * (1 - Math.pow(10, -db / 10));
  return (
    <g
      className="knob"
      role="slider"
      tabIndex={0}
      aria-label={`Close ${path.name}`}
      aria-valuemin={0}
      aria-valuemax={MOST_PULL}
      aria-valuenow={Math.round(db)}
      aria-valuetext={`${num(db, 0)} dB closed`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = { y: e.clientY, db };
      }}
      onPointerMove={(e) => {
        if (from.current) set(from.current.db + (e.clientY - from.current.y) * 0.16);
      }}
      onPointerUp={() => {
        from.current = null;
      }}
      onKeyDown={(e) => {
        const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 5, PageUp: -5 }[e.key];
        if (step) {
          e.preventDefault();
          set(db + step);
        }
        if (e.key === "Home") set(0);
        if (e.key === "End") set(MOST_PULL);
      }}
    >
      <circle cx={x} cy={y + closed} r={20} fill="transparent" />
      <circle cx={x} cy={y + closed} r={8} fill="var(--card)" stroke="var(--ink)" strokeWidth={2.4} />
    </g>
  );
}

const gives = (db: number): string => (db < 0.1 ? "next to nothing" : `${num(db)} dB at most`);

// The longest of some wordings that fits a width, px.
const fitting = (wordings: string[], room: number): string => wordings.find((w) => w.length * 6.4 < room) ?? "";
