"""What a series of samples was read as, and what it answers."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ..schema import Strict

Level = Annotated[float, Field(ge=-40, le=150, strict=True, allow_inf_nan=False)]
Hz = Annotated[float, Field(ge=20, le=20_000, strict=True, allow_inf_nan=False)]
Name = Annotated[str, Field(min_length=1, max_length=80)]
MOST_SAMPLES, MOST_RUNS = 40, 400


def octaves_apart(bands_hz: Sequence[float]) -> bool:
    """Whether bands are octaves; nearer ones are thirds."""
    return len(bands_hz) > 1 and min(b / a for a, b in pairwise(bands_hz)) > 1.9


class Rig(Strict):
    """The shop's box: what it keeps back with its opening closed by the heaviest thing there is, per band, and its opening."""

    ceiling_db: dict[str, Annotated[float, Field(ge=0, le=120, strict=True, allow_inf_nan=False)]] = {}
    opening_m2: Annotated[float, Field(gt=0, le=10, strict=True, allow_inf_nan=False)] = 0.09


class Sample(Strict):
    """What is known of a sample besides its name."""

    mass_kg_m2: Annotated[float | None, Field(gt=0, le=1000, strict=True, allow_inf_nan=False)] = None
    money_m2: Annotated[float | None, Field(ge=0, le=1e6, strict=True, allow_inf_nan=False)] = None
    thickness_mm: Annotated[float | None, Field(gt=0, le=2000, strict=True, allow_inf_nan=False)] = None
    sealed: bool = True
    """False: its edge cannot be sealed, as of what is ribbed, or carpet."""


class Run(Strict):
    """One reading with a sample put on, or (None) of the empty opening; a band nobody read is None."""

    sample: Name | None = None
    take: Annotated[int, Field(ge=0, le=1000)] = 0
    """Which recording it is of, each at a level of its own; 0: typed off a meter."""
    level_db: Annotated[tuple[Level | None, ...], Field(min_length=1, max_length=60)]


class SeriesIn(Strict):
    """A series in the order it was read."""

    rig: Rig = Rig()
    bands_hz: Annotated[tuple[Hz, ...], Field(min_length=1, max_length=60)]
    signal: Literal["tones", "bands", "noise"] = "bands"
    runs: Annotated[tuple[Run, ...], Field(min_length=2, max_length=MOST_RUNS)]
    samples: dict[Name, Sample] = {}

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        for i, run in enumerate(self.runs, start=1):
            if len(run.level_db) != len(self.bands_hz):
                raise ValueError(f"run {i} has {len(run.level_db)} levels for {len(self.bands_hz)} bands; read every band, or "
                                 "write null for one that is missing")
        if len(set(self.bands_hz)) < len(self.bands_hz) or list(self.bands_hz) != sorted(self.bands_hz):
            raise ValueError("the bands are not each named once, from low to high; put them in order")
        names = {r.sample for r in self.runs if r.sample is not None}
        if not names:
            raise ValueError("there is no sample in it; read the opening with something on it too")
        if len(names) > MOST_SAMPLES:
            raise ValueError(f"it has {len(names)} samples; a series tells at most {MOST_SAMPLES} apart, so split it")
        if all(r.sample is not None for r in self.runs):
            raise ValueError("the empty opening was never read; read it first, between and last")
        return self


class Ceiling(Strict):
    """Bands in which a sample comes near the box's own ceiling: too near to say more than at least, or within 10 dB."""

    at_least_hz: tuple[float, ...]
    marked_hz: tuple[float, ...]


class SampleResult(Strict):
    """What a sample keeps back: per band with its 95 % interval, None where it was not read; of groups of bands; and what that is
    per kilogram and money of a square metre, dB."""

    sample: str
    difference_db: tuple[float | None, ...]
    interval95_db: tuple[tuple[float, float] | None, ...]
    low: float | None
    middle: float | None
    high: float | None
    all: float
    all95_db: tuple[float, float]
    times: int
    """How often it was put on."""
    per_kg: float | None = None
    per_money: float | None = None
    per_mm: float | None = None


class Pair(Strict):
    """Two samples over all bands, their difference and its simultaneous 95 % interval."""

    a: str
    b: str
    difference_db: float
    interval95_db: tuple[float, float]
    differ: bool


class SeriesResult(Strict):
    """What a series tells, and what it could have told at all."""

    ceiling: dict[str, Ceiling]
    leaks: tuple[str, ...]
    not_comparable: tuple[str, ...]
    """Samples whose edge cannot be sealed: try them between two boards."""
    box_resonances_hz: tuple[float, ...]
    drift_db: float | None
    samples: tuple[SampleResult, ...]
    ranking: tuple[tuple[str, ...], ...]
    pairs: tuple[Pair, ...]
    tells_db: float | None
    """Differences smaller than this are not told."""
    tells_with_one_more_db: float | None
    sentence: str
    notes: tuple[str, ...]
