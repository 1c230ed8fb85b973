"""Job documents and the table of readings, in and out."""

from __future__ import annotations

from typing import Literal

from flask import Response, make_response, request
from flask_openapi3 import FileStorage
from pydantic import BaseModel, Field

from ..core.forms import MOST_NUMBER
from ..core.stages.cut.drawing import surface_shapes
from ..core.worded import view_in
from ..exchange.draw_command import drawn
from ..exchange.job_file import read_job, write_job
from ..exchange.readings import readings_csv
from ..store.documents import document, store_document
from . import schemas as s
from .shared import answer, api, files, job_figures, load, reader, sends, shelf, store


class JobUpload(BaseModel):
    file: FileStorage


@api.post("/jobs/import", responses={201: s.Created})
def import_job(form: JobUpload) -> Response:
    """A new job from a job document."""
    found = read_job(form.file.read(), form.file.filename or "file", shelf())
    with files().attempt() as kept:
        kept.put_photographs(found.photographs)
        return answer(s.Created(id=store_document(store(), found.document)), 201)


@api.get("/jobs/<int:job_id>/export.json", responses=sends("application/json"))
def export_job(path: s.JobPath) -> Response:
    """The whole job as a document, its photographs within."""
    with store()() as session:
        found = document(session, path.job_id)
    return download(write_job(found, shelf(), files().photograph), "application/json", f"{slug(found.job.name)}.json")


@api.get("/jobs/<int:job_id>/readings.csv", responses=sends("text/csv"))
def get_readings(path: s.JobPath) -> Response:
    """All readings as a table."""
    with store()() as session:
        doc, _ = load(session, path.job_id)
    return download(readings_csv(doc).encode("utf-8-sig"), "text/csv", f"{slug(doc.job.name)}-readings.csv")


class DrawingPath(s.JobPath):
    surface_id: int = Field(ge=1, le=MOST_NUMBER)
    kind: Literal["svg", "dxf", "pdf"]


class DrawingQuery(BaseModel):
    """Which layer's pieces (by its place; all if left out), and the paper of a PDF's tiles."""

    layer: int | None = Field(default=None, ge=0, le=100)
    page: Literal["A4", "A3", "letter"] = "A4"


KINDS = {"svg": "image/svg+xml", "dxf": "image/vnd.dxf", "pdf": "application/pdf"}


@api.get("/jobs/<int:job_id>/surfaces/<int:surface_id>/pieces.<string:kind>", responses=sends(*KINDS.values()))
def get_drawing(path: DrawingPath, query: DrawingQuery) -> Response:
    """The pieces of a surface at 1:1: on its outline as SVG or DXF, each on pages of its own as PDF."""
    job = job_figures(path.job_id)
    system, found = reader(), surface_shapes(job, path.surface_id, query.layer, outline=path.kind != "pdf")
    shapes = tuple(view_in(shape, system) for shape in found)
    name = next(x.name for x in job.doc.surfaces if x.id == path.surface_id)
    return download(drawn(shapes, path.kind, query.page, system), KINDS[path.kind], f"{slug(name)}.{path.kind}")


def slug(name: str) -> str:
    """A name as part of a file name."""
    return "".join(ch if ch.isascii() and ch.isalnum() else "-" for ch in name.lower()).strip("-") or "job"


def download(data: bytes, kind: str, name: str) -> Response:
    """A file to keep, or to look at where ``?look`` is asked."""
    response = make_response(data)
    response.mimetype = kind
    place = "inline" if request.args.get("look") else "attachment"
    response.headers["Content-Disposition"] = f'{place}; filename="{name}"'
    return response
