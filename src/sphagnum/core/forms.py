"""Numbers as forms send them: text with a decimal comma is read, then held to the same ranges as files."""

from __future__ import annotations

import math
from typing import Annotated, Any

from pydantic import AfterValidator, BeforeValidator, Field

from .levels.bands import PREDICTED_HZ
from .schema import Level, LossFactor, NotNegative, Number, Share, ThicknessMm, Typed

FormNumber = Annotated[Number, Typed]
FormLevel = Annotated[Level, Typed]
FormShare = Annotated[Share, Typed]
FormThickness = Annotated[ThicknessMm, Typed]
FormNotNegative = Annotated[NotNegative, Typed]
FormLossFactor = Annotated[LossFactor, Typed]
FormMillimetres = Annotated[float, Field(ge=1, le=50_000, strict=True, allow_inf_nan=False), Typed]


def _blank_to_none(value: object) -> object:
    return None if isinstance(value, str) and not value.strip() else value


Optional = BeforeValidator(_blank_to_none)
"""Marks an optional field of a form: an empty text means unknown."""

BANDS = len(PREDICTED_HZ)
IN_OCTAVE = 3
"""One-third octaves in each of the octaves 63 Hz to 4 kHz."""


def _by_band(values: tuple[float, ...], split_db: float) -> tuple[float, ...]:
    if len(values) * IN_OCTAVE == BANDS:
        return tuple(round(v - split_db, 2) for v in values for _ in range(IN_OCTAVE))
    if len(values) != BANDS:
        raise ValueError(f"{len(values)} figures fit neither bands nor octaves; give {BANDS} (50 Hz to 5 kHz) or "
                         f"{BANDS // IN_OCTAVE} (63 Hz to 4 kHz)")
    return values


_Figures = Annotated[tuple[FormLevel, ...], Field(min_length=1, max_length=100)]
CurveOfBands = Annotated[_Figures, AfterValidator(lambda v: _by_band(v, 0.0))]
"""A difference or a loss in 21 bands; seven figures are octaves, each for its three bands."""
LevelsOfBands = Annotated[_Figures, AfterValidator(lambda v: _by_band(v, 10 * math.log10(IN_OCTAVE)))]
"""Levels in 21 bands; seven figures are octaves, each shared alike by its three bands."""

Asked = Annotated[float, Field(strict=True, allow_inf_nan=False), Typed]
"""A number a calculation asks for; ``asked`` says how."""


def asked(
    default: float | None, title: str, unit: str, *, gt: float | None = None, ge: float | None = None, lt: float | None = None,
    le: float | None = None,
) -> Any:
    """A form's number with a usual value, its title and unit, and its range."""
    return Field(default=default, title=title, json_schema_extra={"unit": unit}, gt=gt, ge=ge, lt=lt, le=le)


Name = Annotated[str, Field(min_length=1, max_length=120)]
Words = Annotated[str, Field(max_length=2000)]
