"""Seeded simulation: the 95 % interval holds the true change however readings were taken, and no change is not called one."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from cases import rest_broad
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.rounds import compare_rounds, drift
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.comparison import Item, Terms, compare
from sphagnum.core.levels.decibels import energy_mean
from sphagnum.core.levels.statistics import correlation_length, repeats_to_settle, run_uncertainty
from sphagnum.core.schema import parse
from sphagnum.demo import rows

PAIRS = 500
WITHIN, SETUP = 0.3, 0.5
CHANGE = 1.0


def taken(rng: np.random.Generator, level: float, n: int, afresh: bool, within: float = WITHIN) -> list[Item]:
    """Repeats as a meter shows them: set-ups scatter, repeats in one go share theirs."""
    setups = SETUP * (rng.standard_normal(n) if afresh else np.repeat(rng.standard_normal(), n))
    values = np.round(level + setups + within * rng.standard_normal(n), 1)
    return [Item(float(v), "LAeq", set_up=i if afresh else 0, resolution_db=0.1) for i, v in enumerate(values)]


def noisy(items: list[Item], background: float) -> list[Item]:
    return [i._replace(level_db=float(10 * np.log10(10 ** (i.level_db / 10) + 10 ** (background / 10)))) for i in items]


def pair(rng: np.random.Generator, how: str, n: int, change: float):
    if how == "unequal":
        groups = [taken(rng, 70, 3, True, 1.0), taken(rng, 70 - change, 5, True, 0.3)]
        return compare(*groups, Terms(setup_db=SETUP))
    afresh = how == "afresh"
    before, after = taken(rng, 70, n, afresh), taken(rng, 70 - change, n, afresh)
    if how == "background":
        before, after = noisy(before, 60.0), noisy(after, 64.0)
        read = [60 + WITHIN * rng.standard_normal(), 64 + WITHIN * rng.standard_normal()]
        return compare(before, after, Terms(setup_db=SETUP, background_db=read[0], background_after_db=read[1],
                                            own_backgrounds=True, repeatability_db=WITHIN))
    return compare(before, after, Terms(setup_db=SETUP))


@pytest.mark.parametrize(("how", "most"), [("one go", 0.99), ("afresh", 0.99), ("unequal", 1.0), ("background", 1.0)])
@pytest.mark.parametrize("n", [3, 5])
def test_the_interval_holds_what_it_says(how: str, most: float, n: int):
    rng = np.random.default_rng(20_261 + n)
    got = [pair(rng, how, n, CHANGE) for _ in range(PAIRS)]
    assert 0.92 <= np.mean([g.interval95_db[0] <= CHANGE <= g.interval95_db[1] for g in got]) <= most
    still = [pair(rng, how, n, 0.0).verdict for _ in range(PAIRS)]
    assert max(still.count("quieter"), still.count("louder")) / PAIRS <= 0.05


def controlled(rng: np.random.Generator, n: int, change: float, shared: bool, shelf):
    """A goal's place and a control place over two rounds, from the job document as the interface makes it."""
    moved = SETUP * rng.standard_normal((2, 2))
    if shared:
        moved[1] = moved[0]
    levels = [[70.0, 70.0 - change], [60.0, 60.0]]
    doc = parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "Simulated", "method": "typed"},
        "positions": rows({"name": "Ear"}, {"name": "Yard", "control": True}), "conditions": rows({"name": "on"}),
        "rounds": rows({"name": "A", "state": "as found"}, {"name": "B", "state": "finished", "follows_id": 1}),
        "readings": rows(*({"position_id": p + 1, "condition_id": 1, "round_id": r + 1,
                            "level_db": round(float(levels[p][r] + moved[p, r] + WITHIN * rng.standard_normal()), 1)}
                           for p in range(2) for r in range(2) for _ in range(n)))})
    a, b = doc.rounds
    return compare_rounds(JobFigures(doc, shelf), a, b, 1, 1, "LAeq", drift(JobFigures(doc, shelf), a, b, 1, "LAeq"))


@pytest.mark.parametrize("shared", [True, False])
@pytest.mark.parametrize("n", rest_broad((3, 5), (3,)))
def test_a_control_place_takes_its_drift_off_without_pretending(n: int, shared: bool, shelf):
    rng = np.random.default_rng(31 + n)
    got = [controlled(rng, n, CHANGE, shared, shelf) for _ in range(PAIRS)]
    assert np.mean([g.interval95_db[0] <= CHANGE <= g.interval95_db[1] for g in got]) >= 0.92
    if shared:
        assert np.std([g.reduction_db for g in got]) < 0.6 * SETUP * np.sqrt(2)
    still = [controlled(rng, n, 0.0, shared, shelf).verdict for _ in range(PAIRS)]
    assert max(still.count("quieter"), still.count("louder")) / PAIRS <= 0.05


def test_repeats_in_one_go_once_said_quieter_where_nothing_changed():
    rng = np.random.default_rng(3)
    without = [compare(taken(rng, 70, 5, False), taken(rng, 70, 5, False), Terms(setup_db=0.0)).verdict for _ in range(PAIRS)]
    assert without.count("quieter") / PAIRS > 0.2  # what the set-up line is for


def test_agreeing_repeats_never_give_certainty():
    agree = [[Item(v, "LAeq", set_up=i, resolution_db=0.1) for i in range(2)] for v in (74.8, 74.7)]
    got = compare(*agree, Terms())
    assert got.interval95_db[1] - got.interval95_db[0] >= 0.15
    assert [line.source for line in got.budget] == ["last digit before", "last digit after"]
    in_one_go = compare(*[[i._replace(set_up=0) for i in g] for g in agree], Terms())
    assert in_one_go.verdict == "no change shown"
    assert "one-set-up" in {c.rule for c in in_one_go.cautions}


def test_set_ups_of_several_repeats_count_by_their_means():
    before = [Item(v, "LAeq", set_up=k) for k, v in ((0, 70.0), (0, 70.1), (0, 70.05), (1, 71.0), (1, 71.1))]
    got = compare(before, [Item(60.0, "LAeq")], Terms(repeatability_db=0.4))
    line = got.budget[0]
    assert (line.source, line.degrees_of_freedom) == ("set-ups before", 1.0)
    assert line.standard_uncertainty_db == pytest.approx((71.05 - 70.05) / 2, abs=0.01)
    assert [x.source for x in got.budget[1:]] == ["repeatability of the method, after"]  # a single reading takes the table alone


def run(rng: np.random.Generator, samples: int = 240, memory: float = 0.9, spread_db: float = 2.0) -> np.ndarray:
    """One run of a level log about 60 dB: autocorrelated, of first order, from its own steady state."""
    noise = np.sqrt(1 - memory**2) * rng.standard_normal(samples + 4000)
    return 60 + spread_db * signal.lfilter([1], [1, -memory], noise)[4000:]


@pytest.mark.parametrize(("memory", "samples"), [(0.0, 240), (0.9, 240), (0.97, 300), (0.99, 300), (0.995, 600)])
def test_correlated_samples_do_not_pretend_to_certainty(memory: float, samples: int):
    rng = np.random.default_rng(5)
    runs = [run(rng, samples, memory) for _ in range(300)]
    means, told = np.array([energy_mean(r) for r in runs]), np.array([run_uncertainty(r) for r in runs])
    assert np.mean(np.abs(means - means.mean()) <= 2.09 * told) >= 0.92
    assert np.median(told) <= 2.6 * means.std()
    assert run_uncertainty(np.full(50, 60.0)) == 0


def test_the_length_of_correlation_is_that_of_a_first_order_process():
    rng = np.random.default_rng(5)
    lengths = [correlation_length(run(rng)) for _ in range(200)]
    assert np.mean(lengths) == pytest.approx((1 + 0.9) / (1 - 0.9), rel=0.25)
    assert np.mean([correlation_length(rng.standard_normal(500)) for _ in range(50)]) == pytest.approx(1.0, abs=0.25)


def test_the_number_of_readings_asked_for_does_settle_it():
    n = repeats_to_settle(1.0, 0.8)
    rng = np.random.default_rng(9)
    settled = 0
    for _ in range(300):
        before, after = ([Item(level + 0.8 * rng.standard_normal(), set_up=i) for i in range(n)] for level in (61, 60))
        settled += compare(before, after).verdict == "quieter"
    assert settled / 300 > 0.4  # as often as not, that is what the bare number promises
    assert repeats_to_settle(0.01, 0.8) is None
    assert repeats_to_settle(6.0, 0.8) == 2
