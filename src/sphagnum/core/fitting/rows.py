"""What is kept of the work order: what happened to its steps, fixings taken off, own steps, and reminders to look again."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..forms import FormNotNegative, Moment, Name, Optional, OptionalNumber, RowId, Words
from ..schema import Day, ItemId, Row, Strict, Temperature, Typed

What = Literal["started", "paused", "done", "undone", "note", "skipped", "taken up", "handed", "laid", "unlaid", "passed",
               "failed", "timer", "timer ended", "used", "acknowledged", "temperature", "day ends", "split", "joined"]
Word = Annotated[str, Field(max_length=120)]
Celsius = Annotated[Temperature | None, Optional, Typed]


class StepEventIn(Strict):
    """What happened to a step of the work order. The step is told by its phase and what it is about, never by a text; what it was
    about may be gone since."""

    phase: Annotated[str, Field(min_length=1, max_length=40)]
    surface_id: RowId | None = None
    zone: ItemId = ""
    """The zone of the surface, by its id."""
    layer: ItemId = ""
    """The layer of the surface's stack, by its id."""
    measure_id: RowId | None = None
    rattle_id: RowId | None = None
    leak_id: RowId | None = None
    own_id: RowId | None = None
    build_id: RowId | None = None
    part: Annotated[int, Field(ge=0, le=1)] = 0
    """Of a step that somebody split: 1 is what is laid later."""
    what: What
    at: Moment = ""
    """When it was, as the device knew the server's time."""
    device_at: Moment = ""
    """The same by the device's own clock."""
    heard_s: OptionalNumber = None
    """So long before, s, the device had last heard the server."""
    sequence: Annotated[int, Field(ge=0, le=2**53)] = 0
    """Which of what this device saw happen; 0 unknown."""
    received_at: Moment = ""
    """When the server took it in."""
    device: Annotated[str, Field(max_length=64)] = ""
    who: Word = ""
    """Who did it, or whom it was handed to."""
    text: Words = ""
    """What the step said then."""
    like: Word = ""
    """Of a layer: its material, thickness and place then, so that one put in its place is known."""
    item: Word = ""
    """The piece (by its identity), check or timer it is about; of a split the first piece that is laid later."""
    minutes: OptionalNumber = None
    """It took so long; of a timer, it runs so long."""
    material: Annotated[str, Field(max_length=80)] = ""
    amount: OptionalNumber = None
    """Of what was really used: how much of which, in ``unit``."""
    unit: Annotated[str, Field(max_length=8)] = ""
    panel_c: Celsius = None
    product_c: Celsius = None
    note: Words = ""
    over: Words | None = None
    """What was noted there when this was typed; unknown of what was kept before that was told."""


FixingKind = Literal["six-lobe screw", "hexagon nut", "push rivet", "clip", "staple", "connector", "cable pull", "bonded bead",
                     "other"]
FixingState = Literal["good", "worn", "broken"]
Count = Annotated[int, Field(ge=1, le=2000)]


class FixingKept(Strict):
    """Fixings of one kind as a panel has them, whichever panel it is."""

    kind: FixingKind
    size: Annotated[str, Field(max_length=24)] = ""
    count: Count = 1
    place: Annotated[str, Field(max_length=120)] = ""
    x_mm: Annotated[FormNotNegative | None, Optional] = None
    y_mm: Annotated[FormNotNegative | None, Optional] = None
    """Where it was touched on the drawing."""
    bag: Annotated[str, Field(max_length=24)] = ""
    note: Annotated[str, Field(max_length=400)] = ""


class FixingIn(FixingKept):
    """Fixings of one kind that were taken off, in the order they came off."""

    surface_id: RowId
    state: FixingState = "good"
    back: Annotated[int, Field(ge=0, le=2000)] = 0
    """How many are back in."""


class OwnStepIn(Strict):
    """A step somebody added to the order, after another one (by its key; empty: first)."""

    text: Annotated[str, Field(min_length=1, max_length=400)]
    after: Annotated[str, Field(max_length=160)] = ""
    minutes: FormNotNegative = 10.0


class ReminderIn(Strict):
    """To look at the work again: what sagged, came loose, corroded."""

    due_on: Day
    what: Name
    done: bool = False


class StepEvent(StepEventIn, Row): ...
class Fixing(FixingIn, Row): ...
class OwnStep(OwnStepIn, Row): ...
class Reminder(ReminderIn, Row): ...
