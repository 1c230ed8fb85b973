"""Knocks against decays that were put in, and test signals against what they claim to be."""

from __future__ import annotations

import numpy as np
import pytest
from test_proof import TWO, job

from sphagnum.core.errors import BadInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.bands import NOMINAL_HZ
from sphagnum.core.levels.bank import Bank
from sphagnum.core.levels.ring import analyse_ring, find_knocks
from sphagnum.core.levels.signals import LEVEL_DB, RATE_HZ, looped, make, pink, stepped_bands, sweep
from sphagnum.core.schema import parse
from sphagnum.core.stages.prove.view import prove
from sphagnum.demo import rows


def knocks(frequency_hz: float, loss_factor: float, count: int = 4, rate_hz: int = 48_000, noise: float = 1e-4) -> np.ndarray:
    """Knocks a little over a second apart on a panel of one note, T60 = 2.2/(f·η), in a little noise."""
    decay_s = 2.2 / (frequency_hz * loss_factor)
    t = np.arange(int(1.2 * rate_hz)) / rate_hz
    one = 0.5 * np.sin(2 * np.pi * frequency_hz * t) * 10 ** (-3 * t / decay_s)
    samples = np.concatenate([np.zeros(rate_hz // 2), *[one] * count])
    return samples + noise * np.random.default_rng(1).standard_normal(samples.size)


@pytest.mark.parametrize(("frequency_hz", "loss_factor", "rate_hz"), [
    (63, 0.02, 48_000), (125, 0.01, 44_100), (125, 0.1, 48_000), (180, 0.03, 16_000), (400, 0.2, 48_000)])
def test_ring_time_and_loss_factor_come_back(frequency_hz: float, loss_factor: float, rate_hz: int):
    got = analyse_ring(knocks(frequency_hz, loss_factor, rate_hz=rate_hz), rate_hz)
    note = got.notes[0]
    assert (got.knocks, note.knocks) == (4, 4)
    assert note.frequency_hz == pytest.approx(frequency_hz, rel=0.02)
    assert note.decay_time_s == pytest.approx(2.2 / (frequency_hz * loss_factor), rel=0.05)
    assert note.loss_factor == pytest.approx(loss_factor, rel=0.06)


def test_low_and_high_share_and_silence():
    low, high = (analyse_ring(knocks(f, 0.05), 48_000) for f in (100, 2000))
    assert low.low_share > 0.95 > 0.05 > low.high_share
    assert high.high_share > 0.95
    assert len(find_knocks(knocks(100, 0.05, 7), 48_000)) == 7
    with pytest.raises(BadInput, match="no knock"):
        analyse_ring(np.random.default_rng(2).standard_normal(48_000) * 0.01, 48_000)


def test_a_shorter_ring_is_proven_by_knocks(shelf):
    def knock(round_id: int, time_s: float, deviation_s: float = 0.01) -> dict:
        return {"round_id": round_id, "position_id": 1, "frequency_hz": 125.0, "decay_time_s": time_s,
                "loss_factor": 2.2 / 125 / time_s, "deviation_s": deviation_s, "knocks": 4}
    doc = job({}, TWO, knocks=rows(knock(1, 0.9), knock(2, 0.2)), goals=rows(
        {"quantity": "ring time", "position_id": 1, "condition_id": 1, "aim": "reach", "value": 90}))
    got = prove(JobFigures(doc, shelf))
    assert got.sentence == "Ear rings 0.20 s instead of 0.90 s. Goal of 90 ms not met."
    assert got.rings[0].loss_factor == (pytest.approx(0.0196, abs=1e-4), pytest.approx(0.088, abs=1e-4))
    assert got.rings[0].struck == ""
    slams = [{**knock(n, t), "peak_db": peak, "low_share": low, "high_share": 0.1} for n, t, peak, low in (
        (1, 0.9, -3.0, 0.9), (2, 0.2, -8.0, 0.6))]
    slammed = parse(JobDocument, {**doc.model_dump(), "knocks": rows(*slams)})
    struck = prove(JobFigures(slammed, shelf)).rings[0].struck
    assert struck == "peak −5.0 dB; up to 250 Hz 90 %, then 60 %; from 1 kHz on 10 %, then 10 %"
    vague = parse(JobDocument, {**doc.model_dump(), "knocks": rows(knock(1, 0.9, 0.2), knock(2, 0.7, 0.2))})
    assert prove(JobFigures(vague, shelf)).rings[0].words.startswith("no change shown")


def levels(samples: np.ndarray) -> np.ndarray:
    bank = Bank(RATE_HZ, 1)
    bank.feed(samples[None, :])
    return 10 * np.log10(np.maximum(bank.result(), 1e-20))


def test_pink_noise_is_pink_and_the_same_each_time():
    noise = pink(20.0)
    assert np.array_equal(noise, pink(20.0))
    assert 20 * np.log10(np.sqrt(np.mean(noise**2))) == pytest.approx(LEVEL_DB, abs=0.1)
    assert np.abs(noise).max() < 1
    inside = [i for i, f in enumerate(NOMINAL_HZ) if 80 <= f <= 12_500]
    assert np.ptp(10 * np.log10(np.mean(10 ** (levels(noise)[inside] / 10), axis=1))) < 1.0


def test_stepped_bands_start_equal():
    step = round((2.0 + 0.5) / 0.125)
    got = levels(stepped_bands(2.0))
    for i, f in enumerate((50, 125, 500, 5000)):
        band = NOMINAL_HZ.index(f)
        start = (band - NOMINAL_HZ.index(50)) * step
        middle = got[band, start + 4 : start + 14]
        assert 10 * np.log10(np.mean(10 ** (middle / 10))) == pytest.approx(LEVEL_DB, abs=1.5), i


def test_sweep_rises_and_signals_carry_their_level_check():
    rising = levels(sweep(20.0))
    tops = [int(np.argmax(rising[:, k])) for k in range(8, 152, 24)]
    assert tops == sorted(tops)
    assert NOMINAL_HZ[tops[0]] < 45
    assert NOMINAL_HZ[tops[-1]] >= 200
    whole = make("tone", 5.0, 100.0)
    assert whole.size == round(8.5 * RATE_HZ)
    check = 20 * np.log10(np.sqrt(np.mean(whole[: 3 * RATE_HZ] ** 2)))
    assert check == pytest.approx(LEVEL_DB, abs=0.1)
    for bad in (lambda: make("tone", 0.1), lambda: make("tone", 5, 5.0), lambda: make("pink", 1e6)):
        with pytest.raises(BadInput):
            bad()


def test_a_loop_does_not_click():
    t = np.arange(RATE_HZ * 2) / RATE_HZ
    excerpt = np.sin(2 * np.pi * 100.3 * t)
    loop = looped(excerpt, 9.0, RATE_HZ)
    assert loop.size == 9 * RATE_HZ
    assert np.abs(np.diff(loop)).max() < 1.6 * np.abs(np.diff(excerpt)).max()
    assert np.sqrt(np.mean(loop**2)) == pytest.approx(np.sqrt(0.5), rel=0.03)
    with pytest.raises(BadInput):
        looped(excerpt[:100], 5, RATE_HZ)
