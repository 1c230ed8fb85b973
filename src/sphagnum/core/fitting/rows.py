"""What is kept of the work order: what happened to its steps, and reminders to look again."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..forms import (
    Moment,
    Name,
    OptionalNumber,
    RowId,
    Words,
)
from ..schema import ItemId, Row, Strict


class StepEventIn(Strict):
    """What happened to a step of the work order. The step is told by its phase and what it is about, never by a text."""

    phase: Annotated[str, Field(min_length=1, max_length=40)]
    surface_id: RowId | None = None
    zone: ItemId = ""
    """The zone of the surface, by its id."""
    layer: ItemId = ""
    """The layer of the surface's stack, by its id."""
    measure_id: RowId | None = None
    rattle_id: RowId | None = None
    leak_id: RowId | None = None
    what: Literal["started", "paused", "done", "undone", "note"]
    at: Moment = ""
    device: Annotated[str, Field(max_length=64)] = ""
    text: Words = ""
    """What the step said then."""
    minutes: OptionalNumber = None
    note: Words = ""


class ReminderIn(Strict):
    """To look at the work again: what sagged, came loose, corroded."""

    due_on: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    what: Name
    done: bool = False
class StepEvent(StepEventIn, Row): ...
class Reminder(ReminderIn, Row): ...
