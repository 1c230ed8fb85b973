"""A kept run as it is looked at: a thinned and a smoothed line, steady stretches to propose, figures of a window."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from ..schema import Strict
from .bands import Floats
from .bank import STEP_S
from .logs import Run, analyse_log, steady_stretches
from .recording import SINE_OFFSET_DB, History, analyse_recording, decibels
from .run_figures import LogAnalysis, RecordingAnalysis

POINTS = 400
SMOOTH_S = 5.0


class RunView(Strict):
    """Levels of equal stretches, their running mean (for looking at only), and proposed windows, s."""

    length_s: float
    step_s: float
    level_db: tuple[float, ...]
    smooth_db: tuple[float, ...]
    steady_s: tuple[tuple[float, float], ...]
    window_s: tuple[float, float]


def samples(run: Run | History, full_scale_db: float | None) -> tuple[Floats, float]:
    """The A-weighted (or logged) levels at equal steps, dB, and the step, s."""
    if isinstance(run, Run):
        return np.asarray(run.level_db), run.interval_s
    return np.asarray(decibels(run.a, SINE_OFFSET_DB + (full_scale_db or 0.0))), STEP_S


def thinned(level_db: ArrayLike, points: int = POINTS) -> tuple[float, ...]:
    """At most ``points`` energy means of equal stretches, for looking at."""
    level_db = np.asarray(level_db, dtype=float)
    parts = np.array_split(level_db, min(points, level_db.size))
    return tuple(round(float(10 * np.log10(np.mean(10 ** (p / 10)))), 1) for p in parts)


def look(run: Run | History, full_scale_db: float | None, window_s: tuple[float, float] | None) -> RunView:
    """A run for the picture."""
    levels, step = samples(run, full_scale_db)
    length = levels.size * step if isinstance(run, Run) else run.duration_s
    wide = max(1, min(levels.size, round(SMOOTH_S / step)))
    smooth = 10 * np.log10(np.convolve(10 ** (levels / 10), np.ones(wide) / wide, "valid"))
    padded = np.pad(smooth, (levels.size - smooth.size, 0), mode="edge")
    shown = thinned(levels)
    return RunView(
        length_s=round(length, 2), step_s=round(length / len(shown), 4), level_db=shown, smooth_db=thinned(padded),
        steady_s=tuple((round(a * step, 2), round(min(b * step, length), 2)) for a, b in steady_stretches(levels)),
        window_s=window_s or (0.0, round(length, 2)),
    )


def figures(
    run: Run | History, full_scale_db: float | None, window_s: tuple[float | None, float | None]
) -> LogAnalysis | RecordingAnalysis:
    """Figures of a window; results come from energies in it, never from the smoothed line."""
    if isinstance(run, Run):
        return analyse_log(run, window_s)
    return analyse_recording(run, full_scale_db, window_s)


def levels_of(found: LogAnalysis | RecordingAnalysis) -> dict[str, float]:
    """The figures as named levels of a reading."""
    names = ("Leq", "Lmax", "Lmin", "L10", "L50", "L90") if isinstance(found, LogAnalysis) else (
        "LAeq", "LCeq", "LZeq", "LAFmax", "LASmax", "L10", "L50", "L90")
    return {name: getattr(found, name) for name in names}
