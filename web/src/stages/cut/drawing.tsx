// The surface to scale: what stays clear, its pieces read one by one, its sizes edited on the drawing.
import type { Schemas } from "../../api/client";
import { Chart } from "../../charts/Chart";
import { Field } from "../../parts/fields";
import type { StageProps } from "../../parts/stage";
import { num } from "../../parts/words";
import { FILL, Hatches, Letter, path } from "../../theme/hatches";
import css from "./cut.module.css";

type Surface = Schemas["Surface"];
type Drawn = Schemas["SurfaceView"];
type Layer = Schemas["LayerPieces"] | undefined;
type Points = readonly (readonly number[])[];

const [TOP, TALLEST, WIDEST, ROOMY] = [34, 400, 460, 460];

type Props = { view: Drawn; row: Surface; layer: Layer; edit: StageProps["edit"]; room: number };

export function SurfaceDrawing({ view, row, layer, edit, room }: Props) {
  const roomy = room > ROOMY;
  const left = roomy ? 108 : 12;
  const scale = Math.min(Math.min(WIDEST, room - left - 14) / view.areas.width_mm, TALLEST / view.areas.height_mm);
  const [w, h] = [view.areas.width_mm * scale, view.areas.height_mm * scale];
  const x0 = Math.min(...view.outline_mm.map((p) => p[0] ?? 0));
  const y0 = Math.min(...view.outline_mm.map((p) => p[1] ?? 0));
  const at = (p: readonly number[]): [number, number] => [
    left + ((p[0] ?? 0) - x0) * scale,
    TOP + h - ((p[1] ?? 0) - y0) * scale,
  ];
  const stretch = (axis: 0 | 1) => (to_mm: number) =>
    edit.operate("surfaces", row, [{ op: "stretch", at: ["outline_mm"], axis, to_mm }]);
  return (
    <div
      className={css.surfaceDraw}
      style={roomy ? { width: left + w + 14 } : undefined}
      data-roomy={roomy || undefined}
    >
      <Chart
        label={`${view.name}, ${num(view.areas.width_mm, 0)} by ${num(view.areas.height_mm, 0)} mm`}
        columns={["piece", "size"]}
        height={h + TOP + 16}
        first={568}
        points={() =>
          (layer?.pieces ?? []).map((p) => {
            const [x, y] = middle(p.outline_mm.map(at));
            const [wide, high] = sizes(p.outline_mm);
            return { at: x, across: y, name: p.label, values: [`${num(wide, 0)} × ${num(high, 0)} mm`] };
          })
        }
        legend={
          layer?.pieces.length ? (
            <span>
              {layer.pieces.length === 1 ? "1 piece" : `${layer.pieces.length} pieces`}; point at one for its size
            </span>
          ) : null
        }
      >
        {() => (
          <>
            <Hatches />
            <Shape view={view} layer={layer} at={at} />
            <Clear row={row} at={at} scale={scale} />
            {layer?.pieces.map((p) => {
              const [x, y] = middle(p.outline_mm.map(at));
              return <Letter key={p.label} x={x} y={y} letter={p.label.replace(/^\D+/, "")} r={11} />;
            })}
            <path d={ticks(left, w, roomy ? h : null)} stroke="var(--bark)" fill="none" />
          </>
        )}
      </Chart>
      <Dimension
        at={roomy ? [left + w / 2 - 54, 0] : null}
        label="Width"
        value={view.areas.width_mm}
        save={stretch(0)}
      />
      <Dimension
        at={roomy ? [0, TOP + h / 2 - 18] : null}
        label="Height"
        value={view.areas.height_mm}
        save={stretch(1)}
      />
    </div>
  );
}

// The lines its sizes stand on; the height's only where there is room beside it.
function ticks(left: number, w: number, h: number | null): string {
  const across = `M${left} 18h${w}M${left} 12v12M${left + w} 12v12`;
  return h === null ? across : `${across}M${left - 18} ${TOP}v${h}M${left - 24} ${TOP}h12M${left - 24} ${TOP + h}h12`;
}

function sizes(points: Points): [number, number] {
  const of = (k: 0 | 1) => points.map((p) => p[k] ?? 0);
  const span = (v: number[]) => Math.max(...v) - Math.min(...v);
  return [span(of(0)), span(of(1))];
}

function middle(points: Points): [number, number] {
  const of = (k: 0 | 1) => points.map((p) => p[k] ?? 0);
  const half = (v: number[]) => (Math.max(...v) + Math.min(...v)) / 2;
  return [half(of(0)), half(of(1))];
}

type Place = (p: readonly number[]) => [number, number];

function Shape({ view, layer, at }: { view: Drawn; layer: Layer; at: Place }) {
  const shape = (points: Points) => path(points.map(at));
  return (
    <>
      <path d={shape(view.outline_mm)} fill="var(--tape)" stroke="var(--ink)" strokeWidth={2.5} />
      {layer?.pieces.map((p) => (
        <path
          key={p.label}
          d={[p.outline_mm, ...p.holes_mm].map(shape).join("")}
          fillRule="evenodd"
          fill={FILL[layer.letter]}
          stroke="var(--ink)"
          strokeWidth={1}
        />
      ))}
    </>
  );
}

function Clear({ row, at, scale }: { row: Surface; at: Place; scale: number }) {
  return (
    <>
      {row.keep_clear.map((z, i) => {
        const [x, y] = at([z.x_mm, z.y_mm + z.height_mm]);
        const [w, h] = [z.width_mm * scale, z.height_mm * scale];
        const name = z.name || z.kind;
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
  value: number;
  save: (v: number) => Promise<unknown>;
};

// A dimension on the drawing, or beside it where it is small; the whole outline is stretched to it.
function Dimension({ at, label, value, save }: DimensionProps) {
  return (
    <div className={css.dim} style={at ? { left: at[0], top: at[1] } : undefined}>
      <Field
        label={label}
        unit="mm"
        value={num(value, 0)}
        save={(text) => save(Number(text.replace(/\s/g, "").replace(",", ".")))}
      />
    </div>
  );
}
