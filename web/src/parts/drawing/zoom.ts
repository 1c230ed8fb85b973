// A drawing made larger and moved about: by wheel, by fingers, by buttons.
import { useState, type WheelEvent } from "react";

export type Zoom = { k: number; x: number; y: number };
const FIT: Zoom = { k: 1, x: 0, y: 0 };
const [MOST, STEP] = [8, 1.4];

export function useZoom() {
  const [zoom, set] = useState<Zoom>(FIT);
  // about a place of the picture, px
  const by = (factor: number, at: [number, number]) =>
    set((z) => {
      const k = Math.min(MOST, Math.max(1, z.k * factor));
      if (k === 1) return FIT;
      const f = k / z.k;
      return { k, x: at[0] - (at[0] - z.x) * f, y: at[1] - (at[1] - z.y) * f };
    });
  return {
    zoom,
    larger: (at: [number, number]) => by(STEP, at),
    smaller: (at: [number, number]) => by(1 / STEP, at),
    whole: () => set(FIT),
    wheel: (e: WheelEvent<Element>) => {
      if (!e.ctrlKey && !e.metaKey) return;
      const box = e.currentTarget.getBoundingClientRect();
      by(e.deltaY < 0 ? STEP : 1 / STEP, [e.clientX - box.left, e.clientY - box.top]);
    },
    shift: (dx: number, dy: number) => set((z) => (z.k === 1 ? z : { ...z, x: z.x + dx, y: z.y + dy })),
  };
}
