"""The Bench as a screen says it: each series with what is put on next, what it tells, and what it could not have told."""

from __future__ import annotations

from collections.abc import Sequence

from ..errors import BadInput
from ..schema import Strict, parse
from ..words import plural
from .model import SeriesIn, SeriesResult
from .rows import SeriesKept, order_of
from .told import told


class SeriesCard(Strict):
    """A series: its sentence, the next reading in words, how far it is, and its result once it tells anything."""

    id: int
    sentence: str
    next: str
    next_sample: str | None
    """None: the empty opening, or nothing more."""
    done: int
    of: int
    order: tuple[str, ...]
    """Everything in its order; the empty opening by those words."""
    result: SeriesResult | None
    problem: str


class BenchView(Strict):
    """All series of the workshop."""

    sentence: str
    cards: tuple[SeriesCard, ...]


EMPTY = "the empty opening"


def bench(series: Sequence[SeriesKept]) -> BenchView:
    """All series, newest last."""
    cards = tuple(_card(s) for s in series)
    waits = sum(c.done < c.of for c in cards)
    said = "Nothing is compared yet: name samples, and read each three times between readings of the empty opening."
    return BenchView(sentence=said if not cards else f"{plural(len(cards), 'series', 'series')}"
                     + (f", {waits} with readings to come." if waits else ", all read."), cards=cards)


def _card(series: SeriesKept) -> SeriesCard:
    order, done = order_of(series), len(series.runs)
    coming = order[done] if done < len(order) else None
    if not series.samples:
        words = "Name the samples first."
    elif done >= len(order):
        words = "All is read."
    elif coming is None:
        words = "Read the empty opening."
    else:
        words = f"Put on {coming} anew, {sum(r.sample == coming for r in series.runs) + 1} of {series.times}, and read it."
    begun = (f"{plural(len(series.samples), 'sample')}, nothing put on yet." if series.samples else
             "Which samples are to be compared?")
    result, problem = None, ""
    if any(r.sample for r in series.runs):
        try:
            result = told(parse(SeriesIn, {
                **series.model_dump(include={"rig", "bands_hz", "signal", "runs"}),
                "samples": {s.name: s.model_dump(exclude={"name"}) for s in series.samples}}))
        except BadInput as error:
            problem = error.sentence
    return SeriesCard(id=series.id, sentence=problem or (result.sentence if result else begun), next=words, next_sample=coming,
                      done=done, of=len(order), order=tuple(x or EMPTY for x in order), result=result, problem=problem)
