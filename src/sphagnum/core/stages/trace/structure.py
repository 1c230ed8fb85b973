"""Structure-borne or airborne: what was gathered, weighed into a statement with its reasons."""

from __future__ import annotations

import math

import numpy as np

from ...figures.path_levels import Rows
from ...figures.sources import bands_read
from ...job.document import JobDocument
from ...levels.bands import PREDICTED_A_DB, PREDICTED_HZ, Floats
from ...levels.decibels import energy
from ...levels.meaning import tones
from ...paths.offers import HintQuestion, Side
from ...schema import Strict
from ...words import listed, percent

LOW_HZ = 200.0
CLEAR = 3
"""Weight by which one side must lead before the statement takes it."""


class Indication(Strict):
    """One thing that speaks for one side: where it is from, for which side, with which weight, and in words."""

    source: str
    says: Side
    weight: int
    words: str


class Statement(Strict):
    """What the indications come to; ``open_questions`` are those not answered yet, weightiest first."""

    sentence: str
    verdict: Side
    indications: tuple[Indication, ...]
    open_questions: tuple[HintQuestion, ...]


def statement(doc: JobDocument, rows: Rows, hints: tuple[HintQuestion, ...]) -> Statement:
    """Weigh low-band share, knocks, other conditions, tests of paths and the answers to the telling questions."""
    goal = doc.goal
    read = {} if goal is None else {c.id: bands_read(doc, goal.position_id, c.id) for c in doc.conditions}
    here = read.get(goal.condition_id) if goal is not None else None
    found = [*(() if here is None else (*_low_band(here), *_knocks(doc, here))),
             *_conditions([bands for bands in read.values() if bands is not None]), *_tests(rows), *_answers(doc, hints)]
    score = sum(i.weight * {"structure": 1, "air": -1, "neither": 0}[i.says] for i in found)
    verdict: Side = "structure" if score >= CLEAR else "air" if score <= -CLEAR else "neither"
    answered = {h.hint for h in doc.hints if h.says != "unclear"}
    still = tuple(sorted((h for h in hints if h.id not in answered), key=lambda h: -h.weight))
    return Statement(sentence=_sentence(found, verdict), verdict=verdict, indications=tuple(found), open_questions=still)


def _sentence(found: list[Indication], verdict: Side) -> str:
    if not found:
        return "Nothing gathered yet: answer the questions, knock on the panels, block a path off."
    for_it = [i.source for i in found if i.says == verdict]
    against = [i.source for i in found if i.says not in (verdict, "neither")]
    if verdict == "neither":
        return "Not clear yet: the signs are few or speak against one another."
    name = {"structure": "structure-borne: part the source from what it shakes", "air": "airborne: close and cover the ways in"}[
        verdict]
    but = f", though {_says(against)} against it" if against else ""
    return f"Mostly {name}. {_says(for_it).capitalize()} for that{but}."


def _says(names: list[str]) -> str:
    return f"{listed(names)} {'speaks' if len(names) == 1 and not names[0].endswith('s') else 'speak'}"


def _low_band(bands: Floats) -> list[Indication]:
    energies = energy(bands + PREDICTED_A_DB)
    share = float(energies[np.array(PREDICTED_HZ) <= LOW_HZ].sum() / energies.sum())
    words = f"{percent(share)} of dB(A) lies at {LOW_HZ:g} Hz and below."
    if share >= 0.5:
        return [Indication(source="the low bands", says="structure", weight=2, words=words)]
    return [Indication(source="the low bands", says="air" if share < 0.2 else "neither", weight=1, words=words)]


NOTE_DB = ((PREDICTED_HZ[-1], 5.0),)
"""How far a band stands out of its neighbours to count as a note: less than a tone, as a hint asks for less than a verdict."""


def _notes(bands: Floats) -> set[float]:
    return tones(bands.tolist(), NOTE_DB, PREDICTED_HZ)


def _knocks(doc: JobDocument, bands: Floats) -> list[Indication]:
    for knock in doc.knocks:
        near = next((f for f in sorted(_notes(bands)) if abs(math.log2(knock.frequency_hz / f)) < 1 / 6), None)
        if near is not None:
            return [Indication(source="a knock", says="structure", weight=2,
                               words=f"A panel rings at {knock.frequency_hz:.0f} Hz, where {near:g} Hz stands out at the ear.")]
    return []


def _conditions(read: list[Floats]) -> list[Indication]:
    """A note that stays whatever the speed or load is something that rings; one that moves follows the source."""
    heard = [_notes(bands) for bands in read]
    if len(heard) < 2 or not all(heard):
        return []
    stay = sorted(set.intersection(*heard))
    if stay:
        return [Indication(source="the other conditions", says="structure", weight=1,
                           words=f"{stay[0]:g} Hz stands out in all {len(heard)} conditions read: something rings there, "
                           "whatever the speed or load.")]
    return [Indication(source="the other conditions", says="neither", weight=1,
                       words="What stands out moves from condition to condition: it follows the source.")]


def _tests(rows: Rows) -> list[Indication]:
    good = [t for t in rows.tests if t.resolved]
    share = sum(t.share for t in good if t.kind == "block-off")
    if share >= 0.4:
        return [Indication(source="the block-off tests", says="air", weight=2,
                           words=f"Covers took away ways that carry {percent(min(share, 1.0))}.")]
    return []


def _answers(doc: JobDocument, hints: tuple[HintQuestion, ...]) -> list[Indication]:
    by_id, out = {h.id: h for h in hints}, []
    for row in doc.hints:
        question = by_id.get(row.hint)
        if question is None or row.says == "unclear":
            continue
        says = question.yes if row.says == "yes" else question.no
        out.append(Indication(source=f"the {question.id} test", says=says, weight=question.weight,
                              words=f"{question.question} {row.says.capitalize()}."))
    return out
