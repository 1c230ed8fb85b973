// Lengths and weights as the workshop reckons: kept metric, shown and typed in its own units.
import { useShelf } from "../api/hooks";
import table from "./imperial.json";
import { money, num } from "./words";

export type Units = "metric" | "imperial";
const INCH = 25.4;
const SIXTEENTHS = 16;
const BARE = /^[\s\d.,/+-]*$/;

export const useUnits = (): Units => (useShelf().data?.units === "imperial" ? "imperial" : "metric");

// Inches in sixteenths where they come near enough, else as a decimal.
function inches(mm: number): string {
  const all = Math.round((mm / INCH) * SIXTEENTHS);
  if (all === 0 || Math.abs(all / SIXTEENTHS - mm / INCH) > 0.012) return num(mm / INCH, mm / INCH < 1 ? 3 : 2);
  const [whole, left] = [Math.floor(all / SIXTEENTHS), all % SIXTEENTHS];
  let [top, bottom] = [left, SIXTEENTHS];
  while (top && top % 2 === 0) [top, bottom] = [top / 2, bottom / 2];
  return [whole || !top ? String(whole) : "", top ? `${top}/${bottom}` : ""].filter(Boolean).join(" ");
}

const plain = (value: number): string => num(value, value % 1 ? 1 : 0);
export const lengthUnit = (units: Units): string => toldUnit("mm", units);
export const length = (mm: number, units: Units): string =>
  units === "imperial" ? `${inches(mm)} in` : `${num(mm, mm % 1 ? (mm < 1 ? 2 : 1) : 0)} mm`;
export const mass = (kg: number, units: Units): string => amount(kg, "kg", units);
export const areal = (kg: number, units: Units): string => amount(kg, "kg/m²", units);

// A number with its metric unit, as the workshop reads it: what the unit is called, how much of it one is, and its decimals.
const IMPERIAL = table as unknown as Readonly<Record<string, readonly [string, number, number]>>;
const told = (unit: string, units: Units) => (units === "imperial" ? IMPERIAL[unit] : undefined);
export const toldUnit = (unit: string, units: Units): string => told(unit, units)?.[0] ?? unit;
export const toldValue = (value: number, unit: string, units: Units): number => value * (told(unit, units)?.[1] ?? 1);
export const toldNumber = (value: number, unit: string, units: Units, decimals = 1): string => {
  const as = told(unit, units);
  return as ? num(value * as[1], Math.max(as[2], decimals - 1)) : num(value, decimals);
};
export const amount = (value: number, unit: string, units: Units, decimals = 1): string =>
  `${toldNumber(value, unit, units, decimals)} ${toldUnit(unit, units)}`;
// A price of a square metre, or of a square foot.
export const priced = (price: number, currency: string, units: Units): string =>
  units === "imperial" ? `${money(price / toldValue(1, "m²", units), currency)}/ft²` : `${money(price, currency)}/m²`;
// A kept number as it is shown, and what was typed as it is kept; what has a unit of its own goes as it is.
export const shownText = (kept: string, unit: string, units: Units): string => {
  const as = told(unit, units);
  const value = Number(kept);
  if (!as || !kept.trim() || !Number.isFinite(value)) return kept;
  return unit === "mm" ? inches(value) : num(value * as[1], Math.max(as[2], 2)).replace("−", "-");
};
export const keptText = (typed: string, unit: string, units: Units): string => {
  const as = told(unit, units);
  if (!as || !typed.trim() || !BARE.test(typed)) return typed;
  if (unit === "mm") return withUnit(typed, unit, units);
  const value = Number(typed.replace(",", "."));
  return Number.isFinite(value) ? String(Number((value / as[1]).toPrecision(8))) : typed;
};

// What was typed with the name of the unit it is meant in, for the server to read.
export const withUnit = (typed: string, unit: string, units: Units): string =>
  told(unit, units) && typed.trim() && BARE.test(typed) ? `${typed.trim()} ${toldUnit(unit, units)}` : typed;

// What a field shows of a kept number, and what it sends: a bare number is of the unit shown.
export type Quantity = "length" | "mass";
const KEPT_IN = { length: "mm", mass: "kg" } as const;
export const shownIn = (value: number | null | undefined, kind: Quantity, units: Units): string =>
  value == null ? "" : units === "metric" ? plain(value) : shownText(String(value), KEPT_IN[kind], units);
export const unitOf = (kind: Quantity, units: Units): string => toldUnit(KEPT_IN[kind], units);
export const sentIn = (text: string, kind: Quantity, units: Units): string => withUnit(text, KEPT_IN[kind], units);
