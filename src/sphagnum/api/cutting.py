"""Cut beside its view: what goes to the bench and the counter, whether a hand may lay a piece so, templates and twins."""

from __future__ import annotations

from datetime import date

from flask import Response, request
from pydantic import BaseModel, Field

from ..core.cutting.rows import LayoutIn
from ..core.fitting.rows import FixingKept
from ..core.fitting.taken_off import counted, kept, mirrored_fixings
from ..core.forms import MOST_NUMBER
from ..core.schema import Strict
from ..core.stages.cut.sheets import HandSaid, said_of
from ..core.stages.cut.view import cut_view
from ..core.stages.fit.view import order
from ..core.surfaces.geometry import ClearRow, KeepClear
from ..core.surfaces.rows import Layers, SurfaceIn
from ..core.surfaces.twins import mirrored
from ..store.documents import Missing
from . import schemas as s
from .files import download, slug
from .shared import answer, api, job_figures, own_workshop, reader, sends


@api.get("/jobs/<int:job_id>/cut-sheets.pdf", responses=sends("application/pdf"))
def get_cut_sheets(path: s.JobPath) -> Response:
    """Every sheet as it is drawn and marked out, those alike once."""
    from ..exchange.cut_sheets import cut_sheets  # what prints is loaded when something is printed first

    job = job_figures(path.job_id)
    names = {x.id: x.name for x in job.doc.surfaces}
    data = cut_sheets(cut_view(job, None), names, job.doc.job.name, reader())
    return download(data, "application/pdf", f"{slug(job.doc.job.name)}-cut-sheets.pdf")


@api.get("/jobs/<int:job_id>/labels.pdf", responses=sends("application/pdf"))
def get_labels(path: s.JobPath) -> Response:
    """A label a piece and a bag of fixings, with a code that opens it here."""
    from ..exchange.cut_sheets import Bag, labels

    job = job_figures(path.job_id)
    names = {x.id: x.name for x in job.doc.surfaces}
    refits = {f.id: s.key for s in order(job).steps if s.phase == "refit" for f in s.fixings}
    bags = tuple(Bag(f.bag, counted(f), ", ".join(x for x in (names[f.surface_id], f.place) if x),
                     refits.get(f.id, "")) for f in job.doc.fixings if f.bag)
    data = labels(cut_view(job, None), names, job.doc.job.name, f"{request.host_url}jobs/{path.job_id}", reader(), bags)
    return download(data, "application/pdf", f"{slug(job.doc.job.name)}-labels.pdf")


@api.get("/jobs/<int:job_id>/buying.csv", responses=sends("text/csv"))
def get_buying_csv(path: s.JobPath) -> Response:
    """The buying list as a table."""
    from ..exchange.buying_list import buying_csv

    job = job_figures(path.job_id)
    data = buying_csv(cut_view(job, None), reader()).encode("utf-8-sig")
    return download(data, "text/csv", f"{slug(job.doc.job.name)}-to-buy.csv")


@api.get("/jobs/<int:job_id>/buying.pdf", responses=sends("application/pdf"))
def get_buying_pdf(path: s.JobPath) -> Response:
    """The buying list on paper."""
    from ..exchange.buying_list import buying_pdf

    job = job_figures(path.job_id)
    data = buying_pdf(cut_view(job, None), job.doc.job.name, date.today().isoformat(), reader())
    return download(data, "application/pdf", f"{slug(job.doc.job.name)}-to-buy.pdf")


class HandCheck(Strict):
    """A layout as a hand would have it, and the piece that was moved last."""

    layout: LayoutIn
    moved: str = Field(min_length=1, max_length=120)
    seek: bool = False
    """Whether it is to be given a place on its sheet, wherever that is."""


@api.post("/jobs/<int:job_id>/layout-check", responses={200: HandSaid})
def check_layout(path: s.JobPath, body: HandCheck) -> Response:
    """Whether a piece may lie where a hand puts it, or where it could lie. Nothing is kept."""
    return answer(said_of(job_figures(path.job_id), body.layout, body.moved, body.seek))


class ClearPlaces(Strict):
    """Clear places, each by itself."""

    zones: tuple[KeepClear, ...]


@api.post("/clear-row", responses={200: ClearPlaces})
def lay_row(body: ClearRow) -> Response:
    """A row of clear places as somebody types it, each where it stands. Nothing is kept."""
    return answer(ClearPlaces(zones=body.zones()))


class SurfaceDrawn(Strict):
    """A surface to be added, and the layers that were cut for it."""

    surface: SurfaceIn
    layers: Layers
    fixings: tuple[FixingKept, ...] = ()
    """What holds what covers it."""


class TwinQuery(BaseModel):
    """Whether it is mirrored: the other side."""

    mirror: bool = False


class OutlinePath(BaseModel):
    outline_id: int = Field(ge=1, le=MOST_NUMBER)


@api.get("/outlines/<int:outline_id>", responses={200: SurfaceDrawn})
def get_outline(path: OutlinePath, query: TwinQuery) -> Response:
    """A kept outline as a surface to add, mirrored if asked; it says from what it is and when that was measured."""
    found = next((o for o in own_workshop().outlines if o.id == path.outline_id), None)
    if found is None:
        raise Missing("that template is no longer kept")
    fixings = mirrored_fixings(found.fixings, found.surface.outline_mm) if query.mirror else found.fixings
    return answer(SurfaceDrawn(surface=found.drawn(query.mirror), layers=found.layers, fixings=fixings))


class SurfacePath(s.JobPath):
    surface_id: int = Field(ge=1, le=MOST_NUMBER)


@api.get("/jobs/<int:job_id>/surfaces/<int:surface_id>/twin", responses={200: SurfaceDrawn})
def get_twin(path: SurfacePath, query: TwinQuery) -> Response:
    """A surface of a job as another one to add, mirrored if asked, with its chosen layers."""
    job = job_figures(path.job_id)
    found = job.doc.surface(path.surface_id)
    if found is None:
        raise Missing("there is no such surface (any more)")
    plain = SurfaceIn.model_validate(found.model_dump(exclude={"id", "version"}))
    one = job.doc.chosen(found.id)
    fixings = tuple(kept(f) for f in job.doc.fixings if f.surface_id == found.id)
    return answer(SurfaceDrawn(surface=mirrored(plain) if query.mirror else plain, layers=one.layers if one else (),
                               fixings=mirrored_fixings(fixings, plain.outline_mm) if query.mirror else fixings))
