"""Figures of a level log: energy mean, extremes, percentiles, and its longest steady stretch."""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from .bands import Floats
from .decibels import energy_mean
from .run_figures import LogAnalysis


class Run(NamedTuple):
    """A level log: seconds from its first sample, levels in dB, median interval in s."""

    time_s: Floats
    level_db: Floats
    interval_s: float


def inside(run: Run, start_s: float, end_s: float) -> Floats:
    """The levels of a run at start ≤ t < end."""
    return run.level_db[(run.time_s >= start_s - 1e-6) & (run.time_s < end_s - 1e-6)]


def analyse_log(
    run: Run, window_s: tuple[float | None, float | None] = (None, None), steady: bool = False
) -> LogAnalysis:
    """Figures over from ≤ t < to (s from the first sample); each sample weighs the same.

    L10 is exceeded 10 % of the time (linear interpolation). Raises BadInput when nothing lies in the window.
    """
    time_s, level_db, interval_s = run
    start = 0.0 if window_s[0] is None else window_s[0]
    end = float(time_s[-1]) + interval_s if window_s[1] is None else window_s[1]
    chosen = (time_s >= start - 1e-9) & (time_s < end - 1e-9)
    if not chosen.any():
        raise BadInput(f"no sample lies between {start:g} and {end:g} s", "--from/--to",
                       f"the log runs from 0 to {float(time_s[-1]) + interval_s:g} s")
    times, levels = time_s[chosen], level_db[chosen]
    if steady:
        first, last = steady_stretch(levels)
        times, levels = times[first:last], levels[first:last]
        start, end = float(times[0]), float(times[-1]) + interval_s
    l90, l50, l10 = percentiles(levels)
    r = rounded
    return LogAnalysis(
        samples=levels.size, duration_s=r(levels.size * interval_s),
        window_s=(r(max(start, 0.0)), r(min(end, float(time_s[-1]) + interval_s))),
        Leq=r(energy_mean(levels)), Lmax=r(float(levels.max())), Lmin=r(float(levels.min())),
        L10=r(l10), L50=r(l50), L90=r(l90), mean_db=r(float(levels.mean())),
    )


def percentiles(level_db: Floats) -> tuple[float, float, float]:
    """L90, L50 and L10, dB: exceeded 90, 50 and 10 % of the time (linear interpolation)."""
    l90, l50, l10 = (float(v) for v in np.percentile(level_db, [10, 50, 90]))
    return l90, l50, l10


def rounded(value: float) -> float:
    """To 0.01, and never a negative zero."""
    return round(float(value), 2) + 0.0


MOST_STRETCHES = 5


def steady_stretches(level_db: Floats) -> list[tuple[int, int]]:
    """Indices [first, last) of the longest runs without a change of level, longest first.

    Change points by PELT with least squares (Killick, Fearnhead and Eckley 2012).
    """
    import ruptures  # takes a second to load, and only this needs it

    n = level_db.size
    if n < 8:
        return [(0, n)]
    step = max(1, n // 1500)  # the search grows with the square of the samples; a coarser grid bounds it
    coarse = level_db[: n // step * step].reshape(-1, step).mean(axis=1)
    noise = float(np.median(np.abs(np.diff(coarse)))) / 0.954 + 0.05  # median |difference| of white noise is 0.954 σ
    penalty = 3 * np.log(coarse.size) * max(noise, 0.5) ** 2
    ends = [0, *ruptures.Pelt(model="l2", min_size=3, jump=1).fit(coarse).predict(pen=penalty)]
    found = sorted(itertools.pairwise(ends), key=lambda pair: pair[0] - pair[1])[:MOST_STRETCHES]
    return [(first * step, n if last >= coarse.size else last * step) for first, last in found]


def steady_stretch(level_db: Floats) -> tuple[int, int]:
    """Indices [first, last) of the longest run without a change of level."""
    return steady_stretches(level_db)[0]
