// A line of what stands: the panel itself, and what lies on it already, which stays unless it is taken out by hand.
import { num } from "../../parts/words";
import css from "./build.module.css";
import type { Part } from "./sectionDrawing";

type Props = {
  part: Part;
  number: number;
  said: string;
  canTakeOut: boolean;
  standing: (id: string, out: boolean) => void;
};

export function StandingRow({ part, number, said, canTakeOut, standing }: Props) {
  const panel = part.state === "panel" || part.id === "" || part.id === "panel";
  const out = part.state === "comes off";
  return (
    <li className={css.layer} data-state={part.state}>
      <b className={css.number}>{num(number, 0)}</b>
      <span className={`${css.panel} ${out ? css.out : ""}`}>
        <b>{part.name}</b> <span className="small">{said}</span>{" "}
        {panel ? (
          <span className="small">{part.state === "new" ? "to be built" : "stands"}</span>
        ) : (
          <button className="plain small" disabled={!canTakeOut} onClick={() => standing(part.id, !out)}>
            {out ? "comes off: leave it after all" : "stays: take it out"} <span className="unseen">{part.name}</span>
          </button>
        )}
      </span>
    </li>
  );
}
