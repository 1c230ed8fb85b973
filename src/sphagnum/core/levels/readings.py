"""A reading in a quantity: its level, its own uncertainty, the set-up it belongs to."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .bands import NOMINAL_HZ
from .comparison import Item, middle_of_range
from .decibels import energy_mean, energy_sum
from .rows import QUANTITIES, Reading
from .statistics import run_uncertainty

LIVE = ("log", "recording", "meter", "microphone")
"""Sources whose history is the run itself, so that its scatter counts."""


def level_of(reading: Reading, quantity: str) -> float | None:
    """A reading in a quantity: as kept, from its other levels, or summed from its bands; None if it does not tell.

    A difference between rooms is one of A-weighted levels: each room's reading tells its own.
    """
    if reading.quantity == quantity or (QUANTITIES[quantity].between_rooms and reading.quantity == "LAeq"):
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


def set_ups(readings: Sequence[Reading]) -> list[int]:
    """Which set-up each reading belongs to, in the order they were taken: one marked afresh begins the next."""
    out: list[int] = []
    for reading in readings:
        out.append(out[-1] + bool(reading.afresh) if out else 0)
    return out
