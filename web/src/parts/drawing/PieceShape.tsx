// A piece with its holes, filled by the role of its layer and lit while it is pointed at.
import { FILL, path } from "../../theme/hatches";
import css from "./drawing.module.css";

type Ring = readonly (readonly number[])[];
type Props = {
  piece: { label: string; outline_mm: Ring; holes_mm: readonly Ring[] };
  letter: string;
  place: (p: readonly number[]) => readonly number[];
  lit: string;
  light: (label: string) => void;
  faint?: boolean;
};

export const ringsOf = (p: Props["piece"], place: Props["place"]): string =>
  [p.outline_mm, ...p.holes_mm].map((ring) => path(ring.map(place))).join("");

export function PieceShape({ piece, letter, place, lit, light, faint = false }: Props) {
  return (
    <path
      d={ringsOf(piece, place)}
      fillRule="evenodd"
      fill={FILL[letter]}
      fillOpacity={faint ? 0.55 : 1}
      className={piece.label === lit ? css.lit : css.piece}
      onPointerEnter={() => light(piece.label)}
    />
  );
}

// The middle of what a ring reaches.
export function middle(points: readonly (readonly number[])[]): [number, number] {
  const half = (k: 0 | 1) => {
    const v = points.map((p) => p[k] ?? 0);
    return (Math.max(...v) + Math.min(...v)) / 2;
  };
  return [half(0), half(1)];
}

// Where the label of a piece stands: in its middle, of thin ones side by side, and never beyond the edge of its sheet.
export function labelAt(points: readonly (readonly number[])[], n: number, r: number, high: number): [number, number] {
  const [x, y] = middle(points);
  const [w, h] = reach(points);
  const aside = h < 2.4 * r && w > 8 * r ? (n % 2 ? 0.2 : -0.2) * w : 0;
  return [x + aside, Math.max(r, Math.min(high - r, y))];
}

// How far a ring reaches across and up.
export function reach(points: readonly (readonly number[])[]): [number, number] {
  const along = (k: 0 | 1) => {
    const v = points.map((p) => p[k] ?? 0);
    return Math.max(...v) - Math.min(...v);
  };
  return [along(0), along(1)];
}
