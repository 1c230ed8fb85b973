// What is open and picked stands in the address, so that Back, a reload and a link come to the same view.
import { useSearchParams } from "react-router";

type Changes = Record<string, string | number | null>;

export function useAddress() {
  const [search, setSearch] = useSearchParams();
  return {
    get: (name: string): string | null => search.get(name),
    number: (name: string): number | null => Number(search.get(name)) || null,
    // One of some names, or the first.
    oneOf: <T extends string>(name: string, names: readonly T[]): T | null =>
      names.find((n) => n === search.get(name)) ?? null,
    // A step of its own for Back.
    go: (changes: Changes) => setSearch((now) => altered(now, changes)),
    // The same view with something else open.
    put: (changes: Changes) => setSearch((now) => altered(now, changes), { replace: true }),
  };
}

function altered(now: URLSearchParams, changes: Changes): URLSearchParams {
  const next = new URLSearchParams(now);
  for (const [name, value] of Object.entries(changes)) {
    if (value === null) next.delete(name);
    else next.set(name, String(value));
  }
  return next;
}
