"""One gate per path in the picture of Trace: what each carries, which lead, and which are so many that they share one."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...levels.decibels import energy_sum
from ...schema import Strict

MOST_GATES = 12
"""More than these in one picture are hairs nobody can tell apart or take hold of."""


class PathView(Strict):
    """One path at the listener now and as planned; ``problem`` says why a figure is unknown."""

    id: int
    name: str
    easy: bool
    allowed: bool
    level_dba: float | None
    half_width_db: float | None
    share: float
    share_low: float
    share_high: float
    model_share: float
    """Share before tests corrected it."""
    tested: bool
    ceiling_db: float | None
    planned_level_dba: float | None
    pulled_db: float
    problem: str


class OthersView(Strict):
    """The paths that share the last gate of the picture, together."""

    path_ids: tuple[int, ...]
    name: str
    share: float
    level_dba: float | None


def leading(paths: tuple[PathView, ...]) -> tuple[PathView, ...]:
    """The fewest loudest paths that carry at least half of the energy, three at most."""
    out: list[PathView] = []
    for path in paths[:3]:
        out.append(path)
        if sum(p.share for p in out) >= 0.5:
            break
    return tuple(out)


def easy_part(paths: Sequence[PathView]) -> PathView | None:
    """The largest of the paths that are easy to reach and would give something."""
    return next((p for p in paths if p.easy and p.ceiling_db is not None), None)


def others(paths: Sequence[PathView]) -> OthersView | None:
    """The paths, loudest first, that get no gate of their own; None where there is room for all. The easy part keeps its own."""
    open_ = [p for p in paths if p.share > 0]
    if len(open_) <= MOST_GATES:
        return None
    easy = easy_part(open_)
    rest = [p for p in open_[MOST_GATES - 1:] if p is not easy]
    level = energy_sum([p.level_dba for p in rest if p.level_dba is not None])
    return OthersView(path_ids=tuple(p.id for p in rest), name=f"{len(rest)} smaller ways in", share=sum(p.share for p in rest),
                      level_dba=round(level, 2) if math.isfinite(level) else None)
