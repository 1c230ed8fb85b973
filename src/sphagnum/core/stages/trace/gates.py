"""One gate per path in the picture of Trace: what each carries, which lead, and which are so many that they share one."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...figures.job_figures import JobFigures, once
from ...figures.path_levels import a_levels, path_rows
from ...levels.bands import Floats
from ...levels.decibels import energy_sum
from ...paths.budget import split
from ...paths.correct import share_range
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


@once
def gates(job: JobFigures) -> tuple[PathView, ...]:
    """The paths by falling share."""
    rows = path_rows(job)
    now, planned = a_levels(rows.now), a_levels(rows.planned)
    budget = split([str(p.id) for p in job.doc.paths], now)
    model = split(["" for _ in job.doc.paths], rows.model)
    width = rows.correction.half_width_db if rows.correction else 1.96 * rows.model_db
    tested = {t.path_index for t in rows.tests}
    views = []
    for i, (p, s) in enumerate(zip(job.doc.paths, budget.paths, strict=True)):
        low, high = share_range(s.share, float(width[i]), i in tested) if s.share < 1 else (s.share, s.share)
        views.append(PathView(
            id=p.id, name=p.name, easy=p.easy, allowed=p.allowed, level_dba=s.level_dba,
            half_width_db=round(float(width[i]), 1) if s.level_dba is not None else None,
            share=s.share, share_low=round(low, 4), share_high=round(high, 4), model_share=model.paths[i].share,
            tested=i in tested, ceiling_db=s.ceiling_db,
            planned_level_dba=round(float(planned[i]), 2) if math.isfinite(planned[i]) else None,
            pulled_db=0.0, problem="no level known yet" if p.unknown else rows.problems[i],
        ))
    return tuple(sorted(views, key=lambda v: -v.share))


def total_dba(level_dba: Floats) -> float | None:
    """All levels together, dB(A); None where none is known."""
    return split(["" for _ in level_dba], level_dba).total_dba


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
