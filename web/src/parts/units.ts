// Lengths and weights as the workshop reckons: kept metric, shown and typed in its own units.
import { useShelf } from "../api/hooks";
import { num } from "./words";

export type Units = "metric" | "imperial";
const [INCH, POUND] = [25.4, 0.45359237];
const SIXTEENTHS = 16;

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
export const lengthUnit = (units: Units): string => (units === "imperial" ? "in" : "mm");
const massUnit = (units: Units): string => (units === "imperial" ? "lb" : "kg");
export const length = (mm: number, units: Units): string =>
  units === "imperial" ? `${inches(mm)} in` : `${num(mm, mm % 1 ? (mm < 1 ? 2 : 1) : 0)} mm`;
export const mass = (kg: number, units: Units): string =>
  units === "imperial" ? `${num(kg / POUND)} lb` : `${num(kg)} kg`;
export const areal = (kg: number, units: Units): string =>
  units === "imperial" ? `${num(kg * 0.204816, 2)} lb/ft²` : `${num(kg)} kg/m²`;

// What a field shows of a kept number, and what it sends: a bare number is of the unit shown.
export type Quantity = "length" | "mass";
const BARE = /^[\s\d.,/+-]*$/;
export const shownIn = (value: number | null | undefined, kind: Quantity, units: Units): string =>
  value == null
    ? ""
    : units === "metric"
      ? plain(value)
      : kind === "length"
        ? inches(value)
        : num(value / POUND, 2).replace("−", "-");
export const unitOf = (kind: Quantity, units: Units): string =>
  kind === "length" ? lengthUnit(units) : massUnit(units);
export const sentIn = (text: string, kind: Quantity, units: Units): string =>
  units === "imperial" && text.trim() && BARE.test(text) ? `${text.trim()} ${unitOf(kind, units)}` : text;
