"""Of a way in what no stack tells: how far it stands open now and as planned, and what comes round it."""

from __future__ import annotations

from typing import NamedTuple

from ..job.document import JobDocument
from ..paths.rows import Path
from .job_figures import JobFigures, once


class Cap(NamedTuple):
    """The greatest R a path can have, dB (None: none), and where that is from, in words."""

    db: float | None
    words: str


def cap_of(job: JobFigures, path: Path) -> Cap:
    """A path's own cap, else of a panel what its kind of job usually lets come round it."""
    if path.cap_db is not None:
        return Cap(path.cap_db, f"R at most {path.cap_db:g} dB, as set")
    if path.flank is not None or (path.surface_id is not None and _goes_round(job)):
        return Cap(None, "no: what goes round the wall is listed by itself")
    usual = job.shelf.offers.caps_db.get(job.doc.job.kind) if path.surface_id is not None else None
    return Cap(usual, f"R at most {usual:g} dB, a judgement for this kind of job" if usual is not None else "no")


@once
def _goes_round(job: JobFigures) -> bool:
    """Whether ways round a wall are listed."""
    return any(p.flank is not None for p in job.doc.paths)


def is_opening(path: Path) -> bool:
    """Whether a path is nothing but an opening."""
    return path.surface_id is None and path.transmission_loss_db is None and path.level_dba is None and not path.unknown and (
        path.flank is None)


def leaks_cm2(doc: JobDocument, path: Path) -> tuple[float, float]:
    """Open area of a path as it was read and as planned, cm²: what was found at it counts, and is to be sealed.

    A path that is an opening itself is the one found there, not another beside it.
    """
    found = sum(x.area_cm2 or 0.0 for x in doc.leaks if x.path_id == path.id)
    now = max(path.leak_cm2, found) if is_opening(path) else path.leak_cm2 + found
    if path.planned_leak_cm2 is not None:
        return now, path.planned_leak_cm2
    return now, max(now - found, 0.0)
