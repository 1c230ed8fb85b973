"""Where a surface lies to the source, and how deep a lining may be there: as said, else as such places usually are."""

from __future__ import annotations

from typing import NamedTuple

from ..paths.offers import Where
from ..surfaces.rows import Surface
from .job_figures import JobFigures


class Room(NamedTuple):
    """How deep a lining may be, mm (None: nothing tells), whether somebody said so, and in words what says it."""

    mm: float | None
    said: bool
    words: str


def where_of(job: JobFigures, surface_id: int) -> Where | None:
    """Where a surface lies by the words at its way in, else by what it is (a floor, a roof); None where nothing tells."""
    kind, offers = job.doc.job.kind, job.shelf.offers
    named = next((p.where for p in job.doc.paths if p.surface_id == surface_id and p.where), "")
    if named:
        return offers.where_in(kind, named)
    flags = next((s.flags for s in job.doc.surfaces if s.id == surface_id), ())
    lying = {"walked on", "overhead"} & set(flags)
    return next((w for w in offers.where if w.kind == kind and lying & set(w.flags)), None)


def room_of(job: JobFigures, surface: Surface) -> Room:
    """How deep what is added to a surface or patch may be: its own limit, the job's, else what such a place, or such a job,
    usually allows."""
    limits = job.doc.job.limits
    if surface.depth_limit_mm is not None:
        return Room(surface.depth_limit_mm, True, "as said here")
    if limits.depth_mm is not None:
        return Room(limits.depth_mm, True, "as said for the job")
    where = where_of(job, surface.id)
    if where is not None and where.depth_mm is not None:
        return Room(where.depth_mm, False, f"usual there ({where.words}): judged, measure it")
    usual = job.shelf.offers.usual_depth_mm.get(job.doc.job.kind)
    return Room(usual, False, "usual for such a job: judged, measure it")
