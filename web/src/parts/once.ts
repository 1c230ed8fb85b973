// Work that a second press must not begin again while the first is on its way.
import { useRef, useState } from "react";

export function useOnce(): [boolean, (work: () => Promise<unknown>) => Promise<void>] {
  const [busy, setBusy] = useState(false);
  const at = useRef(false);
  const once = async (work: () => Promise<unknown>) => {
    if (at.current) return;
    at.current = true;
    setBusy(true);
    try {
      await work();
    } finally {
      at.current = false;
      setBusy(false);
    }
  };
  return [busy, once];
}
