"""The readings of one place, condition and round as a group: their levels, their set-ups, and the background that is theirs."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from ..job.document import JobDocument
from ..levels.comparison import SETUP_DOF, Item
from ..levels.decibels import energy_mean
from ..levels.readings import item_of, level_of, set_ups
from ..levels.rows import Goal, Position, Reading
from ..levels.statistics import pooled_deviation
from ..same import Same
from .job_figures import JobFigures


class Group(NamedTuple):
    """Readings of one cell as items of a comparison; ``background_db`` of the same round, place and condition."""

    readings: tuple[Reading, ...]
    items: tuple[Item, ...]
    background_db: float | None


def readings_at(
    doc: JobDocument, round_id: int, position_id: int, condition_id: int, quantity: str, background: bool = False
) -> tuple[Reading, ...]:
    """The repeats of one cell. Levels with and without a scale have no mean: where some have one, the others do not count."""
    return _repeats(Same(doc.readings), (round_id, position_id, condition_id, background), quantity)


def _repeats(readings: Same[tuple[Reading, ...]], cell: tuple[int, int, int, bool], quantity: str) -> tuple[Reading, ...]:
    found = tuple(r for r in _by_cell(readings).get(cell, ()) if level_of(r, quantity) is not None)
    return tuple(r for r in found if not r.relative) or found


@lru_cache(maxsize=16)
def _by_cell(readings: Same[tuple[Reading, ...]]) -> dict[tuple[int, int, int, bool], tuple[Reading, ...]]:
    """Readings by round, place, condition, and whether they are of the background."""
    out: dict[tuple[int, int, int, bool], list[Reading]] = {}
    for r in readings.value:
        out.setdefault((r.round_id, r.position_id, r.condition_id, r.background), []).append(r)
    return {cell: tuple(own) for cell, own in out.items()}


def without_scale(doc: JobDocument, round_id: int) -> int:
    """How many readings of a round do not count, for others of their place and condition have a scale and they have none."""
    own = [r for r in doc.readings if r.round_id == round_id and not r.background]
    scaled = {(r.position_id, r.condition_id, r.quantity) for r in own if not r.relative}
    return sum(r.relative and (r.position_id, r.condition_id, r.quantity) in scaled for r in own)


def group_at(doc: JobDocument, round_id: int, position_id: int, condition_id: int, quantity: str) -> Group:
    """The group of one cell; no items where nothing was read."""
    return _group(Same(doc.readings), (round_id, position_id, condition_id), quantity)


@lru_cache(maxsize=256)
def _group(readings: Same[tuple[Reading, ...]], cell: tuple[int, int, int], quantity: str) -> Group:
    found = _repeats(readings, (*cell, False), quantity)
    still = [level for r in _repeats(readings, (*cell, True), quantity)
             if (level := level_of(r, quantity)) is not None and (not found or r.relative == found[0].relative)]
    items = tuple(item_of(r, quantity, k) for r, k in zip(found, set_ups(found), strict=True))
    return Group(found, items, energy_mean(still) if still else None)


def repeatability(job: JobFigures) -> float:
    """Standard deviation of one reading of this job, dB: the workshop's own where it has set one."""
    return job.doc.job.repeatability_db or job.shelf.repeatability(job.doc.job.method)


class SetUp(NamedTuple):
    """What setting up again does, standard deviation dB, its degrees of freedom, and whether the job's own readings say it."""

    db: float
    dof: float
    own: bool


ENOUGH_DOF = 3
"""From so many degrees of freedom on the job's own set-ups stand in for the table."""


def setup_of(job: JobFigures) -> SetUp:
    """The scatter of set-ups: of those anywhere in the job (any place, condition and round) pooled, else the method's.

    Where the job has few, the larger of both counts, for a small scatter of two or three set-ups may be luck.
    """
    return _setup_of(Same(job.doc.readings), job.shelf.setup(job.doc.job.method))


@lru_cache(maxsize=64)
def _setup_of(readings: Same[tuple[Reading, ...]], table: float) -> SetUp:
    cells: dict[tuple[object, ...], list[Reading]] = {}
    for r in readings.value:
        if not r.background and level_of(r, r.quantity) is not None:
            cells.setdefault((r.round_id, r.position_id, r.condition_id, r.quantity, r.relative), []).append(r)
    means = []
    for found in cells.values():
        by_set_up: dict[int, list[float]] = {}
        for r, k in zip(found, set_ups(found), strict=True):
            by_set_up.setdefault(k, []).append(level_of(r, r.quantity) or 0.0)
        means.append([energy_mean(x) for x in by_set_up.values()])
    own, dof = pooled_deviation(means)
    if own is None or (dof < ENOUGH_DOF and own <= table):
        return SetUp(table, SETUP_DOF, False)
    return SetUp(round(own, 2), float(dof), True)


def source_place(doc: JobDocument, goal: Goal) -> Position | None:
    """Of a level difference, the room the sound comes from: the place marked at the source, else the only other one."""
    others = [p for p in doc.positions if p.id != goal.position_id and not p.control]
    return next((p for p in others if p.at_source), others[0] if len(others) == 1 else None)
