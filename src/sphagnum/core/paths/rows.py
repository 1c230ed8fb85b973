"""What Trace keeps of a job: paths, tests of them, measures, leaks, rattles, what was felt, calculations."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..forms import (
    FormLevel,
    FormNotNegative,
    FormNumber,
    FormShare,
    Name,
    Optional,
    OptionalLevel,
    OptionalNumber,
    RowId,
    Words,
)
from ..levels.band_forms import CurveOfBands
from ..schema import Row, Strict, Typed
from ..worded import of
from .flanking import Flank

Levels = Annotated[tuple[FormLevel, ...], Field(min_length=1, max_length=50)]
RattleKind = Literal["clip", "cable", "rod", "switch", "latch", "bracket", "loose trim", "brace that rings"]


class PathIn(Strict):
    """A way noise takes: through a surface, a leak, with a given R, or a level at the listener."""

    name: Name
    surface_id: RowId | None = None
    area_m2: Annotated[FormNumber | None, Optional] = None
    where: Annotated[str, Field(max_length=40)] = ""
    """Where it lies to the source, by the id of its words; empty: nobody said, and the figure is as given."""
    incident_offset_db: FormNumber = 0.0
    """How much louder it is there than on the mean of all ways, dB."""
    shaken_share: FormShare = 0.0
    """Share of its energy at the listener that the panel radiates because it is shaken, not because sound meets it."""
    leak_cm2: FormNotNegative = 0.0
    planned_leak_cm2: OptionalNumber = None
    cap_db: OptionalLevel = None
    transmission_loss_db: Annotated[CurveOfBands | None, Optional] = None
    planned_transmission_loss_db: Annotated[CurveOfBands | None, Optional] = None
    level_dba: OptionalLevel = None
    planned_level_dba: OptionalLevel = None
    easy: bool = False
    allowed: bool = True
    """Whether it may be treated at all."""
    flank: Annotated[Flank | None, Optional] = None
    """Round a wall between two rooms; its surface, where it has one, is the leaf that runs on."""
    wall_id: Annotated[RowId | None, Optional] = None
    """Which wall; None: the one there is between the rooms."""
    unknown: bool = False
    """A way whose level is not known yet: listed, counted as nothing."""
    wanted_db: OptionalNumber = None
    """How much less Trace asks of Build to let through here, dB."""
    order: Annotated[int | None, Field(ge=1, le=1000), Optional] = None

    @model_validator(mode="after")
    def _some_way(self) -> PathIn:
        ways = [self.surface_id is not None, self.transmission_loss_db is not None, self.level_dba is not None]
        if self.flank is not None and (any(ways[1:]) or self.leak_cm2):
            raise ValueError("a way round a wall has no R, level or opening of its own; give a path of its own to that")
        if sum(ways) > 1 or (not any(ways) and not self.leak_cm2 and not self.unknown and self.flank is None):
            raise ValueError("a path is one of: a surface, a given R, a level, or a leak; choose one of them")
        if self.shaken_share and self.surface_id is None:
            raise ValueError("only a panel can be shaken; give this share to a path through a surface")
        if self.transmission_loss_db is not None and not self.area_m2:
            raise ValueError("a path with a given R needs its area; give it in square metres")
        if self.area_m2 is not None and not 0 < self.area_m2 <= 2500:
            raise ValueError(f"an area of {of(self.area_m2, 'm²')} is out of range; give up to ⟨2500 m²⟩")
        return self


class BlockOffIn(Strict):
    """Readings with a path open and covered."""

    path_id: RowId
    open_db: tuple[FormLevel, ...] = Field(min_length=1, max_length=50)
    blocked_db: tuple[FormLevel, ...] = Field(min_length=1, max_length=50)
    cover_insertion_loss_db: Annotated[FormNumber | None, Optional] = None


class SubstitutionIn(Strict):
    """The source replaced by a loudspeaker before one path: levels at the path and at the listener, and the path's in service."""

    path_id: RowId
    source_db: Levels
    heard_db: Levels
    service_db: Levels


class MeasureGood(Strict):
    """What is bought for a measure: so much of a material, in metres or pieces as it is sold."""

    material: Annotated[str, Field(min_length=1, max_length=80)]
    amount: Annotated[float, Field(gt=0, le=100_000, strict=True, allow_inf_nan=False), Typed]


class MeasureIn(Strict):
    """Something done that is no stack: at the source, at one path, or at the listener; effect per band, or one figure for all."""

    name: Name
    at: Literal["source", "path", "listener"] = "source"
    path_id: RowId | None = None
    effect_db: Annotated[FormNumber | None, Optional] = None
    effect_bands_db: Annotated[CurveOfBands | None, Optional] = None
    structure_borne: bool = False
    """Whether what is done at the source takes down structure-borne sound too: feet do, a box or a screen does not."""
    measured: bool = False
    money: OptionalNumber = None
    hours: OptionalNumber = None
    chosen: bool = True
    calculation: Annotated[str, Field(max_length=40)] = ""
    """The calculation of the desk it was worked out by."""
    air_m3_h: OptionalNumber = None
    """Of a fan, the air it moves through a box, m³/h."""
    goods: tuple[MeasureGood, ...] = Field(default=(), max_length=20)
    note: Words = ""

    @model_validator(mode="after")
    def _effect_and_place(self) -> MeasureIn:
        if self.effect_db is None and self.effect_bands_db is None:
            raise ValueError("what it takes off is missing; type decibels, such as 3")
        if (self.at == "path") != (self.path_id is not None):
            raise ValueError("a measure at a path names the path, any other names none; choose one")
        return self


class RattleIn(Strict):
    """A thing that rattles: where, how it was found, at which frequency, its cure, and whether that is done."""

    kind: RattleKind
    place: Name
    surface_id: RowId | None = None
    found_by: Literal["slow sweep", "bass through the loudspeaker", "knocking", "driving"] = "knocking"
    frequency_hz: Annotated[float | None, Field(gt=0, le=20_000, strict=True, allow_inf_nan=False), Typed, Optional] = None
    cure: Annotated[str, Field(max_length=60)] = ""
    """A cure of the shelf by id; empty takes the first for its kind."""
    done: bool = False
    note: Words = ""


class LeakIn(Strict):
    """A leak found: where, how, how large, whether it is sealed, and the levels before and after."""

    place: Name
    how: Literal["light", "air", "listening tube", "paper strip", "smoke", "eye"] = "light"
    path_id: RowId | None = None
    area_cm2: OptionalNumber = None
    sealed: bool = False
    before_db: OptionalLevel = None
    after_db: OptionalLevel = None
    note: Words = ""


class HintIn(Strict):
    """An answer to one of the questions that tell structure-borne from airborne noise."""

    hint: Annotated[str, Field(min_length=1, max_length=40)]
    says: Literal["yes", "no", "unclear"] = "unclear"
    note: Words = ""


class CalculationIn(Strict):
    """A calculation of the working desk kept with the job: which, its name here, and its form as filled in."""

    calculation: Annotated[str, Field(min_length=1, max_length=40)]
    name: Name
    form: dict[Annotated[str, Field(max_length=40)], float | bool | Annotated[str, Field(max_length=40)] | None] = Field(
        default={}, max_length=30
    )
class Path(PathIn, Row): ...
class BlockOff(BlockOffIn, Row): ...
class Substitution(SubstitutionIn, Row): ...
class Measure(MeasureIn, Row): ...
class Rattle(RattleIn, Row): ...
class LeakFound(LeakIn, Row): ...
class Hint(HintIn, Row): ...
class Calculation(CalculationIn, Row): ...
