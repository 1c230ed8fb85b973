// An outline that is given rather than typed: from a photograph, a drawing or a template. It comes when it comes, and the
// last one asked for counts, whatever answer is first.
import { useRef, useState } from "react";
import type { Schemas } from "../api/client";

export type Given = {
  outline_mm: readonly (readonly number[])[];
  kept?: Schemas["SurfaceDrawn"];
};
export type Give = (found: Promise<Given | null>) => void;

export function useGiven() {
  const [given, setGiven] = useState<Given | null>(null);
  const last = useRef<Promise<Given | null>>(Promise.resolve(null));
  const give: Give = (found) => {
    last.current = found;
    const seen = (it: Given | null) => {
      if (last.current === found) setGiven(it);
    };
    void found.then(seen, () => seen(null));
  };
  return { given, give, latest: () => last.current };
}
