// The stage's action, under the thumb where the page is held in one hand; elsewhere it stands in the stage itself.
import { createContext, useContext, type ReactNode } from "react";
import { createPortal } from "react-dom";

const Slot = createContext<HTMLElement | null>(null);
export const ThumbSlot = Slot.Provider;

export function ThumbAction({ children }: { children: ReactNode }) {
  const slot = useContext(Slot);
  return slot ? createPortal(children, slot) : null;
}
