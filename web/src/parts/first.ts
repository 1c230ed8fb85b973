// Of a long list the rows in sight are drawn at once, the rest while nobody waits.
import { useDeferredValue } from "react";

export function useFirst<T>(rows: readonly T[], first = 24): readonly T[] {
  return useDeferredValue(rows, rows.length > first ? rows.slice(0, first) : rows);
}

const LONG = 60;
// The class of a list too long to be laid out whole; the styles say what that means.
export const longOf = (rows: readonly unknown[]): string => (rows.length > LONG ? "long" : "");
