// The surface to scale: what stays clear, its pieces read one by one; its sizes edited on the drawing.
import { Button } from "antd";
import type { Schemas } from "../../api/client";
import { Chart } from "../../charts/Chart";
import { Field } from "../fields";
import type { StageProps } from "../stage";
import { amount, length, lengthUnit, sentIn, shownIn, useUnits } from "../units";
import { Hatches, Letter, path } from "../../theme/hatches";
import css from "./drawing.module.css";
import { Handles, type Place } from "./handles";
import { measured } from "./measured";
import { middle, PieceShape } from "./PieceShape";
import { useZoom } from "./zoom";

type Surface = Schemas["Surface"];
type Drawn = Schemas["SurfaceView"];
type Layer = Schemas["LayerPieces"] | undefined;
type Points = readonly (readonly number[])[];

const [TOP, TALLEST, WIDEST, ROOMY] = [34, 470, 620, 460];

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
    edit.operate("surfaces", row, measured(row, { op: "stretch", at: ["outline_mm"], axis, to_mm: to_mm as never }));
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
            return { at: x, across: y, name: p.label, values: [`${size}, ${amount(p.kg, "kg", units, 2)}`] };
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
                <PieceShape key={p.label} piece={p} letter={l.letter} place={at} lit={lit} light={light} faint={all} />
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
  const units = useUnits();
  const count = layer.pieces.length === 1 ? "1 piece" : `${layer.pieces.length} pieces`;
  return (
    <span>
      {layer.strips ? `${count}, numbered as they go in through the opening` : `${count}; point at one for its size`}
      {layer.lap_mm ? `; lapped ${length(Math.round(layer.lap_mm), units)}` : ""}
      {layer.seam_m ? `; ${amount(layer.seam_m, "m", units)} of seam` : ""}
    </span>
  );
}

// The lines its sizes stand on; the height's only where there is room beside it.
function ticks(left: number, w: number, h: number | null): string {
  const across = `M${left} 18h${w}M${left} 12v12M${left + w} 12v12`;
  return h === null ? across : `${across}M${left - 18} ${TOP}v${h}M${left - 24} ${TOP}h12M${left - 24} ${TOP + h}h12`;
}

// The sides a band lies along, each from corner to corner.
function bandOf(row: Surface, edges: readonly number[]): Points[] {
  const corners = row.outline_mm;
  const all = corners.map((p, i) => [p, corners[(i + 1) % corners.length] ?? p]);
  return edges.length ? edges.flatMap((n) => (all[n - 1] ? [all[n - 1] as Points] : [])) : all;
}

function Clear({ row, at, scale }: { row: Surface; at: Place; scale: number }) {
  return (
    <>
      <clipPath id="within">
        <path d={path(row.outline_mm.map(at))} />
      </clipPath>
      {row.keep_clear.map((z, i) => {
        if (z.shape === "edge")
          return (
            <path
              key={i}
              d={bandOf(row, z.edges ?? [])
                .map((s) => `M${s.map((p) => at(p).join(" ")).join("L")}`)
                .join("")}
              className={css.band}
              strokeWidth={2 * z.width_mm * scale}
              clipPath="url(#within)"
            >
              <title>{z.name || z.kind}</title>
            </path>
          );
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
