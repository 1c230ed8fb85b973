"""Whole jobs in and out of the tables, as the core's documents."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from ..catalogue.load import shelf as shipped
from ..core.errors import BadInput
from ..core.job.broken import Broken, sound
from ..core.job.document import COLLECTIONS, JobDocument, JobIn
from ..core.job.owners import ALL, OWNERS
from ..core.job.shelf import Shelf, shelf_of
from ..core.job.workshop import WorkshopDocument
from ..core.schema import parse
from .models import TABLES, OwnerRow

WORKSHOP = 0
"""The number of the workshop among the owners."""


TRASHED = "trashed"
"""The kind of a job that was thrown away: nothing finds it until it is brought back."""


class Missing(LookupError):
    """A job or row that is not there."""


def owner_row(session: Session, owner_id: int) -> OwnerRow:
    """The row of a job or of the workshop. Missing when there is none."""
    row = session.get(OwnerRow, owner_id)
    if row is None or row.kind not in OWNERS:
        raise Missing(f"there is no job {owner_id}")
    return row


def stored(row: Any) -> dict[str, Any]:
    """A row as the core and the browser know it."""
    return {**row.content, "id": row.id, "version": row.version}


def columns(collection: str, content: dict[str, Any]) -> dict[str, Any]:
    """A row's columns: its content, and its references once more as keys."""
    points = ALL[collection].points_to if collection in ALL else {}
    return {"content": content, **{name: content.get(name) for name in points}}


class Read(NamedTuple):
    """A whole job as one document, and its stored rows that cannot be used and stand aside."""

    document: JobDocument
    broken: tuple[Broken, ...]


def read(session: Session, owner_id: int) -> Read:
    """A whole job, one query per collection. Missing when there is no such job."""
    found, broken = _whole(session, owner_id, "job")
    assert isinstance(found, JobDocument)
    return Read(found, broken)


def document(session: Session, owner_id: int) -> JobDocument:
    """A job as one document of the rows that can be used."""
    return read(session, owner_id).document


def workshop(session: Session) -> WorkshopDocument:
    """All the workshop owns that can be used."""
    found, _ = _whole(session, WORKSHOP, "workshop")
    assert isinstance(found, WorkshopDocument)
    return found


def shelf_in(session: Session) -> Shelf:
    """The shelf as the workshop has it now."""
    return shelf_of(shipped(), workshop(session))


def _whole(session: Session, owner_id: int, kind: str) -> tuple[JobDocument | WorkshopDocument, tuple[Broken, ...]]:
    itself, owner = owner_row(session, owner_id), OWNERS[kind]
    if itself.kind != kind:
        raise Missing(f"there is no {kind} {owner_id}")
    kept: dict[str, list[dict[str, Any]]] = {}
    for name in owner.collections:
        model = TABLES[name]
        kept[name] = [stored(r) for r in session.scalars(select(model).where(model.owner_id == owner_id).order_by(model.id))]
    found = sound(owner, stored(itself), kept, lambda: shelf_in(session).materials)
    return owner.document(**{owner.field: found.itself}, **found.rows), found.broken


def revision(session: Session, owner_id: int) -> int:
    """A number that rises with every edit of the job; nothing else of it is read. Missing when there is none."""
    found = session.scalar(select(OwnerRow.revision).where(OwnerRow.id == owner_id, OwnerRow.kind.in_(OWNERS)))
    if found is None:
        raise Missing(f"there is no job {owner_id}")
    return found


def job_ids(session: Session) -> list[int]:
    """All jobs, newest last."""
    return list(session.scalars(select(OwnerRow.id).where(OwnerRow.kind == "job").order_by(OwnerRow.id)))


def in_order(rows: Sequence[Any], collection: str) -> list[tuple[int, Any]]:
    """Rows with their places, each after the row of its own kind that it points to. BadInput where they point in a ring."""
    fields = [f for f, target in COLLECTIONS[collection].points_to.items() if target == collection]
    known = {row.id for row in rows}
    left, out, done = list(enumerate(rows)), [], set[int]()
    while left:
        waiting = []
        for i, row in left:
            if any((to := getattr(row, f)) is not None and to in known and to not in done for f in fields):
                waiting.append((i, row))
                continue
            out.append((i, row))
            done.add(row.id)
        if len(waiting) == len(left):
            raise BadInput("they follow one another in a ring", f"{collection}[{left[0][0]}]", "let one of them begin anew")
        left = waiting
    return out


GONE = 2_000_000_000
"""From here on numbers of rows that are gone and that something still tells of: nothing is ever given one."""


def store_document(store: sessionmaker[Session], document: JobDocument) -> int:
    """Store a whole job document as a new job, its rows renumbered, in one transaction; returns its number."""
    with store() as session:
        session.connection(execution_options={"writing": True})
        job = OwnerRow(content=parse(JobIn, document.job.model_dump(exclude={"id", "version"})).model_dump(mode="json"))
        session.add(job)
        session.flush()
        numbers: dict[str, dict[int, int]] = {}
        for name in COLLECTIONS:
            model = TABLES[name]
            numbers[name] = {}
            for i, old in in_order(getattr(document, name), name):
                values = old.model_dump(mode="json", exclude={"id", "version"})
                for field, target in COLLECTIONS[name].points_to.items():
                    if values.get(field) is not None:
                        if values[field] not in numbers[target]:
                            raise BadInput(f"points to a {target.rstrip('s')} {values[field]} that is not there",
                                           f"{name}[{i}].{field}", "mend the reference")
                        values[field] = numbers[target][values[field]]
                for field, target in COLLECTIONS[name].minds.items():
                    if values.get(field) is not None:
                        values[field] = numbers[target].get(values[field], GONE + values[field] % 10**8)
                row = model(owner_id=job.id, **columns(name, values))
                session.add(row)
                session.flush()
                numbers[name][old.id] = row.id
        session.commit()
        return job.id
