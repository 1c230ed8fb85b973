// What is open and picked stands in the address, so that Back, a reload and a link come to the same view.
import { useLocation, useNavigate } from "react-router";

type Changes = Record<string, string | number | null>;

export function useAddress() {
  const { search, pathname } = useLocation();
  const navigate = useNavigate();
  const now = new URLSearchParams(search);
  // the address as it is when something is picked: what else was picked since this was drawn stays
  const change = (changes: Changes, replace: boolean) => {
    if (window.location.pathname !== pathname) return; // the view was left meanwhile
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changes)) {
      if (value === null) next.delete(name);
      else next.set(name, String(value));
    }
    void navigate({ search: next.toString() }, { replace });
  };
  return {
    get: (name: string): string | null => now.get(name),
    number: (name: string): number | null => Number(now.get(name)) || null,
    // One of some names, where it is one.
    oneOf: <T extends string>(name: string, names: readonly T[]): T | null =>
      names.find((n) => n === now.get(name)) ?? null,
    // A step of its own for Back.
    go: (changes: Changes) => change(changes, false),
    // The same view with something else open.
    put: (changes: Changes) => change(changes, true),
    // Let go of what was picked, where nothing else was picked meanwhile.
    leave: (name: string, value: string | number, also: Changes = {}) => {
      const picked = new URLSearchParams(window.location.search).get(name);
      if (picked === null || picked === String(value)) change({ ...also, [name]: null }, true);
    },
  };
}
