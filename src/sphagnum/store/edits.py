"""Every change to a job goes through here: validated, versioned, logged and undoable, in one transaction."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session, sessionmaker

from ..core.errors import BadInput
from ..core.job import COLLECTIONS, Job, JobDocument, JobIn
from ..core.schema import parse
from .models import TABLES, ChangeRow, JobRow


class Conflict(Exception):
    """A write based on a version that is no longer the stored one; carries what is stored and what was sent."""

    def __init__(self, stored: dict[str, Any] | None, sent: dict[str, Any]) -> None:
        super().__init__("stale write")
        self.stored, self.sent = stored, sent


class Missing(LookupError):
    """A job or row that is not there."""


OneEdit = tuple[str, tuple[int, int] | None, dict[str, Any]]
"""Collection, None to add or (row id, version) to change, and the values."""


class _Log:
    """Collects the changes of one edit."""

    def __init__(self, session: Session, job_id: int, author: str) -> None:
        self.session, self.job_id, self.author = session, job_id, author
        self.edit = uuid.uuid4().hex

    def add(self, collection: str, row_id: int, before: Any, after: Any, version: int | None) -> None:
        self.session.add(ChangeRow(job_id=self.job_id, author=self.author, edit=self.edit, collection=collection,
                                   row_id=row_id, before=before, after=after, after_version=version))


class Editor:
    """Edits of jobs by one author (a browser), over a session factory."""

    def __init__(self, store: sessionmaker[Session], author: str) -> None:
        self.store, self.author = store, author[:64]

    def _begin(self) -> Session:
        session = self.store()
        session.connection(execution_options={"writing": True})
        return session

    def create_job(self, values: dict[str, Any]) -> int:
        """A new empty job; returns its number."""
        job = parse(JobIn, values)
        with self._begin() as session:
            row = JobRow(content=job.model_dump(mode="json"))
            session.add(row)
            session.commit()
            return row.id

    def delete_job(self, job_id: int, version: int) -> None:
        """Remove a job and all it holds. Conflict when its revision has moved on."""
        with self._begin() as session:
            job = _job(session, job_id)
            if job.version != version:
                raise Conflict(_stored("jobs", job), {"version": version})
            session.delete(job)
            session.commit()

    def create(self, job_id: int, collection: str, rows: list[dict[str, Any]]) -> tuple[dict[str, Any], ...]:
        """Add rows as one edit; returns them as stored. BadInput for content not valid or pointing outside the job."""
        return self.together(job_id, [(collection, None, values) for values in rows])

    def change(self, job_id: int, collection: str, row_id: int, version: int, changes: dict[str, Any]) -> dict[str, Any]:
        """Change fields of a row (or of the job itself, collection ``jobs``). Conflict when ``version`` is stale."""
        return self.together(job_id, [(collection, (row_id, version), changes)])[0]

    def together(self, job_id: int, edits: Sequence[OneEdit]) -> tuple[dict[str, Any], ...]:
        """Several additions and changes as one edit, undone as one; returns the rows as stored.

        A reference "#n" in values to add means the n-th row of this edit. BadInput for content not valid, Conflict when a
        version is stale; then nothing is done.
        """
        with self._begin() as session:
            log = _Log(session, job_id, self.author)
            job = _touch(session, job_id)
            out: list[dict[str, Any]] = []
            for collection, which, values in edits:
                known = {k: _named_here(out, v) if k.endswith("_id") else v for k, v in values.items()}
                row = _add(session, log, job_id, collection, known) if which is None else (
                    _alter(session, log, job, collection, which, known))
                out.append(_stored(collection, row))
            session.commit()
            return tuple(out)

    def remove(self, job_id: int, collection: str, row_id: int, version: int) -> None:
        """Remove a row and what depends on it, as one edit. Conflict when ``version`` is stale."""
        with self._begin() as session:
            log = _Log(session, job_id, self.author)
            _touch(session, job_id)
            row = _row(session, job_id, collection, row_id)
            if row.version != version:
                raise Conflict(_stored(collection, row), {"version": version})
            for name, dependent in reversed(_dependents(session, job_id, collection, row_id)):
                log.add(name, dependent.id, dict(dependent.content), None, dependent.version)
                session.execute(delete(TABLES[name]).where(TABLES[name].id == dependent.id))
            session.commit()

    def undo(self, job_id: int) -> str:
        """Take back this author's last edit; says what was undone.

        BadInput when there is none; Conflict when somebody has changed the rows since.
        """
        with self._begin() as session:
            _touch(session, job_id)
            mine = select(ChangeRow).where(ChangeRow.job_id == job_id, ChangeRow.author == self.author,
                                           ChangeRow.undone.is_(False))
            last = session.scalars(mine.order_by(ChangeRow.id.desc()).limit(1)).first()
            if last is None:
                raise BadInput("there is nothing of yours to undo", "undo", "edits of others stay")
            changes = session.scalars(select(ChangeRow).where(ChangeRow.edit == last.edit)
                                      .order_by(ChangeRow.id.desc())).all()
            for change in changes:
                _take_back(session, change)
                change.undone = True
            session.commit()
            return f"{_verb(last)} {last.collection.rstrip('s').replace('_', ' ')}"


def _named_here(rows: list[dict[str, Any]], value: Any) -> Any:
    """The number of the row that "#n" means."""
    text = value[1:] if isinstance(value, str) and value.startswith("#") else ""
    return rows[int(text)]["id"] if text.isdigit() and int(text) < len(rows) else value


def _add(session: Session, log: _Log, job_id: int, collection: str, values: dict[str, Any]) -> Any:
    content = _valid(session, job_id, collection, values)
    _one_of_its_kind(session, log, job_id, collection, content, None)
    row = TABLES[collection](job_id=job_id, **_columns(collection, content))
    session.add(row)
    session.flush()
    log.add(collection, row.id, None, content, row.version)
    return row


def _alter(session: Session, log: _Log, job: JobRow, collection: str, which: tuple[int, int], changes: dict[str, Any]) -> Any:
    row_id, version = which
    row = job if collection == "jobs" else _row(session, job.id, collection, row_id)
    before = dict(row.content)
    if row.version != version:
        raise Conflict(_stored(collection, row), changes)
    content = _valid(session, job.id, collection, {**before, **changes})
    _one_of_its_kind(session, log, job.id, collection, content, row_id)
    for name, value in _columns(collection, content).items():
        setattr(row, name, value)
    row.version += 1
    session.flush()
    log.add(collection, row.id, before, content, row.version)
    return row


def _verb(change: ChangeRow) -> str:
    return "added" if change.before is None else "removed" if change.after is None else "changed"


def _take_back(session: Session, change: ChangeRow) -> None:
    model = JobRow if change.collection == "jobs" else TABLES[change.collection]
    row = session.get(model, change.row_id)
    if change.after is None:
        assert change.before is not None
        row = TABLES[change.collection](id=change.row_id, job_id=change.job_id, version=(change.after_version or 0) + 1,
                                        **_columns(change.collection, change.before))
        session.add(row)
        session.flush()
        _follow(session, change, change.after_version or 0, row.version)
        return
    if row is None or row.version != change.after_version:
        raise Conflict(None if row is None else _stored(change.collection, row), change.after)
    if change.before is None:
        session.delete(row)
        session.flush()
        return
    for name, value in _columns(change.collection, change.before).items():
        setattr(row, name, value)
    row.version += 1
    _follow(session, change, (change.after_version or 0) - 1, row.version)


def _follow(session: Session, change: ChangeRow, left: int, now: int) -> None:
    """Let the older edit of the same row, which left version ``left``, match the version the row has now."""
    session.execute(
        update(ChangeRow)
        .where(ChangeRow.collection == change.collection, ChangeRow.row_id == change.row_id, ChangeRow.id < change.id,
               ChangeRow.after_version == left)
        .values(after_version=now)
    )


def _job(session: Session, job_id: int) -> JobRow:
    row = session.get(JobRow, job_id)
    if row is None:
        raise Missing(f"there is no job {job_id}")
    return row


def _touch(session: Session, job_id: int) -> JobRow:
    row = _job(session, job_id)
    row.revision += 1
    return row


def _row(session: Session, job_id: int, collection: str, row_id: int) -> Any:
    row = session.get(TABLES[collection], row_id)
    if row is None or row.job_id != job_id:
        raise Missing(f"there is no such row in {collection.replace('_', ' ')}")
    return row


def _valid(session: Session, job_id: int, collection: str, values: dict[str, Any]) -> dict[str, Any]:
    """Validated content, ready for JSON; every reference must lead to a row of the same job."""
    if collection == "jobs":
        return parse(JobIn, values).model_dump(mode="json")
    kind = COLLECTIONS[collection]
    content = parse(kind.editable, values).model_dump(mode="json")
    for name, target in kind.points_to.items():
        to = content.get(name)
        if to is not None:
            found = session.get(TABLES[target], to)
            if found is None or found.job_id != job_id:
                raise BadInput(f"{target.rstrip('s')} {to} is not in this job", name, "choose one of this job")
    return content


def _one_of_its_kind(
    session: Session, log: _Log, job_id: int, collection: str, content: dict[str, Any], row_id: int | None
) -> None:
    """One chosen alternative per surface, one headline goal per job: choosing one lets go of the others."""
    flag = {"alternatives": "chosen", "goals": "headline"}.get(collection)
    if flag is None or not content[flag]:
        return
    model = TABLES[collection]
    others = session.scalars(select(model).where(model.job_id == job_id, model.id != (row_id or 0))).all()
    for other in others:
        if other.content[flag] and other.content.get("surface_id") == content.get("surface_id"):
            before = dict(other.content)
            other.content = {**before, flag: False}
            other.version += 1
            log.add(collection, other.id, before, dict(other.content), other.version)


def _columns(collection: str, content: dict[str, Any]) -> dict[str, Any]:
    points = COLLECTIONS[collection].points_to if collection in COLLECTIONS else {}
    return {"content": content, **{name: content.get(name) for name in points}}


def _dependents(session: Session, job_id: int, collection: str, row_id: int) -> list[tuple[str, Any]]:
    """The row and all rows that point to it, directly or not, each after what it points to."""
    gone: dict[str, set[int]] = {collection: {row_id}}
    out = [(collection, session.get(TABLES[collection], row_id))]
    for name, model in TABLES.items():
        rows = session.scalars(select(model).where(model.job_id == job_id).order_by(model.id)).all()
        for row in rows:
            points = COLLECTIONS[name].points_to.items()
            if any(row.content.get(field) in gone.get(target, set()) for field, target in points):
                if (name, row.id) != (collection, row_id):
                    out.append((name, row))
                gone.setdefault(name, set()).add(row.id)
    return out


def _stored(collection: str, row: Any) -> dict[str, Any]:
    return {**row.content, "id": row.id, "version": row.version}


def document(session: Session, job_id: int) -> JobDocument:
    """A whole job as one document, one query per collection. Missing when there is no such job."""
    job = _job(session, job_id)
    parts: dict[str, Any] = {"job": parse(Job, _stored("jobs", job))}
    for name, model in TABLES.items():
        rows = session.scalars(select(model).where(model.job_id == job_id).order_by(model.id)).all()
        parts[name] = tuple(parse(COLLECTIONS[name].stored, _stored(name, row)) for row in rows)
    return JobDocument(**parts)


def revision(session: Session, job_id: int) -> int:
    """A number that rises with every edit of the job."""
    return _job(session, job_id).revision


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
                row = model(job_id=job.id, **_columns(name, values))
                session.add(row)
                session.flush()
                numbers[name][old.id] = row.id
        session.commit()
        return job.id
