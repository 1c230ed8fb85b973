"""What changed between two groups of readings, how sure that is, and in which words."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np

from ..schema import Strict
from .bands import NOMINAL_HZ
from .decibels import band_means, energy_mean, subtract_background
from .statistics import repeats_to_settle, student_t

Verdict = Literal["quieter", "louder", "no change shown", "not comparable"]
TABLE_DOF = 20.0
"""Degrees of freedom granted to a repeatability from the table (a judged 16 % uncertainty of it, GUM G.4.2)."""
SETUP_DOF = 4.0
"""Degrees of freedom granted to a set-up line, which is known to a third at best (GUM G.4.2)."""
SETUP_DB = 0.5
"""Set-up scatter where the method is not known, dB: a judgement."""


class Item(NamedTuple):
    """One reading of a group: its level, what it is a level of, and its own standard uncertainty (ranges), dB.

    ``run_db`` is the uncertainty from the scatter inside its run; ``relative`` marks levels without calibration. Items of one
    ``set_up`` were taken in one go; ``resolution_db`` is the last digit typed or shown, 0 for what was computed.
    """

    level_db: float
    quantity: str | None = None
    uncertainty_db: float = 0.0
    run_db: float = 0.0
    relative: bool = False
    bands_db: tuple[float | None, ...] | None = None
    set_up: int = 0
    resolution_db: float = 0.0


class BandChange(Strict):
    """Reduction per band, dB; None where a band was not read."""

    frequency_hz: tuple[float, ...]
    reduction_db: tuple[float | None, ...]


class BudgetLine(Strict):
    """One source in the uncertainty budget; degrees of freedom None when they are without limit."""

    source: str
    standard_uncertainty_db: float
    degrees_of_freedom: float | None


class Caution(Strict):
    """Something that weakens a comparison; ``rule`` is its stable name."""

    rule: str
    text: str


class Comparison(Strict):
    """Reduction (before − after, positive is quieter) with its 95 % interval and verdict."""

    before_db: float
    after_db: float
    reduction_db: float
    interval95_db: tuple[float, float]
    verdict: Verdict
    energy_ratio: float
    loudness_words: str
    background_correction_db: tuple[float, float]
    budget: tuple[BudgetLine, ...]
    cautions: tuple[Caution, ...]
    bands: BandChange | None = None
    drift_db: float | None = None


class Terms(NamedTuple):
    """The circumstances of a comparison."""

    background_db: float | None = None
    """Background of the first group, and of the second unless it has its own."""
    background_after_db: float | None = None
    repeatability_db: float = 0.8
    different_instrument_db: float | None = None
    drift_db: float | None = None
    """Reduction seen at a control place, where nothing should change; it is taken off."""
    drift_lines: tuple[BudgetLine, ...] = ()
    setup_db: float = SETUP_DB
    """Standard uncertainty that repeats taken in one go share and so cannot show."""
    setup_dof: float = SETUP_DOF
    """Its degrees of freedom."""
    own_backgrounds: bool = False
    """Each group's background is its own, and none where it is not known; else one reading serves both."""


class _Group(NamedTuple):
    level: float
    correction: float
    bounded: bool
    lines: list[BudgetLine]


def middle_of_range(low_db: float, high_db: float) -> Item:
    """A range read off a display: its middle energy, and the standard uncertainty of a uniform spread."""
    return Item(energy_mean([low_db, high_db]), None, (high_db - low_db) / math.sqrt(12))


def compare(before: Sequence[Item], after: Sequence[Item], terms: Terms = Terms()) -> Comparison:  # noqa: B008
    """Compare two groups of repeats (energy means, each repeat weighing the same).

    ``before`` and ``after``: levels in dB with what is known of each; ``terms``: backgrounds, repeatability, set-up and drift,
    dB. The result has the reduction (dB, positive is quieter), its 95 % interval, its budget and a verdict. The interval is
    Student's t at the Welch–Satterthwaite degrees of freedom (GUM G.4). Groups must not be empty.

    >>> compare([Item(74.8)] * 3, [Item(70.2)] * 3).verdict
    'quieter'
    """
    second_background = terms.background_after_db
    if second_background is None and not terms.own_backgrounds:
        second_background = terms.background_db
    first, second = _group("before", before, terms.background_db, terms), _group("after", after, second_background, terms)
    lines = [*first.lines, *second.lines]
    if terms.different_instrument_db is not None:
        lines.append(BudgetLine(source="different instrument",
                                standard_uncertainty_db=terms.different_instrument_db, degrees_of_freedom=None))
    lines += _background_lines(first, second, terms)
    lines += terms.drift_lines
    quantities = {i.quantity for i in (*before, *after) if i.quantity}
    apart = len(quantities) > 1 or len({i.relative for i in (*before, *after)}) > 1
    reduction = first.level - second.level - (terms.drift_db or 0.0)
    return compared(
        (first.level, second.level), lines, _cautions(before, after, first, second, terms, reduction),
        apart or (first.bounded and second.bounded), (first.correction, second.correction), terms.drift_db,
        _band_change(before, after))


def compared(
    levels: tuple[float, float], lines: Sequence[BudgetLine], cautions: Sequence[Caution], apart: bool,
    corrections: tuple[float, float], drift_db: float | None = None, bands: BandChange | None = None,
) -> Comparison:
    """A comparison from two values (dB, before and after) and the budget of their difference, less what drifted."""
    reduction = levels[0] - levels[1] - (drift_db or 0.0)
    low, high = interval(reduction, lines)
    verdict = _verdict(low, high, apart)
    return Comparison(
        before_db=_r(levels[0]), after_db=_r(levels[1]), reduction_db=_r(reduction), interval95_db=(_r(low), _r(high)),
        verdict=verdict, energy_ratio=round(10 ** (-reduction / 10), 3), loudness_words=loudness_words(reduction, verdict),
        background_correction_db=(_r(corrections[0]), _r(corrections[1])),
        budget=tuple(line.model_copy(update={"standard_uncertainty_db": round(line.standard_uncertainty_db, 3)})
                     for line in lines),
        cautions=tuple(cautions), bands=bands, drift_db=None if drift_db is None else _r(drift_db),
    )


def interval(value: float, lines: Sequence[BudgetLine]) -> tuple[float, float]:
    """95 % interval of ``value`` from a budget of independent lines, dB."""
    variance = sum(line.standard_uncertainty_db**2 for line in lines)
    if variance == 0:
        return value, value
    fourth = sum(line.standard_uncertainty_db**4 / line.degrees_of_freedom
                 for line in lines if line.degrees_of_freedom)
    dof = variance**2 / fourth if fourth > 0 else math.inf
    half = student_t(dof) * math.sqrt(variance)
    return value - half, value + half


def group_lines(
    name: str, items: Sequence[Item], repeatability_db: float, setup_db: float | None = None, setup_dof: float = SETUP_DOF
) -> list[BudgetLine]:
    """Budget lines of one group's mean: scatter, what repeats in one go cannot show, ranges, the last digit.

    A single item has the method's repeatability. Of several set-ups the scatter of their means counts (degrees of freedom:
    set-ups − 1); of one, the scatter of its repeats and the set-up line. ``setup_db`` None: both groups share one set-up.
    """
    levels = np.array([i.level_db for i in items])
    n, set_ups = levels.size, sorted({i.set_up for i in items})
    lines = []
    if n == 1:
        lines.append(BudgetLine(source=f"repeatability of the method, {name}", standard_uncertainty_db=repeatability_db,
                                degrees_of_freedom=TABLE_DOF))
        if items[0].run_db:
            lines.append(BudgetLine(source=f"scatter inside the run, {name}", standard_uncertainty_db=items[0].run_db,
                                    degrees_of_freedom=TABLE_DOF))
    else:
        afresh = len(set_ups) > 1 and setup_db is not None
        means = [energy_mean([i.level_db for i in items if i.set_up == k]) for k in set_ups] if afresh else levels
        spread = float(np.std(means, ddof=1)) / math.sqrt(len(means))
        what = "set-ups" if afresh and len(set_ups) < n else "repeats"
        # where the scatter is finer than the last digit, the digit is what is not known
        digit = max(i.resolution_db for i in items) / math.sqrt(12)
        lines.append(BudgetLine(source=f"{what} {name}", standard_uncertainty_db=spread, degrees_of_freedom=len(means) - 1.0)
                     if spread > digit else
                     BudgetLine(source=f"last digit {name}", standard_uncertainty_db=digit, degrees_of_freedom=None))
        if not afresh and setup_db:
            lines.append(BudgetLine(source=f"set-up {name}", standard_uncertainty_db=setup_db, degrees_of_freedom=setup_dof))
    ranges = math.sqrt(sum(i.uncertainty_db**2 for i in items)) / n
    if ranges:
        lines.append(BudgetLine(source=f"ranges {name}", standard_uncertainty_db=ranges, degrees_of_freedom=None))
    return lines


def _group(name: str, items: Sequence[Item], background_db: float | None, terms: Terms) -> _Group:
    level = energy_mean([i.level_db for i in items])
    lines = group_lines(name, items, terms.repeatability_db, terms.setup_db, terms.setup_dof)
    if background_db is None:
        return _Group(level, 0.0, False, lines)
    freed, bounded = subtract_background(level, background_db)
    gain = 1 + _sensitivity(level - freed)
    # what was seen to scatter was seen with the background in it; what setting up again does, it does to the source's own level
    scaled = [x if x.source.startswith("set-up ") else
              x.model_copy(update={"standard_uncertainty_db": x.standard_uncertainty_db * gain}) for x in lines]
    return _Group(freed, level - freed, bounded, scaled)


def _background_lines(first: _Group, second: _Group, terms: Terms) -> list[BudgetLine]:
    """What the background's own uncertainty does: one reading that serves both groups acts on them alike."""
    shares = [_sensitivity(g.correction) for g in (first, second)]
    if terms.background_after_db is None and not terms.own_backgrounds:
        named = {"background": abs(shares[0] - shares[1])}
    else:
        named = {"background before": shares[0], "background after": shares[1]}
    return [BudgetLine(source=name, standard_uncertainty_db=share * terms.repeatability_db, degrees_of_freedom=TABLE_DOF)
            for name, share in named.items() if share]


def _band_change(before: Sequence[Item], after: Sequence[Item]) -> BandChange | None:
    """Difference of the energy means per band; None unless every item has bands."""
    rows = [[i.bands_db for i in items if i.bands_db is not None] for items in (before, after)]
    if [len(r) for r in rows] != [len(before), len(after)]:
        return None
    change = (None if b is None or a is None else _r(b - a) for b, a in zip(*map(band_means, rows), strict=True))
    return BandChange(frequency_hz=NOMINAL_HZ, reduction_db=tuple(change))


def _sensitivity(correction_db: float) -> float:
    """How many dB the corrected level moves per dB of background."""
    return 10 ** (correction_db / 10) - 1


def _verdict(low: float, high: float, apart: bool) -> Verdict:
    if apart:
        return "not comparable"
    return "quieter" if low > 0 else "louder" if high < 0 else "no change shown"


def loudness_words(reduction_db: float, verdict: Verdict) -> str:
    """What a difference means to an ear; about 10 dB is heard as half (or twice) as loud."""
    if verdict in ("no change shown", "not comparable"):
        return "No change can be claimed from these readings."
    word, size = ("quieter", reduction_db) if reduction_db > 0 else ("louder", -reduction_db)
    if size < 1:
        return f"Measurable, but hardly anyone would hear it as {word}."
    if size < 3:
        return f"A just noticeable change, {word}."
    if size < 8:
        return f"Clearly {word}; about 10 dB would be {'half' if word == 'quieter' else 'twice'} as loud."
    if size < 13:
        return f"About {'half' if word == 'quieter' else 'twice'} as loud."
    return f"Less than half as loud: {size:.0f} dB." if word == "quieter" else "More than twice as loud."


def _cautions(
    before: Sequence[Item], after: Sequence[Item], first: _Group, second: _Group, terms: Terms,
    reduction: float,
) -> list[Caution]:
    out = []
    if {i.quantity for i in before if i.quantity} != {i.quantity for i in after if i.quantity}:
        out.append(Caution(rule="different-quantities", text="The readings are not of the same quantity, or it is "
                                                             "known for one side only."))
    single = [name for name, items in (("before", before), ("after", after)) if len(items) == 1]
    if single:
        out.append(Caution(rule="single-reading", text=(
            f"One reading {' and one '.join(single)}: the usual repeatability of the method "
            f"({terms.repeatability_db:g} dB) stands in; {_settling(reduction, terms.repeatability_db)}.")))
    in_one_go = [name for name, items in (("before", before), ("after", after))
                 if len(items) > 1 and len({i.set_up for i in items}) == 1 and terms.setup_db]
    if in_one_go:
        out.append(Caution(rule="one-set-up", text=(
            f"The repeats {' and '.join(in_one_go)} were taken in one go and cannot show what setting up again does: "
            f"{terms.setup_db:g} dB stand in for that. Set up afresh for some of them.")))
    if terms.own_backgrounds and (terms.background_db is None) != (terms.background_after_db is None):
        known, other = ("before", "after") if terms.background_db is not None else ("after", "before")
        out.append(Caution(rule="background-one-sided", text=f"The background was read {known} the work only; the level "
                                                             f"{other} may hold some of it."))
    for name, group in (("before", first), ("after", second)):
        if group.bounded:
            out.append(Caution(rule="background-bound", text=f"The background is within 3 dB of the level {name}: "
                                                             "that level is an upper bound."))
        elif group.correction > 10 * math.log10(1 / (1 - 10**-0.6)):
            out.append(Caution(rule="background-near", text=f"The background is within 6 dB of the level {name}: "
                                                            "the correction is large."))
    relative = {i.relative for i in (*before, *after)}
    if relative == {True}:
        out.append(Caution(rule="equal-gain", text="The recordings are not calibrated: the difference holds if both were "
                                                   "made with the same gain."))
    elif len(relative) > 1:
        out.append(Caution(rule="mixed-scales", text="Some levels are calibrated and some are not: they have no common "
                                                     "scale."))
    if terms.different_instrument_db is not None:
        out.append(Caution(rule="different-instrument", text="Different instruments were used: their disagreement is "
                                                             "in the interval."))
    return out


def _settling(reduction: float, repeatability_db: float) -> str:
    n = repeats_to_settle(reduction, repeatability_db)
    return f"{n} readings each would settle it" if n else "a change this small would take more than 30 readings each"


def _r(value: float) -> float:
    return round(value, 2) + 0.0
