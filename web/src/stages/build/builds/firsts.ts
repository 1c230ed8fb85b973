// What a new build begins with: usual figures, every one to be changed; and how each kind is offered.
import type { Row } from "./kinds";

export type Kind = Row["given"]["kind"];

export const OFFERED: Record<Kind, string> = {
  box: "a box round a machine",
  platform: "a platform on pads",
  baffle: "holes beside a loudspeaker",
  absorbers: "absorbers of a room",
  window: "a window or door",
};

export const FIRST: Record<Kind, { name: string; given: Record<string, unknown> }> = {
  absorbers: {
    name: "Absorbers",
    given: {
      kind: "absorbers",
      room_mm: [4200, 3100, 2500],
      surfaces: { floor: "wood", ceiling: "gypsum", walls: "gypsum" },
      use: "office",
      frame: { size_mm: [1200, 600], depth_mm: 50, gap_mm: 50, fill: "stone-wool" },
    },
  },
  window: {
    name: "Window",
    given: {
      kind: "window",
      size_mm: [1230, 1480],
      stands: { panes: [["window-glass@4"]], seal: "worn" },
      remedies: ["seal"],
    },
  },
  box: {
    name: "Hood",
    given: {
      kind: "box",
      machine: {
        size_mm: [620, 480, 540],
        mass_kg: 38,
        input_w: 1500,
        sound_power_db: { 125: 78, 250: 80, 500: 82, 1000: 80, 2000: 77, 4000: 72 },
        most_c: 45,
      },
      walls: [{ material: "mdf", thickness_mm: 17.6 }],
      lining: [{ material: "stone-wool", thickness_mm: 50 }],
      openings: [
        { role: "in", side: "left", width_mm: 250, height_mm: 100, duct_mm: 600, lined_mm: 25, bends: 1 },
        { role: "out", side: "right", width_mm: 250, height_mm: 100, duct_mm: 600, lined_mm: 25, bends: 1 },
      ],
    },
  },
  platform: {
    name: "Platform",
    given: {
      kind: "platform",
      masses: [{ kg: 120, size_mm: [600, 600, 900] }],
      pads: {
        material: "rubber-mount",
        at_mm: [
          [-300, -300],
          [300, -300],
          [-300, 300],
          [300, 300],
        ],
      },
      floor: { kind: "slab", mass_kg_m2: 350 },
      notes_hz: [25],
      boards: [
        { material: "plywood", thickness_mm: 18 },
        { material: "plywood", thickness_mm: 18 },
      ],
    },
  },
  baffle: {
    name: "Closed door",
    given: {
      kind: "baffle",
      cone_mm: 165,
      lowest_hz: 60,
      open_cm2: 400,
      closed: "patch",
      sheet: { material: "galvanised", thickness_mm: 1 },
      damping: { material: "butyl-foil", thickness_mm: 2 },
    },
  },
};
