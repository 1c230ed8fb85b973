"""A series fitted: each sample's difference to the empty opening, the drift of the readings taken off, scatter as it was read."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..levels.statistics import student_t
from .model import SeriesIn

STANDS_IN_DB = 0.6
"""Scatter of putting a sample on and reading it, where no sample was put on twice: the method's, judged."""
READS_DB = 0.3
"""Scatter of reading the empty opening alone, where that was read too seldom to tell: judged."""
FREE = 60.0
"""Degrees of freedom of what stands in."""
CURVED_FROM = 4
"""So many readings of the empty opening let a drift be curved."""


class Fitted(NamedTuple):
    """Per band: differences of samples (samples, bands), their standard uncertainties, degrees of freedom; of every run of a
    sample its own difference (runs, bands), the sample of each, and the drift from the first to the last reading, dB; NaN where
    nothing was read."""

    names: tuple[str, ...]
    difference_db: Floats
    standard_db: Floats
    freedom: float
    run_db: Floats
    run_sample: tuple[int, ...]
    drift_db: Floats


def fit(series: SeriesIn) -> Fitted:
    """Least squares over all runs: level = empty(t) − difference of what was on, empty(t) a line, or curved where it was read
    often enough; what is of another recording stands at a level of its own, which is told
    beside. What was put on scatters more than the empty opening does: both are told from their own residuals."""
    names = tuple(dict.fromkeys(r.sample for r in series.runs if r.sample is not None))
    levels = np.array([[math.nan if v is None else v for v in r.level_db] for r in series.runs])
    which = np.array([-1 if r.sample is None else names.index(r.sample) for r in series.runs])
    when = np.linspace(-1, 1, len(which))
    references = int((which < 0).sum())
    order = 2 if references >= CURVED_FROM else 1 if references >= 2 else 0
    drift = np.column_stack([when**k for k in range(order + 1)])
    on = np.zeros((len(which), len(names)))
    on[np.arange(len(which))[which >= 0], which[which >= 0]] = -1.0
    takes = [r.take for r in series.runs]
    others = [t for t in dict.fromkeys(takes) if t != takes[0]]
    apart = np.array([[float(t == o) for o in others] for t in takes]).reshape(len(takes), len(others))
    design = np.hstack([drift, on, apart])
    repeats = np.bincount(which[which >= 0], minlength=len(names))
    # the drift is told by samples too, and takes its share of what they scatter
    freedom = max(float((repeats - 1).sum()) - order - len(others), float((repeats > 1).any()))
    known = ~np.isnan(levels)
    first = _solved(design, levels, known, np.ones(len(which)))
    left = np.where(known, levels - design @ first[0], np.nan)
    put_on = _scatter(left, which >= 0, freedom + order / 2 if freedom else 0.0)
    read = _scatter(left, which < 0, float(max(references - order - 1, 0)))
    weights = np.where(which >= 0, 1 / put_on**2, 1 / min(read, put_on) ** 2)
    values, spread = _solved(design, levels, known, weights)
    empty = drift @ values[: order + 1]
    runs = np.where(known, empty + apart @ values[order + 1 + len(names):] - levels, np.nan)[which >= 0]
    seen = np.array([[known[which == k, b].any() for b in range(levels.shape[1])] for k in range(len(names))])
    return Fitted(names, np.where(seen, values[order + 1: order + 1 + len(names)], np.nan),
                  np.where(seen, spread[order + 1: order + 1 + len(names)], np.nan),
                  freedom if freedom >= 1 else FREE, runs, tuple(int(k) for k in which[which >= 0]), empty[-1] - empty[0])


def _scatter(left: Floats, rows: np.typing.NDArray[np.bool_], freedom: float) -> float:
    """Of some runs, pooled over the bands; what stands in where nothing tells."""
    stands_in = STANDS_IN_DB if rows.any() and freedom < 1 else READS_DB
    if freedom < 1:
        return stands_in
    squares = np.nansum(left[rows] ** 2, axis=0)
    return max(math.sqrt(float(np.mean(squares)) / freedom), 0.05)


def _solved(design: Floats, levels: Floats, known: np.typing.NDArray[np.bool_], weights: Floats) -> tuple[Floats, Floats]:
    """Weighted least squares per band and standard uncertainties for unit weights of 1/σ²; (parameters, bands) each."""
    values, spread = np.full((design.shape[1], levels.shape[1]), np.nan), np.full((design.shape[1], levels.shape[1]), np.nan)
    for pattern in np.unique(known, axis=1).T:  # bands that were read in the same runs are solved at once
        bands = (known == pattern[:, None]).all(axis=0)
        x, w = design[pattern], weights[pattern]
        normal = np.linalg.pinv(x.T @ (w[:, None] * x))
        values[:, bands] = normal @ (x.T @ (w[:, None] * levels[np.ix_(pattern, bands)]))
        spread[:, bands] = np.sqrt(np.maximum(np.diag(normal), 0.0))[:, None]
    return values, spread


def half95(standard: Floats | float, freedom: float) -> Floats:
    """Half of a 95 % interval."""
    return np.asarray(standard * student_t(freedom))
