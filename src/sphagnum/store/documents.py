"""Whole jobs in and out of the tables, as the core's documents."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from types import MappingProxyType
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
from ..core.schema import Row, parse
from .models import TABLES, ChangeRow, EditRow, OwnerRow

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
    """A whole job as one document, its stored rows that cannot be used and stand aside, and the revision it was read at."""

    document: JobDocument
    broken: tuple[Broken, ...]
    revision: int


def read(session: Session, owner_id: int, before: Read | None = None) -> Read:
    """A whole job, one query per collection. Missing when there is no such job.

    ``before``: as it was read earlier; what no edit has touched since is not read again.
    """
    itself = owner_row(session, owner_id)
    same = {} if before is None else _untouched(session, itself, before)
    found, broken = _whole(session, owner_id, "job", same)
    assert isinstance(found, JobDocument)
    # the same objects: what was worked out of them is found again
    return Read(found.model_copy(update=dict(same)) if same else found, broken, itself.revision)


def _untouched(session: Session, itself: OwnerRow, before: Read) -> dict[str, Sequence[Row]]:
    """The rows of a job's collections that no edit has touched since it was read; none where it is not sure, as where something
    stood aside, or the job's own row was changed (a customer is forgotten without an edit)."""
    edits = session.execute(select(EditRow.revision, ChangeRow.collection).join(ChangeRow, ChangeRow.edit_id == EditRow.id)
                            .where(EditRow.owner_id == itself.id, EditRow.revision > before.revision)).all()
    if before.broken or itself.version != before.document.job.version or itself.revision != max((e[0] for e in edits), default=0):
        return {}
    touched = {collection for _, collection in edits} | {"material_copies"}  # kept along with what names them, told by no change
    return {name: getattr(before.document, name) for name in COLLECTIONS if name not in touched}


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


def _whole(session: Session, owner_id: int, kind: str, same: Mapping[str, Sequence[Row]] = MappingProxyType({}),
           ) -> tuple[JobDocument | WorkshopDocument, tuple[Broken, ...]]:
    itself, owner = owner_row(session, owner_id), OWNERS[kind]
    if itself.kind != kind:
        raise Missing(f"there is no {kind} {owner_id}")
    kept: dict[str, list[dict[str, Any]]] = {}
    for name in owner.collections:
        if name in same:
            continue
        model = TABLES[name]
        kept[name] = [stored(r) for r in session.scalars(select(model).where(model.owner_id == owner_id).order_by(model.id))]
    found = sound(owner, stored(itself), kept, lambda: shelf_in(session).materials, same)
    return owner.document(**{owner.field: found.itself}, **found.rows), found.broken


def revisions(session: Session, *owner_ids: int) -> tuple[int, ...]:
    """A number each that rises with every edit of a job; nothing else of it is read. Missing when there is none."""
    found = dict(session.execute(select(OwnerRow.id, OwnerRow.revision)
                                 .where(OwnerRow.id.in_(owner_ids), OwnerRow.kind.in_(OWNERS))).all())
    for number in owner_ids:
        if number not in found:
            raise Missing(f"there is no job {number}")
    return tuple(found[n] for n in owner_ids)


def revision(session: Session, owner_id: int) -> int:
    """The revision of one job. Missing when there is none."""
    return revisions(session, owner_id)[0]


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
