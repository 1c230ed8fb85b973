// The surface with the pieces of a step: what is laid already, the piece that is next and which of its edges goes on first.
import type { Schemas } from "../../api/client";
import { Chart } from "../../charts/Chart";
import { middle, ringsOf } from "../../parts/drawing/PieceShape";
import { FILL, Hatches, Letter, path } from "../../theme/hatches";
import css from "./fit.module.css";

type Piece = Schemas["StepPiece"];
type Place = Schemas["Place"];
type Ring = readonly (readonly number[])[];

const ROOM = 14;

// How a surface lies in a picture so wide and high: its scale, and where a place comes to lie.
export function fitted(outline: Ring, width: number, height: number) {
  const [xs, ys] = [outline.map((p) => p[0] ?? 0), outline.map((p) => p[1] ?? 0)];
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const scale = Math.min((width - 2 * ROOM) / (x1 - x0 || 1), (height - 2 * ROOM) / (y1 - y0 || 1));
  const [left, low] = [(width - (x1 - x0) * scale) / 2, (height + (y1 - y0) * scale) / 2];
  const at = (p: readonly number[]): [number, number] => [
    left + ((p[0] ?? 0) - x0) * scale,
    low - ((p[1] ?? 0) - y0) * scale,
  ];
  const back = (x: number, y: number) => ({
    x_mm: Math.max(0, Math.round(x0 + (x - left) / scale)),
    y_mm: Math.max(0, Math.round(y0 + (low - y) / scale)),
  });
  return { at, back };
}

type Props = {
  place: Place;
  pieces: readonly Piece[];
  letter: string;
  next: Piece | undefined;
  height: number;
  pick: (piece: Piece) => void;
};

export function StepPicture({ place, pieces, letter, next, height, pick }: Props) {
  const copy = next?.copy_number ?? 1;
  const shown = pieces.filter((p) => p.copy_number === copy);
  const lies = (width: number) => fitted(place.outline_mm, width, height).at;
  return (
    <Chart
      label={`Where the pieces go on the ${place.name}`}
      columns={["piece", "size", "state"]}
      height={height}
      first={560}
      points={(width) =>
        shown.map((p) => {
          const [x, y] = lies(width)(middle(p.outline_mm));
          return {
            at: x,
            across: y,
            name: p.label,
            values: [p.size, p.laid ? "laid" : p === next ? "next" : "to lay"],
          };
        })
      }
      pick={(i) => shown[i] && pick(shown[i])}
      picked={next ? shown.indexOf(next) : null}
    >
      {(width) => {
        const at = lies(width);
        return (
          <>
            <Hatches />
            <path d={path(place.outline_mm.map(at))} className={css.panel} />
            <path
              d={place.treatable_mm.map((part) => part.map((ring) => path(ring.map(at))).join("")).join("")}
              className={css.treatable}
              fillRule="evenodd"
            />
            {place.opening_mm.length ? <path d={path(place.opening_mm.map(at))} className={css.opening} /> : null}
            {shown.map((p) => (
              <path
                key={p.id}
                d={ringsOf(p, at)}
                fillRule="evenodd"
                fill={p.laid || p === next ? FILL[letter] : "var(--card)"}
                className={p === next ? css.nextPiece : p.laid ? css.laidPiece : css.laterPiece}
              />
            ))}
            {next ? <path d={path(next.first_edge.map(at))} className={css.firstEdge} /> : null}
            {shown.map((p) => {
              const [x, y] = at(middle(p.outline_mm));
              return (
                <Letter key={p.id} x={x} y={y} letter={p.laid ? `${p.label} ✓` : p.label} r={p === next ? 15 : 11} />
              );
            })}
          </>
        );
      }}
    </Chart>
  );
}
