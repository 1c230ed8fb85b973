"""Listen: the board of positions × conditions of a round, and the goal rule above all stages."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from itertools import pairwise

from ..job import QUANTITIES, Goal, JobDocument, Reading, Round
from ..materials.shelf import Shelf
from ..schema import Strict
from ..words import plural
from ..working import Working, inputs
from .comparison import group_lines, interval
from .context import Fairness, compare_context
from .decibels import energy_mean, subtract_background
from .groups import group_at, item_of, level_of, readings_at, repeatability, source_place
from .statistics import pooled_deviation


class Cell(Strict):
    """Readings of one quantity at one position in one condition of a round; level None when nothing was read."""

    position_id: int
    condition_id: int
    level_db: float | None
    unit: str
    repeats: int
    half_width_db: float | None
    spread_db: float | None
    background_correction_db: float | None
    upper_bound: bool
    history_db: tuple[float, ...]
    is_goal: bool
    reading_ids: tuple[int, ...]
    set_ups: int = 0
    simulated: bool = False
    """Whether a made-up instrument gave any of it."""
    ask_afresh: bool | None = None
    """Of repeats nobody said it of: whether each was set up afresh is asked, and this is what their times propose."""
    change_db: float | None = None
    """Against the baseline, at the same place; None in the baseline itself."""


class RoundMark(Strict):
    """A round at a glance: how many places were read, and whether it may be compared with the baseline."""

    round_id: int
    read: int
    fairness: Fairness | None
    words: str


class ListenView(Strict):
    """The board of one round."""

    sentence: str
    detail: str
    round_id: int | None
    cells: tuple[Cell, ...]
    read: int
    wanted: int
    context_items: tuple[str, ...]
    background_note: str
    rounds: tuple[RoundMark, ...]
    working: tuple[Working, ...]


def context_kind(doc: JobDocument) -> str:
    """Which context matters: that of the job's kind, or of a loudspeaker's response where that is the goal."""
    return "response" if doc.goal is not None and doc.goal.quantity == "bass gain" else doc.job.kind


def cell(doc: JobDocument, shelf: Shelf, round_id: int, position_id: int, condition_id: int, quantity: str) -> Cell:
    """One cell: energy mean freed of its background, with the 95 % half-width of its mean."""
    readings, items, background = group_at(doc, round_id, position_id, condition_id, quantity)
    goal = doc.goal
    level = half = correction = spread = None
    bounded = False
    if items:
        level = energy_mean([i.level_db for i in items])
        lines = group_lines("", items, repeatability(doc, shelf), shelf.setup(doc.job.method))
        raw = [i.level_db for i in items]
        spread = round((max(raw) - min(raw)) / 2, 2) if len(raw) > 1 else None
        gain = 1.0
        if background is not None:
            freed, bounded = subtract_background(level, background)
            correction, level = round(level - freed, 2), freed
            gain = 10 ** ((correction or 0.0) / 10)  # what is freed of its background moves more than what was read
        low, high = interval(0.0, lines)
        half, level = round(gain * (high - low) / 2, 2), round(level, 2)
    said = [r.afresh for r in readings[1:]]
    return Cell(
        position_id=position_id, condition_id=condition_id, level_db=level,
        unit=QUANTITIES[quantity].unit, repeats=len(readings), half_width_db=half, spread_db=spread,
        background_correction_db=correction, upper_bound=bounded,
        history_db=next((r.history_db for r in readings if r.history_db), ()),
        is_goal=goal is not None and (goal.position_id, goal.condition_id) == (position_id, condition_id),
        reading_ids=tuple(r.id for r in readings), set_ups=len({i.set_up for i in items}),
        simulated=any(r.simulated for r in readings),
        ask_afresh=_proposed_afresh(readings) if None in said else None,
    )


APART_S = 20 * 60
"""Readings further apart in time than this were probably set up anew."""


def _proposed_afresh(readings: Sequence[Reading]) -> bool:
    """Whether repeats nobody said it of look set up afresh each time, by when they were taken."""
    times = [datetime.fromisoformat(r.taken_at).timestamp() for r in readings if r.taken_at]
    return len(times) == len(readings) and all(b - a > APART_S for a, b in pairwise(times))


def board(doc: JobDocument, shelf: Shelf, round_id: int | None) -> ListenView:
    """The board of a round (the first when None)."""
    chosen = next((r for r in doc.rounds if r.id == round_id), doc.rounds[0] if doc.rounds else None)
    quantity = doc.goal.quantity if doc.goal else "LAeq"
    base = doc.round_in("as found")
    cells = tuple(
        _with_change(cell(doc, shelf, chosen.id, p.id, c.id, quantity), doc, shelf, base, chosen, quantity)
        for p in doc.positions for c in doc.conditions
    ) if chosen else ()
    read = sum(1 for c in cells if c.repeats)
    spreads = [c.spread_db for c in cells if c.spread_db is not None]
    return ListenView(
        sentence=_sentence(doc, chosen, cells, max(spreads, default=None)),
        detail=_detail(doc, chosen),
        round_id=chosen.id if chosen else None,
        cells=cells, read=read, wanted=len(cells),
        context_items=tuple(c.item for c in shelf.context_items(context_kind(doc))),
        background_note=_background_note(cells, doc, chosen), rounds=tuple(_mark(doc, shelf, base, r) for r in doc.rounds),
        working=_working(doc, shelf, cells),
    )


def _with_change(
    here: Cell, doc: JobDocument, shelf: Shelf, base: Round | None, chosen: Round, quantity: str
) -> Cell:
    if base is None or base.id == chosen.id or here.level_db is None:
        return here
    was = cell(doc, shelf, base.id, here.position_id, here.condition_id, quantity).level_db
    return here if was is None else here.model_copy(update={"change_db": round(here.level_db - was, 2) + 0.0})


def _mark(doc: JobDocument, shelf: Shelf, base: Round | None, chosen: Round) -> RoundMark:
    read = len({(r.position_id, r.condition_id) for r in doc.readings if r.round_id == chosen.id and not r.background})
    if base is None or base.id == chosen.id or not read:
        return RoundMark(round_id=chosen.id, read=read, fairness=None, words="")
    fair = compare_context(shelf.context_items(context_kind(doc)), base.context, chosen.context, (base.taken_on, chosen.taken_on))
    return RoundMark(round_id=chosen.id, read=read, fairness=fair.fairness, words=fair.words)


def _sentence(doc: JobDocument, chosen: Round | None, cells: tuple[Cell, ...], widest: float | None) -> str:
    if not doc.positions or not doc.conditions:
        return "Say where the microphone stands and what the source is doing."
    if chosen is None:
        return "Begin with a round: how does it sound as found?"
    read = sum(1 for c in cells if c.repeats)
    if read == 0:
        return f"{chosen.name}: nothing read yet. Take the outlined cell first." if doc.goal else (
            f"{chosen.name}: nothing read yet. Set a goal, then take its reading first.")
    word = "Baseline" if chosen.state == "as found" else chosen.name
    tail = "one reading each" if widest is None else f"repeats within ± {widest:.1f} dB"
    return f"{word}: {read} of {len(cells)} places read, {tail}."


def _detail(doc: JobDocument, chosen: Round | None) -> str:
    parts = [f"Round “{chosen.name}”."] if chosen else []
    if doc.goal and doc.goal.quantity == "level difference":
        source = source_place(doc, doc.goal)
        parts.append(f"Read both rooms while the same signal plays: {source.name} and the outlined one; their difference counts."
                     if source else "Name the room the sound comes from too, and mark it “at the source”.")
    if doc.goal:
        parts.append(f"The goal is the outlined cell: {goal_words(doc)}")
    return " ".join(parts)


def goal_words(doc: JobDocument) -> str:
    """The headline goal in words, or an empty text."""
    goal = doc.goal
    if goal is None:
        return ""
    facts = QUANTITIES[goal.quantity]
    way = "reach" if goal.aim == "reach" else "more" if facts.up_is_good else "less"
    amount = f"reach {goal.value:g} {facts.unit}" if way == "reach" else f"{goal.value:g} dB {way}"
    return f"{amount} at {goal_place(doc, goal)}."


def goal_place(doc: JobDocument, goal: Goal) -> str:
    """Where the goal is measured, in words."""
    names = {p.id: p.name for p in doc.positions}, {c.id: c.name for c in doc.conditions}
    place = names[0].get(goal.position_id, "?")
    return f"{place[0].lower()}{place[1:]}, {names[1].get(goal.condition_id, '?')}"


def _background_note(cells: tuple[Cell, ...], doc: JobDocument, chosen: Round | None) -> str:
    corrected = [c for c in cells if c.background_correction_db is not None]
    if chosen is None or not corrected:
        return ""
    if any(c.upper_bound for c in corrected):
        return "The background is within 3 dB of a reading: that level is an upper bound."
    most = max(c.background_correction_db or 0.0 for c in corrected)
    return f"Background taken off {plural(len(corrected), 'place')}: {most:.1f} dB at most."


def _working(doc: JobDocument, shelf: Shelf, cells: tuple[Cell, ...]) -> tuple[Working, ...]:
    names = {p.id: p.name for p in doc.positions}, {c.id: c.name for c in doc.conditions}
    readings = {r.id: r for r in doc.readings}
    return tuple(
        Working(
            figure=f"{names[0][c.position_id]}, {names[1][c.condition_id]}: {c.level_db} {c.unit}",
            formula="energy mean of the repeats; 95 % interval by Student's t, or the method's repeatability for one",
            inputs=inputs(repeats=", ".join(f"{item_of(readings[i]).level_db:.1f}" for i in c.reading_ids),
                          background_correction=f"{c.background_correction_db or 0:.1f} dB",
                          repeatability_of_one_reading=f"{repeatability(doc, shelf):g} dB"),
            source="ISO 1996-1; GUM; ISO 16283-1, 9.2 for the background",
            accuracy=f"± {c.half_width_db} dB (95 %)",
        )
        for c in cells if c.repeats
    )


def read_rounds(doc: JobDocument) -> set[int]:
    """Numbers of the rounds in which something was read."""
    return {r.round_id for r in doc.readings if not r.background} | {k.round_id for k in doc.knocks}


def latest(doc: JobDocument) -> Round | None:
    """The finished round last read, else the last one read that is no baseline."""
    read = read_rounds(doc)
    later = [r for r in doc.rounds if r.state != "as found" and r.id in read and (r.follows_id or r.state != "stripped")]
    return next((r for r in reversed(later) if r.state == "finished"), later[-1] if later else None)


class Learned(Strict):
    """Repeatability of a method: the table's, and what the workshop's own repeats tell (None below LEAST_FREEDOM)."""

    method: str
    table_db: float
    own_db: float | None
    degrees_of_freedom: int


LEAST_FREEDOM = 8


def learned(docs: Sequence[JobDocument], shelf: Shelf) -> tuple[Learned, ...]:
    """What the repeats in all jobs say about each method."""
    out = []
    for method in shelf.methods.values():
        groups = [
            [level for r in readings_at(d, n.id, p.id, c.id, "LAeq") if (level := level_of(r, "LAeq")) is not None]
            for d in docs if d.job.method == method.id for n in d.rounds for p in d.positions for c in d.conditions]
        own, freedom = pooled_deviation(groups)
        out.append(Learned(method=method.id, table_db=method.repeatability_db, degrees_of_freedom=freedom,
                           own_db=round(own, 2) if own is not None and freedom >= LEAST_FREEDOM else None))
    return tuple(out)
