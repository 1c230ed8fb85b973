"""Laws that hold for any levels: order, symmetry, bounds; windows and runs; what a live capture calls steady."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sphagnum.core.errors import BadInput
from sphagnum.core.levels.comparison import Item, Terms, compare, loudness_words
from sphagnum.core.levels.decibels import energy_mean, energy_sum, subtract_background
from sphagnum.core.levels.logs import Run, analyse_log, steady_stretch, steady_stretches
from sphagnum.core.levels.rating import RW_HZ, STC_HZ, rate
from sphagnum.core.levels.recording import Meter
from sphagnum.core.levels.run_view import figures, look, thinned
from sphagnum.core.levels.statistics import pooled_deviation

LEVELS = st.lists(st.floats(-20, 140), min_size=1, max_size=30)
CURVE = st.lists(st.floats(5, 70), min_size=17, max_size=17)


@given(LEVELS, st.randoms())
def test_energy_sums_do_not_mind_the_order(levels: list[float], random):
    shuffled = list(levels)
    random.shuffle(shuffled)
    assert energy_sum(shuffled) == pytest.approx(energy_sum(levels), abs=1e-9)
    assert max(levels) - 1e-9 <= energy_sum(levels) <= max(levels) + 10 * math.log10(len(levels)) + 1e-9
    assert min(levels) - 1e-9 <= energy_mean(levels) <= max(levels) + 1e-9
    assert energy_mean(levels) >= np.mean(levels) - 1e-9  # the arithmetic mean always reads low


@given(st.floats(20, 120), st.floats(3, 60))
def test_background_correction_inverts_the_sum(level: float, below: float):
    together = energy_sum([level, level - below])
    freed, bounded = subtract_background(together, level - below)
    assert freed == pytest.approx(level, abs=1e-6)
    assert bounded is (together - (level - below) < 3)


@settings(max_examples=60)
@given(LEVELS, LEVELS, st.floats(0.1, 3))
def test_comparisons_are_odd_and_never_claim_what_the_interval_denies(before: list[float], after: list[float], u: float):
    a, b = ([Item(x) for x in group] for group in (before, after))
    there, back = compare(a, b, Terms(repeatability_db=u)), compare(b, a, Terms(repeatability_db=u))
    assert there.reduction_db == pytest.approx(-back.reduction_db, abs=0.011)
    assert there.interval95_db[0] == pytest.approx(-back.interval95_db[1], abs=0.011)
    low, high = there.interval95_db
    assert low <= there.reduction_db <= high
    if there.verdict == "quieter":
        assert low >= 0
    if there.verdict == "no change shown":
        assert low <= 0 <= high
        assert "No change" in there.loudness_words


@given(CURVE, st.floats(0, 20), st.integers(0, 16))
def test_ratings_never_fall_when_a_band_gains(curve: list[float], more: float, at: int):
    bands = sorted({*RW_HZ, *STC_HZ})
    better = [v + (more if i == at else 0) for i, v in enumerate(curve)]
    one, two = (rate(dict(zip(bands, c, strict=True))) for c in (curve, better))
    assert two.Rw >= one.Rw
    assert two.STC >= one.STC
    assert two.Rw + two.C >= one.Rw + one.C - 1  # X_A is rounded once


@pytest.mark.parametrize(("change", "words"), [
    (0.5, "hardly anyone"), (2, "just noticeable"), (5, "Clearly quieter"), (10, "About half as loud"),
    (20, "Less than half as loud"), (-10, "twice as loud")])
def test_loudness_words(change: float, words: str):
    assert words in loudness_words(change, "quieter" if change > 0 else "louder")


def stepped() -> Run:
    """Thirty samples at 60, sixty at 75, thirty at 50 dB, half a second apart."""
    rng = np.random.default_rng(4)
    levels = np.concatenate([np.full(30, 60.0), np.full(60, 75.0), np.full(30, 50.0)]) + 0.3 * rng.standard_normal(120)
    return Run(np.arange(120) * 0.5, levels, 0.5)


def test_steady_stretches_come_longest_first_and_do_not_overlap():
    found = steady_stretches(stepped().level_db)
    assert steady_stretch(stepped().level_db) == found[0]
    assert found[0] == pytest.approx((30, 90), abs=2)
    lengths = [b - a for a, b in found]
    assert lengths == sorted(lengths, reverse=True)
    spans = sorted(found)
    assert all(one[1] <= two[0] for one, two in itertools.pairwise(spans))
    assert steady_stretches(np.array([60.0, 61.0])) == [(0, 2)]


def test_a_window_counts_what_lies_in_it():
    got = analyse_log(stepped(), (15.0, 45.0))
    assert (got.samples, got.duration_s, got.window_s) == (60, 30.0, (15.0, 45.0))
    assert got.Leq == pytest.approx(75.0, abs=0.15)
    assert got.Lmin <= got.L90 <= got.L50 <= got.L10 <= got.Lmax
    assert analyse_log(stepped(), steady=True).window_s == pytest.approx((15, 45), abs=1.0)
    with pytest.raises(BadInput, match="no sample lies between"):
        analyse_log(stepped(), (100.0, 200.0))


def test_thinning_keeps_the_energy():
    levels = stepped().level_db
    assert energy_mean(thinned(levels, 12)) == pytest.approx(energy_mean(levels), abs=0.05)
    seen = look(stepped(), None, None)
    assert (seen.length_s, seen.window_s) == (60.0, (0.0, 60.0))
    assert seen.steady_s[0] == pytest.approx((15, 45), abs=1.0)
    assert len(seen.level_db) == len(seen.smooth_db) == 120
    assert np.ptp(seen.smooth_db) < np.ptp(seen.level_db)


def test_a_recording_and_its_window_agree_with_a_log_of_it():
    rate = 8000
    meter = Meter(rate, 1)
    noise = np.random.default_rng(8).standard_normal(rate * 12) * np.repeat([0.01, 0.1], rate * 6)
    meter.feed(noise[None, :])
    history = meter.history()
    late = figures(history, 100.0, (6.0, 12.0))
    log = Run(np.arange(history.a.size) * 0.125, 10 * np.log10(history.a) + 103.01, 0.125)
    assert late.LAeq == pytest.approx(figures(log, None, (6.0, 12.0)).Leq, abs=0.05)
    assert look(history, 100.0, None).steady_s[0] in ((0.0, 6.0), (6.0, 12.0))


def test_pooling_weighs_groups_by_their_freedom():
    assert pooled_deviation([[70.0], [60.0]]) == (None, 0)
    deviation, freedom = pooled_deviation([[70, 72], [60, 60, 60], [50]])
    assert (deviation, freedom) == (pytest.approx(math.sqrt(2 / 3)), 3)
