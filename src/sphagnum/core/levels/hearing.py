"""A change to hear: sound before and after, from spectra or a recording, each band held by the project's own filters."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, Literal, NamedTuple

import numpy as np
import scipy  # loads its parts where they are used: signals take a second
from pydantic import Field, model_validator

from ..errors import BadInput
from ..schema import Level, Strict
from .band_forms import by_band
from .bands import PREDICTED_HZ, SPAN, Floats, exact_hz
from .bank import EDGE, Bank
from .signals import FADE_S, RATE_HZ, looped

FULL_SCALE_DB = 100.0
"""What a sine of peak 1.0 stands for, dB."""
PEAK = 0.98
ROUNDS = 12
CLOSE_DB = 0.15
"""How near every band is brought to what is asked, in at most so many rounds."""
MOST_STEP_DB = 12.0
SILENT_DB = -60.0
"""Bands of a recording so far below its loudest hold nothing that could be changed for certain."""
KNOCK_EVERY_S, KNOCK_DECAY_S = 0.8, 0.06
SWELL_HZ, SWELL_DB = 0.5, 1.5
"""Of road noise: how often and how far it swells."""
ROAR_HZ, ROAR_SHARE = 225.0, 0.35
"""Of road noise: the air in a tyre rings near here, and so much of its band is that ring (recalled)."""

Bands = dict[str, Level]
Character = Literal["noise", "hum", "impulses", "road"]
Seconds = Annotated[float, Field(ge=1, le=60, strict=True, allow_inf_nan=False)]


class HearInput(Strict):
    """What ``hear`` reads: spectra before and after with the character of the sound, or a recording and what is taken off it."""

    before_db: Bands | None = None
    after_db: Bands | None = None
    recording: Annotated[str, Field(min_length=1, max_length=1000)] | None = None
    reduction_db: Bands | None = None
    character: Character = "noise"
    tone_hz: Annotated[float, Field(ge=20, le=5000, strict=True, allow_inf_nan=False)] = 100.0
    seconds: Seconds = 8.0
    seed: Annotated[int, Field(ge=0, le=2**31, strict=True)] = 1

    @model_validator(mode="after")
    def _one_source(self) -> HearInput:
        if (self.before_db is None) == (self.recording is None):
            raise ValueError("the sound comes from before_db or from a recording; give one of them")
        if (self.after_db is None) == (self.reduction_db is None):
            raise ValueError("the change is after_db or reduction_db; give one of them")
        if self.recording is not None and self.after_db is not None:
            raise ValueError("a recording is changed by reduction_db; give that instead of after_db")
        return self


class HeardFiles(Strict):
    """What ``hear`` prints."""

    before: str
    after: str
    full_scale_db: float
    gain_db: float
    seconds: float


class Pair(NamedTuple):
    """Before and after at 48 kHz, lowered alike by ``gain_db`` so that nothing clips; both loop without a click."""

    before: Floats
    after: Floats
    gain_db: float


def filled(bands: Bands, where: str) -> Floats:
    """The 21 bands, dB; one that is not given keeps its nearest neighbour's. BadInput for none, or for other frequencies."""
    known = by_band(bands, where)
    if not known:
        raise BadInput("there are no bands", where, "give levels such as {\"125\": 70}")
    return np.array([known[min(known, key=lambda k: (abs(k - i), k))] for i in range(len(PREDICTED_HZ))])


def hear(data: HearInput, recorded: tuple[Floats, float] | None = None) -> Pair:
    """Before and after as sound. ``recorded``: samples and sampling rate (Hz) of the recording, where there is one.

    Raises BadInput for a recording too short to loop or silent, and for bands that are none.
    """
    if recorded is not None:
        taken_off = filled(data.reduction_db or {}, "reduction_db")
        before = _prepared(*recorded, data.seconds)
        levels = band_levels(before)
        heard = levels > levels.max() + SILENT_DB
        after = _held(before, np.where(heard, levels - taken_off, np.nan), -taken_off)
        return _together(before, after)
    first = filled(data.before_db or {}, "before_db")
    then = first - filled(data.reduction_db, "reduction_db") if data.reduction_db is not None else filled(
        data.after_db or {}, "after_db")
    if data.character == "hum":
        return _together(_hum(first, data), _hum(then, data))
    base = _base(data)
    start = band_levels(base)
    return _together(_held(base, first, first - start), _held(base, then, then - start))


def band_levels(samples: Floats) -> Floats:
    """Levels of the 21 bands of a signal as ``analyse`` reads them, dB: its filters swing in on the beginning."""
    bank = Bank(RATE_HZ, 1)
    bank.feed(samples[None, :])
    power = bank.result()[SPAN].mean(axis=1)
    return np.asarray(FULL_SCALE_DB + 10 * np.log10(np.maximum(2 * power, 1e-30)))


def _held(base: Floats, wanted_db: Floats, gains_db: Floats) -> Floats:
    """A signal brought to wanted band levels (NaN: left as the gains make it), corrected by what the filters read."""
    return _brought(lambda gains: shaped(base, gains), wanted_db, gains_db)


def _brought(make: Callable[[Floats], Floats], wanted_db: Floats, gains_db: Floats) -> Floats:
    """What ``make`` makes of band gains that bring it nearest to wanted levels, both dB; NaN bands do not count."""
    gains, best, least = gains_db.astype(float), np.zeros(1), math.inf
    for _ in range(ROUNDS):
        made = make(gains)
        off = np.nan_to_num(wanted_db - band_levels(made))
        if (worst := float(np.abs(off).max())) < least:
            best, least = made, worst
        if worst < CLOSE_DB:
            break
        gains = gains + np.clip(off, -MOST_STEP_DB, MOST_STEP_DB)
    return best


def shaped(samples: Floats, gains_db: Floats) -> Floats:
    """A signal that loops, filtered by 21 band gains (dB): straight over log f between the bands, as a causal filter of least
    phase, so that nothing rings before a knock."""
    n = samples.size
    f = np.fft.rfftfreq(n, 1 / RATE_HZ)
    centres = np.log([exact_hz(x) for x in PREDICTED_HZ])
    gain = np.interp(np.log(np.maximum(f, 1.0)), centres, gains_db) * (math.log(10) / 20)
    cepstrum = np.fft.irfft(gain, n)
    fold = np.zeros(n)
    fold[0], fold[1:(n + 1) // 2] = 1.0, 2.0
    if n % 2 == 0:
        fold[n // 2] = 1.0
    return np.asarray(np.fft.irfft(np.fft.rfft(samples) * np.exp(np.fft.rfft(cepstrum * fold)), n))


def _base(data: HearInput) -> Floats:
    """Sound with something in every band, to be shaped: even noise, knocks of noise that die away, or noise that swells."""
    n = round(data.seconds * RATE_HZ)
    noise = np.random.default_rng(data.seed).standard_normal(n)
    t = np.arange(n) / RATE_HZ
    if data.character == "impulses":
        knocks = max(round(data.seconds / KNOCK_EVERY_S), 1)
        since = np.mod(t, data.seconds / knocks)
        noise *= np.exp(-since / KNOCK_DECAY_S) + 1e-3
    if data.character == "road":
        swells = max(round(SWELL_HZ * data.seconds), 1)
        noise *= 10 ** (SWELL_DB / 20 * np.sin(2 * np.pi * swells * t / data.seconds))
    spectrum = np.fft.rfft(noise)
    f = np.fft.rfftfreq(n, 1 / RATE_HZ)
    within = (f > exact_hz(PREDICTED_HZ[0]) / EDGE) & (f < exact_hz(PREDICTED_HZ[-1]) * EDGE)
    spectrum = np.where(within, spectrum / np.sqrt(np.maximum(f, 1.0)), 0.0)  # pink: alike in every band
    if data.character == "road":
        spectrum *= 1 + ROAR_SHARE * np.exp(-((f - ROAR_HZ) / 12) ** 2)
    made = np.fft.irfft(spectrum, n)
    return np.asarray(made / np.abs(made).max() * 0.1)


def _hum(levels_db: Floats, data: HearInput) -> Floats:
    """A tone with its harmonics, as loud in each band as asked; bands without a harmonic stay empty."""
    n = round(data.seconds * RATE_HZ)
    low, high = exact_hz(PREDICTED_HZ[0]) / EDGE, exact_hz(PREDICTED_HZ[-1]) * EDGE
    # whole periods in the loop
    cycles = [round(k * data.tone_hz * n / RATE_HZ) for k in range(1, int(high / data.tone_hz) + 1)]
    cycles = [c for c in cycles if low < c * RATE_HZ / n < high]
    if not cycles:
        raise BadInput(f"no harmonic of {data.tone_hz:g} Hz lies between 50 and 5000 Hz", "tone_hz", "give 20 to 5000 Hz")
    centres = np.log([exact_hz(c) for c in PREDICTED_HZ])
    band = np.argmin(np.abs(np.log(np.array(cycles) * RATE_HZ / n)[:, None] - centres), axis=1)
    count = np.bincount(band, minlength=len(PREDICTED_HZ))
    phases = np.random.default_rng(data.seed).uniform(0, 2 * np.pi, len(cycles))
    held = count > 0

    def made(gains: Floats) -> Floats:
        spectrum = np.zeros(n // 2 + 1, dtype=complex)
        spectrum[cycles] = n / 2 * 10 ** ((gains[band] - FULL_SCALE_DB) / 20) * np.exp(1j * phases)
        return np.asarray(np.fft.irfft(spectrum, n))
    first = np.where(held, levels_db - 10 * np.log10(np.maximum(count, 1)), 0.0)
    return _brought(made, np.where(held, levels_db, np.nan), first)


def _prepared(samples: Floats, rate_hz: float, seconds: float) -> Floats:
    """A recording at 48 kHz that loops without a click and is as long as asked: faded into its own beginning, repeated."""
    if samples.size < rate_hz:
        raise BadInput("the recording is too short to loop", "recording", "use one of at least a second")
    if rate_hz != RATE_HZ:
        ratio = (RATE_HZ, round(rate_hz))
        common = math.gcd(*ratio)
        samples = scipy.signal.resample_poly(samples, ratio[0] // common, ratio[1] // common)
    if not np.abs(samples).max() > 0:
        raise BadInput("the recording is silent", "recording", "use one that holds sound")
    fade = round(FADE_S * RATE_HZ)
    excerpt = samples[: round(seconds * RATE_HZ) + fade]
    body = excerpt.size - fade
    return looped(excerpt, body * max(round(seconds * RATE_HZ / body), 1) / RATE_HZ, RATE_HZ)


def _together(before: Floats, after: Floats) -> Pair:
    """Both lowered alike until neither clips."""
    top = max(float(np.abs(before).max()), float(np.abs(after).max()), 1e-12)
    gain_db = min(0.0, math.floor(200 * math.log10(PEAK / top)) / 10)
    factor = 10 ** (gain_db / 20)
    return Pair(before * factor, after * factor, gain_db)


