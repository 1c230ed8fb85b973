"""Whole jobs in and out of the tables, as the core's documents."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from ..core.errors import BadInput
from ..core.job.document import COLLECTIONS, Job, JobDocument, JobIn
from ..core.schema import parse
from .models import TABLES, JobRow


class Missing(LookupError):
    """A job or row that is not there."""


def job_row(session: Session, job_id: int) -> JobRow:
    """The row of a job. Missing when there is none."""
    row = session.get(JobRow, job_id)
    if row is None:
        raise Missing(f"there is no job {job_id}")
    return row


def stored(row: Any) -> dict[str, Any]:
    """A row as the core and the browser know it."""
    return {**row.content, "id": row.id, "version": row.version}


def columns(collection: str, content: dict[str, Any]) -> dict[str, Any]:
    """A row's columns: its content, and its references once more as keys."""
    points = COLLECTIONS[collection].points_to if collection in COLLECTIONS else {}
    return {"content": content, **{name: content.get(name) for name in points}}


def document(session: Session, job_id: int) -> JobDocument:
    """A whole job as one document, one query per collection. Missing when there is no such job."""
    parts: dict[str, Any] = {"job": parse(Job, stored(job_row(session, job_id)))}
    for name, model in TABLES.items():
        rows = session.scalars(select(model).where(model.job_id == job_id).order_by(model.id)).all()
        parts[name] = tuple(parse(COLLECTIONS[name].stored, stored(row)) for row in rows)
    return JobDocument(**parts)


def revision(session: Session, job_id: int) -> int:
    """A number that rises with every edit of the job."""
    return job_row(session, job_id).revision


def job_ids(session: Session) -> list[int]:
    """All jobs, newest last."""
    return list(session.scalars(select(JobRow.id).order_by(JobRow.id)))


def store_document(store: sessionmaker[Session], document: JobDocument) -> int:
    """Store a whole job document as a new job, its rows renumbered, in one transaction; returns its number."""
    with store() as session:
        session.connection(execution_options={"writing": True})
        job = JobRow(content=parse(JobIn, document.job.model_dump(exclude={"id", "version"})).model_dump(mode="json"))
        session.add(job)
        session.flush()
        numbers: dict[str, dict[int, int]] = {}
        for name, model in TABLES.items():
            numbers[name] = {}
            for i, old in enumerate(getattr(document, name)):
                values = old.model_dump(mode="json", exclude={"id", "version"})
                for field, target in COLLECTIONS[name].points_to.items():
                    if values.get(field) is not None:
                        if values[field] not in numbers[target]:
                            raise BadInput(f"points to a {target.rstrip('s')} {values[field]} that does not come "
                                           "before it", f"{name}[{i}].{field}", "mend the reference")
                        values[field] = numbers[target][values[field]]
                row = model(job_id=job.id, **columns(name, values))
                session.add(row)
                session.flush()
                numbers[name][old.id] = row.id
        session.commit()
        return job.id
