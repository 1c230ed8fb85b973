// What is folded away, and drawn only once it is opened.
import { useState, type ReactNode } from "react";

type Props = { summary: ReactNode; children: ReactNode; open?: boolean };

export function Unfold({ summary, children, open: first = false }: Props) {
  const [open, setOpen] = useState(first);
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>{summary}</summary>
      {open ? children : null}
    </details>
  );
}
