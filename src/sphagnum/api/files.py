"""Job documents, the report and the table of readings, in and out."""

from __future__ import annotations

from datetime import date

from flask import Response, make_response, request
from flask_openapi3 import FileStorage
from pydantic import BaseModel

from ..core.figures.goal import goal_rule
from ..core.figures.path_levels import predicted_at_ear
from ..core.stages.prove.view import prove
from ..exchange.job_file import read_job, write_job
from ..exchange.readings import readings_csv
from ..exchange.report import report
from ..store.documents import document, store_document
from . import schemas as s
from .promises import keep_promise
from .shared import answer, api, figures_of, files, load, sends, shelf, store


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
    return _download(write_job(found, shelf(), files().photograph), "application/json", f"{_slug(found.job.name)}.json")


@api.get("/jobs/<int:job_id>/readings.csv", responses=sends("text/csv"))
def get_readings(path: s.JobPath) -> Response:
    """All readings as a table."""
    with store()() as session:
        doc, _ = load(session, path.job_id)
    return _download(readings_csv(doc).encode("utf-8-sig"), "text/csv", f"{_slug(doc.job.name)}-readings.csv")


@api.get("/jobs/<int:job_id>/report.pdf", responses=sends("application/pdf"))
def get_report(path: s.JobPath) -> Response:
    """The one-page report; what it promises is kept."""
    keep_promise(path.job_id, "report")
    with store()() as session:
        doc, _ = load(session, path.job_id)
    job = figures_of(doc)
    pdf = report(doc, prove(job), goal_rule(job, predicted_at_ear(job)), date.today().isoformat())
    return _download(pdf, "application/pdf", f"{_slug(doc.job.name)}-result.pdf")


def _slug(name: str) -> str:
    return "".join(ch if ch.isascii() and ch.isalnum() else "-" for ch in name.lower()).strip("-") or "job"


def _download(data: bytes, kind: str, name: str) -> Response:
    response = make_response(data)
    response.mimetype = kind
    place = "inline" if request.args.get("look") else "attachment"
    response.headers["Content-Disposition"] = f'{place}; filename="{name}"'
    return response
