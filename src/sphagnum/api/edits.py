"""Writing: jobs and their rows, one mechanism for every collection; undo."""

from __future__ import annotations

from flask import Response

from ..core.errors import BadInput
from ..core.job import COLLECTIONS, JobIn
from ..core.levels.typed import read_entries
from ..store.edits import Missing, document
from . import schemas as s
from .shared import answer, api, editor, store


def _known(collection: str) -> str:
    if collection not in COLLECTIONS:
        raise Missing(f"there is no collection '{collection[:40]}'")
    return collection


@api.post("/jobs", responses={201: s.Created})
def create_job(body: JobIn) -> Response:
    """A new job."""
    return answer(s.Created(id=editor().create_job(body.model_dump(mode="json"))), 201)


@api.patch("/jobs/<int:job_id>", responses={200: s.Rows})
def change_job(path: s.JobPath, body: s.Edit) -> Response:
    """Change fields of the job itself."""
    done = editor().change(path.job_id, "jobs", path.job_id, body.version, body.changes)
    return answer(s.Rows(rows=(done,)))


@api.delete("/jobs/<int:job_id>", responses={200: s.Rows})
def delete_job(path: s.JobPath, query: s.VersionQuery) -> Response:
    """Remove a job and all it holds; this cannot be undone."""
    editor().delete_job(path.job_id, query.version)
    return answer(s.Rows(rows=()))


@api.post("/jobs/<int:job_id>/undo", responses={200: s.Undone})
def undo(path: s.JobPath) -> Response:
    """Take back the asking browser's last edit."""
    return answer(s.Undone(what=editor().undo(path.job_id)))


@api.post("/jobs/<int:job_id>/typed-readings", responses={201: s.Rows})
def type_readings(path: s.JobPath, body: s.TypedReadings) -> Response:
    """Readings as typed: '74,8; 74.6' or 'between 62 and 66'."""
    with store()() as session:
        goal = document(session, path.job_id).goal
    rows = [
        {**body.model_dump(exclude={"text"}), "quantity": goal.quantity if goal else "LAeq",
         **entry._asdict(), "source": "typed" if entry.level_db is not None else "range"}
        for entry in read_entries(body.text)
    ]
    return answer(s.Rows(rows=editor().create(path.job_id, "readings", rows)), 201)


@api.post("/jobs/<int:job_id>/<collection>", responses={201: s.Rows})
def create_rows(path: s.CollectionPath, body: s.NewRows) -> Response:
    """Add rows to a collection of a job, as one edit."""
    return answer(s.Rows(rows=editor().create(path.job_id, _known(path.collection), list(body.rows))), 201)


@api.patch("/jobs/<int:job_id>/<collection>/<int:row_id>", responses={200: s.Rows})
def change_row(path: s.RowPath, body: s.Edit) -> Response:
    """Change fields of a row."""
    if {"id", "version"} & body.changes.keys():
        raise BadInput("a row's number and version are not edited", "changes", "leave id and version out")
    done = editor().change(path.job_id, _known(path.collection), path.row_id, body.version, body.changes)
    return answer(s.Rows(rows=(done,)))


@api.delete("/jobs/<int:job_id>/<collection>/<int:row_id>", responses={200: s.Rows})
def remove_row(path: s.RowPath, query: s.VersionQuery) -> Response:
    """Remove a row and what depends on it."""
    editor().remove(path.job_id, _known(path.collection), path.row_id, query.version)
    return answer(s.Rows(rows=()))
