"""What is kept of a job: the rows a person edits, validated. Figures that follow from them are computed, not kept."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Literal

from pydantic import Field

from ..builds.rows import Build, BuildIn
from ..cutting.rows import GoodIn, GoodWanted, HandLayout, LayoutIn, Offcut, OffcutIn, Piece, PieceIn
from ..fitting.rows import Fixing, FixingIn, OwnStep, OwnStepIn, Reminder, ReminderIn, StepEvent, StepEventIn
from ..forms import (
    FormLevel,
    FormShare,
    FormShareOfDb,
    Moment,
    Name,
    Optional,
    OptionalLevel,
    OptionalNumber,
    RowId,
    Words,
)
from ..levels.rows import (
    Condition,
    ConditionIn,
    Decay,
    DecayIn,
    Goal,
    GoalIn,
    Knock,
    KnockIn,
    Position,
    PositionIn,
    Reading,
    ReadingIn,
    Remark,
    RemarkIn,
    Round,
    RoundIn,
    SideEffect,
    SideEffectIn,
)
from ..materials.model import Material
from ..paths.rows import (
    BlockOff,
    BlockOffIn,
    Calculation,
    CalculationIn,
    Hint,
    HintIn,
    LeakFound,
    LeakIn,
    Measure,
    MeasureIn,
    Path,
    PathIn,
    Rattle,
    RattleIn,
    Substitution,
    SubstitutionIn,
)
from ..same import Same
from ..schema import Row, Strict, Temperature, Typed
from ..surfaces.rows import Alternative, AlternativeIn, Surface, SurfaceIn

JobKind = Literal["vehicle", "enclosure", "room"]


class Limits(Strict):
    """What must hold; unknown limits are None."""

    added_kg: OptionalNumber = None
    depth_mm: OptionalNumber = None
    money: OptionalNumber = None
    hours: OptionalNumber = None
    carries_kg: OptionalNumber = None
    """What the axle, the shelf or the frame it all hangs on may still carry, by its maker."""


class JobIn(Strict):
    """The job itself."""

    name: Name
    kind: JobKind = "vehicle"
    customer: Words = ""
    workshop: Words = ""
    currency: Annotated[str, Field(min_length=1, max_length=8)] = "€"
    volume_m3: Annotated[float | None, Field(gt=0, le=1_000_000, strict=True, allow_inf_nan=False), Typed, Optional] = None
    """Of the room listened in."""
    absorption_m2: Annotated[float, Field(gt=0, le=100_000, strict=True, allow_inf_nan=False), Typed] = 4.0
    temperature_c: Annotated[Temperature, Typed] = 20.0
    """Where the treatment will work, °C; viscous layers lose less away from their best temperature."""
    method: Annotated[str, Field(max_length=60)] = "phone-driving"
    limits: Limits = Limits()
    note: Words = ""
    full_scale_db: Annotated[FormLevel | None, Optional] = None
    """What a sine of peak 1 reads in this job's recordings, dB; None leaves them relative."""
    repeatability_db: Annotated[FormShareOfDb | None, Optional] = None
    """The workshop's own repeatability of one reading, dB; None takes the table's."""
    cut_pieces: tuple[Annotated[str, Field(min_length=1, max_length=80)], ...] = Field(default=(), max_length=2000)
    """Labels of the pieces that are cut."""
    cut_across: tuple[Annotated[str, Field(min_length=1, max_length=80)], ...] = Field(default=(), max_length=200)
    """Materials cut with knife and rule here, right across the sheet, whatever the workshop's habit is."""
    rests_kept: tuple[Annotated[str, Field(min_length=1, max_length=200)], ...] = Field(default=(), max_length=2000)
    """Rests of its layouts that were put on the shelf."""
    step_order: tuple[Annotated[str, Field(min_length=1, max_length=160)], ...] = Field(default=(), max_length=1000)
    """Keys of the steps of the work in the order somebody wants them; empty: as the plan has it."""


class MarkIn(Strict):
    """Something drawn on a photograph: an arrow from one place to another, or a ring from edge to edge; 0–1 across and down."""

    kind: Literal["arrow", "ring"]
    x: FormShare
    y: FormShare
    to_x: FormShare
    to_y: FormShare


class PhotoIn(Strict):
    """A photograph of a place, a surface, a rattle, a fixing or a step; kept without its metadata."""

    file: Annotated[str, Field(pattern=r"^[0-9a-f]{64}\.jpg$")]
    position_id: RowId | None = None
    surface_id: RowId | None = None
    round_id: RowId | None = None
    rattle_id: RowId | None = None
    fixing_id: RowId | None = None
    step: Annotated[str, Field(max_length=160)] = ""
    """The key of the step it was taken with."""
    when: Literal["", "before", "after"] = ""
    marks: Annotated[tuple[MarkIn, ...], Field(max_length=40)] = ()
    caption: Annotated[str, Field(max_length=200)] = ""


class MaterialCopyIn(Strict):
    """A material as it was where the job comes from, for one that this workshop's shelf does not have."""

    material: Material


class PromisedPath(Strict):
    """A path of a promise: its level now and as planned, dB(A); None where unknown."""

    name: Name
    now_dba: OptionalLevel = None
    planned_dba: OptionalLevel = None


class PromiseIn(Strict):
    """What the plan was predicted to give when it was promised, by which model and shelf: no later model rewrites it."""

    at: Moment = ""
    occasion: Literal["first step", "report", "offer"]
    paper: Annotated[str, Field(max_length=20)] = ""
    """The number of the offer it stands in."""
    quantity: Annotated[str, Field(max_length=40)] = "LAeq"
    unit: Annotated[str, Field(max_length=12)] = "dB(A)"
    """Of the levels below, whatever they are called."""
    model: Annotated[str, Field(max_length=40)] = ""
    shelf: Annotated[str, Field(max_length=80)] = ""
    as_found_dba: OptionalLevel = None
    predicted_dba: FormLevel
    low_dba: FormLevel
    high_dba: FormLevel
    paths: Annotated[tuple[PromisedPath, ...], Field(max_length=500)] = ()


class Job(JobIn, Row): ...
class MaterialCopy(MaterialCopyIn, Row): ...
class Promise(PromiseIn, Row): ...
class Photo(PhotoIn, Row): ...


class JobDocument(Strict):
    """A whole job: the job and all its rows. The same in the store, in exports and as input of every stage."""

    job: Job
    positions: tuple[Position, ...] = ()
    conditions: tuple[Condition, ...] = ()
    rounds: tuple[Round, ...] = ()
    readings: tuple[Reading, ...] = ()
    remarks: tuple[Remark, ...] = ()
    goals: tuple[Goal, ...] = ()
    surfaces: tuple[Surface, ...] = ()
    alternatives: tuple[Alternative, ...] = ()
    paths: tuple[Path, ...] = ()
    block_offs: tuple[BlockOff, ...] = ()
    substitutions: tuple[Substitution, ...] = ()
    measures: tuple[Measure, ...] = ()
    rattles: tuple[Rattle, ...] = ()
    leaks: tuple[LeakFound, ...] = ()
    hints: tuple[Hint, ...] = ()
    calculations: tuple[Calculation, ...] = ()
    pieces: tuple[Piece, ...] = ()
    goods: tuple[GoodWanted, ...] = ()
    offcuts_taken: tuple[Offcut, ...] = ()
    """Rests of the workshop that this job is cut from first."""
    layouts: tuple[HandLayout, ...] = ()
    step_events: tuple[StepEvent, ...] = ()
    fixings: tuple[Fixing, ...] = ()
    own_steps: tuple[OwnStep, ...] = ()
    photos: tuple[Photo, ...] = ()
    side_effects: tuple[SideEffect, ...] = ()
    reminders: tuple[Reminder, ...] = ()
    knocks: tuple[Knock, ...] = ()
    decays: tuple[Decay, ...] = ()
    builds: tuple[Build, ...] = ()
    material_copies: tuple[MaterialCopy, ...] = ()
    promises: tuple[Promise, ...] = ()

    @property
    def goal(self) -> Goal | None:
        """The headline goal, if one is set."""
        return next((g for g in self.goals if g.headline), None)

    def seen_in(self, condition_id: int | None) -> JobDocument:
        """The job with its headline looked at in another condition; tests of paths belong to the headline's own and stay out.

        A condition the job does not hold (any more) changes nothing.
        """
        goal = self.goal
        if goal is None or goal.condition_id == condition_id or condition_id not in {c.id for c in self.conditions}:
            return self
        other = goal.model_copy(update={"condition_id": condition_id})
        return self.model_copy(update={"goals": tuple(other if g is goal else g for g in self.goals), "block_offs": (),
                                       "substitutions": ()})

    def round_in(self, state: str) -> Round | None:
        """The latest round in a state of the work."""
        return next((r for r in reversed(self.rounds) if r.state == state), None)

    def chosen(self, surface_id: int, zone: str = "") -> Alternative | None:
        """The alternative chosen for a surface, or for a zone of it."""
        return _chosen(Same(self.alternatives)).get((surface_id, zone))

    def surface(self, surface_id: int | None) -> Surface | None:
        """A surface by its number; None where there is none."""
        return _surfaces(Same(self.surfaces)).get(surface_id)


@lru_cache(maxsize=64)
def _chosen(of: Same[tuple[Alternative, ...]]) -> dict[tuple[int, str], Alternative]:
    return {(a.surface_id, a.zone): a for a in reversed(of.value) if a.chosen}


@lru_cache(maxsize=64)
def _surfaces(of: Same[tuple[Surface, ...]]) -> dict[int | None, Surface]:
    return {s.id: s for s in reversed(of.value)}


class Collection(Strict):
    """A kind of row: its editable and its stored type, and which fields point to which other collection."""

    editable: type[Strict]
    stored: type[Row]
    points_to: dict[str, str] = Field(default_factory=dict)
    minds: dict[str, str] = Field(default_factory=dict)
    """Fields that say which row of another collection it was about, and outlive that row."""
    opposite: dict[str, str] = Field(default_factory=dict)
    """Of a history to which is only added: what is added to take back what happened."""


COLLECTIONS: dict[str, Collection] = {
    "positions": Collection(editable=PositionIn, stored=Position),
    "conditions": Collection(editable=ConditionIn, stored=Condition),
    "rounds": Collection(editable=RoundIn, stored=Round, points_to={"follows_id": "rounds"}),
    "readings": Collection(editable=ReadingIn, stored=Reading, points_to={
        "position_id": "positions", "condition_id": "conditions", "round_id": "rounds"}),
    "remarks": Collection(editable=RemarkIn, stored=Remark, points_to={"round_id": "rounds"}),
    "goals": Collection(editable=GoalIn, stored=Goal, points_to={
        "position_id": "positions", "condition_id": "conditions"}),
    "surfaces": Collection(editable=SurfaceIn, stored=Surface),
    "alternatives": Collection(editable=AlternativeIn, stored=Alternative, points_to={"surface_id": "surfaces"}),
    "paths": Collection(editable=PathIn, stored=Path, points_to={"surface_id": "surfaces"}, minds={"wall_id": "surfaces"}),
    "block_offs": Collection(editable=BlockOffIn, stored=BlockOff, points_to={"path_id": "paths"}),
    "substitutions": Collection(editable=SubstitutionIn, stored=Substitution, points_to={"path_id": "paths"}),
    "measures": Collection(editable=MeasureIn, stored=Measure, points_to={"path_id": "paths"}),
    "rattles": Collection(editable=RattleIn, stored=Rattle, points_to={"surface_id": "surfaces"}),
    "leaks": Collection(editable=LeakIn, stored=LeakFound, points_to={"path_id": "paths"}),
    "hints": Collection(editable=HintIn, stored=Hint),
    "calculations": Collection(editable=CalculationIn, stored=Calculation),
    "pieces": Collection(editable=PieceIn, stored=Piece),
    "goods": Collection(editable=GoodIn, stored=GoodWanted),
    "offcuts_taken": Collection(editable=OffcutIn, stored=Offcut),
    "layouts": Collection(editable=LayoutIn, stored=HandLayout),
    "own_steps": Collection(editable=OwnStepIn, stored=OwnStep),
    "step_events": Collection(editable=StepEventIn, stored=StepEvent, minds={
        "surface_id": "surfaces", "measure_id": "measures", "rattle_id": "rattles", "leak_id": "leaks", "own_id": "own_steps",
        "build_id": "builds"},
        opposite={"done": "undone", "undone": "done", "laid": "unlaid", "unlaid": "laid", "skipped": "taken up",
                  "taken up": "skipped", "timer": "timer ended"}),
    "fixings": Collection(editable=FixingIn, stored=Fixing, points_to={"surface_id": "surfaces"}),
    "photos": Collection(editable=PhotoIn, stored=Photo, points_to={
        "position_id": "positions", "surface_id": "surfaces", "round_id": "rounds", "rattle_id": "rattles"},
        minds={"fixing_id": "fixings"}),
    "side_effects": Collection(editable=SideEffectIn, stored=SideEffect, points_to={"round_id": "rounds"}),
    "reminders": Collection(editable=ReminderIn, stored=Reminder),
    "decays": Collection(editable=DecayIn, stored=Decay, points_to={"round_id": "rounds", "position_id": "positions"}),
    "builds": Collection(editable=BuildIn, stored=Build, minds={"path_id": "paths"}),
    "knocks": Collection(editable=KnockIn, stored=Knock, points_to={
        "round_id": "rounds", "position_id": "positions", "surface_id": "surfaces"}),
    "material_copies": Collection(editable=MaterialCopyIn, stored=MaterialCopy),
    "promises": Collection(editable=PromiseIn, stored=Promise),
}
