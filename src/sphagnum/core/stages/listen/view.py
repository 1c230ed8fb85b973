"""Listen: the board of positions × conditions of a round, and the goal rule above all stages."""

from __future__ import annotations

from ...figures.between import between_words, swapped
from ...figures.cells import Cell, cell
from ...figures.goal import goal_words
from ...figures.job_figures import JobFigures, once
from ...figures.readings import repeatability, source_place, without_scale
from ...figures.rings import ring_widths, room_time_s
from ...figures.rounds import context_kind
from ...job.document import JobDocument
from ...levels.context import Fairness, compare_context
from ...levels.readings import item_of
from ...levels.rows import QUANTITIES, Goal, Round
from ...schema import Strict
from ...words import plural
from ...working import Working, inputs


class RoundMark(Strict):
    """A round at a glance: how many places were read, and whether it may be compared with the baseline."""

    round_id: int
    read: int
    fairness: Fairness | None
    words: str


class RingWidth(Strict):
    """How surely a decay of a room was read: half of the 95 % interval of T per octave, s; None where nothing tells."""

    decay_id: int
    within_s: tuple[float | None, ...]


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
    rings: tuple[RingWidth, ...] = ()
    working: tuple[Working, ...]


@once
def board(job: JobFigures, round_id: int | None) -> ListenView:
    """The board of a round (the first when None)."""
    chosen = next((r for r in job.doc.rounds if r.id == round_id), job.doc.rounds[0] if job.doc.rounds else None)
    quantity = job.doc.goal.quantity if job.doc.goal else "LAeq"
    base = job.doc.round_in("as found")
    cells = tuple(
        _with_change(job, cell(job, chosen.id, p.id, c.id, quantity), base, chosen, quantity)
        for p in job.doc.positions for c in job.doc.conditions
    ) if chosen else ()
    read = sum(1 for c in cells if c.repeats)
    spreads = [c.spread_db for c in cells if c.spread_db is not None]
    return ListenView(
        sentence=_sentence(job.doc, chosen, cells, max(spreads, default=None)),
        detail=_detail(job, chosen),
        round_id=chosen.id if chosen else None,
        cells=cells, read=read, wanted=len(cells),
        context_items=tuple(c.item for c in job.shelf.context_items(context_kind(job.doc))),
        background_note=_background_note(cells, job.doc, chosen), rounds=tuple(_mark(job, base, r) for r in job.doc.rounds),
        rings=tuple(RingWidth(decay_id=d.id, within_s=ring_widths(d)) for d in job.doc.decays
                    if chosen and d.round_id == chosen.id),
        working=_working(job, cells),
    )


def _with_change(job: JobFigures, here: Cell, base: Round | None, chosen: Round, quantity: str) -> Cell:
    if base is None or base.id == chosen.id or here.level_db is None:
        return here
    was = cell(job, base.id, here.position_id, here.condition_id, quantity).level_db
    return here if was is None else here.model_copy(update={"change_db": round(here.level_db - was, 2) + 0.0})


def _mark(job: JobFigures, base: Round | None, chosen: Round) -> RoundMark:
    read = len({(r.position_id, r.condition_id) for r in job.doc.readings if r.round_id == chosen.id and not r.background})
    if base is None or base.id == chosen.id or not read:
        return RoundMark(round_id=chosen.id, read=read, fairness=None, words="")
    items = job.shelf.context_items(context_kind(job.doc))
    fair = compare_context(items, base.context, chosen.context, (base.taken_on, chosen.taken_on))
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


def _of_rooms(job: JobFigures, goal: Goal, chosen: Round) -> list[str]:
    """What bands say of two rooms, and what is missing or odd in what was read."""
    said = [between_words(job, goal, chosen)]
    if swapped(job, goal, chosen):
        said.append("The room the sound comes from reads lower than the one listened in: are they the wrong way round?")
    if goal.quantity == "DnT" and room_time_s(job.doc, chosen.id) is None:
        said.append("How long the room listened in rings is missing: record a clap there, or type its volume.")
    return [x for x in said if x]


def _detail(job: JobFigures, chosen: Round | None) -> str:
    doc = job.doc
    parts = [f"Round “{chosen.name}”."] if chosen else []
    if doc.goal and QUANTITIES[doc.goal.quantity].between_rooms:
        source = source_place(doc, doc.goal)
        parts.append(f"Read both rooms while the same signal plays: {source.name} and the outlined one; their difference counts."
                     if source else "Name the room the sound comes from too, and mark it “at the source”.")
        if chosen is not None:
            parts += _of_rooms(job, doc.goal, chosen)
    lost = without_scale(doc, chosen.id) if chosen else 0
    if lost:
        parts.append(f"{plural(lost, 'reading')} without a calibration beside levels that have one: there is no mean of both, "
                     "and the calibrated ones count.")
    if doc.goal:
        parts.append(f"The goal is the outlined cell: {goal_words(doc)}")
    return " ".join(parts)


def _background_note(cells: tuple[Cell, ...], doc: JobDocument, chosen: Round | None) -> str:
    corrected = [c for c in cells if c.background_correction_db is not None]
    if chosen is None or not corrected:
        return ""
    if any(c.upper_bound for c in corrected):
        return "The background is within 3 dB of a reading: that level is an upper bound."
    most = max(c.background_correction_db or 0.0 for c in corrected)
    return f"Background taken off {plural(len(corrected), 'place')}: {most:.1f} dB at most."


def _working(job: JobFigures, cells: tuple[Cell, ...]) -> tuple[Working, ...]:
    names = {p.id: p.name for p in job.doc.positions}, {c.id: c.name for c in job.doc.conditions}
    readings = {r.id: r for r in job.doc.readings}
    return tuple(
        Working(
            figure=f"{names[0][c.position_id]}, {names[1][c.condition_id]}: {c.level_db} {c.unit}",
            formula="energy mean of the repeats; 95 % interval by Student's t, or the method's repeatability for one",
            inputs=inputs(repeats=", ".join(f"{item_of(readings[i]).level_db:.1f}" for i in c.reading_ids),
                          background_correction=f"{c.background_correction_db or 0:.1f} dB",
                          repeatability_of_one_reading=f"{repeatability(job):g} dB"),
            source="ISO 1996-1; GUM; ISO 16283-1, 9.2 for the background",
            accuracy=f"± {c.half_width_db} dB (95 %)",
        )
        for c in cells if c.repeats
    )
