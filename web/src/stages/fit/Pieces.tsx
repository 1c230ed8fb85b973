// The pieces of a step in their order: one at a time, each drawn where it goes.
import type { Schemas } from "../../api/client";
import { useNarrow } from "../../parts/narrow";
import { StepPicture } from "./StepPicture";
import css from "./fit.module.css";

type Piece = Schemas["StepPiece"];
type Props = {
  step: Schemas["StepView"];
  place: Schemas["Place"] | undefined;
  next: Piece | undefined;
  pick: (piece: Piece) => void;
  all: () => void;
};

export function Pieces({ step, place, next, pick, all }: Props) {
  const narrow = useNarrow();
  const left = step.pieces.filter((p) => !p.laid).length;
  const copies = Math.max(...step.pieces.map((p) => p.copy_number));
  return (
    <section className={css.pieces} aria-label="Pieces in order">
      {place ? (
        <StepPicture
          place={place}
          pieces={step.pieces}
          letter={step.letter}
          next={next}
          height={narrow ? 220 : 300}
          pick={pick}
        />
      ) : null}
      {next ? (
        <p className={css.piece}>
          <b>{next.label}</b> {next.size}
          {copies > 1 ? `, on number ${next.copy_number} of ${copies}` : ""}
          <span className="small">
            {next.laid ? "It is laid." : "The thick edge goes on first."} {left} of {step.pieces.length} to lay.
          </span>
        </p>
      ) : (
        <p className={css.piece}>All {step.pieces.length} pieces are laid.</p>
      )}
      <div className={css.pieceRow} role="group" aria-label="All pieces">
        {step.pieces.map((p) => (
          <button
            key={p.id}
            className={css.pieceChip}
            aria-pressed={p.id === next?.id}
            aria-label={`${p.label}${p.laid ? ", laid" : ""}`}
            onClick={() => pick(p)}
          >
            {p.laid ? "✓ " : ""}
            {p.label}
          </button>
        ))}
        {step.done || !left ? null : (
          <button className={css.chip} onClick={all}>
            Done ✓
          </button>
        )}
      </div>
    </section>
  );
}
