// What usually stands behind a panel already, from the panel towards the listener; each is a beginning that can be changed.
import type { Schemas } from "../api/client";

type Layer = Pick<Schemas["StackLayerIn"], "material" | "thickness_mm"> & {
  tie?: { kind: string; spacing_mm: number };
};
type Behind = { name: string; layers: readonly Layer[] };

const NOTHING: Behind = { name: "only this", layers: [] };

export const BEHIND: Record<Schemas["Job"]["kind"], readonly Behind[]> = {
  vehicle: [
    NOTHING,
    {
      name: "a cavity and trim",
      layers: [
        { material: "air-gap", thickness_mm: 40 },
        { material: "plastic-trim", thickness_mm: 2.5 },
      ],
    },
  ],
  enclosure: [NOTHING],
  room: [
    NOTHING,
    {
      name: "studs and a board behind",
      layers: [
        { material: "air-gap", thickness_mm: 75, tie: { kind: "light-steel-studs", spacing_mm: 600 } },
        { material: "gypsum-board", thickness_mm: 12.5 },
      ],
    },
    {
      name: "joists and a deck above",
      layers: [
        { material: "air-gap", thickness_mm: 180, tie: { kind: "wood-studs", spacing_mm: 400 } },
        { material: "floor-deck", thickness_mm: 22 },
      ],
    },
  ],
};
