"""Every change to a job or to the workshop goes through here: operations on the newest rows, validated, logged, undoable."""

from __future__ import annotations

import threading
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from typing import Any, NamedTuple

from sqlalchemy import delete, select, true, update
from sqlalchemy.orm import Session, sessionmaker

from ..core.errors import BadInput
from ..core.job.document import JobIn
from ..core.job.operations import (
    MISSING,
    Gone,
    Operation,
    Path,
    apply,
    differences,
    overlap,
    path_words,
    setting,
    touched,
    value_at,
)
from ..core.job.owners import ALL, ITSELF, OWNERS
from ..core.job.pins import NAMING
from ..core.job.words import named
from ..core.schema import parse
from .documents import TRASHED, Missing, columns, owner_row, stored
from .materials import keep_materials, refuse_twice, refuse_unknown, refuse_used, with_counts
from .models import TABLES, ChangeRow, EditRow, OwnerRow, SentRow


class Conflict(Exception):
    """A write to what somebody else changed since it was seen; carries what is stored and what was sent."""

    def __init__(self, stored: dict[str, Any] | None, sent: dict[str, Any], what: str = "") -> None:
        super().__init__("stale write")
        self.stored, self.sent, self.what = stored, sent, what


class Busy(Exception):
    """Others write and wait to write already; nothing was done."""


MOST_WRITERS, MOST_WAITING, PATIENCE_S = 2, 22, 8.0
"""Of the server's threads so many may hold or ask for the lock, so many more wait for their turn, and so long."""
_writers = threading.BoundedSemaphore(MOST_WRITERS)
_waiting = threading.BoundedSemaphore(MOST_WAITING)


def _turn() -> bool:
    """Whether it is one's turn to write; a burst of small edits waits a moment, nobody waits for long."""
    if _writers.acquire(blocking=False):
        return True
    if not _waiting.acquire(blocking=False):
        return False
    try:
        return _writers.acquire(timeout=PATIENCE_S)
    finally:
        _waiting.release()


class Hand(NamedTuple):
    """Who edits: author (a browser), the window of it, the id given to the edit, its gesture, and the revision seen."""

    author: str
    tab: str = ""
    edit: str = ""
    gesture: str = ""
    seen: int | None = None


class OneEdit(NamedTuple):
    """One step of an edit: add a row (no ``row``), do operations to one, or remove it; ``row`` is (number, version seen).

    ``force`` puts it through although somebody else changed the same field meanwhile, once a person has said so.
    """

    collection: str
    row: tuple[int | str, int] | None = None
    values: Mapping[str, Any] = {}
    operations: tuple[Operation, ...] = ()
    remove: bool = False
    force: bool = False


class Done(NamedTuple):
    """What an edit left: the rows as stored (of a removed one its number), and the job's revision."""

    rows: tuple[dict[str, Any], ...]
    revision: int


class Log:
    """Collects the changes of one edit of a job, and writes them down when it is done."""

    def __init__(self, session: Session, owner: OwnerRow, hand: Hand, state: str = "done", of: int | None = None) -> None:
        owner.revision += 1
        self.session, self.owner, self.hand = session, owner, hand
        self.edit = self._of_gesture(state) or EditRow(
            owner_id=owner.id, author=hand.author, tab=hand.tab or hand.author, gesture=hand.gesture, state=state, of=of,
            revision=owner.revision)
        self.edit.revision = owner.revision
        session.add(self.edit)
        session.flush()
        if state == "done":  # what was undone cannot come back once something else is done
            session.execute(update(EditRow).where(EditRow.owner_id == owner.id, EditRow.author == hand.author,
                                                  EditRow.state == "undone").values(state="dropped"))

    def _of_gesture(self, state: str) -> EditRow | None:
        """The edit this one folds into: the author's last, if it is of the same gesture."""
        if not self.hand.gesture or state != "done":
            return None
        last = last_done(self.session, self.owner.id, self.hand.author)
        return last if last is not None and last.gesture == self.hand.gesture else None

    def add(self, collection: str, row_id: int, before: Any, after: Any, version: int) -> None:
        """Note what was done to a row; within one edit a row is noted once."""
        known = self.session.scalars(select(ChangeRow).where(
            ChangeRow.edit_id == self.edit.id, ChangeRow.collection == collection, ChangeRow.row_id == row_id)).first()
        if known is not None and after is not None and known.after is not None:
            known.after, known.version = after, version
            return
        self.session.add(ChangeRow(edit_id=self.edit.id, collection=collection, row_id=row_id, before=before, after=after,
                                   version=version))


def last_done(session: Session, owner_id: int, author: str) -> EditRow | None:
    """The author's newest edit that stands."""
    return session.scalars(select(EditRow).where(EditRow.owner_id == owner_id, EditRow.author == author, EditRow.state == "done")
                           .order_by(EditRow.id.desc()).limit(1)).first()


class Editor:
    """Edits of jobs by one hand, over a session factory."""

    def __init__(self, store: sessionmaker[Session], hand: Hand | str) -> None:
        self.store, self.hand = store, hand if isinstance(hand, Hand) else Hand(hand[:64])

    @contextmanager
    def begin(self) -> Iterator[Session]:
        """A session that holds the write lock. Busy when too many wait for it already: those who only read need hands too."""
        if not _turn():
            raise Busy
        try:
            with self.store() as session:
                session.connection(execution_options={"writing": True})
                yield session
        finally:
            _writers.release()

    def create_job(self, values: dict[str, Any]) -> int:
        """A new empty job; returns its number."""
        job = parse(JobIn, values)
        with self.begin() as session:
            sent = self._sent(session)
            if sent is not None:
                return sent.owner_id
            row = OwnerRow(content=job.model_dump(mode="json"))
            session.add(row)
            session.flush()
            self._answered(session, row.id, [])
            session.commit()
            return row.id

    def _sent(self, session: Session) -> SentRow | None:
        """The edit as it was answered before, where this is the same once more."""
        return session.get(SentRow, self.hand.edit) if self.hand.edit else None

    def _answered(self, session: Session, owner_id: int, answer: list[dict[str, Any]]) -> None:
        if self.hand.edit:
            session.add(SentRow(id=self.hand.edit, owner_id=owner_id, answer=answer))

    def trash_job(self, owner_id: int, revision: int) -> None:
        """Put a job and all it holds into the trash. Conflict when anything in it was changed since that revision."""
        with self.begin() as session:
            job = owner_row(session, owner_id)
            if job.kind != "job":
                raise Missing(f"there is no job {owner_id}")
            if job.revision != revision:
                raise Conflict(stored(job), {"revision": revision}, "somebody worked on this job meanwhile")
            job.kind, job.trashed_at = TRASHED, datetime.now(UTC)
            session.commit()

    def from_trash(self, owner_id: int, bring_back: bool) -> None:
        """Bring a trashed job back, or let it go for good. Missing when it is not in the trash."""
        with self.begin() as session:
            job = session.get(OwnerRow, owner_id)
            if job is None or job.kind != TRASHED:
                raise Missing("there is no such job in the trash")
            if bring_back:
                job.kind, job.trashed_at, job.revision = "job", None, job.revision + 1
            else:
                session.delete(job)
            session.commit()

    def create(self, owner_id: int, collection: str, rows: Sequence[Mapping[str, Any]]) -> tuple[dict[str, Any], ...]:
        """Add rows as one edit; returns them as stored. BadInput for content not valid or pointing outside the job."""
        return self.together(owner_id, [OneEdit(collection, values=values) for values in rows])

    def change(self, owner_id: int, collection: str, row_id: int, version: int, changes: Mapping[str, Any]) -> dict[str, Any]:
        """Give fields of a row (or of the job itself, collection ``jobs``) new values; Conflict as in ``together``."""
        return self.together(owner_id, [OneEdit(collection, (row_id, version), operations=setting(changes))])[0]

    def remove(self, owner_id: int, collection: str, row_id: int, version: int) -> None:
        """Remove a row and what depends on it, as one edit; Conflict as in ``do``."""
        self.together(owner_id, [OneEdit(collection, (row_id, version), remove=True)])

    def together(self, owner_id: int, edits: Sequence[OneEdit]) -> tuple[dict[str, Any], ...]:
        """The rows that ``do`` leaves."""
        return self.do(owner_id, edits).rows

    def do(self, owner_id: int, edits: Sequence[OneEdit]) -> Done:
        """Several steps as one edit, undone as one.

        A reference "#n" in values, or as a row's number, means the row of the n-th step. An edit sent again under its id is
        answered as before. BadInput for content not valid; Conflict when another window changed the same field since the
        version seen, or took the row or item away; then nothing is done.
        """
        with self.begin() as session:
            sent = self._sent(session)
            if sent is not None and sent.owner_id != owner_id:
                raise BadInput("an edit of another job has this name", "X-Edit", "give every edit a name of its own")
            if sent is not None:
                return Done(tuple(sent.answer), owner_row(session, owner_id).revision)
            log = Log(session, owner_row(session, owner_id), self.hand)
            out: list[dict[str, Any]] = []
            for edit in edits:
                out.append(_one(session, log, edit, out))
            keep_materials(session, log.owner, [r for e, r in zip(edits, out, strict=True) if e.collection in NAMING])
            refuse_unknown(session, log.owner, [(e.collection, r) for e, r in zip(edits, out, strict=True)])
            self._answered(session, owner_id, out)
            session.commit()
            return Done(tuple(out), log.owner.revision)


def _one(session: Session, log: Log, edit: OneEdit, done: list[dict[str, Any]]) -> dict[str, Any]:
    owner = OWNERS[log.owner.kind]
    if edit.collection != owner.itself and edit.collection not in owner.collections:
        raise Missing(f"there is no collection '{edit.collection[:40]}'")
    values = {k: _named_here(done, v) if k.endswith("_id") else v for k, v in edit.values.items()}
    if edit.row is None:
        return stored(add_row(session, log, edit.collection, values))
    number = _named_here(done, edit.row[0])
    if not isinstance(number, int):
        raise BadInput(f"'{str(number)[:20]}' is no row of this edit", "row", "give a row's number, or #n for the n-th step")
    at = edit._replace(row=(number, edit.row[1]))
    if edit.remove:
        _remove(session, log, at)
        return {"id": number}
    return stored(_alter(session, log, at, number, edit.row[1], (*setting(values), *edit.operations)))


def _named_here(rows: list[dict[str, Any]], value: Any) -> Any:
    """The number of the row that "#n" means."""
    text = value[1:] if isinstance(value, str) and value.startswith("#") else ""
    return rows[int(text)]["id"] if text.isdecimal() and int(text) < len(rows) else value


def add_row(session: Session, log: Log, collection: str, values: Mapping[str, Any], number: int | None = None,
            version: int = 1) -> Any:
    """Add a row (under its old number, when it comes back) and note it."""
    content = with_counts(collection, valid(session, log.owner.id, collection, dict(values)), None)
    _one_of_its_kind(session, log, collection, content, None)
    row = TABLES[collection](id=number, owner_id=log.owner.id, version=version, **columns(collection, content))
    session.add(row)
    session.flush()
    log.add(collection, row.id, None, content, row.version)
    return row


def write(session: Session, log: Log, collection: str, row: Any, content: dict[str, Any]) -> None:
    """Give a row new content, validated, and note what it was before."""
    before = dict(row.content)
    content = with_counts(collection, valid(session, log.owner.id, collection, content), before)
    _no_ring(session, collection, row.id, content)
    _one_of_its_kind(session, log, collection, content, row.id)
    for name, value in columns(collection, content).items():
        setattr(row, name, value)
    row.version += 1
    session.flush()
    log.add(collection, row.id, before, content, row.version)


def take_away(session: Session, log: Log, collection: str, row: Any) -> None:
    """Delete a row and note it."""
    log.add(collection, row.id, dict(row.content), None, row.version)
    session.execute(delete(TABLES[collection]).where(TABLES[collection].id == row.id))
    session.expunge(row)


def _alter(session: Session, log: Log, edit: OneEdit, number: int, version: int, operations: tuple[Operation, ...]) -> Any:
    collection = edit.collection
    row = log.owner if collection in ITSELF else find(session, log.owner.id, collection, number)
    sent = {_key(o): getattr(o, "value", o.op) for o in operations}
    if not edit.force:
        moved = overlap(touched(operations), changed_by_others(session, log.hand, collection, number, version))
        if moved:
            raise Conflict(_as_sent(row, operations), sent)
    content = as_kept(collection, row.content)
    for operation in operations:
        try:
            content = apply(content, operation)
        except Gone as gone:
            raise Conflict(None, sent, f"somebody took this away meanwhile ({path_words(gone.path[:1])})") from None
    write(session, log, collection, row, content)
    return row


def _key(operation: Operation) -> str:
    at = operation.at
    return at[0] if len(at) == 1 else path_words(at)


def _as_sent(row: Any, operations: tuple[Operation, ...]) -> dict[str, Any]:
    """What is stored, with nested fields under the words by which they were sent."""
    found = {_key(o): value_at(row.content, tuple(o.at)) for o in operations if len(o.at) > 1}
    return {**stored(row), **{k: v for k, v in found.items() if v is not MISSING}}


def changed_by_others(session: Session, hand: Hand, collection: str, row_id: int, version: int) -> set[Path]:
    """The fields of a row that other windows changed since it had ``version``."""
    rows = session.scalars(
        select(ChangeRow).join(EditRow, EditRow.id == ChangeRow.edit_id)
        .where(ChangeRow.collection == collection, ChangeRow.row_id == row_id, ChangeRow.version > version,
               _not_of(hand))).all()
    return {path for r in rows if r.before is not None and r.after is not None
            for path in differences(as_kept(collection, r.before), as_kept(collection, r.after))}


def _remove(session: Session, log: Log, edit: OneEdit) -> None:
    assert edit.row is not None
    number, version, hand = int(edit.row[0]), edit.row[1], log.hand
    row = find(session, log.owner.id, edit.collection, number)
    refuse_used(session, edit.collection, row.content)
    hanging = dependents(session, log.owner.id, edit.collection, number)
    if not edit.force:
        if changed_by_others(session, hand, edit.collection, number, version):
            raise Conflict(stored(row), {"version": version})
        theirs = [] if hand.seen is None else [
            named(name, r.content) for name, r in hanging[1:] if _by_others(session, hand, name, r.id, hand.seen)]
        if theirs:
            raise Conflict(stored(row), {}, f"somebody else added {theirs[0]} here meanwhile, and it would go too")
    for name, dependent in reversed(hanging):
        take_away(session, log, name, dependent)


def _not_of(hand: Hand) -> Any:
    """Edits that hand did not make in the window it edits in; one that names no window has seen nothing else."""
    return EditRow.tab != hand.tab if hand.tab else true()


def _by_others(session: Session, hand: Hand, collection: str, row_id: int, seen: int) -> bool:
    return session.scalars(
        select(ChangeRow.id).join(EditRow, EditRow.id == ChangeRow.edit_id)
        .where(ChangeRow.collection == collection, ChangeRow.row_id == row_id, EditRow.revision > seen,
               _not_of(hand)).limit(1)).first() is not None


def find(session: Session, owner_id: int, collection: str, row_id: int) -> Any:
    """A row of a job. Missing when it is not there."""
    row = session.get(TABLES[collection], row_id)
    if row is None or row.owner_id != owner_id:
        raise Missing(f"there is no such row in {collection.replace('_', ' ')}")
    return row


def normal(collection: str, content: Mapping[str, Any]) -> dict[str, Any]:
    """A row's content as this version writes it: every field there, every item with its id."""
    kind = ITSELF.get(collection) or ALL[collection].editable
    return parse(kind, dict(content)).model_dump(mode="json")


def as_kept(collection: str, content: Mapping[str, Any]) -> dict[str, Any]:
    """A row's content as ``normal``; as it lies where it cannot be used, so that it can be mended, taken out or undone."""
    try:
        return normal(collection, content)
    except BadInput:
        return dict(content)


def is_valid(collection: str, content: Mapping[str, Any]) -> bool:
    """Whether a row's content can be used."""
    try:
        normal(collection, content)
    except BadInput:
        return False
    return True


def valid(session: Session, owner_id: int, collection: str, values: dict[str, Any]) -> dict[str, Any]:
    """Validated content, ready for JSON; every reference must lead to a row of the same job."""
    content = normal(collection, values)
    for name, target in (ALL[collection].points_to if collection not in ITSELF else {}).items():
        to = content.get(name)
        if to is not None:
            found = session.get(TABLES[target], to)
            if found is None or found.owner_id != owner_id:
                raise BadInput(f"{target.rstrip('s')} {to} is not in this job", name, "choose one of this job")
    return content


def _no_ring(session: Session, collection: str, row_id: int, content: Mapping[str, Any]) -> None:
    """A row that points to one of its own kind must not come back to itself that way."""
    for name in (f for f, target in (ALL[collection].points_to if collection in ALL else {}).items() if target == collection):
        to, seen = content.get(name), {row_id}
        while to is not None:
            if to in seen:
                raise BadInput("it would follow itself", name, "choose one that does not come after it")
            seen.add(to)
            found = session.get(TABLES[collection], to)
            to = None if found is None else found.content.get(name)


ONE_OF_A_KIND = {"alternatives": "chosen", "goals": "headline"}
"""One chosen alternative per surface, one headline goal per job."""


def rivals(session: Session, owner_id: int, collection: str, content: Mapping[str, Any], row_id: int | None) -> list[Any]:
    """Other rows that hold the place of which there is one, where ``content`` claims it too."""
    flag = ONE_OF_A_KIND.get(collection)
    if flag is None or not content[flag]:
        return []
    model = TABLES[collection]
    others = session.scalars(select(model).where(model.owner_id == owner_id, model.id != (row_id or 0))).all()
    place = ("surface_id", "zone")
    return [o for o in others if o.content[flag] and all((o.content.get(k) or "") == (content.get(k) or "") for k in place)]


def _one_of_its_kind(session: Session, log: Log, collection: str, content: Mapping[str, Any], row_id: int | None) -> None:
    """Choosing one lets go of the others; of a material there is one."""
    refuse_twice(session, collection, content, row_id)
    for other in rivals(session, log.owner.id, collection, content, row_id):
        before = dict(other.content)
        other.content = {**before, ONE_OF_A_KIND[collection]: False}
        other.version += 1
        log.add(collection, other.id, before, dict(other.content), other.version)


def dependents(session: Session, owner_id: int, collection: str, row_id: int) -> list[tuple[str, Any]]:
    """The row and all rows that point to it, directly or not, each after what it points to."""
    gone: dict[str, set[int]] = {collection: {row_id}}
    out = [(collection, session.get(TABLES[collection], row_id))]
    for name, kind in ALL.items():
        if not kind.points_to:
            continue
        model = TABLES[name]
        rows = session.scalars(select(model).where(model.owner_id == owner_id).order_by(model.id)).all()
        for row in rows:
            points = kind.points_to.items()
            if any(row.content.get(field) in gone.get(target, set()) for field, target in points):
                if (name, row.id) != (collection, row_id):
                    out.append((name, row))
                gone.setdefault(name, set()).add(row.id)
    return out
