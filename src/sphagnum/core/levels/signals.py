"""Test signals made here: pink noise, stepped one-third-octave noise, tones, a slow sweep, a looped excerpt."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..errors import BadInput
from .bands import NOMINAL_HZ, Floats, exact_hz
from .bank import EDGE

Kind = Literal["pink", "bands", "tone", "sweep"]
RATE_HZ = 48_000
LEVEL_DB = -20.0  # rms re full scale: room for the peaks of noise
LEVEL_CHECK_S, PAUSE_S, FADE_S = 3.0, 0.5, 0.05
STEPPED = tuple(f for f in NOMINAL_HZ if 50 <= f <= 5000)
LOW_HZ = 40.0


def _levelled(samples: Floats) -> Floats:
    """At LEVEL_DB, with soft ends."""
    rms = float(np.sqrt(np.mean(np.square(samples))))
    out = np.asarray(samples / rms * 10 ** (LEVEL_DB / 20)) if rms > 0 else samples
    fade = min(round(FADE_S * RATE_HZ), out.size // 2)
    ramp = np.sin(np.linspace(0, np.pi / 2, fade)) ** 2
    out[:fade] *= ramp
    out[out.size - fade :] *= ramp[::-1]
    return out


def _shaped_noise(seconds: float, gain: Floats, rng: np.random.Generator) -> Floats:
    n = round(seconds * RATE_HZ)
    spectrum = gain * np.exp(2j * np.pi * rng.random(n // 2 + 1))
    return np.asarray(np.fft.irfft(spectrum, n))


def _pink_gain(n: int, low_hz: float, high_hz: float) -> Floats:
    f = np.fft.rfftfreq(n, 1 / RATE_HZ)
    inside = (f >= low_hz) & (f <= high_hz)
    return np.where(inside, 1 / np.sqrt(np.maximum(f, 1.0)), 0.0)


def pink(seconds: float, seed: int = 1, low_hz: float = LOW_HZ, high_hz: float = 16_000.0) -> Floats:
    """Pink noise between two frequencies, at LEVEL_DB, shape (samples,); the same seed gives the same noise."""
    n = round(seconds * RATE_HZ)
    return _levelled(_shaped_noise(seconds, _pink_gain(n, low_hz, high_hz), np.random.default_rng(seed)))


def stepped_bands(seconds_each: float, seed: int = 1) -> Floats:
    """Noise through the bands 50 Hz to 5 kHz, each at the same level, a pause between."""
    parts = []
    for i, f in enumerate(STEPPED):
        parts += [pink(seconds_each, seed + i, exact_hz(f) / EDGE, exact_hz(f) * EDGE), np.zeros(round(PAUSE_S * RATE_HZ))]
    return np.concatenate(parts)


def tone(seconds: float, frequency_hz: float) -> Floats:
    """A sine at LEVEL_DB."""
    return _levelled(np.sin(2 * np.pi * frequency_hz * np.arange(round(seconds * RATE_HZ)) / RATE_HZ))


def sweep(seconds: float, low_hz: float = 30.0, high_hz: float = 300.0) -> Floats:
    """A sine that rises by equal ratios in equal times (Farina 2000), at LEVEL_DB."""
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    rate = np.log(high_hz / low_hz)
    return _levelled(np.sin(2 * np.pi * low_hz * seconds / rate * (np.exp(t * rate / seconds) - 1)))


def make(kind: Kind, seconds: float, frequency_hz: float = 1000.0) -> Floats:
    """A signal with its level check before it: three seconds of pink noise, then a pause. BadInput for an absurd one."""
    if not 1 <= seconds <= 600:
        raise BadInput(f"{seconds:g} s is out of range", "seconds", "give 1 to 600 s")
    if not 20 <= frequency_hz <= 20_000:
        raise BadInput(f"{frequency_hz:g} Hz is out of range", "frequency", "give 20 to 20000 Hz")
    body = {"pink": lambda: pink(seconds), "bands": lambda: stepped_bands(max(1.0, seconds / len(STEPPED))),
            "tone": lambda: tone(seconds, frequency_hz), "sweep": lambda: sweep(seconds)}[kind]()
    return np.concatenate([pink(LEVEL_CHECK_S), np.zeros(round(PAUSE_S * RATE_HZ)), body])


def looped(excerpt: Floats, seconds: float, rate_hz: float) -> Floats:
    """An excerpt repeated to a length, its ends crossed over so that the loop does not click; its level is kept."""
    fade = min(round(FADE_S * rate_hz), excerpt.size // 4)
    if excerpt.size < rate_hz / 2:
        raise BadInput("the excerpt is shorter than half a second", "excerpt", "choose a longer one")
    turn = np.linspace(0, np.pi / 2, fade)
    body = excerpt[: excerpt.size - fade].copy()
    body[:fade] = body[:fade] * np.sin(turn) + excerpt[excerpt.size - fade :] * np.cos(turn)
    return np.resize(body, round(seconds * rate_hz))
