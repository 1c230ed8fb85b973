"""Sums, means and differences of levels. Energies add; decibels do not."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from .bands import PREDICTED_A_DB, Floats

Spectrum = Sequence[float | None]
"""Levels of the 33 nominal bands, None where a band is not known."""


def energy(level_db: ArrayLike) -> Floats:
    """Relative energy 10^(L/10) of levels in dB, any shape."""
    return np.asarray(10.0 ** (np.asarray(level_db, dtype=float) / 10.0))


def energy_sum(level_db: ArrayLike) -> float:
    """Level of the sum of energies, dB; −inf for none."""
    total = float(np.sum(energy(level_db)))
    return 10 * math.log10(total) if total > 0 else -math.inf


def energy_sums(level_db: ArrayLike) -> Floats:
    """Levels of the sums of energies along the last axis, dB; −inf for none."""
    with np.errstate(divide="ignore"):
        return np.asarray(10 * np.log10(np.sum(energy(level_db), axis=-1)))


def energy_mean(level_db: ArrayLike) -> float:
    """Level of the mean energy of levels of any shape, dB. Raises ValueError when empty.

    >>> round(energy_mean([60, 70]), 1)
    67.4
    """
    levels = np.asarray(level_db, dtype=float)
    if levels.size == 0:
        raise ValueError("no levels to average")
    return energy_sum(levels) - 10 * math.log10(levels.size)


def band_means(spectra: Sequence[Spectrum]) -> list[float | None]:
    """Level of the mean energy in each band over spectra, dB; None in a band that one of them does not know."""
    return [energy_mean([v for v in band if v is not None]) if None not in band else None for band in zip(*spectra, strict=True)]


def a_weighted(band_db: ArrayLike) -> float:
    """A-weighted level of the 21 bands 50 Hz–5 kHz (dB, −inf for a silent band), dB(A)."""
    return energy_sum(np.asarray(band_db, dtype=float) + PREDICTED_A_DB)


def subtract_background(level_db: float, background_db: float) -> tuple[float, bool]:
    """Level freed of its background, dB, and whether it is only an upper bound.

    Below 3 dB of difference the correction stays at that of 3 dB (3.0 dB) and the level is an upper bound
    (the manner of ISO 16283-1, 9.2 and ISO 3744, 8.2).

    >>> subtract_background(62, 60)[1]
    True
    """
    difference = level_db - background_db
    bounded = difference < 3.0
    return level_db + 10 * math.log10(1 - 10 ** (-max(difference, 3.0) / 10)), bounded
