// The picture of Trace: a wall with gates as wide as the energy they let through; each can be pulled down to try what that gives.
import { useRef } from "react";
import type { Schemas } from "../../api/client";
import { Chart } from "../../charts/Chart";
import { linear, type Level } from "../../charts/scales";
import { num, percent, short, signed } from "../../parts/words";
import css from "./trace.module.css";

type View = Schemas["TraceView"];
type PathView = Schemas["PathView"];
export type Pulls = Record<number, number>;

const COLOURS = 8;
const [HEIGHT, GAP] = [470, 15];

// what passes one gate: a path, or all those together that are too small for gates of their own
type Way = { key: number; name: string; share: number; level_dba: number | null; path: PathView | null };
type Gate = {
  way: Way;
  colour: string;
  y: number;
  h: number;
  left: number;
  db: number;
  from: number;
  fromH: number;
  end: number;
};
type Props = {
  view: View;
  pulls: Pulls;
  pull: (id: number, db: number) => void;
  total: number | null;
  active: boolean;
};

// Where each gate stands; a band is as tall as its share of the energy, never thinner than a hair.
function gatesOf(view: View, pulls: Pulls): { gates: Gate[]; through: Level } {
  const ways = waysOf(view);
  const room = HEIGHT - 44 - GAP * (ways.length - 1);
  const heights = ways.map((w) => Math.max(5, w.share * room));
  const over = Math.max(1, heights.reduce((a, b) => a + b, 0) / room);
  const through = linear(
    view.let_through.map((_, db) => db),
    view.let_through,
  );
  const all = heights.reduce((a, b) => a + b, 0) / over;
  const each = (HEIGHT * 0.7) / Math.max(1, ways.length);
  let y = 22;
  let end = HEIGHT / 2 - all * 0.275;
  const gates = ways.map((way, i) => {
    const h = (heights[i] ?? 0) / over;
    const db = pulls[way.key] ?? 0;
    const gate = {
      way,
      colour: way.path
        ? `var(--gate-${Math.min(i + 1, COLOURS)})`
        : "color-mix(in srgb, var(--bark) 45%, var(--paper))",
      y,
      h,
      db,
      left: h * through(db),
      from: HEIGHT * 0.15 + i * each,
      fromH: each * 0.72,
      end,
    };
    y += h + GAP;
    end += h * 0.55;
    return gate;
  });
  return { gates, through };
}

function waysOf(view: View): Way[] {
  const together = new Set(view.others?.path_ids);
  const ways: Way[] = view.paths
    .filter((path) => path.share > 0 && !together.has(path.id))
    .map((path) => ({ key: path.id, name: path.name, share: path.share, level_dba: path.level_dba, path }));
  return view.others ? [...ways, { key: 0, path: null, ...view.others }] : ways;
}

export function Gates({ view, pulls, pull, total, active }: Props) {
  const { gates, through } = gatesOf(view, pulls);
  const wallOf = (width: number) => Math.round(width * (width < 520 ? 0.4 : 0.5));
  return (
    <Chart
      label="Ways in, by their share of what is heard"
      columns={["way in", "share", "level", "at most"]}
      height={HEIGHT}
      along="y"
      points={() =>
        gates.map(({ way, y, h, db }) => ({
          at: y + h / 2,
          name: way.name,
          values: [
            way.path ? shareWords(way.path, db) : percent(way.share),
            way.level_dba === null ? null : `${num(way.level_dba)} dB(A)`,
            way.path ? mostWords(way.path) : null,
          ],
        }))
      }
      legend={<span>Pull a gate down to try what closing it gives.</span>}
      over={(width) =>
        gates.map((g) =>
          g.way.path ? (
            <Knob
              key={g.way.key}
              gate={g}
              x={wallOf(width)}
              most={view.let_through.length - 1}
              closed={g.h * (1 - through(g.db))}
              pull={pull}
            />
          ) : null,
        )
      }
    >
      {(width) => <Wall view={view} gates={gates} width={width} wall={wallOf(width)} total={total} active={active} />}
    </Chart>
  );
}

type WallProps = {
  view: View;
  gates: readonly Gate[];
  width: number;
  wall: number;
  total: number | null;
  active: boolean;
};

function Wall({ view, gates, width, wall, total, active }: WallProps) {
  const narrow = width < 520;
  const source = narrow ? 62 : 98;
  const r = narrow ? 44 : 60;
  const ear = { x: width - r - 6, y: HEIGHT / 2 };
  return (
    <g>
      <rect x={0} y={HEIGHT * 0.12} width={source} height={HEIGHT * 0.76} rx={7} fill="var(--tape)" />
      {lines(view.condition, narrow ? 8 : 11).map((w, i, all) => (
        <text
          key={w}
          x={source / 2}
          y={HEIGHT / 2 - 4 + (i - all.length + 1) * 17}
          textAnchor="middle"
          fontWeight={700}
          fontSize={narrow ? 12 : 14}
        >
          {w}
        </text>
      ))}
      {(view.calibrated ? ["held to what", "was read"] : ["assumed"]).map((w, i) => (
        <text
          key={w}
          x={source / 2}
          y={HEIGHT / 2 + 15 + i * 16}
          textAnchor="middle"
          fontSize={narrow ? 10 : 12.5}
          className="soft"
        >
          {w}
        </text>
      ))}
      <rect x={wall - 5} y={4} width={10} height={HEIGHT - 8} fill="var(--ink)" />
      {gates.map((g) => {
        const to = g.left * 0.55;
        const low = g.end + g.h * 0.55;
        return (
          <g key={g.way.key} className="ease">
            <path
              d={band(source, g.from, g.from + g.fromH, wall - 7, g.y, g.y + g.h, source + (wall - source) * 0.5)}
              fill={g.colour}
              opacity={0.34}
            />
            <path
              d={band(
                wall + 7,
                g.y + g.h - g.left,
                g.y + g.h,
                ear.x - r * 0.66,
                low - to,
                low,
                wall + (ear.x - wall) * 0.5,
              )}
              fill={g.colour}
              opacity={0.92}
            />
            <rect x={wall - 7} y={g.y} width={14} height={g.h} fill="var(--card)" />
            <rect x={wall - 7} y={g.y} width={14} height={g.h - g.left} fill="var(--ink)" />
          </g>
        );
      })}
      {gates.map((g, i) => (
        <Names
          key={g.way.key}
          gate={g}
          first={i === 0}
          wall={wall}
          room={(Math.abs(g.y + g.h / 2 - ear.y) < r ? ear.x - r : width) - wall - 30}
          narrow={narrow}
        />
      ))}
      <circle cx={ear.x} cy={ear.y} r={r} fill="var(--card)" stroke="var(--ink)" strokeWidth={2} />
      <text
        x={ear.x}
        y={ear.y + 2}
        textAnchor="middle"
        fontSize={narrow ? 23 : 29}
        fontWeight={700}
        data-testid="at-ear"
      >
        {num(total)}
      </text>
      <text x={ear.x} y={ear.y + (narrow ? 18 : 22)} textAnchor="middle" fontSize={narrow ? 11 : 13}>
        dB(A) at ear
      </text>
      {active && total != null && view.total_dba != null ? (
        <text
          x={ear.x}
          y={ear.y + (narrow ? 33 : 40)}
          textAnchor="middle"
          fontSize={13}
          fontWeight={700}
          style={{ fill: "var(--moss)" }}
        >
          {signed(total - view.total_dba)} dB
        </text>
      ) : null}
    </g>
  );
}

function Names({
  gate,
  first,
  wall,
  room,
  narrow,
}: {
  gate: Gate;
  first: boolean;
  wall: number;
  room: number;
  narrow: boolean;
}) {
  const { y, h, db } = gate;
  const { path, share } = gate.way;
  const size = first ? (narrow ? 17 : 21) : narrow ? 13 : 15;
  const name = short(gate.way.name, Math.floor((room - (db > 0 ? 70 : 0)) / (size * 0.51)));
  return (
    <g pointerEvents="none">
      <text
        x={wall - 16}
        y={y + h / 2 + (first ? 9 : 5)}
        textAnchor="end"
        fontWeight={700}
        fontSize={first ? (narrow ? 22 : 27) : size}
      >
        {percent(share)}
      </text>
      <text x={wall + 22} y={y + h / 2 + (first ? 8 : 5)} fontWeight={700} fontSize={size} className={css.halo}>
        {name}
        {db > 0 ? ` −${num(db, 0)} dB` : ""}
        {db === 0 && path?.easy && !first && path.ceiling_db != null ? (
          <tspan fontWeight={400} fontSize={14} dx={8}>
            {fitting(
              [`easy to reach, gives ${gives(path.ceiling_db)}`, `easy: ${gives(path.ceiling_db)}`, "easy"],
              room - 10 - path.name.length * size * 0.5,
            )}
          </tspan>
        ) : null}
      </text>
    </g>
  );
}

function shareWords(path: PathView, db: number): string {
  const range = `${num(100 * path.share_low, 0)} to ${num(100 * path.share_high, 0)}`;
  return `${percent(path.share)} (${range})${db > 0 ? `, ${num(db, 0)} dB closed` : ""}`;
}

const mostWords = (path: PathView): string =>
  path.ceiling_db === null ? "all of it" : `${signed(-path.ceiling_db)} dB`;

// A condition's name on at most three short lines.
function lines(name: string, most: number): string[] {
  const out: string[] = [];
  for (const word of name.replaceAll(",", "").split(" ")) {
    const last = out[out.length - 1];
    if (last !== undefined && `${last} ${word}`.length <= most) out[out.length - 1] = `${last} ${word}`;
    else out.push(short(word, most));
  }
  return out.slice(0, 3);
}

function band(x1: number, a1: number, b1: number, x2: number, a2: number, b2: number, mid: number): string {
  return `M${x1} ${a1}C${mid} ${a1} ${mid} ${a2} ${x2} ${a2}L${x2} ${b2}C${mid} ${b2} ${mid} ${b1} ${x1} ${b1}Z`;
}

const DB_PER_PX = 0.16;
const KEYS: Record<string, number> = {
  ArrowDown: 1,
  ArrowUp: -1,
  PageDown: 5,
  PageUp: -5,
  Home: -Infinity,
  End: Infinity,
};

type KnobProps = { gate: Gate; x: number; most: number; closed: number; pull: Props["pull"] };

function Knob({ gate, x, most, closed, pull }: KnobProps) {
  const { way, y, db } = gate;
  const from = useRef<{ y: number; db: number } | null>(null);
  const set = (value: number) => pull(way.key, Math.min(most, Math.max(0, value)));
  return (
    <g
      className={css.knob}
      role="slider"
      tabIndex={0}
      aria-label={`Close ${way.name}`}
      aria-orientation="vertical"
      aria-valuemin={0}
      aria-valuemax={most}
      aria-valuenow={Math.round(db)}
      aria-valuetext={`${num(db, 0)} dB closed`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = { y: e.clientY, db };
      }}
      onPointerMove={(e) => {
        if (from.current) set(from.current.db + (e.clientY - from.current.y) * DB_PER_PX);
      }}
      onPointerUp={() => {
        from.current = null;
      }}
      onKeyDown={(e) => {
        const step = KEYS[e.key];
        if (step === undefined) return;
        e.preventDefault();
        set(db + step);
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
