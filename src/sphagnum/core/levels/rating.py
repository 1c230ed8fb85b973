"""Single-number ratings of a one-third-octave curve: Rw (C; Ctr) and STC."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from ..schema import Strict
from .bands import PREDICTED_HZ, Floats

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


LOWEST, HIGHEST = -256, 256
_CONTOUR = Callable[[NDArray[np.int64]], NDArray[np.bool_]]


def _highest(fits: _CONTOUR, shape: tuple[int, ...]) -> NDArray[np.int64]:
    """The highest rating that fits, by halving; what fits once fits for all lower ratings."""
    low = np.full(shape, LOWEST)
    step = (HIGHEST - LOWEST) // 2
    while step:
        low = np.where(fits(low + step), low + step, low)
        step //= 2
    return np.asarray(low, dtype=np.int64)


def weighted_reduction(level_db: Floats) -> NDArray[np.int64]:
    """Rw of 16 values 100–3150 Hz, dB, shape (…, 16) (ISO 717-1, 4.4): deficits in tenths, their sum ≤ 32.0."""
    tenths = np.floor(level_db * 10 + 0.5 + 1e-9)
    contour = (_RW_REFERENCE - 52) * 10 - tenths
    return _highest(lambda rw: np.maximum(contour + 10 * rw[..., None], 0).sum(axis=-1) <= 320, level_db.shape[:-1])


def adaptation_term(level_db: Floats, spectrum_db: Floats, rw: NDArray[np.int64]) -> NDArray[np.int64]:
    """C or Ctr of 16 values 100–3150 Hz, dB (ISO 717-1, 4.5): X_A rounded once, half up, less Rw."""
    tenths = np.floor(level_db * 10 + 0.5 + 1e-9) / 10
    heard = -10 * np.log10(np.sum(10 ** ((spectrum_db - tenths) / 10), axis=-1))
    return np.asarray(np.floor(heard + 0.5 + 1e-9) - rw, dtype=np.int64)


def transmission_class(level_db: Floats) -> NDArray[np.int64]:
    """STC of 16 values 125–4000 Hz, shape (…, 16) (ASTM E413): integers, sum of deficits ≤ 32 and none above 8."""
    whole = np.floor(level_db + 0.5 + 1e-9)
    contour = _STC_CONTOUR - whole

    def fits(stc: NDArray[np.int64]) -> NDArray[np.bool_]:
        deficit = np.maximum(contour + stc[..., None], 0)
        return np.asarray((deficit.sum(axis=-1) <= 32) & (deficit.max(axis=-1) <= 8))

    return _highest(fits, level_db.shape[:-1])


def unrounded(curves_db: Floats, name: Literal["Rw", "STC"]) -> Floats:
    """Rw or STC of curves of the 21 predicted bands before anything is rounded, dB: where the deficits sum to just 32."""
    hz, contour = (RW_HZ, _RW_REFERENCE - 52) if name == "Rw" else (STC_HZ, _STC_CONTOUR)
    short = contour - curves_db[:, [PREDICTED_HZ.index(f) for f in hz]]
    low, high = np.full(len(short), float(LOWEST)), np.full(len(short), float(HIGHEST))
    for _ in range(40):
        middle = (low + high) / 2
        deficit = np.maximum(short + middle[:, None], 0)
        fits = (deficit.sum(axis=1) <= 32) & ((deficit.max(axis=1) <= 8) | (name == "Rw"))
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    return low


def rate(curve_db: Mapping[float, float]) -> Ratings:
    """Ratings of a curve given as {nominal Hz: dB}; None where a needed band is missing.

    Rw with C and Ctr after ISO 717-1 (100 Hz to 3150 Hz), STC after ASTM E413 (125 Hz to 4 kHz); whole dB.

    >>> rate({f: 20.0 for f in (100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150)})
    Ratings(Rw=20, C=0, Ctr=0, STC=None)
    """
    rw = c = ctr = stc = None
    if all(f in curve_db for f in RW_HZ):
        levels = np.array([curve_db[f] for f in RW_HZ])
        found = weighted_reduction(levels)
        rw = int(found)
        c, ctr = (int(adaptation_term(levels, s, found)) for s in (_C_SPECTRUM, _CTR_SPECTRUM))
    if all(f in curve_db for f in STC_HZ):
        stc = int(transmission_class(np.array([curve_db[f] for f in STC_HZ])))
    return Ratings(Rw=rw, C=c, Ctr=ctr, STC=stc)


def rate_predicted(curves_db: Floats) -> list[tuple[int, int, int, int]]:
    """Rw, C, Ctr and STC of curves of the 21 predicted bands, shape (curves, 21)."""
    rw_levels, stc_levels = (curves_db[:, [PREDICTED_HZ.index(f) for f in hz]] for hz in (RW_HZ, STC_HZ))
    rw = weighted_reduction(rw_levels)
    columns = (rw, adaptation_term(rw_levels, _C_SPECTRUM, rw), adaptation_term(rw_levels, _CTR_SPECTRUM, rw),
               transmission_class(stc_levels))
    return list(zip(*(x.tolist() for x in columns), strict=True))
