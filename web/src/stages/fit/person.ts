// Who works with this device, and how it is held: asked once, changed with one press.
import { useSyncExternalStore } from "react";

const listeners = new Set<() => void>();
const named = (name: string) => `fit.${name}`;

function usePreference(name: string): [string, (value: string) => void] {
  const value = useSyncExternalStore(
    (told) => {
      listeners.add(told);
      return () => listeners.delete(told);
    },
    () => localStorage.getItem(named(name)) ?? "",
  );
  const put = (next: string) => {
    localStorage.setItem(named(name), next);
    listeners.forEach((l) => l());
  };
  return [value, put];
}

export const useWho = () => usePreference("who");
export const useHand = () => usePreference("hand");
export const useSun = () => usePreference("sun");
