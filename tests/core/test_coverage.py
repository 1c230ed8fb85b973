"""Seeded simulation: the 95 % interval holds the true change, and no change is not called one."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from sphagnum.core.levels.comparison import Item, Terms, compare
from sphagnum.core.levels.decibels import energy_mean
from sphagnum.core.levels.statistics import correlation_length, repeats_to_settle, run_uncertainty

PAIRS = 700  # 500 leave a standard error of one per cent, coarse for the bounds below


def run(rng: np.random.Generator, level_db: float, samples: int = 240, memory: float = 0.9, spread_db: float = 2.0) -> np.ndarray:
    """One run of a level log: autocorrelated (first order) about a level."""
    noise = np.sqrt(1 - memory**2) * rng.standard_normal(samples + 200)
    values = signal.lfilter([1], [1, -memory], noise)
    return level_db + spread_db * values[200:]


def energy_offset(spread_db: float = 2.0) -> float:
    """Energy mean of a normal level above its middle, dB (moments of the log-normal)."""
    return spread_db**2 * np.log(10) / 20


def item(levels: np.ndarray) -> Item:
    return Item(energy_mean(levels), "LAeq", run_db=run_uncertainty(levels))


@pytest.mark.parametrize("change", [0.0, 3.0])
@pytest.mark.parametrize(("repeats", "scatter_db"), [(3, 0.0), (3, 0.8), (5, 0.5), (1, 0.8)])
def test_the_interval_holds_what_it_says(repeats: int, scatter_db: float, change: float):
    rng = np.random.default_rng(20_261 + repeats + int(10 * scatter_db + change))
    held = said = 0
    for _ in range(PAIRS):
        groups = [[item(run(rng, level + scatter_db * rng.standard_normal())) for _ in range(repeats)]
                  for level in (70.0, 70.0 - change)]
        got = compare(*groups, Terms(repeatability_db=0.8))
        held += got.interval95_db[0] <= change <= got.interval95_db[1]
        said += got.verdict != "no change shown"
    assert 0.92 <= held / PAIRS <= 0.98
    if change == 0:
        assert said / PAIRS <= 0.07


def test_correlated_samples_do_not_pretend_to_certainty():
    rng = np.random.default_rng(5)
    runs = np.array([run(rng, 60.0) for _ in range(400)])
    means = np.array([energy_mean(r) for r in runs])
    told = np.array([run_uncertainty(r) for r in runs])
    assert means.mean() == pytest.approx(60 + energy_offset(), abs=0.1)
    assert np.sqrt(np.mean(told**2)) == pytest.approx(means.std(), rel=0.15)
    naive = 10 / np.log(10) * np.mean([np.std(10 ** (r / 10)) / np.mean(10 ** (r / 10)) for r in runs]) / np.sqrt(240)
    assert means.std() > 3 * naive
    lengths = [correlation_length(r) for r in runs]
    assert np.mean(lengths) == pytest.approx((1 + 0.9) / (1 - 0.9), rel=0.25)
    white = [correlation_length(rng.standard_normal(500)) for _ in range(50)]
    assert np.mean(white) == pytest.approx(1.0, abs=0.25)
    assert run_uncertainty(np.full(50, 60.0)) == 0


def test_the_number_of_repeats_asked_for_does_settle_it():
    n = repeats_to_settle(1.0, 0.8)
    rng = np.random.default_rng(9)
    settled = 0
    for _ in range(300):
        before, after = (level + 0.8 * rng.standard_normal(n) for level in (61, 60))
        settled += compare([Item(x) for x in before], [Item(x) for x in after]).verdict == "quieter"
    assert settled / 300 > 0.4  # as often as not, that is what the bare number promises
    assert repeats_to_settle(0.01, 0.8) is None
    assert repeats_to_settle(6.0, 0.8) == 2
