// What keeps a heavy part of a page from being drawn again while a hand drags something else.
import { useCallback, useEffect, useRef } from "react";

// A function that stays the same and always does what the newest one would.
export function useSteady<A extends unknown[], R>(newest: (...args: A) => R): (...args: A) => R {
  const kept = useRef(newest);
  useEffect(() => {
    kept.current = newest;
  });
  return useCallback((...args: A) => kept.current(...args), []);
}

// Whether two sets of properties are the same, but for some that only ever do the same in another object.
export const sameBut =
  (...names: readonly string[]) =>
  (before: object, after: object): boolean =>
    Object.entries(after).every(
      ([key, value]) => names.includes(key) || Object.is((before as Record<string, unknown>)[key], value),
    );
