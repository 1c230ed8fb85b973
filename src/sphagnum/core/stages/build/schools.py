"""Where practitioners disagree: each school's ways put side by side on this very surface, for the person to pick."""

from __future__ import annotations

from typing import NamedTuple

from ...errors import BadInput
from ...figures.job_figures import JobFigures, once
from ...levels.bands import PREDICTED_HZ
from ...schema import Strict
from ...surfaces.patches import Patch, patch_of
from ...surfaces.rows import Alternative, StackLayerIn
from .table import TableRow, row_of


class Way(NamedTuple):
    """One way of a school: its layers as (material, thickness mm, coverage, more fields)."""

    id: str
    name: str
    layers: tuple[tuple[str, float, float, dict[str, str]], ...]


class School(NamedTuple):
    """A question on which practitioners differ, for which kinds of job, and its ways."""

    id: str
    title: str
    question: str
    kinds: tuple[str, ...]
    ways: tuple[Way, ...]


def _way(name: str, title: str, *layers: tuple[str, float] | tuple[str, float, float] | tuple[str, float, float, str]) -> Way:
    out = []
    for x in layers:
        joined = {"joined": str(x[3])} if len(x) > 3 else {}
        out.append((x[0], x[1], x[2] if len(x) > 2 else 1.0, joined))
    return Way(name, title, tuple(out))


ALL = ("vehicle", "enclosure", "room")
SCHOOLS: tuple[School, ...] = (
    School("combined", "One combined sheet, or separate layers", "The same mass and depth, one thing to lay or two.",
           ("vehicle", "enclosure"), (
        _way("combined", "Combined sheet", ("foam-vinyl", 8.5), ("seam-tape", 1)),
        _way("separate", "Foam, then vinyl", ("closed-foam", 6), ("vinyl-5", 2.5), ("seam-tape", 1)))),
    School("between-boards", "Between two boards: compound, adhesive, or nothing", "What the layer between them is worth.",
           ("room", "enclosure"), (
        _way("nothing", "Two boards, nothing between", ("gypsum-board", 12.5), ("gypsum-board", 12.5)),
        _way("adhesive", "Elastic adhesive between", ("gypsum-board", 12.5), ("gypsum-board", 12.5, 1.0, "adhesive")),
        _way("compound", "Damping compound between", ("gypsum-board", 12.5), ("gypsum-board", 12.5, 1.0, "compound")))),
    School("wool", "Stone wool, or glass wool", "Decided by flow resistivity and price, not by name.", ("room", "enclosure"), (
        _way("stone", "Stone wool", ("stone-wool", 50), ("gypsum-board", 12.5)),
        _way("glass", "Glass wool", ("glass-wool", 50), ("gypsum-board", 12.5)),
        _way("dense", "Dense stone wool", ("stone-wool-dense", 50), ("gypsum-board", 12.5)))),
    School("barrier", "Barrier sandwiched flat, or limp over a decoupler", "The same vinyl, held in two ways.", ALL, (
        _way("limp", "Limp over felt", ("wool-felt", 10), ("vinyl-5", 2.5), ("seam-tape", 1)),
        _way("flat", "Flat on the panel", ("vinyl-5", 2.5), ("wool-felt", 10), ("seam-tape", 1)),
        _way("between", "Between two felts", ("wool-felt", 5), ("vinyl-5", 2.5), ("wool-felt", 5), ("seam-tape", 1)))),
    School("low-notes", "Against low notes: more mass, or leaves parted", "The same boards, fixed on or set off.",
           ("room", "enclosure"), (
        _way("mass", "Boards fixed straight on", ("gypsum-dense", 15), ("gypsum-dense", 15)),
        _way("parted", "Set off, wool behind", ("air-gap", 25), ("stone-wool", 50), ("gypsum-dense", 15)))),
    School("heat", "Heat first, or sound first", "A radiant gap with foil, or mass on the skin with fibre against it.",
           ("vehicle", "enclosure"), (
        _way("heat", "Foil over a gap", ("air-gap", 20), ("radiant-foil", 0.3)),
        _way("sound", "Damping, then fleece", ("butyl-foil", 2, 0.6), ("melt-blown", 20)))),
    School("patches", "Outer skin in patches, or whole", "A centred patch, or everything.", ("vehicle",), (
        _way("quarter", "A quarter", ("butyl-foil", 2, 0.25)), _way("most", "Three fifths", ("butyl-foil", 2, 0.6)),
        _way("whole", "Whole", ("butyl-foil", 2, 1.0)))),
    School("foam", "Is foam any use here?", "Open foam against felt with mass of its weight.", ALL, (
        _way("foam", "Open foam ⟨30 mm⟩", ("open-foam", 30)),
        _way("lining", "Felt and vinyl", ("wool-felt", 10), ("vinyl-5", 2.5), ("seam-tape", 1)))),
)
"""Coverage has its own picture; the rest are presets here."""


class WayView(Strict):
    """One way: its layers to be taken as an alternative, and what it comes to."""

    id: str
    layers: tuple[StackLayerIn, ...]
    row: TableRow
    usual: bool
    """Whether the workshop picked it before."""


class SchoolView(Strict):
    """A school on one surface; ``reason`` is why the workshop picked as it did."""

    id: str
    title: str
    question: str
    reason: str
    frequency_hz: tuple[float, ...]
    ways: tuple[WayView, ...]


class SchoolName(Strict):
    """A school that could be asked about."""

    id: str
    title: str
    question: str
    picked: str


def names(job: JobFigures) -> tuple[SchoolName, ...]:
    """The schools that concern a kind of job, with what the workshop picked."""
    return tuple(SchoolName(id=x.id, title=x.title, question=x.question, picked=_picked(job, x)[1])
                 for x in SCHOOLS if job.doc.job.kind in x.kinds)


def _picked(job: JobFigures, school: School) -> tuple[str, str]:
    """The way the workshop picked, and why."""
    way, _, reason = job.shelf.settled.get(school.id, "").partition(": ")
    return way, reason


@once
def school(job: JobFigures, school_id: str, surface_id: int, zone: str = "") -> SchoolView:
    """A school's ways computed for a surface. BadInput for a school or a surface that is not there."""
    found = next((x for x in SCHOOLS if x.id == school_id), None)
    surface = job.doc.surface(surface_id)
    if found is None or surface is None:
        missing = "school" if found is None else "surface"
        raise BadInput(f"there is no {missing} of that name", "school", "choose one that is offered")
    patch = patch_of(surface, zone)
    way, reason = _picked(job, found)
    return SchoolView(id=found.id, title=found.title, question=found.question, reason=reason, frequency_hz=PREDICTED_HZ,
                      ways=tuple(_way_view(job, patch, x, x.id == way) for x in found.ways))


def _way_view(job: JobFigures, patch: Patch, way: Way, usual: bool) -> WayView:
    layers = tuple(StackLayerIn(id=str(i), material=m, thickness_mm=mm, coverage=c, **more)
                   for i, (m, mm, c, more) in enumerate(way.layers, start=1))
    one = Alternative(id=0, version=0, surface_id=patch.id, zone=patch.zone, name=way.name, layers=layers, chosen=False)
    return WayView(id=way.id, layers=layers, row=row_of(job, patch, one, preset=way.id), usual=usual)
