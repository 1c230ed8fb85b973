"""Single-number ratings of a one-third-octave curve: Rw (C; Ctr) and STC."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Final

import numpy as np

from ..schema import Strict
from .bands import Floats

RW_HZ: Final = (100., 125., 160., 200., 250., 315., 400., 500., 630., 800., 1000., 1250., 1600., 2000., 2500., 3150.)
STC_HZ: Final = (*RW_HZ[1:], 4000.0)

# ISO 717-1:2020, table 3 (reference values) and table 4 (spectra No. 1 and No. 2), one-third octaves.
_RW_REFERENCE = np.array([33, 36, 39, 42, 45, 48, 51, 52, 53, 54, 55, 56, 56, 56, 56, 56], dtype=float)
_C_SPECTRUM = np.array([-29, -26, -23, -21, -19, -17, -15, -13, -12, -11, -10, -9, -9, -9, -9, -9], dtype=float)
_CTR_SPECTRUM = np.array([-20, -20, -18, -16, -15, -14, -13, -12, -11, -9, -8, -9, -10, -11, -13, -15], dtype=float)
# ASTM E413: contour relative to its value at 500 Hz, 125 Hz to 4 kHz.
_STC_CONTOUR = np.array([-16, -13, -10, -7, -4, -1, 0, 1, 2, 3, 4, 4, 4, 4, 4, 4], dtype=float)


class Ratings(Strict):
    """Rw (C; Ctr) after ISO 717-1 and STC after ASTM E413, dB; None where bands are missing."""

    Rw: int | None
    C: int | None
    Ctr: int | None
    STC: int | None


def half_up(value: float) -> int:
    """Nearest integer, halves upwards."""
    return math.floor(value + 0.5 + 1e-9)


def _highest(fits: Callable[[int], bool], start: float) -> int:
    rating = int(start) + 40
    while not fits(rating):
        rating -= 1
    return rating


def weighted_reduction(level_db: Floats) -> int:
    """Rw of 16 values 100–3150 Hz, dB (ISO 717-1, 4.4): deficits in tenths, their sum ≤ 32.0."""
    tenths = np.floor(level_db * 10 + 0.5 + 1e-9)
    def fits(rw: int) -> bool:
        deficit = (_RW_REFERENCE - 52 + rw) * 10 - tenths
        return float(np.sum(np.maximum(deficit, 0))) <= 320
    return _highest(fits, float(np.max(level_db)))


def adaptation_term(level_db: Floats, spectrum_db: Floats, rw: int) -> int:
    """C or Ctr of 16 values 100–3150 Hz, dB (ISO 717-1, 4.5): X_A rounded once, half up, less Rw."""
    tenths = np.floor(level_db * 10 + 0.5 + 1e-9) / 10
    return half_up(-10 * math.log10(float(np.sum(10 ** ((spectrum_db - tenths) / 10))))) - rw


def transmission_class(level_db: Floats) -> int:
    """STC of 16 values 125–4000 Hz (ASTM E413): integers, sum of deficits ≤ 32 and none above 8."""
    whole = np.floor(level_db + 0.5 + 1e-9)
    def fits(stc: int) -> bool:
        deficit = np.maximum(_STC_CONTOUR + stc - whole, 0)
        return float(np.sum(deficit)) <= 32 and float(np.max(deficit)) <= 8
    return _highest(fits, float(np.max(whole)))


def rate(curve_db: Mapping[float, float]) -> Ratings:
    """Ratings of a curve given as {nominal Hz: dB}; None where a needed band is missing."""
    rw = c = ctr = stc = None
    if all(f in curve_db for f in RW_HZ):
        levels = np.array([curve_db[f] for f in RW_HZ])
        rw = weighted_reduction(levels)
        c = adaptation_term(levels, _C_SPECTRUM, rw)
        ctr = adaptation_term(levels, _CTR_SPECTRUM, rw)
    if all(f in curve_db for f in STC_HZ):
        stc = transmission_class(np.array([curve_db[f] for f in STC_HZ]))
    return Ratings(Rw=rw, C=c, Ctr=ctr, STC=stc)
