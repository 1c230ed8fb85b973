// Corners and clear places moved on the drawing by pointer, finger or arrow keys: on a grid, to the edges and to one another;
// a corner drawn out of a side, or taken away.
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Schemas } from "../../api/client";
import type { Operation } from "../../api/operations";
import type { StageProps } from "../stage";
import { length, useUnits } from "../units";
import { path } from "../../theme/hatches";
import css from "./drawing.module.css";
import { measured } from "./measured";
import { withCorner, withoutCorner } from "./sides";

type Surface = Schemas["Surface"];
type Zone = Schemas["KeepClear"];
type Point = readonly number[];
export type Place = (p: Point) => [number, number];

const [GRID_MM, SNAP_PX, MOST_CORNERS, LEAST_SIDE_PX] = [5, 7, 40, 70];
const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

type Props = {
  row: Surface;
  edit: StageProps["edit"];
  at: Place;
  mm: number;
  pan: ((dx: number, dy: number) => void) | null;
};
type Held = { what: string; from: [number, number]; by: [number, number]; fine: boolean };

const grid = (v: number, fine: boolean) => (fine ? Math.round(v) : Math.round(v / GRID_MM) * GRID_MM);
const ends = (from: number, size: number) => [from, from + size / 2, from + size];

// Where a place of some size comes to lie: a side or its middle on the nearest line there is, else on the grid.
function drawnTo(from: number, size: number, lines: readonly number[], near: number): [number, number | null] {
  const shifts = lines.flatMap((to) => ends(from, size).map((end) => ({ to, by: to - end })));
  const best = shifts.sort((a, b) => Math.abs(a.by) - Math.abs(b.by))[0];
  return best && Math.abs(best.by) <= near ? [from + best.by, best.to] : [grid(from, false), null];
}

// A band stays along what it lay along where a corner comes in or goes.
const renumbered = (row: Surface, change: (sides: readonly number[]) => number[]): Operation[] =>
  row.keep_clear
    .filter((z) => z.shape === "edge" && z.edges?.length)
    .map((z) => ({ op: "set", at: ["keep_clear", z.id ?? "", "edges"], value: change(z.edges ?? []) }));

export function Handles({ row, edit, at, mm, pan }: Props) {
  const units = useUnits();
  const [held, setHeld] = useState<Held | null>(null);
  const outline = row.outline_mm;
  const start = (what: string) => (e: PointerEvent<SVGElement>) => {
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    setHeld({ what, from: [e.clientX, e.clientY], by: [0, 0], fine: e.altKey });
  };
  const move = (e: PointerEvent<SVGElement>) =>
    held &&
    setHeld({
      ...held,
      by: [(e.clientX - held.from[0]) * mm, -(e.clientY - held.from[1]) * mm],
      fine: e.altKey,
    });
  const end = (put: () => unknown) => () => {
    if (held && Math.hypot(...held.by) > 2 * mm) put();
    setHeld(null);
  };
  const put = (...operations: Operation[]) => void edit.tryOperate("surfaces", row, ...measured(row, ...operations));
  const shape = (value: readonly Point[]): Operation => ({ op: "set", at: ["outline_mm"], value });
  const corner = (n: number, to: Point) => put(shape(outline.map((p, i) => (i === n ? to : p))));
  const zone = (z: Zone, to: Point) =>
    put(
      { op: "set", at: ["keep_clear", z.id ?? "", "x_mm"], value: to[0] },
      { op: "set", at: ["keep_clear", z.id ?? "", "y_mm"], value: to[1] },
    );
  const added = (side: number, to: Point) =>
    put(
      shape([...outline.slice(0, side), to as [number, number], ...outline.slice(side)]),
      ...renumbered(row, (sides) => withCorner(sides, side)),
    );
  const gone = (n: number) =>
    outline.length > 3 &&
    put(
      shape(outline.filter((_, i) => i !== n)),
      ...renumbered(row, (sides) => withoutCorner(sides, n, outline.length)),
    );
  const dropped = (from: Point, h: Held | null): [number, number] => [
    grid((from[0] ?? 0) + (h?.by[0] ?? 0), h?.fine ?? false),
    grid((from[1] ?? 0) + (h?.by[1] ?? 0), h?.fine ?? false),
  ];
  const press =
    (from: Point, to: (p: [number, number]) => unknown, keys: Record<string, () => unknown> = {}) =>
    (e: KeyboardEvent) => {
      const [by, key] = [STEPS[e.key], keys[e.key]];
      if (!by && !key) return;
      e.preventDefault();
      e.stopPropagation();
      if (key) return void key();
      const step = e.shiftKey ? 1 : GRID_MM;
      if (by) to([(from[0] ?? 0) + by[0] * step, (from[1] ?? 0) + by[1] * step]);
    };
  const said = (p: Point) =>
    `${length(Math.round(p[0] ?? 0), units)} across, ${length(Math.round(p[1] ?? 0), units)} up`;
  // where a clear place that is held comes to lie, and on which lines
  const target = (z: Zone, h: Held) => {
    const others = row.keep_clear.filter((o) => o !== z && o.shape !== "edge");
    const lines = (axis: 0 | 1, own: (o: Zone) => [number, number]) => [
      ...outline.map((p) => p[axis]),
      ...others.flatMap((o) => ends(...own(o))),
    ];
    const [x, y] = [z.x_mm + h.by[0], z.y_mm + h.by[1]];
    if (h.fine) return { to: [grid(x, true), grid(y, true)] as [number, number], on: [null, null] };
    const [tx, onX] = drawnTo(
      x,
      z.width_mm,
      lines(0, (o) => [o.x_mm, o.width_mm]),
      SNAP_PX * mm,
    );
    const [ty, onY] = drawnTo(
      y,
      z.height_mm,
      lines(1, (o) => [o.y_mm, o.height_mm]),
      SNAP_PX * mm,
    );
    return { to: [tx, ty] as [number, number], on: [onX, onY] };
  };
  const few = outline.length <= MOST_CORNERS;
  const drawing = held && /^[cs]/.test(held.what) ? held : null;
  const n = Number(held?.what.slice(1));
  const pulled = drawing
    ? drawing.what.startsWith("c")
      ? outline.map((p, i) => (i === n ? dropped(p, drawing) : p))
      : [...outline.slice(0, n), dropped(halfway(outline, n - 1), drawing), ...outline.slice(n)]
    : null;
  return (
    <>
      {pan ? <PanGround pan={pan} /> : null}
      {pulled ? <path d={path(pulled.map(at))} className={css.pulled} /> : null}
      {row.keep_clear.map((z, i) => {
        if (z.shape === "edge") return null;
        const what = `z${i}`;
        const found = held?.what === what ? target(z, held) : null;
        const to = found?.to ?? [z.x_mm, z.y_mm];
        const [x, y] = at([to[0] ?? 0, (to[1] ?? 0) + z.height_mm]);
        const from = [z.x_mm, z.y_mm];
        const [alongX, alongY] = [found?.on[0] ?? null, found?.on[1] ?? null];
        return (
          <g key={z.id || i}>
            {alongX === null ? null : <Guide at={at} row={row} x={alongX} />}
            {alongY === null ? null : <Guide at={at} row={row} y={alongY} />}
            <rect
              x={x - 6}
              y={y - 6}
              width={z.width_mm / mm + 12}
              height={z.height_mm / mm + 12}
              className={css.grip}
              tabIndex={0}
              role="button"
              aria-label={`${z.kind}${z.name ? ` ${z.name}` : ""}, ${said(from)}; arrow keys move it`}
              onPointerDown={start(what)}
              onPointerMove={move}
              onPointerUp={end(() => held && zone(z, target(z, held).to))}
              onPointerCancel={() => setHeld(null)}
              onKeyDown={press(from, (p) => zone(z, p))}
            />
          </g>
        );
      })}
      {few
        ? outline.map((_, i) => {
            const half = halfway(outline, i);
            const side = Math.hypot(...difference(at(outline[i] ?? half), at(half))) * 2;
            if (side < LEAST_SIDE_PX) return null;
            const what = `s${i + 1}`;
            const [x, y] = at(held?.what === what ? dropped(half, held) : half);
            return (
              <path
                key={`s${i}`}
                d={`M${x - 6} ${y}l6 -6l6 6l-6 6Z`}
                className={css.newCorner}
                tabIndex={0}
                role="button"
                aria-label={`New corner on side ${i + 1}: drag it out, or press Enter`}
                onPointerDown={start(what)}
                onPointerMove={move}
                onPointerUp={end(() => added(i + 1, dropped(half, held)))}
                onPointerCancel={() => setHeld(null)}
                onKeyDown={press(half, () => undefined, { Enter: () => added(i + 1, dropped(half, null)) })}
              />
            );
          })
        : null}
      {few
        ? outline.map((p, i) => {
            const what = `c${i}`;
            const [x, y] = at(held?.what === what ? dropped(p, held) : p);
            return (
              <circle
                key={i}
                cx={x}
                cy={y}
                r={7}
                className={css.corner}
                tabIndex={0}
                role="button"
                aria-label={`Corner ${i + 1}, ${said(p)}; arrow keys move it, Delete takes it away`}
                onPointerDown={start(what)}
                onPointerMove={move}
                onPointerUp={end(() => corner(i, dropped(p, held)))}
                onPointerCancel={() => setHeld(null)}
                onKeyDown={press(p, (to) => corner(i, to), { Delete: () => gone(i), Backspace: () => gone(i) })}
              />
            );
          })
        : null}
    </>
  );
}

const difference = (a: Point, b: Point): [number, number] => [(a[0] ?? 0) - (b[0] ?? 0), (a[1] ?? 0) - (b[1] ?? 0)];
const halfway = (outline: readonly Point[], i: number): [number, number] => {
  const [a, b] = [outline[i] ?? [0, 0], outline[(i + 1) % outline.length] ?? [0, 0]];
  return [((a[0] ?? 0) + (b[0] ?? 0)) / 2, ((a[1] ?? 0) + (b[1] ?? 0)) / 2];
};

// The line a clear place has come to lie on, right across the surface.
function Guide({ at, row, x, y }: { at: Place; row: Surface; x?: number; y?: number }) {
  const [xs, ys] = [row.outline_mm.map((p) => p[0]), row.outline_mm.map((p) => p[1])];
  const [a, b] = [at([x ?? Math.min(...xs), y ?? Math.min(...ys)]), at([x ?? Math.max(...xs), y ?? Math.max(...ys)])];
  return <path d={`M${a.join(" ")}L${b.join(" ")}`} className={css.guide} />;
}

// What lies under the handles lets the picture be moved about while it is larger than its place.
function PanGround({ pan }: { pan: (dx: number, dy: number) => void }) {
  const [last, setLast] = useState<[number, number] | null>(null);
  return (
    <rect
      width="100%"
      height="100%"
      className={css.ground}
      onPointerDown={(e) => setLast([e.clientX, e.clientY])}
      onPointerMove={(e) => {
        if (!last || !e.buttons) return;
        pan(e.clientX - last[0], e.clientY - last[1]);
        setLast([e.clientX, e.clientY]);
      }}
      onPointerUp={() => setLast(null)}
    />
  );
}
