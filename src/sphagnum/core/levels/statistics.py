"""What the samples inside one run are worth: their correlation in time, and the uncertainty of the run's energy mean."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from .bands import Floats

MOST_REPEATS = 30


def student_t(degrees_of_freedom: float, below: float = 0.975) -> float:
    """Student's t with these degrees of freedom (at most 1e9) under which so much of it lies; as it stands the factor of a
    two-sided 95 % interval."""
    from scipy.special import stdtrit  # takes half a second to load, and a rating or a prediction needs none

    return float(stdtrit(min(degrees_of_freedom, 1e9), below))


def correlation_length(values: Floats) -> float:
    """Integrated autocorrelation time of a series, in samples, at least 1 (Geyer 1992, initial positive sequence)."""
    n = values.size
    centred = values - values.mean()
    spread = float(centred @ centred)
    if n < 4 or spread <= 0:
        return 1.0
    size = 1 << (2 * n - 1).bit_length()  # a power of two is quick, and leaves room for the lags
    spectrum = np.fft.rfft(centred, size)
    rho = np.fft.irfft(spectrum * np.conj(spectrum), size)[:n] / spread
    pairs = rho[: n // 2 * 2].reshape(-1, 2).sum(axis=1)
    stop = int(np.argmax(pairs <= 0)) if bool((pairs <= 0).any()) else pairs.size
    return max(1.0, float(2 * pairs[:stop].sum() - 1))


BATCHES = 4


def run_uncertainty(level_db: Floats) -> float:
    """Standard uncertainty of the energy mean of one run, dB: correlated samples count as fewer; 0 for fewer than four.

    ``level_db`` are the samples of the run at equal intervals. The largest of three estimates counts, since each is too small
    where what correlates is as long as the run: the integrated autocorrelation (Geyer 1992), the scatter of the means of
    ``BATCHES`` parts widened by Student's t to that of a normal law, and a first-order process whose correlation is freed of
    the bias a short run gives it (Kendall 1954: (ρ + 1/n)/(1 − 3/n)), taken at the upper end of its 90 % interval.
    """
    energy = 10 ** ((level_db - level_db.max()) / 10)
    n = energy.size
    if n < 4:
        return 0.0
    spread = float(np.std(energy, ddof=1))
    if spread == 0:
        return 0.0
    effective = max(n / correlation_length(energy), 1.5)
    parts = [float(p.mean()) for p in np.array_split(energy, BATCHES)]
    batches = float(np.std(parts, ddof=1)) / math.sqrt(BATCHES) * student_t(BATCHES - 1) / 1.96 if n >= 4 * BATCHES else 0.0
    return 10 / math.log(10) / float(energy.mean()) * max(spread / math.sqrt(effective), batches, _first_order(energy, spread))


def _first_order(values: Floats, spread: float) -> float:
    """Standard error of the mean of a first-order process seen through a short run; 0 where neighbours do not correlate."""
    n = values.size
    centred = values - values.mean()
    rho = float(centred[1:] @ centred[:-1] / (centred @ centred))
    if n > 8:
        rho = (rho + 1 / n) / (1 - 3 / n)
        rho = min(rho + 1.645 * math.sqrt(max(1 - rho**2, 0.0) / n), 1 - 0.5 / n)
    if rho <= 0:
        return 0.0
    # variance of the mean and of the sample about it, for unit variance of the process
    k = np.arange(1, n)
    of_mean = (1 + 2 * float(np.sum((1 - k / n) * rho**k))) / n
    seen = max(1 - of_mean, 1 / n)
    return spread * math.sqrt(of_mean / seen)


def repeats_to_settle(change_db: float, repeat_db: float) -> int | None:
    """Repeats needed in each round for the 95 % interval of a change to leave zero out; None above MOST_REPEATS.

    ``repeat_db``: standard deviation of one repeat.
    """
    for n in range(2, MOST_REPEATS + 1):
        if student_t(2 * (n - 1)) * repeat_db * math.sqrt(2 / n) < abs(change_db):
            return n
    return None


def pooled_deviation(groups: Iterable[Sequence[float]]) -> tuple[float | None, int]:
    """Standard deviation of one repeat pooled over groups of repeats of different things, dB, and its degrees of freedom."""
    squares, freedom = 0.0, 0
    for group in groups:
        if len(group) > 1:
            squares += float(np.var(group, ddof=1)) * (len(group) - 1)
            freedom += len(group) - 1
    return (math.sqrt(squares / freedom), freedom) if freedom else (None, 0)
