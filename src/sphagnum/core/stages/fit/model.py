"""What Fit says: the order step by step, and what happened to it."""

from __future__ import annotations

from typing import NamedTuple

from ...fitting.afterwards import LookAgain
from ...fitting.history import StepRef, Used
from ...fitting.rows import Fixing, FixingKind, FixingState
from ...fitting.times import Part
from ...schema import Strict
from ...surfaces.rows import StackLayerIn
from ..cut.model import LayerPieces

Points = tuple[tuple[float, float], ...]
Edge = tuple[tuple[float, float], tuple[float, float]]


class StepPiece(Strict):
    """A piece that goes on in a step: its label, which is only a word, and its identity; where it lies, mm, and which of its
    edges goes on first."""

    id: str
    label: str
    copy_number: int
    outline_mm: Points
    holes_mm: tuple[Points, ...]
    first_edge: Edge
    size: str
    kg: float
    laid: bool = False


class Cut(NamedTuple):
    """What a step's pieces are cut from: the layer as it is drawn and as it is asked for, on so many copies of its surface."""

    drawn: LayerPieces
    layer: StackLayerIn
    copies: int


class Consumable(Strict):
    """What a step uses up: of a material, an amount in ``unit`` (empty: pieces), and both as they are said."""

    material: str
    amount: float
    unit: str
    said: str


class StepTimer(Strict):
    """A clock that can be started with a step: how long, what to do when it ends."""

    name: str
    minutes: float
    then: str
    ends_at: str = ""
    """Empty while it does not run."""


class Check(Strict):
    """Something that must work, and whether it did; None while nobody has looked."""

    name: str
    passed: bool | None = None
    note: str = ""


class StepFixing(Strict):
    """Fixings of one kind in a step, by the number of their row."""

    id: int
    surface_id: int
    kind: FixingKind
    size: str
    count: int
    place: str
    x_mm: float | None
    y_mm: float | None
    bag: str
    state: FixingState
    back: int


class Draft(NamedTuple):
    """A step as the plan has it, whatever happened to it. ``minutes`` at house figures; ``waits`` it cures; ``after``: the steps
    that must be done before it; ``kg_m2``: what warms where it wants ``wants_c``; ``span``: which of its layer's pieces."""

    ref: StepRef
    surface: str
    what: str
    text: str
    minutes: float
    waits: float = 0.0
    hazards: tuple[str, ...] = ()
    hold: str = ""
    after: tuple[StepRef, ...] = ()
    cut: Cut | None = None
    tools: tuple[str, ...] = ()
    consumables: tuple[Consumable, ...] = ()
    people: int = 1
    how: tuple[str, ...] = ()
    timers: tuple[StepTimer, ...] = ()
    checks: tuple[str, ...] = ()
    fixings: tuple[Fixing, ...] = ()
    photograph: str = ""
    like: str = ""
    letter: str = ""
    wants_c: float | None = None
    kg_m2: float = 0.0
    access: str = ""
    span: tuple[int, int | None] = (0, None)


class StepView(Strict):
    """A step of the order and what happened to it; ``hold``: do not go on before this is checked."""

    key: str
    phase: str
    part: Part
    surface: str
    what: str
    text: str
    how: tuple[str, ...]
    hazards: tuple[str, ...]
    hold: str
    holds: tuple[str, ...]
    """Keys of the steps that may not begin before this one is done."""
    blocked: tuple[str, ...]
    """Why it may not be ticked as it stands, a sentence each; ticked all the same it wants a reason."""
    not_before: str
    """What it waits for cures until then (ISO 8601); empty where nothing does."""
    pieces: tuple[StepPiece, ...]
    letter: str
    """Of the role of what is laid."""
    tools: tuple[str, ...]
    consumables: tuple[Consumable, ...]
    people: int
    timers: tuple[StepTimer, ...]
    checks: tuple[Check, ...]
    fixings: tuple[StepFixing, ...]
    photograph: str
    """The photograph wanted, in words; empty where none is."""
    minutes: float
    wait_minutes: float
    done: bool
    skipped: str
    taken_minutes: float | None
    note: str
    who: str
    handed: str
    used: tuple[Used, ...]
    ref: StepRef
    like: str
    clock_s: float
    running_since: str | None
    changed: bool
    """Whether it was done when the plan asked for something else."""
    asked_then: str
    """What it said then, where that differs."""


class FellAway(Strict):
    """A step that was done and that the plan no longer has."""

    phase: str
    text: str
    note: str
    who: str
    minutes: float | None


class Place(Strict):
    """A surface as it is drawn beside its steps: outline, what may be covered (rings, mm), what stays clear."""

    id: int
    name: str
    outline_mm: Points
    treatable_mm: tuple[tuple[Points, ...], ...]
    opening_mm: Points


class Minutes(Strict):
    """Minutes of the whole order by part; ``work`` is their sum, ``wait`` what waiting adds to the end."""

    work: float
    wait: float
    access: float
    prepare: float
    apply: float
    fixings: float
    check: float
    around: float


class Warmth(Strict):
    """How warm panel and product were, °C, when (ISO 8601), and what that means for what is left to do."""

    at: str
    panel_c: float | None
    product_c: float | None
    sentence: str


class WasDone(Strict):
    """What lies, kg, against the plan; the change it gives, dB, with half of its 95 % interval (None: no sum over paths); a
    sentence, and what differs, a line each."""

    kg: float
    planned_kg: float
    change_db: float | None
    within_db: float | None
    sentence: str
    differs: tuple[str, ...]


class FitView(Strict):
    """The whole order, the step that is next, and where it stands."""

    sentence: str
    detail: str
    steps: tuple[StepView, ...]
    next_key: str | None
    done: int
    minutes: Minutes
    minutes_left: float
    """Of work."""
    ready_minutes: float
    """Until all is done, with what cures meanwhile."""
    people: int
    tools: tuple[str, ...]
    hazards: tuple[str, ...]
    places: tuple[Place, ...]
    fell_away: tuple[FellAway, ...]
    acknowledged: tuple[tuple[str, str], ...]
    """Who has read the hazards, and on which day."""
    wants: str
    """How warm panel and product must be for what is left to do; empty where nothing minds."""
    temperature: Warmth | None
    """How warm they were when somebody looked last."""
    days: tuple[str, ...]
    """Keys of the steps after which a day ended."""
    was_done: WasDone | None = None
    """What was really done so far, where that is asked for too."""
    look_again: tuple[LookAgain, ...] = ()
    """Days to look at finished work again."""
