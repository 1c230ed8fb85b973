"""One-third-octave bands (IEC 61260-1) and the A and C weightings (IEC 61672-1) at nominal frequencies."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Ints = NDArray[np.int64]

NOMINAL_HZ: Final[tuple[float, ...]] = (
    12.5, 16.0, 20.0, 25.0, 31.5, 40.0, 50.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0, 250.0, 315.0, 400.0, 500.0,
    630.0, 800.0, 1000.0, 1250.0, 1600.0, 2000.0, 2500.0, 3150.0, 4000.0, 5000.0, 6300.0, 8000.0, 10000.0, 12500.0,
    16000.0, 20000.0,
)

# IEC 61672-1:2013, table 3, rows 12.5 Hz to 20 kHz.
A_WEIGHTING_DB: Final[tuple[float, ...]] = (
    -63.4, -56.7, -50.5, -44.7, -39.4, -34.6, -30.2, -26.2, -22.5, -19.1, -16.1, -13.4, -10.9, -8.6, -6.6, -4.8, -3.2,
    -1.9, -0.8, 0.0, 0.6, 1.0, 1.2, 1.3, 1.2, 1.0, 0.5, -0.1, -1.1, -2.5, -4.3, -6.6, -9.3,
)

SPAN: Final = slice(NOMINAL_HZ.index(50.0), NOMINAL_HZ.index(5000.0) + 1)
PREDICTED_HZ: Final[tuple[float, ...]] = NOMINAL_HZ[SPAN]
"""The 21 bands of every prediction, 50 Hz to 5 kHz."""

PREDICTED_A_DB: Final[Floats] = np.array(A_WEIGHTING_DB[SPAN])
POINTS_PER_BAND: Final = 6


def exact_hz(nominal_hz: float) -> float:
    """Exact base-10 mid-band frequency of a nominal one, Hz (IEC 61260-1:2014, 5.2). KeyError if not nominal."""
    return float(1000 * 10 ** ((NOMINAL_HZ.index(nominal_hz) - NOMINAL_HZ.index(1000.0)) / 10))


def grid_hz() -> Floats:
    """Frequencies inside the 21 bands, log-spaced, shape (21, POINTS_PER_BAND), Hz."""
    centre = np.array([exact_hz(f) for f in PREDICTED_HZ])[:, None]
    offset = (np.arange(POINTS_PER_BAND) + 0.5) / POINTS_PER_BAND - 0.5
    return np.asarray(centre * 10 ** (offset / 10)[None, :])


def nearest_nominal(frequency_hz: float) -> float | None:
    """The nominal band whose label is meant by ``frequency_hz`` (within 2.5 %), or None."""
    best = min(NOMINAL_HZ, key=lambda f: abs(f - frequency_hz))
    return best if abs(best - frequency_hz) <= 0.025 * best else None
