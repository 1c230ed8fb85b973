// What is typed into the forms of builds, as the core reads it; what is no number goes there as it is, to be refused.
export const number = (text: string): number | string | null => {
  const value = Number(text.trim().replace(",", "."));
  return text.trim() === "" ? null : Number.isFinite(value) ? value : text;
};
export const put = <T>(list: readonly T[], at: number, value: unknown): unknown[] =>
  list.map((v, i) => (i === at ? value : v));
export const without = <T>(list: readonly T[], at: number): T[] => list.filter((_, i) => i !== at);

// Points as "along, across; along, across".
export const points = (text: string): number[][] =>
  text
    .split(";")
    .map((t) => t.trim())
    .filter(Boolean)
    .map((t) => t.split(/[ ,]+/).map(Number));
export const told = (places: readonly (readonly number[])[]): string => places.map((p) => p.join(", ")).join("; ");

// Levels as "125 78, 250 80": a band and what it has.
export const levels = (text: string): Record<string, number | string> =>
  Object.fromEntries(
    text
      .split(/[;,]/)
      .map((t) => t.trim().split(/[ :=]+/))
      .filter((t) => t[0])
      .map(([hz = "", db = ""]) => [hz, number(db) ?? ""]),
  );
export const levelsTold = (of: Readonly<Record<string, number>>): string =>
  Object.entries(of)
    .sort((a, b) => Number(a[0]) - Number(b[0]))
    .map(([hz, db]) => `${hz} ${db}`)
    .join(", ");
