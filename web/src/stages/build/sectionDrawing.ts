// Where the layers of a section stand, and what a hand that drags one of them means.
import type { Schemas } from "../../api/client";
import type { Operation } from "../../api/operations";

// What a hand does to the layers: an edit that is kept, and one that is only tried.
export type Change = (...operations: Operation[]) => Promise<unknown>;
// ``next``: what a hand that goes on would try then.
export type Attempt = (operation: Operation | null, ...next: Operation[]) => void;
export type Part = Schemas["LayerView"];
export type Box = { at: number; w: number };

export const [HEIGHT, TOP] = [150, 8];
const [LEAST, DROP, WIDEST] = [30, 150, 14];
const NARROW = 420;

// One scale for all layers; a layer thinner than its number is drawn wide enough to be seen.
export function boxesOf(parts: readonly Part[], width: number): { boxes: Box[]; scale: number } {
  const left = width > NARROW ? 74 : 40;
  const depth = parts.reduce((sum, p) => sum + p.thickness_mm, 0);
  const room = width - left - (width > NARROW ? DROP : 8) - 2 * parts.length;
  const least = Math.min(LEAST, room / Math.max(parts.length, 1));
  const scale = Math.max(0.1, Math.min(WIDEST, (room - parts.length * least * 0.6) / Math.max(depth, 1)));
  const wanted = parts.map((p) => Math.max(least, p.thickness_mm * scale));
  const over = Math.max(1, wanted.reduce((a, b) => a + b, 0) / Math.max(room, 1));
  let at = left;
  const boxes = wanted.map((w) => {
    const box = { at, w: w / over };
    at += box.w + 2;
    return box;
  });
  return { boxes, scale: scale / over };
}

const middle = (box: Box): number => box.at + box.w / 2;

// The far layer after which one let go of at x would lie: on the noise's side they are told from the panel outwards.
export function farAfterAt(parts: readonly Part[], boxes: readonly Box[], x: number, own: string): string {
  const nearer = parts
    .map((p, i) => ({ part: p, at: middle(boxes[i] ?? { at: 0, w: 0 }) }))
    .filter((o) => o.part.far && o.part.id !== own && o.at > x)
    .sort((a, b) => a.at - b.at);
  return nearer[0]?.part.id ?? "";
}

// The new layer after which something let go of at x would lie; "" before all of them, null over all.
export function afterAt(parts: readonly Part[], boxes: readonly Box[], x: number, own = ""): string | null {
  const mine = parts
    .map((p, i) => ({ part: p, box: boxes[i] }))
    .filter((o) => o.part.state === "new" && !o.part.far && o.part.id && o.part.id !== own && o.part.id !== "panel");
  const before = mine.filter((o) => o.box && middle(o.box) < x);
  const last = before.at(-1);
  if (!mine.length || before.length === mine.length) return own ? (last?.part.id ?? "") : null;
  return last ? last.part.id : "";
}

// The thickness sold nearest to what a hand pulled to; what is not sold by thickness follows the hand in whole millimetres.
export function snapped(part: Part, mm: number): number {
  const wanted = Math.max(mm, 0.1);
  if (!part.sold_mm.length) return Math.max(1, Math.round(wanted));
  return part.sold_mm.reduce(
    (best, t) => (Math.abs(t - wanted) < Math.abs(best - wanted) ? t : best),
    part.sold_mm[0] ?? wanted,
  );
}
