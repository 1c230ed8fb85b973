"""The Bench as a screen says it: each series with what is put on next, what it tells, and what it could not have told."""

from __future__ import annotations

from collections.abc import Sequence

from ..cutting.stock import price_m2
from ..errors import BadInput
from ..job.shelf import Shelf
from ..levels.bands import PREDICTED_A_DB
from ..materials.model import sold_mm
from ..schema import Strict, parse
from ..words import plural
from .expected import Predicted, by_spectrum_db, dose_words, mass_of, predicted
from .model import SampleResult, SeriesIn, SeriesResult
from .myths import QUESTIONS, Myth, answered
from .own import PROCEDURES, Procedure
from .played import even_gains_db
from .rows import SampleKept, SeriesKept, order_of
from .told import told


class SampleSaid(Strict):
    """What is known of a sample beside its readings: weight and money of a square metre, as typed or by its layers; its dose;
    what is predicted of it; what it takes off the source the series is ranked by, dB(A)."""

    sample: str
    mass_kg_m2: float | None
    money_m2: float | None
    dose: str
    predicted: Predicted | None
    of_source_db: float | None


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
    samples: tuple[SampleSaid, ...] = ()
    even_gains_db: dict[str, float] = {}
    """Gains that make all bands alike at the empty opening, as it was read."""
    compares: str = ""
    """What may and may not be read off a series of another kind."""


class BenchView(Strict):
    """All series of the workshop, and what the shop has found out about what is argued over."""

    sentence: str
    cards: tuple[SeriesCard, ...]
    myths: tuple[Myth, ...]
    spectra: tuple[tuple[str, str], ...]
    """Sources by id and name."""
    sheets: tuple[tuple[str, str, float], ...]
    """What a sample can be made of: id, name, thickness in mm."""
    procedures: tuple[Procedure, ...] = PROCEDURES


EMPTY = "the empty opening"
COMPARES = {
    "blocking": "",
    "laid round the source": "Laid round the source: this says what takes sound up in the box, and nothing of blocking.",
    "in the open": "In the open sound goes round the sample: this says nothing of blocking.",
}


def bench(series: Sequence[SeriesKept], shelf: Shelf) -> BenchView:
    """All series, newest last."""
    cards = tuple(series_card(s, shelf) for s in series)
    waits = sum(c.done < c.of for c in cards)
    said = "Nothing is compared yet: name samples, and read each three times between readings of the empty opening."
    read = [(s, c.result) for s, c in zip(series, cards, strict=True)]
    sheets = tuple((m.id, m.name, t) for m in sorted(shelf.materials.values(), key=lambda m: m.name)
                   if m.lies and m.roles and not m.retired and m.family != "air" for t in m.thicknesses_mm)
    return BenchView(sentence=said if not cards else f"{plural(len(cards), 'series', 'series')}"
                     + (f", {waits} with readings to come." if waits else ", all read."), cards=cards,
                     myths=tuple(answered(q, read) for q in QUESTIONS),
                     spectra=tuple((x.id, x.name) for x in shelf.spectra.values()), sheets=sheets)


def result_of(series: SeriesKept, shelf: Shelf) -> SeriesResult | None:
    """What a series tells as it stands; None before anything is put on. Raises BadInput."""
    if not any(r.sample for r in series.runs):
        return None
    known = {s.name: {"sealed": s.sealed, "mass_kg_m2": _mass(s, shelf), "money_m2": _money(s, shelf),
                      "thickness_mm": s.thickness_mm or sum(x.thickness_mm for x in s.layers) or None} for s in series.samples}
    return told(parse(SeriesIn, {**series.model_dump(include={"rig", "bands_hz", "signal", "runs"}), "samples": known}))


def _mass(sample: SampleKept, shelf: Shelf) -> float | None:
    return sample.mass_kg_m2 if sample.mass_kg_m2 is not None else mass_of(sample.layers, shelf.materials)


def _money(sample: SampleKept, shelf: Shelf) -> float | None:
    if sample.money_m2 is not None or not sample.layers:
        return sample.money_m2
    known = [shelf.materials.get(x.material) for x in sample.layers]
    prices = [None if m is None else price_m2(m, sold_mm(m, x.thickness_mm)) for m, x in zip(known, sample.layers, strict=True)]
    return None if any(p is None for p in prices) else round(sum(p or 0.0 for p in prices), 2)


def series_card(series: SeriesKept, shelf: Shelf) -> SeriesCard:
    """One of them."""
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
    try:
        result = result_of(series, shelf)
    except BadInput as error:
        problem = error.sentence
    found = {} if result is None else {s.sample: s for s in result.samples}
    return SeriesCard(id=series.id, sentence=problem or (result.sentence if result else begun), next=words, next_sample=coming,
                      done=done, of=len(order), order=tuple(x or EMPTY for x in order), result=result, problem=problem,
                      samples=tuple(_said(series, s, found.get(s.name), shelf) for s in series.samples),
                      even_gains_db=even_gains_db(series.bands_hz, series.runs), compares=COMPARES[series.kind])


def _said(series: SeriesKept, sample: SampleKept, read: SampleResult | None, shelf: Shelf) -> SampleSaid:
    blocks = series.kind == "blocking"
    sure = predicted(sample.layers, series.bands_hz, series.rig.opening_m2, shelf.materials,
                     None if read is None else (read.all, read.all95_db)) if blocks else None
    dose = ""
    if sample.dose_ml is not None and sample.dose_on_m2 is not None:
        dose = dose_words(series.rig.opening_m2, sample.dose_ml, sample.dose_on_m2, sample.stroke_mm)
    of_source = None
    if read is not None and series.spectrum in shelf.spectra:
        of_source = by_spectrum_db(read.difference_db, series.bands_hz, shelf.source(series.spectrum) + PREDICTED_A_DB)
    return SampleSaid(sample=sample.name, mass_kg_m2=_mass(sample, shelf), money_m2=_money(sample, shelf), dose=dose,
                      predicted=sure, of_source_db=of_source)
