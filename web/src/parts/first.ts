// Of a long list the rows in sight are drawn at once, the rest while nobody waits; a short one never lags what
// stands beside it.
import { useDeferredValue } from "react";

export function useFirst<T>(rows: readonly T[], first = 24): readonly T[] {
  const long = rows.length > first;
  const later = useDeferredValue(rows, long ? rows.slice(0, first) : rows);
  return long ? later : rows;
}

const LONG = 60;
// The class of a list too long to be laid out whole; the styles say what that means.
export const longOf = (rows: readonly unknown[]): string => (rows.length > LONG ? "long" : "");
