"""What goes by itself: trashed jobs and old edits after 30 days, and files that nothing points to any more."""

from __future__ import annotations

import time
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session, sessionmaker

from .documents import TRASHED, WORKSHOP
from .files import FileStore
from .models import ChangeRow, EditRow, OwnerRow, PaperRow, PhotoRow, ReadingRow, SentRow

KEPT_DAYS = 30
"""Undo reaches back so far, and a trashed job can be brought back so long."""
SENT_DAYS = 400
"""A device that was away sends its edits again for so long, and each still counts once."""
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
        session.execute(delete(SentRow).where(SentRow.at < before + timedelta(days=KEPT_DAYS - SENT_DAYS)))
        # a server that stopped while it drew: the number is void
        session.execute(update(PaperRow).where(PaperRow.state == "drawing", PaperRow.made_at < before + timedelta(
            days=KEPT_DAYS, hours=-1)).values(state="void"))
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
    for kept in session.scalars(select(PaperRow.files)):
        found.update(kept.values())
    marks = session.scalars(select(OwnerRow.content["mark"].as_string()).where(OwnerRow.id == WORKSHOP))
    found.update(x for x in marks if x)
    return {name for name in found if name}
