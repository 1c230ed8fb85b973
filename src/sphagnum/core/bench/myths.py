"""Questions every shop argues about, answered from its own series and from nothing else."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final, Literal

from ..schema import Strict
from ..words import plain
from .model import SeriesResult
from .rows import SeriesKept

Question = Literal["compound", "wool", "loose", "foil", "share"]
QUESTIONS: Final[dict[Question, str]] = {
    "compound": "Between two boards: compound, glue or nothing?",
    "wool": "Stone wool or glass wool?",
    "loose": "Heavy vinyl: loose, or between two sheets?",
    "foil": "Does a foil over the wool cost anything?",
    "share": "Damping on 25, 60 or 100 % of the panel?",
}
MOST_PAIRS = 4


class Myth(Strict):
    """A question with what the shop's own series answer; without any, nobody here has read it."""

    question: Question
    words: str
    answers: tuple[str, ...]


def answered(question: Question, read: Sequence[tuple[SeriesKept, SeriesResult | None]]) -> Myth:
    """What the series that were read for a question say of it, the newest first."""
    said = [f"{kept.name}: {_answer(result)}" for kept, result in reversed(read)
            if kept.question == question and result is not None]
    return Myth(question=question, words=QUESTIONS[question], answers=tuple(said))


def _answer(result: SeriesResult) -> str:
    if not result.pairs:
        return result.sentence
    apart = [p for p in result.pairs if p.differ]
    alike = [p for p in result.pairs if not p.differ]
    out = [f"{p.a} keeps back {plain(p.difference_db)} dB more than {p.b} ({plain(p.interval95_db[0])} to "
           f"{plain(p.interval95_db[1])})" for p in apart[:MOST_PAIRS]]
    out += [f"{p.a} and {p.b} are not told apart: if anything, under {plain(max(map(abs, p.interval95_db)))} dB"
            for p in alike[:MOST_PAIRS]]
    return f"{'; '.join(out)}."
