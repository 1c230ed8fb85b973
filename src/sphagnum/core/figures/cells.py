"""One cell of a board: readings of a place in a condition of a round, as a level with its width."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from itertools import pairwise

from ..levels.comparison import group_lines, interval
from ..levels.decibels import energy_mean, subtract_background
from ..levels.rows import QUANTITIES, Reading
from ..schema import Strict
from .job_figures import JobFigures, once
from .readings import group_at, repeatability, setup_of


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


@once
def cell(job: JobFigures, round_id: int, position_id: int, condition_id: int, quantity: str) -> Cell:
    """One cell: energy mean freed of its background, with the 95 % half-width of its mean."""
    readings, items, background = group_at(job.doc, round_id, position_id, condition_id, quantity)
    goal = job.doc.goal
    level = half = correction = spread = None
    bounded = False
    if items:
        level = energy_mean([i.level_db for i in items])
        setup = setup_of(job)
        lines = group_lines("", items, repeatability(job), setup.db, setup.dof)
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
        unit="dB(A)" if QUANTITIES[quantity].between_rooms else QUANTITIES[quantity].unit,
        repeats=len(readings), half_width_db=half, spread_db=spread,
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
