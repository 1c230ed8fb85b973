"""What goes by itself: trashed jobs and old edits after 30 days, and files that nothing points to any more."""

from __future__ import annotations

import time
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from sqlalchemy import delete, select
from sqlalchemy.orm import Session, sessionmaker

from .documents import TRASHED
from .files import FileStore
from .models import ChangeRow, EditRow, OwnerRow, PhotoRow, ReadingRow, SentRow

KEPT_DAYS = 30
"""Undo reaches back so far, and a trashed job can be brought back so long."""
IN_USE_S = 3600.0
"""A file younger than this may belong to something that is just being kept."""
HOLDERS: dict[str, tuple[Any, tuple[str, ...]]] = {"readings": (ReadingRow, ("sound", "run")), "photos": (PhotoRow, ("file",))}
"""What names files, and in which fields."""


class Tidied(NamedTuple):
    """How much went."""

    jobs: int
    edits: int
    files: int


def tidy(store: sessionmaker[Session], files: FileStore, now: datetime | None = None) -> Tidied:
    """Let go of what is too old, then of the files nothing points to: no row, a trashed job's too, no edit to be undone."""
    before = (now or datetime.now(UTC)) - timedelta(days=KEPT_DAYS)
    with store() as session:
        session.connection(execution_options={"writing": True})
        jobs = session.execute(delete(OwnerRow).where(OwnerRow.kind == TRASHED, OwnerRow.trashed_at < before))
        edits = session.execute(delete(EditRow).where(EditRow.at < before))
        session.execute(delete(SentRow).where(SentRow.at < before))
        session.commit()
        pointed_to = named(session)
    gone = 0
    for file in files.all():
        if file.name not in pointed_to and time.time() - file.stat().st_mtime > IN_USE_S:
            file.unlink(missing_ok=True)
            gone += 1
    return Tidied(jobs.rowcount, edits.rowcount, gone)  # type: ignore[attr-defined]


def named(session: Session) -> set[str]:
    """The names of all files that something points to."""
    found: set[str] = set()
    for collection, (model, fields) in HOLDERS.items():
        for field in fields:
            found.update(session.scalars(select(model.content[field].as_string())))
            for side in (ChangeRow.before, ChangeRow.after):
                found.update(session.scalars(select(side[field].as_string()).where(ChangeRow.collection == collection)))
    return {name for name in found if name}
