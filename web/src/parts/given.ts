// What is asked for again and again, as somebody marks and types: the last one asked for counts, whatever answer is first.
import { useRef, useState } from "react";
import type { Schemas } from "../api/client";

// An outline that is given rather than typed: from a photograph, a drawing or a template.
export type Given = {
  outline_mm: readonly (readonly number[])[];
  kept?: Schemas["SurfaceDrawn"];
};
export type Give = (found: Promise<Given | null>) => void;

export function useLatest<T>() {
  const [value, setValue] = useState<T | null>(null);
  const last = useRef<Promise<T | null>>(Promise.resolve(null));
  const ask = (found: Promise<T | null>) => {
    last.current = found;
    const seen = (it: T | null) => {
      if (last.current === found) setValue(it);
    };
    void found.then(seen, () => seen(null));
  };
  return { value, ask, latest: () => last.current };
}
