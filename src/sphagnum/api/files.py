"""Files in and out: level logs, job documents, the report."""

from __future__ import annotations

from datetime import date

import numpy as np
from flask import Response, make_response, request
from flask_openapi3 import FileStorage
from pydantic import BaseModel

from ..catalogue.load import shelf
from ..core.errors import BadInput
from ..core.levels.board import goal_rule
from ..core.levels.logs import analyse_log
from ..core.levels.proof import prove
from ..core.paths.plan import predicted_at_ear
from ..exchange.job_file import read_job, write_job
from ..exchange.report import report
from ..instruments.log_reader import read_log
from ..store.edits import document, store_document
from . import schemas as s
from .shared import answer, api, editor, load, store

HISTORY_POINTS = 240


class JobUpload(BaseModel):
    file: FileStorage


class LogUpload(JobUpload):
    position_id: int
    condition_id: int
    round_id: int
    column: str = ""
    background: bool = False


@api.post("/jobs/import", responses={201: s.Created})
def import_job(form: JobUpload) -> Response:
    """A new job from a job document."""
    found = read_job(form.file.read(), form.file.filename or "file", shelf())
    return answer(s.Created(id=store_document(store(), found)), 201)


@api.get("/jobs/<int:job_id>/export.json")
def export_job(path: s.JobPath) -> Response:
    """The whole job as a document."""
    with store()() as session:
        found = document(session, path.job_id)
    return _download(write_job(found), "application/json", f"{_slug(found.job.name)}.json")


@api.post("/jobs/<int:job_id>/logs", responses={201: s.LogImported})
def import_log(path: s.JobPath, form: LogUpload) -> Response:
    """A reading from a level log: its energy mean and a thinned history; says what was understood."""
    name = form.file.filename or "file"
    log = read_log(form.file.read(), name, form.column or None, None)
    analysis = analyse_log(log.run)
    with store()() as session:
        goal = load(session, path.job_id)[0].goal
    wanted = goal.quantity if goal else "LAeq"
    if log.quantity is not None and log.quantity != wanted and wanted in ("LAeq", "LCeq"):
        raise BadInput(f"the column '{log.column}' holds {log.quantity}, the goal is in {wanted}", name,
                       "choose another column")
    values = {
        "position_id": form.position_id, "condition_id": form.condition_id, "round_id": form.round_id,
        "quantity": wanted, "background": form.background, "level_db": analysis.Leq, "source": "log",
        "history_db": _thinned(log.run.level_db), "history_s": analysis.duration_s, "file_name": name[:200],
    }
    row = editor().create(path.job_id, "readings", [values])[0]
    return answer(s.LogImported(row=row, analysis=analysis, column=log.column, interval_s=round(log.run.interval_s, 3)),
                  201)


@api.get("/jobs/<int:job_id>/report.pdf")
def get_report(path: s.JobPath) -> Response:
    """The one-page report."""
    with store()() as session:
        doc, _ = load(session, path.job_id)
    rule = goal_rule(doc, shelf(), predicted_at_ear(doc, shelf()))
    pdf = report(doc, prove(doc, shelf()), rule, date.today().isoformat())
    return _download(pdf, "application/pdf", f"{_slug(doc.job.name)}-result.pdf")


def _thinned(level_db: np.ndarray) -> list[float]:
    """At most HISTORY_POINTS energy means of equal stretches, for looking at."""
    parts = np.array_split(level_db, min(HISTORY_POINTS, level_db.size))
    return [round(float(10 * np.log10(np.mean(10 ** (p / 10)))), 1) for p in parts]


def _slug(name: str) -> str:
    return "".join(ch if ch.isascii() and ch.isalnum() else "-" for ch in name.lower()).strip("-") or "job"


def _download(data: bytes, kind: str, name: str) -> Response:
    response = make_response(data)
    response.mimetype = kind
    place = "inline" if request.args.get("look") else "attachment"
    response.headers["Content-Disposition"] = f'{place}; filename="{name}"'
    return response
