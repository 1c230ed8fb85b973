// Layers under the hand: dragged to another place, pulled at the edge for thickness, at the top for coverage. What is tried
// is seen at once; the release keeps it as one edit.
import { useRef, useState, type PointerEvent } from "react";
import type { Operation } from "../../api/operations";
import {
  afterAt,
  farAfterAt,
  HEIGHT,
  snapped,
  TOP,
  type Attempt,
  type Box,
  type Change,
  type Part,
} from "./sectionDrawing";

type Kind = "move" | "thickness" | "coverage";
type Held = { kind: Kind; part: Part; from: number; start: number; scale: number; kept: number };
const AWAY = 6; // px a hand may tremble before it drags

type Props = {
  parts: readonly Part[];
  boxes: readonly Box[];
  scale: number;
  kept: (id: string) => { thickness_mm: number; coverage?: number } | undefined;
  order: readonly string[];
  change: Change;
  attempt: Attempt;
};

export function useDrag({ parts, boxes, scale, kept, order, change, attempt }: Props) {
  const held = useRef<Held | null>(null);
  const moved = useRef(false);
  const [shown, setShown] = useState<{ id: string; x: number } | null>(null);
  const wanted = useRef<Operation | null>(null);

  const meant = (h: Held, e: PointerEvent<HTMLElement>, x: number): Operation | null => {
    if (h.kind === "thickness") {
      const value = snapped(h.part, h.kept + (e.clientX - h.start) / Math.max(h.scale, 0.05));
      return value === h.kept ? null : { op: "set", at: ["layers", h.part.id, "thickness_mm"], value };
    }
    if (h.kind === "coverage") {
      const box = e.currentTarget.closest("[data-section]")?.getBoundingClientRect();
      const half = Math.abs(e.clientY - (box?.top ?? 0) - TOP - HEIGHT / 2);
      const value = Math.min(1, Math.max(0.05, Math.round((200 * half) / HEIGHT) / 100));
      return value === h.kept ? null : { op: "set", at: ["layers", h.part.id, "coverage"], value };
    }
    const after = h.part.far ? farAfterAt(parts, boxes, x, h.part.id) : (afterAt(parts, boxes, x, h.part.id) ?? "");
    const now = order[order.indexOf(h.part.id) - 1] ?? "";
    return after === now ? null : { op: "move", at: ["layers"], id: h.part.id, after };
  };

  const take = (kind: Kind, part: Part) => (e: PointerEvent<HTMLElement>) => {
    if (e.button !== 0) return;
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    const own = kept(part.id);
    const value = kind === "coverage" ? (own?.coverage ?? 1) : (own?.thickness_mm ?? part.thickness_mm);
    held.current = { kind, part, from: e.clientX, start: e.clientX, scale, kept: value };
    moved.current = false;
    wanted.current = null;
  };
  const follow = (e: PointerEvent<HTMLElement>) => {
    const h = held.current;
    if (!h) return;
    if (!moved.current && Math.abs(e.clientX - h.from) < AWAY && h.kind !== "coverage") return;
    moved.current = true;
    const box = e.currentTarget.closest("[data-section]")?.getBoundingClientRect();
    const x = e.clientX - (box?.left ?? 0);
    if (h.kind === "move") setShown({ id: h.part.id, x });
    wanted.current = meant(h, e, x);
    attempt(wanted.current);
  };
  // A hand that lets go outside, or is called away, changes nothing.
  const drop = () => {
    held.current = null;
    wanted.current = null;
    setShown(null);
    attempt(null);
  };
  const release = (e: PointerEvent<HTMLElement>): boolean => {
    const h = held.current;
    const was = moved.current;
    const operation = wanted.current;
    const box = e.currentTarget.closest("[data-section]")?.getBoundingClientRect();
    const inside = box ? e.clientY > box.top - 60 && e.clientY < box.bottom + 60 : false;
    held.current = null;
    setShown(null);
    if (!h || !was || !operation || (h.kind === "move" && !inside)) {
      attempt(null);
      return was;
    }
    const done = () => attempt(null);
    void change(operation).then(done, done);
    return true;
  };
  return { take, follow, release, drop, shown };
}
