"""What is kept of places, conditions, rounds and readings: the rows a person edits, validated."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ..forms import (
    FormNotNegative,
    FormNumber,
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
from ..schema import DayOrNone, Level, Row, Strict, Typed
from .band_forms import LevelsOfBands

Quantity = Literal["LAeq", "LCeq", "low band", "bass gain", "ring time", "level difference", "DnT", "impact level", "T",
                   "rattle"]
LevelName = Literal["LAeq", "LCeq", "LZeq", "LAFmax", "LASmax", "L10", "L50", "L90", "Leq", "Lmax", "Lmin"]


class QuantityFacts(Strict):
    """How a goal's quantity is written and which way is good."""

    label: str
    unit: str
    up_is_good: bool = False
    level: bool = True
    least_span: float = 12.0
    """How much of it the goal rule shows at least."""
    between_rooms: bool = False
    """Whether it is of two rooms' levels, read at the same time."""
    heard: bool = False
    """Whether it follows from the A-weighted level at the listener, so that ways in add up to it."""
    to_half_s: int = 0
    """How it is brought to a room that rings for half a second: 10·lg(T/0.5) is added so many times."""
    only_change: bool = False
    """Whether a figure of it says nothing by itself, its change something."""
    bands_hz: tuple[float, float] | None = None
    """For a level of a part of the spectrum: lowest and highest one-third-octave band."""


QUANTITIES: dict[str, QuantityFacts] = {
    "LAeq": QuantityFacts(label="A-weighted level", unit="dB(A)", heard=True),
    "LCeq": QuantityFacts(label="C-weighted level", unit="dB(C)"),
    "low band": QuantityFacts(label="level in a low band", unit="dB", bands_hz=(31.5, 160.0)),
    "bass gain": QuantityFacts(label="loudspeaker level", unit="dB", up_is_good=True, bands_hz=(40.0, 125.0)),
    "ring time": QuantityFacts(label="ring time", unit="ms", level=False),
    "level difference": QuantityFacts(label="level difference between rooms", unit="dB", up_is_good=True, between_rooms=True,
                                      heard=True),
    "DnT": QuantityFacts(label="standardised level difference between rooms", unit="dB", up_is_good=True, between_rooms=True,
                         heard=True, to_half_s=1),
    "impact level": QuantityFacts(label="level of steps overhead", unit="dB", to_half_s=-1, only_change=True),
    "T": QuantityFacts(label="reverberation time", unit="s", level=False, least_span=0.4),
    "rattle": QuantityFacts(label="rattles left", unit="", level=False),
}


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
    speed_km_h: Annotated[float | None, Field(gt=0, le=500, strict=True, allow_inf_nan=False), Typed, Optional] = None
    """How fast it goes, where the spectrum goes by speed."""
    spectrum_db: Annotated[LevelsOfBands | None, Optional] = None


class RoundIn(Strict):
    """A named state of the work; ``follows`` makes the rounds a tree."""

    name: Name
    state: Literal["as found", "stripped", "in between", "finished"] = "in between"
    follows_id: RowId | None = None
    changed: Words = ""
    taken_on: DayOrNone = ""
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

    @model_validator(mode="after")
    def _tells_something(self) -> Self:
        if self.aim == "reach" and QUANTITIES[self.quantity].only_change:
            raise ValueError("what knocks is no standard source, so no level of it can be reached: ask for a change")
        return self


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
UnderTop = Annotated[float, Field(ge=-200, le=20, strict=True, allow_inf_nan=False)]
LEAST_S, MOST_S = 0.05, 20.0
"""A room rings no shorter and no longer."""
MadeBy = Literal["clap", "balloon", "impulse", "stopped noise"]
Seconds = Annotated[float, Field(ge=LEAST_S, le=MOST_S, strict=True, allow_inf_nan=False), Typed]


class DecayIn(Strict):
    """How long a room rings, as read in a round: T per octave 125 Hz to 4 kHz, None where nothing tells."""

    round_id: RowId
    position_id: RowId
    excitation: Literal["typed"] | MadeBy = "typed"
    t_s: Annotated[tuple[Annotated[Seconds | None, Optional], ...], Field(min_length=6, max_length=6)]
    uncertainty_s: Annotated[tuple[FormNotNegative | None, ...], Field(max_length=6)] = ()
    """Standard, by the chance of the fall; none of what was typed."""
    decays: Annotated[int, Field(ge=1, le=1000)] = 1
    curves_db: Annotated[tuple[Annotated[tuple[UnderTop, ...], Field(max_length=400)], ...], Field(max_length=6)] = ()
    """The first decay in each octave, each ``step_s`` of it, under its top."""
    step_s: tuple[FormNotNegative, ...] = Field(default=(), max_length=6)
    file_name: Annotated[str, Field(max_length=200)] = ""
    note: Words = ""

    @model_validator(mode="after")
    def _some(self) -> DecayIn:
        if all(t is None for t in self.t_s):
            raise ValueError("it says nothing of any octave; type a T in seconds")
        return self


class Decay(DecayIn, Row): ...
class Position(PositionIn, Row): ...
class Condition(ConditionIn, Row): ...
class Round(RoundIn, Row): ...
class Reading(ReadingIn, Row): ...
class Remark(RemarkIn, Row): ...
class Goal(GoalIn, Row): ...
class SideEffect(SideEffectIn, Row): ...
class Knock(KnockIn, Row): ...
