"""Tables: one row per thing of a job. References are columns with keys; the rest of a row is its validated content."""

from __future__ import annotations

from datetime import UTC, datetime
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


class OwnerRow(Versioned, Base):
    """Who rows belong to: a job, or the workshop. ``revision`` rises with every edit of anything in it."""

    __tablename__ = "owners"
    kind: Mapped[str] = mapped_column(default="job")
    revision: Mapped[int] = mapped_column(default=1)
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    trashed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), default=None)


class OfOwner(Versioned):
    """A row that belongs to a job or to the workshop and goes with it."""

    owner_id: Mapped[int] = mapped_column(ForeignKey("owners.id", ondelete="CASCADE"), index=True)


def _to(table: str) -> Any:
    return mapped_column(ForeignKey(f"{table}.id", ondelete="CASCADE"), index=True)


class PositionRow(OfOwner, Base):
    __tablename__ = "positions"


class ConditionRow(OfOwner, Base):
    __tablename__ = "conditions"


class RoundRow(OfOwner, Base):
    __tablename__ = "rounds"
    follows_id: Mapped[int | None] = _to("rounds")


class ReadingRow(OfOwner, Base):
    __tablename__ = "readings"
    position_id: Mapped[int] = _to("positions")
    condition_id: Mapped[int] = _to("conditions")
    round_id: Mapped[int] = _to("rounds")


class RemarkRow(OfOwner, Base):
    __tablename__ = "remarks"
    round_id: Mapped[int] = _to("rounds")


class GoalRow(OfOwner, Base):
    __tablename__ = "goals"
    position_id: Mapped[int] = _to("positions")
    condition_id: Mapped[int] = _to("conditions")


class SurfaceRow(OfOwner, Base):
    __tablename__ = "surfaces"


class AlternativeRow(OfOwner, Base):
    __tablename__ = "alternatives"
    surface_id: Mapped[int] = _to("surfaces")


class PathRow(OfOwner, Base):
    __tablename__ = "paths"
    surface_id: Mapped[int | None] = _to("surfaces")


class BlockOffRow(OfOwner, Base):
    __tablename__ = "block_offs"
    path_id: Mapped[int] = _to("paths")


class SubstitutionRow(OfOwner, Base):
    __tablename__ = "substitutions"
    path_id: Mapped[int] = _to("paths")


class MeasureRow(OfOwner, Base):
    __tablename__ = "measures"
    path_id: Mapped[int | None] = _to("paths")


class RattleRow(OfOwner, Base):
    __tablename__ = "rattles"
    surface_id: Mapped[int | None] = _to("surfaces")


class LeakRow(OfOwner, Base):
    __tablename__ = "leaks"
    path_id: Mapped[int | None] = _to("paths")


class HintRow(OfOwner, Base):
    __tablename__ = "hints"


class CalculationRow(OfOwner, Base):
    __tablename__ = "calculations"


class PieceRow(OfOwner, Base):
    __tablename__ = "pieces"


class GoodRow(OfOwner, Base):
    __tablename__ = "goods"


class OffcutTakenRow(OfOwner, Base):
    __tablename__ = "offcuts_taken"


class LayoutRow(OfOwner, Base):
    __tablename__ = "layouts"


class StepEventRow(OfOwner, Base):
    __tablename__ = "step_events"


class FixingRow(OfOwner, Base):
    __tablename__ = "fixings"
    surface_id: Mapped[int] = _to("surfaces")


class OwnStepRow(OfOwner, Base):
    __tablename__ = "own_steps"


class PhotoRow(OfOwner, Base):
    __tablename__ = "photos"
    position_id: Mapped[int | None] = _to("positions")
    surface_id: Mapped[int | None] = _to("surfaces")
    round_id: Mapped[int | None] = _to("rounds")
    rattle_id: Mapped[int | None] = _to("rattles")


class SideEffectRow(OfOwner, Base):
    __tablename__ = "side_effects"
    round_id: Mapped[int] = _to("rounds")


class ReminderRow(OfOwner, Base):
    __tablename__ = "reminders"


class KnockRow(OfOwner, Base):
    __tablename__ = "knocks"
    round_id: Mapped[int] = _to("rounds")
    position_id: Mapped[int] = _to("positions")
    surface_id: Mapped[int | None] = _to("surfaces")


class DecayRow(OfOwner, Base):
    __tablename__ = "decays"
    round_id: Mapped[int] = _to("rounds")
    position_id: Mapped[int] = _to("positions")


class BuildRow(OfOwner, Base):
    __tablename__ = "builds"


class MaterialCopyRow(OfOwner, Base):
    __tablename__ = "material_copies"


class PromiseRow(OfOwner, Base):
    __tablename__ = "promises"


class ShelfMaterialRow(OfOwner, Base):
    __tablename__ = "shelf_materials"


class OffcutRow(OfOwner, Base):
    __tablename__ = "offcuts"


class TemplateRow(OfOwner, Base):
    __tablename__ = "templates"


class OutlineRow(OfOwner, Base):
    __tablename__ = "outlines"


class SettingRow(OfOwner, Base):
    __tablename__ = "settings"


class MethodRow(OfOwner, Base):
    __tablename__ = "methods"


class HouseMinutesRow(OfOwner, Base):
    __tablename__ = "house_minutes"


class SeriesRow(OfOwner, Base):
    __tablename__ = "series"


class EditRow(Base):
    """One edit of a job or of the workshop, undone as one: what its changes are, whose it is, and how it stands."""

    __tablename__ = "edits"
    __table_args__ = (Index("edits_by_author", "owner_id", "author", "state"), {"sqlite_autoincrement": True})
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    owner_id: Mapped[int] = mapped_column(ForeignKey("owners.id", ondelete="CASCADE"))
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
    """The owner's revision it made."""
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
    owner_id: Mapped[int] = mapped_column(ForeignKey("owners.id", ondelete="CASCADE"), index=True)
    answer: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), default=lambda: datetime.now(UTC))


class CardRow(Base):
    """A job's card as it was last worked out: of which revision of the job, by which model and shelf."""

    __tablename__ = "cards"
    owner_id: Mapped[int] = mapped_column(ForeignKey("owners.id", ondelete="CASCADE"), primary_key=True)
    revision: Mapped[int]
    stamp: Mapped[str]
    card: Mapped[dict[str, Any]] = mapped_column(JSON)


class ResultRow(Base):
    """A result of work behind the page, by the key of its input."""

    __tablename__ = "results"
    id: Mapped[str] = mapped_column(primary_key=True)
    kind: Mapped[str]
    result: Mapped[str]
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now(), index=True)


class PaperRow(Base):
    """A paper of the workshop with its number: an offer or a report, as it was handed over. No trash and no undo takes it."""

    __tablename__ = "papers"
    __table_args__: Any = {"sqlite_autoincrement": True}
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    number: Mapped[int] = mapped_column(unique=True)
    job_id: Mapped[int] = mapped_column(index=True)
    kind: Mapped[str]
    state: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=lambda: datetime.now(UTC))
    content: Mapped[dict[str, Any]] = mapped_column(JSON)
    files: Mapped[dict[str, str]] = mapped_column(JSON)
    """What was printed, by the way of printing, by the names of its files."""


class PaperNumberRow(Base):
    """The number the next paper gets; after a restore somebody confirms it first, so that none is given twice."""

    __tablename__ = "paper_numbers"
    id: Mapped[int] = mapped_column(primary_key=True)
    next: Mapped[int]
    confirmed: Mapped[bool]


TABLES: dict[str, type[Any]] = {
    model.__tablename__: model
    for model in (PositionRow, ConditionRow, RoundRow, ReadingRow, RemarkRow, GoalRow, SurfaceRow, AlternativeRow,
                  PathRow, BlockOffRow, SubstitutionRow, MeasureRow, RattleRow, LeakRow, HintRow, CalculationRow, PieceRow,
                  GoodRow, OffcutTakenRow, LayoutRow, OwnStepRow, StepEventRow, FixingRow, PhotoRow, SideEffectRow, ReminderRow,
                  KnockRow, DecayRow, BuildRow, MaterialCopyRow, PromiseRow, ShelfMaterialRow, OffcutRow, TemplateRow, OutlineRow,
                  SettingRow, MethodRow, HouseMinutesRow, SeriesRow)
}
"""Collections of a job and of the workshop, in an order in which references always point backwards."""
