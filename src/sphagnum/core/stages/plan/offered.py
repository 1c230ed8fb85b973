"""What a search may be told before it begins: how deep each place is, what is on hand, and what stays as it is."""

from __future__ import annotations

from ...builds.box_given import BoxIn
from ...figures.job_figures import JobFigures
from ...figures.where import room_of
from ...schema import Strict
from ...surfaces.patches import patches
from .build_ways import builds_begun, key_of_build
from .problem import on_hand_m2
from .unit import key_of, laid


class PlaceOffered(Strict):
    """A surface or zone of a plan: how deep a new lining may be there, whether somebody said so, whether it is laid. Or a build
    (no ``surface_id``) that may become another."""

    surface_id: int | None
    zone: str
    key: str
    name: str
    depth_mm: float | None
    said: bool
    words: str
    laid: bool
    chosen: str
    """The stack that is planned there now; empty where none is."""


class OnHand(Strict):
    """A material of which there is some in the store, or a rest the job has taken."""

    material: str
    name: str
    m2: float


class PlanOffered(Strict):
    """What can be said before a search."""

    places: tuple[PlaceOffered, ...]
    on_hand: tuple[OnHand, ...]
    materials: tuple[OnHand, ...]
    """All that can be laid, by name, with what is on hand of it."""
    kind_money: float
    """What each kind of material counts beside the money when plans are compared."""


def offered(job: JobFigures) -> PlanOffered:
    """What a search of a job may be told before it begins."""
    stays = laid(job.doc)
    places = []
    for surface in job.doc.surfaces:
        if not any(p.surface_id == surface.id and p.allowed for p in job.doc.paths):
            continue
        for patch in patches(surface):
            room, one = room_of(job, patch), job.doc.chosen(patch.id, patch.zone)
            places.append(PlaceOffered(
                surface_id=surface.id, zone=patch.zone, key=key_of(patch), name=patch.name, said=room.said, words=room.words,
                depth_mm=room.mm, laid=key_of(patch) in stays,
                chosen="" if one is None else one.name))
    done = builds_begun(job)
    places += [PlaceOffered(surface_id=None, zone="", key=key, name=b.name, depth_mm=None, said=False, words="", laid=key in done,
                            chosen=b.name if b.chosen else "")
               for b in job.doc.builds if isinstance(b.given, BoxIn) for key in (key_of_build(b.id),)]
    sold = sorted((m for m in job.shelf.materials.values()
                   if m.lies and m.roles and m.stock and not m.retired and m.family != "air"), key=lambda m: m.name)
    rows = tuple(OnHand(material=m.id, name=m.name, m2=round(sum(
        on_hand_m2(job, f"{m.id}@{mm:g}") for mm in m.thicknesses_mm), 2)) for m in sold)
    return PlanOffered(places=tuple(places), on_hand=tuple(r for r in rows if r.m2 > 0), materials=rows,
                       kind_money=job.base.kind_money)
