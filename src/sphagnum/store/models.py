"""Tables: one row per thing of a job. References are columns with keys; the rest of a row is its validated content."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, DateTime, ForeignKey, Index, func
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Base of all tables."""


class Versioned:
    """A numbered row with the version that guards it against stale writes."""

    __table_args__: Any = {"sqlite_autoincrement": True}  # a number is never given twice, so undo can bring a row back
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    version: Mapped[int] = mapped_column(default=1)
    content: Mapped[dict[str, Any]] = mapped_column(JSON)


class JobRow(Versioned, Base):
    """A job; ``revision`` rises with every edit of anything in it."""

    __tablename__ = "jobs"
    revision: Mapped[int] = mapped_column(default=1)
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class OfJob(Versioned):
    """A row that belongs to a job and goes with it."""

    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)


def _to(table: str) -> Any:
    return mapped_column(ForeignKey(f"{table}.id", ondelete="CASCADE"), index=True)


class PositionRow(OfJob, Base):
    __tablename__ = "positions"


class ConditionRow(OfJob, Base):
    __tablename__ = "conditions"


class RoundRow(OfJob, Base):
    __tablename__ = "rounds"
    follows_id: Mapped[int | None] = _to("rounds")


class ReadingRow(OfJob, Base):
    __tablename__ = "readings"
    position_id: Mapped[int] = _to("positions")
    condition_id: Mapped[int] = _to("conditions")
    round_id: Mapped[int] = _to("rounds")


class RemarkRow(OfJob, Base):
    __tablename__ = "remarks"
    round_id: Mapped[int] = _to("rounds")


class GoalRow(OfJob, Base):
    __tablename__ = "goals"
    position_id: Mapped[int] = _to("positions")
    condition_id: Mapped[int] = _to("conditions")


class SurfaceRow(OfJob, Base):
    __tablename__ = "surfaces"


class AlternativeRow(OfJob, Base):
    __tablename__ = "alternatives"
    surface_id: Mapped[int] = _to("surfaces")


class PathRow(OfJob, Base):
    __tablename__ = "paths"
    surface_id: Mapped[int | None] = _to("surfaces")


class BlockOffRow(OfJob, Base):
    __tablename__ = "block_offs"
    path_id: Mapped[int] = _to("paths")


class SubstitutionRow(OfJob, Base):
    __tablename__ = "substitutions"
    path_id: Mapped[int] = _to("paths")


class MeasureRow(OfJob, Base):
    __tablename__ = "measures"
    path_id: Mapped[int | None] = _to("paths")


class RattleRow(OfJob, Base):
    __tablename__ = "rattles"
    surface_id: Mapped[int | None] = _to("surfaces")


class LeakRow(OfJob, Base):
    __tablename__ = "leaks"
    path_id: Mapped[int | None] = _to("paths")


class HintRow(OfJob, Base):
    __tablename__ = "hints"


class CalculationRow(OfJob, Base):
    __tablename__ = "calculations"


class PieceRow(OfJob, Base):
    __tablename__ = "pieces"


class StepEventRow(OfJob, Base):
    __tablename__ = "step_events"
    surface_id: Mapped[int | None] = _to("surfaces")
    measure_id: Mapped[int | None] = _to("measures")
    rattle_id: Mapped[int | None] = _to("rattles")
    leak_id: Mapped[int | None] = _to("leaks")


class PhotoRow(OfJob, Base):
    __tablename__ = "photos"
    position_id: Mapped[int | None] = _to("positions")
    surface_id: Mapped[int | None] = _to("surfaces")
    round_id: Mapped[int | None] = _to("rounds")
    rattle_id: Mapped[int | None] = _to("rattles")


class SideEffectRow(OfJob, Base):
    __tablename__ = "side_effects"
    round_id: Mapped[int] = _to("rounds")


class ReminderRow(OfJob, Base):
    __tablename__ = "reminders"


class KnockRow(OfJob, Base):
    __tablename__ = "knocks"
    round_id: Mapped[int] = _to("rounds")
    position_id: Mapped[int] = _to("positions")
    surface_id: Mapped[int | None] = _to("surfaces")


class EditRow(Base):
    """One edit of a job, undone as one: what its changes are, whose it is, and how it stands."""

    __tablename__ = "edits"
    __table_args__ = (Index("edits_by_author", "job_id", "author", "state"), {"sqlite_autoincrement": True})
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    author: Mapped[str]
    tab: Mapped[str]
    """The window of the author's browser: one window's edits never conflict with one another."""
    gesture: Mapped[str]
    """Edits of one gesture are one edit; empty for an edit of its own."""
    state: Mapped[str]
    """done, undone, skipped (in the way of an older one), dropped (undone, then something else was done); undo and redo
    are edits too, that are never undone themselves."""
    of: Mapped[int | None]
    """The edit that an undo or redo took back or brought back."""
    revision: Mapped[int]
    """The job's revision it made."""
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class ChangeRow(Base):
    """What an edit did to one row: its content before and after, and the version it left."""

    __tablename__ = "changes"
    __table_args__ = (Index("changes_of_row", "collection", "row_id"), {"sqlite_autoincrement": True})
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    edit_id: Mapped[int] = mapped_column(ForeignKey("edits.id", ondelete="CASCADE"), index=True)
    collection: Mapped[str]
    row_id: Mapped[int]
    before: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    after: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    version: Mapped[int]


class SentRow(Base):
    """An edit as a browser sent it, by the id it gave, and the answer: sent twice, it counts once."""

    __tablename__ = "sent"
    id: Mapped[str] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    answer: Mapped[list[dict[str, Any]]] = mapped_column(JSON)


TABLES: dict[str, type[Any]] = {
    model.__tablename__: model
    for model in (PositionRow, ConditionRow, RoundRow, ReadingRow, RemarkRow, GoalRow, SurfaceRow, AlternativeRow,
                  PathRow, BlockOffRow, SubstitutionRow, MeasureRow, RattleRow, LeakRow, HintRow, CalculationRow, PieceRow,
                  StepEventRow, PhotoRow, SideEffectRow, ReminderRow, KnockRow)
}
"""Collections of a job in an order in which references always point backwards."""
