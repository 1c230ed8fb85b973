"""Curves and levels in bands as forms send them: 21 figures, or seven octaves that are shared out."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated

from pydantic import AfterValidator, Field

from ..errors import BadInput
from ..forms import (
    FormLevel,
)
from .bands import PREDICTED_HZ, nearest_nominal

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


def by_band(given: Mapping[str, float], where: str) -> dict[int, float]:
    """Levels named by their frequency as places among the 21 bands. BadInput for a frequency that is none of them."""
    out: dict[int, float] = {}
    for key, level in given.items():
        try:
            band = nearest_nominal(float(key))
        except ValueError:
            band = None
        if band not in PREDICTED_HZ:
            raise BadInput(f"'{key}' is not a one-third-octave band from 50 to 5000 Hz", where, "use 50, 63, 80 …")
        out[PREDICTED_HZ.index(band)] = level
    return out
