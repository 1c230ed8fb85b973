"""The readings of one place, condition and round as a group: their levels, their set-ups, and the background that is theirs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..job import QUANTITIES, Goal, JobDocument, Position, Reading
from ..materials.shelf import Shelf
from .bands import NOMINAL_HZ
from .comparison import Item, middle_of_range
from .decibels import energy_mean, energy_sum
from .statistics import run_uncertainty

LIVE = ("log", "recording", "meter", "microphone")
"""Sources whose history is the run itself, so that its scatter counts."""


class Group(NamedTuple):
    """Readings of one cell as items of a comparison; ``background_db`` of the same round, place and condition."""

    readings: tuple[Reading, ...]
    items: tuple[Item, ...]
    background_db: float | None


def level_of(reading: Reading, quantity: str) -> float | None:
    """A reading in a quantity: as kept, from its other levels, or summed from its bands; None if it does not tell.

    The level difference between rooms is one of levels: each room's reading tells its own.
    """
    if reading.quantity == quantity or (quantity == "level difference" and reading.quantity == "LAeq"):
        if reading.level_db is None and reading.low_db is not None and reading.high_db is not None:
            return energy_mean([reading.low_db, reading.high_db])
        return reading.level_db
    for name, value in reading.levels.items():
        if name == quantity:
            return value
    span = QUANTITIES[quantity].bands_hz
    if span is None or not reading.bands_db:
        return None
    found = [v for f, v in zip(NOMINAL_HZ, reading.bands_db, strict=True) if v is not None and span[0] <= f <= span[1]]
    return energy_sum(found) if found else None


def item_of(reading: Reading, quantity: str | None = None, set_up: int = 0) -> Item:
    """A reading as an item of a comparison; a range and a run keep their own uncertainty, a display its last digit."""
    quantity = quantity or reading.quantity
    live = reading.source in LIVE
    scatter = run_uncertainty(np.array(reading.history_db)) if live and reading.history_db else 0.0
    digit = 0.0 if reading.source in ("log", "recording", "microphone") else reading.resolution_db
    item = Item(level_of(reading, quantity) or 0.0, quantity, 0.0, scatter, reading.relative, reading.bands_db or None, set_up,
                digit)
    if reading.quantity == quantity and reading.low_db is not None and reading.high_db is not None:
        return item._replace(uncertainty_db=middle_of_range(reading.low_db, reading.high_db).uncertainty_db)
    return item


def readings_at(
    doc: JobDocument, round_id: int, position_id: int, condition_id: int, quantity: str, background: bool = False
) -> tuple[Reading, ...]:
    """The repeats of one cell."""
    return tuple(
        r for r in doc.readings
        if (r.round_id, r.position_id, r.condition_id, r.background)
        == (round_id, position_id, condition_id, background) and level_of(r, quantity) is not None
    )


def set_ups(readings: Sequence[Reading]) -> list[int]:
    """Which set-up each reading belongs to, in the order they were taken: one marked afresh begins the next."""
    out: list[int] = []
    for reading in readings:
        out.append(out[-1] + bool(reading.afresh) if out else 0)
    return out


def group_at(doc: JobDocument, round_id: int, position_id: int, condition_id: int, quantity: str) -> Group:
    """The group of one cell; no items where nothing was read."""
    found = readings_at(doc, round_id, position_id, condition_id, quantity)
    still = [level for r in readings_at(doc, round_id, position_id, condition_id, quantity, background=True)
             if (level := level_of(r, quantity)) is not None]
    items = tuple(item_of(r, quantity, k) for r, k in zip(found, set_ups(found), strict=True))
    return Group(found, items, energy_mean(still) if still else None)


def repeatability(doc: JobDocument, shelf: Shelf) -> float:
    """Standard deviation of one reading of this job, dB: the workshop's own where it has set one."""
    return doc.job.repeatability_db or shelf.repeatability(doc.job.method)


def source_place(doc: JobDocument, goal: Goal) -> Position | None:
    """Of a level difference, the room the sound comes from: the place marked at the source, else the only other one."""
    others = [p for p in doc.positions if p.id != goal.position_id and not p.control]
    return next((p for p in others if p.at_source), others[0] if len(others) == 1 else None)
