// The head of a room of the workshop beside the jobs: where one is, the way back, undo and the scheme.
import { Link } from "react-router";
import type { useWorkshop } from "../api/workshop";
import { useScheme } from "./scheme";
import css from "./room-top.module.css";

export function RoomTop({ where, workshop }: { where: string; workshop: ReturnType<typeof useWorkshop> }) {
  const { scheme, flip } = useScheme();
  return (
    <nav className="top">
      <Link to="/" className="brand" aria-label="Sphagnum, the job board">
        <img src="/mark.svg" alt="" /> <span className={css.word}>Sphagnum</span>
      </Link>
      <span className="where small">{where}</span>
      <Link to="/" className={`key ${css.toBoard ?? ""}`}>
        to the job board
      </Link>
      <button className="key" onClick={() => void workshop.undo()}>
        undo
      </button>
      <button className="key" onClick={() => void workshop.redo()}>
        redo
      </button>
      <button className="key" onClick={flip}>
        {scheme === "dark" ? "light" : "dark"}
      </button>
    </nav>
  );
}
