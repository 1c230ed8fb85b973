// The surface to scale: what stays clear, its pieces read one by one; its sizes, corners and clear places edited on the drawing.
import { Button } from "antd";
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Schemas } from "../../api/client";
import { Chart } from "../../charts/Chart";
import { Field } from "../../parts/fields";
import type { StageProps } from "../../parts/stage";
import { length, lengthUnit, sentIn, shownIn, useUnits } from "../../parts/units";
import { num } from "../../parts/words";
import { FILL, Hatches, Letter, path } from "../../theme/hatches";
import css from "./cut.module.css";
import { middle } from "./Sheets";
import { useZoom } from "./zoom";

type Surface = Schemas["Surface"];
type Drawn = Schemas["SurfaceView"];
type Layer = Schemas["LayerPieces"] | undefined;
type Points = readonly (readonly number[])[];
type Place = (p: readonly number[]) => [number, number];

const [TOP, TALLEST, WIDEST, ROOMY, GRID_MM] = [34, 470, 620, 460, 5];

type Props = {
  view: Drawn;
  row: Surface;
  layer: Layer;
  edit: StageProps["edit"];
  room: number;
  lit: string;
  light: (label: string) => void;
  all: boolean;
};

export function SurfaceDrawing({ view, row, layer, edit, room, lit, light, all }: Props) {
  const units = useUnits();
  const zoom = useZoom();
  const roomy = room > ROOMY;
  const left = roomy ? 108 : 12;
  const scale = Math.min(Math.min(WIDEST, room - left - 14) / view.areas.width_mm, TALLEST / view.areas.height_mm);
  const [w, h] = [view.areas.width_mm * scale, view.areas.height_mm * scale];
  const x0 = Math.min(...view.outline_mm.map((p) => p[0] ?? 0));
  const y0 = Math.min(...view.outline_mm.map((p) => p[1] ?? 0));
  const z = zoom.zoom;
  const at: Place = (p) => [
    z.x + z.k * (left + ((p[0] ?? 0) - x0) * scale),
    z.y + z.k * (TOP + h - ((p[1] ?? 0) - y0) * scale),
  ];
  const stretch = (axis: 0 | 1) => (to_mm: string) =>
    edit.operate("surfaces", row, [{ op: "stretch", at: ["outline_mm"], axis, to_mm: to_mm as never }]);
  const typed = (text: string) => sentIn(text.replace(/\s(?=\d{3})/g, "").replace(",", "."), "length", units);
  const shown = all ? view.layers : layer ? [layer] : [];
  const centre: [number, number] = [left + w / 2, TOP + h / 2];
  return (
    <div
      className={css.surfaceDraw}
      style={roomy ? { width: left + w + 14 } : undefined}
      data-roomy={roomy || undefined}
      onWheel={zoom.wheel}
    >
      <Chart
        label={`${view.name}, ${length(Math.round(view.areas.width_mm), units)} by ${length(Math.round(view.areas.height_mm), units)}`}
        columns={["piece", "size"]}
        height={h + TOP + 16}
        first={568}
        points={() =>
          (layer?.pieces ?? []).map((p) => {
            const [x, y] = middle(p.outline_mm.map(at));
            const size = `${length(Math.round(p.width_mm), units)} × ${length(Math.round(p.height_mm), units)}`;
            return { at: x, across: y, name: p.label, values: [`${size}, ${num(p.kg, 2)} kg`] };
          })
        }
        legend={layer?.pieces.length ? <Legend layer={layer} /> : null}
        over={() => <Handles row={row} edit={edit} at={at} mm={1 / (scale * z.k)} pan={z.k > 1 ? zoom.shift : null} />}
      >
        {() => (
          <>
            <Hatches />
            <path d={path(view.outline_mm.map(at))} fill="var(--tape)" stroke="var(--ink)" strokeWidth={2.5} />
            {shown.map((l) =>
              l.pieces.map((p) => (
                <path
                  key={p.label}
                  d={[p.outline_mm, ...p.holes_mm].map((r: Points) => path(r.map(at))).join("")}
                  fillRule="evenodd"
                  fill={FILL[l.letter]}
                  fillOpacity={all ? 0.55 : 1}
                  className={p.label === lit ? css.lit : css.piece}
                  onPointerEnter={() => light(p.label)}
                />
              )),
            )}
            {view.opening_mm.length ? <path d={path(view.opening_mm.map(at))} className={css.opening} /> : null}
            <Clear row={row} at={at} scale={scale * z.k} />
            {layer && !all
              ? layer.pieces.map((p) => {
                  const [x, y] = middle(p.outline_mm.map(at));
                  return <Letter key={p.label} x={x} y={y} letter={p.label.replace(/^\D+/, "")} r={11} />;
                })
              : null}
            {z.k === 1 ? <path d={ticks(left, w, roomy ? h : null)} stroke="var(--bark)" fill="none" /> : null}
          </>
        )}
      </Chart>
      <div className={css.zoom} role="group" aria-label="Size of the drawing">
        <Button size="small" onClick={() => zoom.larger(centre)} aria-label="Larger">
          +
        </Button>
        <Button size="small" onClick={() => zoom.smaller(centre)} disabled={z.k === 1} aria-label="Smaller">
          −
        </Button>
        <Button size="small" onClick={zoom.whole} disabled={z.k === 1}>
          whole
        </Button>
      </div>
      <Dimension
        at={roomy && z.k === 1 ? [left + w / 2 - 54, 0] : null}
        label="Width"
        value={shownIn(Math.round(view.areas.width_mm), "length", units)}
        unit={lengthUnit(units)}
        save={(t) => stretch(0)(typed(t))}
      />
      <Dimension
        at={roomy && z.k === 1 ? [0, TOP + h / 2 - 18] : null}
        label="Height"
        value={shownIn(Math.round(view.areas.height_mm), "length", units)}
        unit={lengthUnit(units)}
        save={(t) => stretch(1)(typed(t))}
      />
    </div>
  );
}

function Legend({ layer }: { layer: Schemas["LayerPieces"] }) {
  const count = layer.pieces.length === 1 ? "1 piece" : `${layer.pieces.length} pieces`;
  return (
    <span>
      {layer.strips ? `${count}, numbered as they go in through the opening` : `${count}; point at one for its size`}
      {layer.lap_mm ? `; lapped ${num(layer.lap_mm, 0)} mm` : ""}
      {layer.seam_m ? `; ${num(layer.seam_m)} m of seam` : ""}
    </span>
  );
}

// The lines its sizes stand on; the height's only where there is room beside it.
function ticks(left: number, w: number, h: number | null): string {
  const across = `M${left} 18h${w}M${left} 12v12M${left + w} 12v12`;
  return h === null ? across : `${across}M${left - 18} ${TOP}v${h}M${left - 24} ${TOP}h12M${left - 24} ${TOP + h}h12`;
}

const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
type Held = { what: string; from: [number, number]; by: [number, number] };
type HandlesProps = {
  row: Surface;
  edit: StageProps["edit"];
  at: Place;
  mm: number;
  pan: ((dx: number, dy: number) => void) | null;
};

// Corners and clear places that a pointer, a finger or the arrow keys move; on a grid of 5 mm, with Alt or Shift of 1 mm.
function Handles({ row, edit, at, mm, pan }: HandlesProps) {
  const units = useUnits();
  const [held, setHeld] = useState<Held | null>(null);
  const start = (what: string) => (e: PointerEvent<SVGElement>) => {
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    setHeld({ what, from: [e.clientX, e.clientY], by: [0, 0] });
  };
  const grid = (v: number, fine: boolean) => (fine ? Math.round(v) : Math.round(v / GRID_MM) * GRID_MM);
  const move = (e: PointerEvent<SVGElement>) =>
    held && setHeld({ ...held, by: [(e.clientX - held.from[0]) * mm, -(e.clientY - held.from[1]) * mm] });
  const corner = (n: number, to: readonly number[]) =>
    edit.tryOperate("surfaces", row, {
      op: "set",
      at: ["outline_mm"],
      value: row.outline_mm.map((p, i) => (i === n ? to : p)),
    });
  const zone = (z: Schemas["KeepClear"], to: readonly number[]) =>
    edit.tryOperate(
      "surfaces",
      row,
      { op: "set", at: ["keep_clear", z.id ?? "", "x_mm"], value: to[0] },
      { op: "set", at: ["keep_clear", z.id ?? "", "y_mm"], value: to[1] },
    );
  const dropped = (from: readonly number[], fine: boolean): [number, number] => [
    grid((from[0] ?? 0) + (held?.by[0] ?? 0), fine),
    grid((from[1] ?? 0) + (held?.by[1] ?? 0), fine),
  ];
  const end = (from: readonly number[], put: (to: [number, number]) => unknown) => (e: PointerEvent<SVGElement>) => {
    if (held && Math.hypot(...held.by) > 2 * mm) put(dropped(from, e.altKey));
    setHeld(null);
  };
  const press = (from: readonly number[], put: (to: [number, number]) => unknown) => (e: KeyboardEvent) => {
    const by = STEPS[e.key];
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    const step = e.shiftKey ? 1 : GRID_MM;
    put([(from[0] ?? 0) + by[0] * step, (from[1] ?? 0) + by[1] * step]);
  };
  const said = (p: readonly number[]) =>
    `${length(Math.round(p[0] ?? 0), units)} across, ${length(Math.round(p[1] ?? 0), units)} up`;
  const few = row.outline_mm.length <= 40;
  return (
    <>
      {pan ? <PanGround pan={pan} /> : null}
      {row.keep_clear.map((z, i) => {
        const what = `z${i}`;
        const by: [number, number] = held?.what === what ? held.by : [0, 0];
        const [x, y] = at([z.x_mm + by[0], z.y_mm + z.height_mm + by[1]]);
        const put = (to: [number, number]) => zone(z, to);
        const from = [z.x_mm, z.y_mm];
        return (
          <rect
            key={z.id || i}
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
            onPointerUp={end(from, put)}
            onKeyDown={press(from, put)}
          />
        );
      })}
      {few
        ? row.outline_mm.map((p, i) => {
            const what = `c${i}`;
            const by: [number, number] = held?.what === what ? held.by : [0, 0];
            const [x, y] = at([(p[0] ?? 0) + by[0], (p[1] ?? 0) + by[1]]);
            const put = (to: [number, number]) => corner(i, to);
            return (
              <circle
                key={i}
                cx={x}
                cy={y}
                r={7}
                className={css.corner}
                tabIndex={0}
                role="button"
                aria-label={`Corner ${i + 1}, ${said(p)}; arrow keys move it`}
                onPointerDown={start(what)}
                onPointerMove={move}
                onPointerUp={end(p, put)}
                onKeyDown={press(p, put)}
              />
            );
          })
        : null}
    </>
  );
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

function Clear({ row, at, scale }: { row: Surface; at: Place; scale: number }) {
  return (
    <>
      {row.keep_clear.map((z, i) => {
        const [x, y] = at([z.x_mm, z.y_mm + z.height_mm]);
        const [w, h] = [z.width_mm * scale, z.height_mm * scale];
        const name = z.name || z.kind;
        if (z.pierce)
          return (
            <path
              key={i}
              d={`M${x + w / 2 - 6} ${y + h / 2}h12M${x + w / 2} ${y + h / 2 - 6}v12`}
              className={css.pierce}
            >
              <title>{`${name}: covered, then pierced`}</title>
            </path>
          );
        return (
          <g key={i}>
            {z.shape === "circle" ? (
              <ellipse cx={x + w / 2} cy={y + h / 2} rx={w / 2} ry={h / 2} className={css.clear} />
            ) : (
              <rect x={x} y={y} width={w} height={h} className={css.clear} />
            )}
            {w > name.length * 6 && h > 15 ? (
              <text
                x={x + w / 2}
                y={y + h / 2 + 4}
                textAnchor="middle"
                fontSize={11.5}
                style={{ fill: "var(--cranberry)" }}
              >
                {name}
              </text>
            ) : (
              <title>{name}</title>
            )}
          </g>
        );
      })}
    </>
  );
}

type DimensionProps = {
  at: readonly [number, number] | null;
  label: string;
  value: string;
  unit: string;
  save: (v: string) => Promise<unknown>;
};

// A dimension on the drawing, or beside it where it is small; the whole outline is stretched to it.
function Dimension({ at, label, value, unit, save }: DimensionProps) {
  return (
    <div className={css.dim} style={at ? { left: at[0], top: at[1] } : undefined}>
      <Field label={label} unit={unit} value={value} save={save} />
    </div>
  );
}
