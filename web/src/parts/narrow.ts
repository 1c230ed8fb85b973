// Whether the page is held in one hand: then the head is one line and the stage's action lies under the thumb.
import { useSyncExternalStore } from "react";

const media = matchMedia("(max-width: 760px)");

export const useNarrow = (): boolean =>
  useSyncExternalStore(
    (told) => {
      media.addEventListener("change", told);
      return () => media.removeEventListener("change", told);
    },
    () => media.matches,
  );
