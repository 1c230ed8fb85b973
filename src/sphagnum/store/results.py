"""Results of work behind the page, kept by their input so that they outlive the server; the oldest go first."""

from __future__ import annotations

from sqlalchemy import delete, select
from sqlalchemy.orm import Session, sessionmaker

from .models import ResultRow

MOST_RESULTS = 2000


class StoredResults:
    """The table of results."""

    def __init__(self, store: sessionmaker[Session]) -> None:
        self._store = store

    def find(self, key: str) -> tuple[str, str] | None:
        """The kind and the result kept under a key, as JSON."""
        with self._store() as session:
            row = session.get(ResultRow, key)
            return None if row is None else (row.kind, row.result)

    def keep(self, key: str, kind: str, result: str) -> None:
        """Keep a result; beyond a number the oldest are let go."""
        with self._store() as session:
            session.connection(execution_options={"writing": True})
            session.merge(ResultRow(id=key, kind=kind, result=result))
            old = select(ResultRow.id).order_by(ResultRow.at.desc(), ResultRow.id).offset(MOST_RESULTS)
            session.execute(delete(ResultRow).where(ResultRow.id.in_(old)))
            session.commit()
