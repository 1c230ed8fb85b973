// Edits that are on their way, laid over the document as it came: what was clicked shows at once. No rule of the trade here.
import type { Doc, Schemas } from "./types";

export type Step = Schemas["Step"];
export type Operation = NonNullable<Step["operations"]>[number];
type Any = Record<string, unknown>;
// A step that does nothing yet.
export const BLANK: Step = {
  collection: "",
  row: null,
  version: 0,
  values: {},
  operations: [],
  remove: false,
  force: false,
};

// What a step sets, where it does nothing else: of several that set the same the last alone counts.
export const subject = ({ collection, row, values = {}, operations = [], remove }: Step): string =>
  JSON.stringify(
    remove || operations.some((o) => o.op !== "set")
      ? [collection, row, values, operations, remove]
      : [collection, row, Object.keys(values), operations.map((o) => o.at)],
  );

const name = (item: unknown): unknown => (typeof item === "object" && item !== null ? (item as Any)["id"] : item);

function changed(value: unknown, at: readonly string[], make: (old: unknown) => unknown): unknown {
  const [first, ...rest] = at;
  if (first === undefined) return make(value);
  if (Array.isArray(value)) return value.map((i: unknown) => (name(i) === first ? changed(i, rest, make) : i));
  const held = (value ?? {}) as Any;
  return { ...held, [first]: changed(held[first], rest, make) };
}

function placed(items: unknown[], item: unknown, after: string | null | undefined): unknown[] {
  const found = items.findIndex((i) => name(i) === after);
  const place = after === "" ? 0 : found < 0 ? items.length : found + 1;
  return [...items.slice(0, place), item, ...items.slice(place)];
}

// What was typed is text until the program has read it: it is not laid over a number, and the field shows it anyway.
const fits = (old: unknown, value: unknown, at: readonly string[]): boolean =>
  typeof value === "string" ? typeof old === "string" || (at[0] === "context" && old === undefined) : ready(value);
const ready = (item: unknown): boolean =>
  typeof item !== "object" ||
  item === null ||
  !Object.entries(item).some(([k, v]) => k.endsWith("_mm") && !measured(v));
const measured = (v: unknown): boolean =>
  v === null || typeof v === "number" || (Array.isArray(v) && v.every(measured));

export function apply(content: unknown, o: Operation): unknown {
  return changed(content, o.at, (old) => {
    if (o.op === "set") return fits(old, o.value, o.at) ? o.value : old;
    const items = Array.isArray(old) ? (old as unknown[]) : [];
    if (o.op === "add" && !ready(o.item)) return items;
    if (o.op === "add")
      return items.some((i) => name(i) !== undefined && name(i) === name(o.item))
        ? items
        : placed(items, o.item, o.after);
    if (o.op === "stretch") return items; // the drawing follows the answer
    const item = items.find((i) => name(i) === o.id);
    const rest = items.filter((i) => i !== item);
    return o.op === "move" && item !== undefined ? placed(rest, item, o.after) : rest;
  });
}

// Rows an edit adds carry numbers below zero until the answer gives them theirs.
export function overlay(doc: Doc, edits: readonly { steps: readonly Step[]; temps: readonly number[] }[]): Doc {
  const out = { ...doc } as unknown as Record<string, Any[] | Any>;
  for (const { steps, temps } of edits) {
    steps.forEach((step, i) => {
      if (step.collection === "jobs") {
        out["job"] = altered(out["job"] as Any, step);
        return;
      }
      const rows = (out[step.collection] ?? []) as Any[];
      if (step.row == null) {
        const defaults =
          {
            alternatives: { layers: [], chosen: true, frame: null, zone: "", takes_out: [], overrides: [] },
            photos: { caption: "", step: "", when: "", marks: [], surface_id: null, fixing_id: null },
            fixings: {
              size: "",
              count: 1,
              place: "",
              x_mm: null,
              y_mm: null,
              bag: "",
              note: "",
              state: "good",
              back: 0,
            },
          }[step.collection] ?? null;
        if (defaults) out[step.collection] = [...rows, { ...defaults, ...step.values, id: temps[i], version: 0 }];
      } else if (step.remove) out[step.collection] = rows.filter((r) => r["id"] !== step.row);
      else out[step.collection] = rows.map((r) => (r["id"] === step.row ? altered(r, step) : r));
    });
  }
  return out as unknown as Doc;
}

function altered(row: Any, step: Step): Any {
  const values = Object.entries(step.values ?? {}).map(([key, value]): Operation => ({ op: "set", at: [key], value }));
  return [...values, ...(step.operations ?? [])].reduce<unknown>(apply, row) as Any;
}
