"""What is kept of a job: the rows a person edits, validated. Figures that follow from them are computed, not kept."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, BeforeValidator, Field, model_validator

from .forms import (
    FormLevel,
    FormMillimetres,
    FormNotNegative,
    FormNumber,
    FormShare,
    FormThickness,
    LevelsOfBands,
    Name,
    Optional,
    Words,
)
from .job_trace import (
    BlockOffIn,
    CalculationIn,
    HintIn,
    LeakIn,
    MeasureIn,
    OptionalLevel,
    OptionalNumber,
    PathIn,
    RattleIn,
    RowId,
    SubstitutionIn,
)
from .schema import ItemId, Level, Strict, Temperature, Typed, numbered, told_apart
from .stacks.model import Frame
from .surfaces.geometry import Shape

JobKind = Literal["vehicle", "enclosure", "room"]
Quantity = Literal["LAeq", "LCeq", "low band", "bass gain", "ring time", "level difference", "rattle"]
LevelName = Literal["LAeq", "LCeq", "LZeq", "LAFmax", "LASmax", "L10", "L50", "L90", "Leq", "Lmax", "Lmin"]
FormShareOfDb = Annotated[float, Field(gt=0, le=20, strict=True, allow_inf_nan=False), Typed]


Moment = Annotated[str, Field(pattern=r"^(\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}(\.\d{1,6})?(Z|[+-]\d{2}:\d{2}))?$")]
"""A time, ISO 8601 with its zone; empty where nobody noted it."""


class QuantityFacts(Strict):
    """How a goal's quantity is written and which way is good."""

    label: str
    unit: str
    up_is_good: bool = False
    level: bool = True
    bands_hz: tuple[float, float] | None = None
    """For a level of a part of the spectrum: lowest and highest one-third-octave band."""


QUANTITIES: dict[str, QuantityFacts] = {
    "LAeq": QuantityFacts(label="A-weighted level", unit="dB(A)"),
    "LCeq": QuantityFacts(label="C-weighted level", unit="dB(C)"),
    "low band": QuantityFacts(label="level in a low band", unit="dB", bands_hz=(31.5, 160.0)),
    "bass gain": QuantityFacts(label="loudspeaker level", unit="dB", up_is_good=True, bands_hz=(40.0, 125.0)),
    "ring time": QuantityFacts(label="ring time", unit="ms", level=False),
    "level difference": QuantityFacts(label="level difference between rooms", unit="dB", up_is_good=True),
    "rattle": QuantityFacts(label="rattles left", unit="", level=False),
}


class Limits(Strict):
    """What must hold; unknown limits are None."""

    added_kg: OptionalNumber = None
    depth_mm: OptionalNumber = None
    money: OptionalNumber = None
    hours: OptionalNumber = None


class JobIn(Strict):
    """The job itself."""

    name: Name
    kind: JobKind = "vehicle"
    customer: Words = ""
    workshop: Words = ""
    currency: Annotated[str, Field(min_length=1, max_length=8)] = "€"
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


class PositionIn(Strict):
    """Where the microphone stands; a control place should not change, whatever is done."""

    name: Name
    note: Words = ""
    control: bool = False
    at_source: bool = False
    """Near the source: the bands read here are what meets the paths."""


class ConditionIn(Strict):
    """What the source is doing; ``spectrum`` names a shipped source spectrum, ``spectrum_db`` replaces it."""

    name: Name
    spectrum: Annotated[str, Field(max_length=60)] = "road-80"
    spectrum_db: Annotated[LevelsOfBands | None, Optional] = None


class RoundIn(Strict):
    """A named state of the work; ``follows`` makes the rounds a tree."""

    name: Name
    state: Literal["as found", "stripped", "in between", "finished"] = "in between"
    follows_id: RowId | None = None
    changed: Words = ""
    taken_on: Annotated[str, Field(pattern=r"^(\d{4}-\d{2}-\d{2})?$")] = ""
    context: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=200)]] = Field(
        default={}, max_length=30
    )
    without_baseline: Words = ""
    """Why the work was stripped with no round as found; empty where there was one."""


class ReadingIn(Strict):
    """One repeat at a position, in a condition, in a round: a level, or a range read off a display."""

    position_id: RowId
    condition_id: RowId
    round_id: RowId
    quantity: Quantity = "LAeq"
    background: bool = False
    level_db: OptionalLevel = None
    low_db: OptionalLevel = None
    high_db: OptionalLevel = None
    source: Literal["typed", "range", "log", "recording", "meter", "microphone", "spectrum"] = "typed"
    history_db: tuple[Level, ...] = Field(default=(), max_length=2000)
    history_s: FormNotNegative = 0.0
    file_name: Annotated[str, Field(max_length=200)] = ""
    note: Words = ""
    levels: dict[LevelName, Level] = Field(default_factory=dict)
    bands_db: Annotated[tuple[Level | None, ...], Field(max_length=33)] = ()
    """Unweighted levels of the 33 bands 12.5 Hz to 20 kHz, or none."""
    resolution_db: FormShareOfDb = 0.1
    """The last digit typed or shown."""
    afresh: bool | None = None
    """Whether everything was set up anew for this reading; None where nobody said."""
    taken_at: Moment = ""
    simulated: bool = False
    """Of a made-up instrument: for trying out, never for a verdict."""
    relative: bool = False
    """Not calibrated: only differences from readings of the same recorder count."""
    window_s: tuple[FormNotNegative, FormNotNegative] | None = None
    run: Annotated[str, Field(pattern=r"^([0-9a-f]{64}\.(npz|wav|flac))?$")] = ""
    """The run kept with it, by which a window can be chosen anew."""
    sound: Annotated[str, Field(pattern=r"^([0-9a-f]{64}\.(wav|flac))?$")] = ""
    """The recording kept with it."""

    @model_validator(mode="after")
    def _level_or_range(self) -> ReadingIn:
        if (self.level_db is None) == (self.low_db is None or self.high_db is None):
            raise ValueError("a reading is one level or a range; type 74.8, or 73.9..75.8")
        if self.low_db is not None and self.high_db is not None and self.low_db > self.high_db:
            raise ValueError("the range runs backwards; type the lower level first")
        if self.bands_db and len(self.bands_db) != 33:
            raise ValueError(f"{len(self.bands_db)} bands are given; give all 33 from 12.5 Hz to 20 kHz, or none")
        if self.window_s is not None and self.window_s[0] >= self.window_s[1]:
            raise ValueError("the window ends before it begins; drag its end to the right")
        return self


class RemarkIn(Strict):
    """What somebody heard, in their words."""

    round_id: RowId
    role: Literal["driver", "customer", "fitter", "neighbour"] = "customer"
    heard: Literal["", "quieter", "the same", "louder"] = ""
    """How it compares with before, to this ear."""
    words: Annotated[str, Field(min_length=1, max_length=1000)]


class GoalIn(Strict):
    """Reduce by, or reach, a value of a quantity at a position in a condition; one goal is the headline."""

    quantity: Quantity = "LAeq"
    position_id: RowId
    condition_id: RowId
    aim: Literal["change by", "reach"] = "change by"
    value: FormNotNegative
    headline: bool = True


class StackLayerIn(Strict):
    """One layer of a surface's stack, by material of the shelf."""

    id: ItemId = ""
    material: Annotated[str, Field(min_length=1, max_length=80)]
    thickness_mm: FormThickness
    coverage: FormShare = 1.0


Layers = Annotated[tuple[StackLayerIn, ...], BeforeValidator(numbered), AfterValidator(told_apart), Field(max_length=20)]


class SurfaceIn(Shape):
    """A panel of the job; ``count`` identical ones; ``present`` is what lies on its substrate now."""

    name: Name
    count: Annotated[int, Field(ge=1, le=100)] = 1
    substrate: StackLayerIn
    present: Layers = ()
    survey: Literal["", "whole", "missing", "broken", "worn", "glued"] = ""
    """What state its present treatment was found in."""
    survey_do: Literal["", "keep", "restore", "replace", "build on"] = ""
    frame: Frame = Frame()
    """What ties its two leaves together, where what lies on it makes a second leaf."""
    flags: tuple[Literal["wet", "hot", "curved", "hidden", "walked on", "overhead", "trim over it"], ...] = ()
    depth_limit_mm: OptionalNumber = None
    kg_limit: OptionalNumber = None


class AlternativeIn(Strict):
    """A stack that could go on a surface; the chosen one counts."""

    surface_id: RowId
    name: Name = "Plan A"
    layers: Layers = ()
    frame: Frame | None = None
    """How its leaves are tied, where that is not the surface's own frame."""
    chosen: bool = True


class PieceIn(Strict):
    """A piece wanted beside those that follow from the stacks."""

    material: Annotated[str, Field(min_length=1, max_length=80)]
    name: Name
    width_mm: FormMillimetres
    height_mm: FormMillimetres
    thickness_mm: Annotated[FormThickness | None, Optional] = None
    """None takes the thinnest sold."""
    quantity: Annotated[int, Field(ge=1, le=1000)] = 1
    rotate: Literal["quarter", "half", "none"] = "quarter"


class StepEventIn(Strict):
    """What happened to a step of the work order. The step is told by its phase and what it is about, never by a text."""

    phase: Annotated[str, Field(min_length=1, max_length=40)]
    surface_id: RowId | None = None
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


class PhotoIn(Strict):
    """A photograph of a place or a surface; kept without its metadata."""

    file: Annotated[str, Field(pattern=r"^[0-9a-f]{64}\.jpg$")]
    position_id: RowId | None = None
    surface_id: RowId | None = None
    round_id: RowId | None = None
    rattle_id: RowId | None = None
    caption: Annotated[str, Field(max_length=200)] = ""


class SideEffectIn(Strict):
    """A figure that must not get worse, as read in a round: a temperature, a trip current, a closing force, fuel."""

    round_id: RowId
    name: Name
    unit: Annotated[str, Field(max_length=20)] = ""
    value: FormNumber
    load: Words = ""
    worse: Literal["higher", "lower"] = "higher"
    allowed_change: FormNotNegative = 0.0


class KnockIn(Strict):
    """What knocks on a panel told in a round: the frequency that rings, how long, and the loss factor that means."""

    round_id: RowId
    position_id: RowId
    surface_id: RowId | None = None
    """The panel that was knocked on; its loss factor is then the measured one."""
    frequency_hz: Annotated[float, Field(gt=0, le=20_000, strict=True, allow_inf_nan=False), Typed]
    decay_time_s: Annotated[float, Field(gt=0, le=60, strict=True, allow_inf_nan=False), Typed]
    loss_factor: Annotated[float, Field(gt=0, le=10, strict=True, allow_inf_nan=False), Typed]
    deviation_s: OptionalNumber = None
    knocks: Annotated[int, Field(ge=1, le=1000)] = 1
    peak_db: OptionalLevel = None
    low_share: Annotated[FormShare | None, Optional] = None
    """Share of the energy up to 250 Hz; ``high_share`` from 1 kHz on."""
    high_share: Annotated[FormShare | None, Optional] = None
    file_name: Annotated[str, Field(max_length=200)] = ""


class ReminderIn(Strict):
    """To look at the work again: what sagged, came loose, corroded."""

    due_on: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    what: Name
    done: bool = False


class Row(Strict):
    """What every stored row has: its number and the version that guards it against stale writes."""

    id: int
    version: int


class Job(JobIn, Row): ...
class Position(PositionIn, Row): ...
class Condition(ConditionIn, Row): ...
class Round(RoundIn, Row): ...
class Reading(ReadingIn, Row): ...
class Remark(RemarkIn, Row): ...
class Goal(GoalIn, Row): ...
class Surface(SurfaceIn, Row): ...
class Alternative(AlternativeIn, Row): ...
class Path(PathIn, Row): ...
class BlockOff(BlockOffIn, Row): ...
class Substitution(SubstitutionIn, Row): ...
class Measure(MeasureIn, Row): ...
class Rattle(RattleIn, Row): ...
class LeakFound(LeakIn, Row): ...
class Hint(HintIn, Row): ...
class Calculation(CalculationIn, Row): ...
class Piece(PieceIn, Row): ...
class StepEvent(StepEventIn, Row): ...
class Photo(PhotoIn, Row): ...
class SideEffect(SideEffectIn, Row): ...
class Reminder(ReminderIn, Row): ...
class Knock(KnockIn, Row): ...


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
    step_events: tuple[StepEvent, ...] = ()
    photos: tuple[Photo, ...] = ()
    side_effects: tuple[SideEffect, ...] = ()
    reminders: tuple[Reminder, ...] = ()
    knocks: tuple[Knock, ...] = ()

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

    def chosen(self, surface_id: int) -> Alternative | None:
        """The alternative chosen for a surface."""
        return next((a for a in self.alternatives if a.surface_id == surface_id and a.chosen), None)


class Collection(Strict):
    """A kind of row: its editable and its stored type, and which fields point to which other collection."""

    editable: type[Strict]
    stored: type[Row]
    points_to: dict[str, str] = Field(default_factory=dict)
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
    "paths": Collection(editable=PathIn, stored=Path, points_to={"surface_id": "surfaces"}),
    "block_offs": Collection(editable=BlockOffIn, stored=BlockOff, points_to={"path_id": "paths"}),
    "substitutions": Collection(editable=SubstitutionIn, stored=Substitution, points_to={"path_id": "paths"}),
    "measures": Collection(editable=MeasureIn, stored=Measure, points_to={"path_id": "paths"}),
    "rattles": Collection(editable=RattleIn, stored=Rattle, points_to={"surface_id": "surfaces"}),
    "leaks": Collection(editable=LeakIn, stored=LeakFound, points_to={"path_id": "paths"}),
    "hints": Collection(editable=HintIn, stored=Hint),
    "calculations": Collection(editable=CalculationIn, stored=Calculation),
    "pieces": Collection(editable=PieceIn, stored=Piece),
    "step_events": Collection(editable=StepEventIn, stored=StepEvent, points_to={
        "surface_id": "surfaces", "measure_id": "measures", "rattle_id": "rattles", "leak_id": "leaks"},
        opposite={"done": "undone", "undone": "done"}),
    "photos": Collection(editable=PhotoIn, stored=Photo, points_to={
        "position_id": "positions", "surface_id": "surfaces", "round_id": "rounds", "rattle_id": "rattles"}),
    "side_effects": Collection(editable=SideEffectIn, stored=SideEffect, points_to={"round_id": "rounds"}),
    "reminders": Collection(editable=ReminderIn, stored=Reminder),
    "knocks": Collection(editable=KnockIn, stored=Knock, points_to={
        "round_id": "rounds", "position_id": "positions", "surface_id": "surfaces"}),
}
