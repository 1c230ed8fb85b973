// The layers of a surface drawn apart, one above another as they are laid, the panel at the bottom; each opened by a press.
import type { Schemas } from "../../api/client";
import { mass, useUnits } from "../../parts/units";
import { num, percent } from "../../parts/words";
import { Hatches, path } from "../../theme/hatches";
import drawn from "../../parts/drawing/drawing.module.css";
import css from "./cut.module.css";
import { PieceShape } from "../../parts/drawing/PieceShape";

type Props = {
  view: Schemas["SurfaceView"];
  room: number;
  lit: string;
  light: (label: string) => void;
  open: (layer: number) => void;
};

const [LEAN, FLAT, TALLEST, MOST_LIFT, LEAST_LIFT, NAMES, PAD] = [0.32, 0.42, 520, 130, 46, 210, 12];
const ROOMY = 460;

export function Apart({ view, room, lit, light, open }: Props) {
  const units = useUnits();
  const { width_mm, height_mm } = view.areas;
  const named = room > ROOMY;
  const wide = Math.min(620, room - 2 * PAD - (named ? NAMES : 0));
  const n = view.layers.length;
  const scale = Math.min(wide / (width_mm + LEAN * height_mm), (TALLEST - n * LEAST_LIFT) / (FLAT * height_mm));
  const lift = Math.max(LEAST_LIFT, Math.min(MOST_LIFT, (TALLEST - FLAT * height_mm * scale) / Math.max(1, n)));
  const x0 = Math.min(...view.outline_mm.map((p) => p[0] ?? 0));
  const y0 = Math.min(...view.outline_mm.map((p) => p[1] ?? 0));
  const foot = PAD + FLAT * height_mm * scale + n * lift;
  const at =
    (level: number) =>
    (p: readonly number[]): [number, number] => {
      const [x, y] = [(p[0] ?? 0) - x0, (p[1] ?? 0) - y0];
      return [PAD + (x + LEAN * y) * scale, foot - FLAT * y * scale - level * lift];
    };
  const corners = [
    [x0, y0],
    [x0 + width_mm, y0],
    [x0 + width_mm, y0 + height_mm],
    [x0, y0 + height_mm],
  ];
  const right = PAD + (width_mm + LEAN * height_mm) * scale;
  return (
    <svg
      width={right + PAD + (named ? NAMES : 0)}
      height={foot + PAD}
      className={css.apart}
      role="group"
      aria-label={`${view.name}: its layers apart, the panel at the bottom`}
    >
      <Hatches />
      <path
        d={corners.map((c) => `M${at(0)(c).join(" ")}L${at(n)(c).join(" ")}`).join("")}
        className={drawn.guide}
        style={{ stroke: "var(--bark)" }}
      />
      <path d={path(view.outline_mm.map(at(0)))} fill="var(--tape)" stroke="var(--ink)" strokeWidth={2} />
      {named ? <Name x={right} y={foot - LEAN * 20} title={view.name} small="the panel" /> : null}
      {view.layers.map((l, i) => {
        const place = at(i + 1);
        const title = `${l.letter} ${l.name}`;
        const pieces = l.pieces.length === 1 ? "1 piece" : `${num(l.pieces.length, 0)} pieces`;
        const small = [percent(l.reached), mass(l.kg, units), pieces].join(", ");
        return (
          <g
            key={`${l.material}${i}`}
            tabIndex={0}
            role="button"
            aria-label={`${title} ${small}`}
            className={css.movable}
            onClick={() => open(i + 1)}
            onKeyDown={(e) => e.key === "Enter" && open(i + 1)}
          >
            <path d={path(view.outline_mm.map(place))} fill="var(--card)" fillOpacity={0.45} stroke="var(--bark)" />
            {l.pieces.map((p) => (
              <PieceShape key={p.label} piece={p} letter={l.letter} place={place} lit={lit} light={light} />
            ))}
            {named ? <Name x={right} y={foot - (i + 1) * lift - LEAN * 20} title={title} small={small} /> : null}
          </g>
        );
      })}
    </svg>
  );
}

// A name in at most two lines, and what is said of it.
function Name({ x, y, title, small }: { x: number; y: number; title: string; small: string }) {
  return (
    <foreignObject x={x + PAD} y={y - 46} width={NAMES} height={64}>
      <p className={css.layerName}>
        <b>{title}</b>
        <br />
        <span className="small">{small}</span>
      </p>
    </foreignObject>
  );
}
