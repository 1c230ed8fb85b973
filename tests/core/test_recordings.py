"""Recordings against the standards' limits, and against levels that are known because the signal was made."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from signals import as_wav, tone
from sphagnum.core.errors import BadInput
from sphagnum.core.levels.bands import A_WEIGHTING_DB, NOMINAL_HZ, exact_hz
from sphagnum.core.levels.bank import Bank, Steps
from sphagnum.core.levels.recording import Meter, analyse_recording, clipped_in
from sphagnum.core.levels.weighting import Exponential, Weighting, gain_db, weighting_db
from sphagnum.instruments.recordings import full_scale_from, read_history

# IEC 61672-1:2013, table 3, class 1 acceptance limits by nominal frequency, upper and lower, dB. Recalled, not seen.
LIMITS = {10: (3, np.inf), 12.5: (2.5, np.inf), 16: (2, 4), 20: (2, 2), 25: (2, 1.5), 31.5: (1.5, 1.5), 5000: (1.5, 1.5),
          6300: (1.5, 2), 8000: (1.5, 2.5), 10000: (2, 3), 12500: (2, 5), 16000: (2.5, 16), 20000: (3, np.inf)}
USUAL, AT_1_KHZ = (1.0, 1.0), (0.7, 0.7)


@pytest.mark.parametrize("rate_hz", [8_000, 44_100, 48_000, 96_000, 192_000])
@pytest.mark.parametrize("letter", ["A", "C"])
def test_weightings_are_class_1(letter: str, rate_hz: int):
    f = np.array([1000 * 10 ** (k / 10) for k in range(-20, 14)])  # 10 Hz to 20 kHz, base ten
    nominal = np.array([10.0, *NOMINAL_HZ])
    below = f < rate_hz / 2 * 0.98
    off = gain_db(letter, rate_hz, f[below]) - weighting_db(f[below], letter)
    for at, error in zip(nominal[below], off, strict=True):
        up, down = LIMITS.get(at, AT_1_KHZ if at == 1000 else USUAL)
        assert -down <= error <= up, at
    assert np.abs(off).max() < 0.05  # far inside: the rest of the limits is the microphone's


@pytest.mark.parametrize("rate_hz", [8_000, 48_000])
@pytest.mark.parametrize("letter", ["A", "C", "Z"])
def test_what_runs_over_blocks_is_what_the_limits_are_shown_of(letter: str, rate_hz: int):
    impulse = np.zeros((2, rate_hz * 4))  # 4 s: the slowest of them, Z at 2 Hz, has died away
    impulse[0, 0], impulse[1, 100] = 1.0, -0.5
    running = Weighting(letter, rate_hz, 2)
    ends = [1, 2, 80, 81, 82, 5000, rate_hz * 4]
    out = np.concatenate([running(impulse[:, a:b]) for a, b in itertools.pairwise([0, *ends])], axis=1)
    f = np.fft.rfftfreq(out.shape[1], 1 / rate_hz)
    heard = np.flatnonzero((f >= 10) & (f < rate_hz / 2 * 0.98))[::40]
    for row, gain in zip(out, (1.0, 0.5), strict=True):
        levels = 20 * np.log10(np.abs(np.fft.rfft(row))[heard] / gain)
        assert levels == pytest.approx(gain_db(letter, rate_hz, f[heard]), abs=1e-6)


def test_prototype_gives_the_printed_table():
    exact = np.array([exact_hz(f) for f in NOMINAL_HZ])
    assert np.abs(np.round(weighting_db(exact, "A"), 1) - np.array(A_WEIGHTING_DB)).max() < 0.051
    # IEC 61672-1:2013, table 3, C weighting at 31.5 Hz, 1 kHz and 16 kHz: −3.0, 0.0, −8.5 dB
    assert np.round(weighting_db(exact[[4, 19, 31]], "C"), 1) == pytest.approx([-3.0, 0.0, -8.5])


@pytest.mark.parametrize(("constant_s", "low", "high"), [(0.125, 30.8, 38.5), (1.0, 3.6, 5.1)])
def test_time_weighting_decays_as_asked(constant_s: float, low: float, high: float):
    # IEC 61672-1:2013, 5.8.2: decay of F 34.7 dB/s (+3.8, −3.7) and S 4.3 dB/s (+0.8, −0.7). Recalled, not seen.
    meter = Exponential(constant_s, 8000, 1)
    meter(np.ones((1, 8000 * 10)))
    gone = 10 * np.log10(meter(np.zeros((1, 8001)))[0])
    assert low <= gone[0] - gone[8000] <= high


# IEC 61260-1, class 1: least and most relative attenuation at band-edge units k (0.5 is the edge). The narrower limits of the
# 1995 edition are taken. Recalled, not seen.
MASK = [(0, -0.3, 0.3), (0.125, -0.3, 0.4), (0.25, -0.3, 0.6), (0.375, -0.3, 1.3), (0.5, 2.0, 5.0), (1, 17.5, np.inf),
        (2, 42, np.inf), (3, 61, np.inf), (4, 70, np.inf)]


def mask_frequencies() -> np.ndarray:
    """Normalised frequencies of the mask's points above mid-band, for one third of an octave (IEC 61260-1, 5.10)."""
    g = 10**0.3
    k = np.array([row[0] for row in MASK])
    return 1 + (g ** (1 / 6) - 1) / (g**0.5 - 1) * (g**k - 1)


@pytest.mark.parametrize(("rate_hz", "nominal"), [(48_000, 20_000), (48_000, 10_000), (48_000, 1000), (48_000, 63),
                                                  (44_100, 16_000), (8_000, 3150), (8_000, 250), (96_000, 12_500)])
def test_bands_keep_the_class_1_mask(rate_hz: int, nominal: float):
    band = NOMINAL_HZ.index(nominal)
    centre = exact_hz(nominal)
    seconds = max(1.0, 60 / centre)
    for k, (_, least, most) in zip(mask_frequencies(), MASK, strict=True):
        for f in {centre * k, centre / k}:
            if f > rate_hz / 2 * 0.98:
                continue
            bank = Bank(rate_hz, 1)
            bank.feed(tone(f, seconds, rate_hz, np.sqrt(2))[None, :])
            passed = bank.result()[band]
            attenuation = -10 * np.log10(np.median(passed[passed.size // 2 : -1]) + 1e-12)
            assert least - 0.01 <= attenuation <= most + 0.01, (f / centre, attenuation)


@pytest.mark.parametrize(("rate_hz", "subtype", "kind", "channels"), [
    (8_000, "PCM_16", "WAV", 1), (44_100, "PCM_24", "FLAC", 2), (48_000, "FLOAT", "WAV", 8), (96_000, "PCM_24", "WAV", 1),
    (48_000, "PCM_U8", "WAV", 1)])
def test_a_calibrated_tone_reads_its_level(rate_hz: int, subtype: str, kind: str, channels: int):
    one = tone(exact_hz(1000), 12, rate_hz)
    wav = as_wav(np.stack([one] * channels, axis=1), rate_hz, subtype, kind)
    got = analyse_recording(read_history(wav, "tone"), 120.0)
    tolerance = 0.15 if subtype == "PCM_U8" else 0.03
    for value in (got.LAeq, got.LCeq, got.LZeq, got.LAFmax, got.L50, got.bands.level_db[19]):
        assert value == pytest.approx(100.0, abs=tolerance)
    assert (got.calibrated, got.channels, got.duration_s, got.clipped_samples) == (True, channels, 12.0, 0)
    above = [b for f, b in zip(NOMINAL_HZ, got.bands.level_db, strict=True) if exact_hz(f) * 10**0.05 > rate_hz / 2]
    assert all(b is None for b in above)
    assert full_scale_from(wav, "tone", 94.0) == pytest.approx(114.0, abs=tolerance)


def test_channels_are_averaged_in_energy_and_windows_cut_in_time():
    rate = 16_000
    loud, soft = tone(1000, 10, rate, 0.5), tone(1000, 10, rate, 0.05)
    both = analyse_recording(read_history(as_wav(np.stack([loud, np.zeros_like(loud)], axis=1), rate), "two"), 0.0)
    assert both.LZeq == pytest.approx(20 * np.log10(0.5) - 3.01, abs=0.02)
    step = read_history(as_wav(np.concatenate([loud, soft]), rate), "step")
    late = analyse_recording(step, 0.0, (10.0, 20.0))
    assert late.LAeq == pytest.approx(20 * np.log10(0.05), abs=0.05)
    assert late.window_s == (10.0, 20.0)
    whole = analyse_recording(step, 0.0)
    assert pytest.approx(20 * np.log10(0.05), abs=0.1) == whole.L90
    part = analyse_recording(step, 0.0, (9.9, 10.1))
    assert part.LAeq == pytest.approx(10 * np.log10((0.5**2 + 0.05**2) / 2), abs=0.3)
    with pytest.raises(BadInput, match="nothing lies between"):
        analyse_recording(step, 0.0, (30.0, None))


def test_blocks_of_any_size_give_the_same():
    rate = 44_100
    noise = np.random.default_rng(7).standard_normal((2, rate * 3)) * 0.1
    whole, parts = Meter(rate, 2), Meter(rate, 2)
    whole.feed(noise)
    for start, end in ((0, 1), (1, 700), (700, 50_000), (50_000, noise.shape[1])):
        parts.feed(noise[:, start:end])
    for one, two in zip(whole.history(), parts.history(), strict=True):
        assert np.asarray(two) == pytest.approx(np.asarray(one), rel=1e-9, nan_ok=True)


def test_pink_noise_is_level_across_the_bands():
    rng, rate = np.random.default_rng(11), 48_000
    n = rate * 40
    spectrum = rng.standard_normal(n // 2 + 1) + 1j * rng.standard_normal(n // 2 + 1)
    spectrum[1:] /= np.sqrt(np.arange(1, n // 2 + 1))
    spectrum[0] = 0
    noise = np.fft.irfft(spectrum, n)
    levels = np.array(analyse_recording(read_history(as_wav(0.1 * noise / noise.std(), rate), "pink"), 100.0).bands.level_db)
    assert np.ptp(levels[12:]) < 0.5  # 200 Hz up: enough cycles in 40 s
    assert np.ptp(levels) < 2.0


def test_what_is_wrong_with_a_recording_is_said():
    rate = 48_000
    def rules(samples: np.ndarray, subtype: str = "PCM_16") -> set[str]:
        return {c.rule for c in analyse_recording(read_history(as_wav(samples, rate, subtype), "x"), None).cautions}
    ten = tone(200, 10, rate, 0.5)
    assert rules(ten) == set()
    assert rules(np.clip(3 * ten, -1, 1)) == {"clipped"}
    assert rules(ten + 0.3) == {"offset"}
    assert rules(tone(200, 10, rate, 5e-5)) == {"too-quiet"}
    assert rules(ten[: rate * 2]) == {"too-short"}
    cut = as_wav(ten, rate)[: rate * 18]
    assert {c.rule for c in analyse_recording(read_history(cut, "x"), None).cautions} == {"cut-short"}
    for bad, word in ((np.full(rate, np.nan), "no numbers"), (ten[:100], "lasts"), (ten[:0], "lasts")):
        with pytest.raises(BadInput, match=word):
            read_history(as_wav(bad, rate, "FLOAT"), "x")
    with pytest.raises(BadInput, match="single tone"):
        full_scale_from(as_wav(np.random.default_rng(1).standard_normal(rate * 5) * 0.1, rate), "x", 94)
    with pytest.raises(BadInput, match="not steady"):
        full_scale_from(as_wav(ten * np.linspace(0.3, 1, ten.size), rate), "x", 94)


def test_clipping_counts_runs_across_blocks():
    top = np.array([0, 1, 1, 0, 1, 1, 1, 0, 1, 1, 1, 1], dtype=bool)
    count = run = 0
    for part in np.split(top, [5, 6, 10]):
        new, run = clipped_in(part, run)
        count += new
    assert (count, run) == (7, 4)


def test_steps_of_uneven_length_hold_every_sample():
    steps, last = Steps(1003.0), Steps(1003.0, "last")
    samples = np.arange(1000.0)
    for part in np.split(samples, [1, 400, 777]):
        steps.add(part)
        last.add(part)
    bounds = np.ceil(np.arange(8) * 1003 * 0.125).astype(int)
    expected = [samples[a:b].mean() for a, b in zip(bounds, [*bounds[1:], 1000], strict=True)]
    assert steps.result() == pytest.approx(expected)
    assert last.result() == pytest.approx([samples[b - 1] for b in [*bounds[1:], 1000]])
