"""Frequency weightings A, C and Z and time weightings F and S as digital filters for any sampling rate from 8 kHz."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

import numpy as np
import scipy  # loads its parts where they are used: signals take a second

from .bands import Floats

Letter = Literal["A", "C", "Z"]
TIME_CONSTANT_S = {"F": 0.125, "S": 1.0}
"""Exponential time constants, s (IEC 61672-1:2013, 5.8)."""

# Pole frequencies of the analogue prototypes, Hz (IEC 61672-1:2013, Annex E, rounded there to 20.60, 107.7, 737.9, 12194).
F1, F2, F3, F4 = 20.598997, 107.65265, 737.86223, 12194.217
BLOCK_DC_HZ = 2.0  # far enough below 10 Hz to leave Z flat, high enough to take the offset of a sound card away
TAPS = 81


def weighting_db(frequency_hz: Floats, letter: Letter) -> Floats:
    """A, C or Z weighting of the analogue prototype, dB, shape of ``frequency_hz`` (IEC 61672-1:2013, Annex E)."""
    return np.asarray(20 * np.log10(_prototype(np.asarray(frequency_hz, dtype=float), letter)))


def _prototype(f: Floats, letter: Letter) -> Floats:
    if letter == "Z":
        return np.ones_like(f)

    def gain(x: Floats) -> Floats:
        c = F4**2 * x**2 / ((x**2 + F1**2) * (x**2 + F4**2))
        return np.asarray(c * x**2 / np.sqrt((x**2 + F2**2) * (x**2 + F3**2)) if letter == "A" else c)
    return np.asarray(gain(f) / gain(np.array(1000.0)))


@lru_cache(maxsize=32)
def _design(letter: Letter, rate_hz: float) -> tuple[Floats, Floats]:
    """Second-order sections for the low end, and a short FIR that makes up for what is left to Nyquist."""
    poles = {"A": (F1, F1, F2, F3), "C": (F1, F1), "Z": ()}[letter]
    if not poles:
        return scipy.signal.butter(2, BLOCK_DC_HZ, "high", fs=rate_hz, output="sos"), np.ones(1)
    zpk = scipy.signal.bilinear_zpk(np.zeros(len(poles)), -2 * np.pi * np.array(poles), 1.0, rate_hz)
    sos = scipy.signal.zpk2sos(*zpk)
    grid = np.linspace(10.0, rate_hz / 2 * 0.9999, 4000)
    _, low = scipy.signal.sosfreqz(sos, grid, fs=rate_hz)
    half = TAPS // 2
    basis = np.cos(2 * np.pi * np.outer(grid / rate_hz, np.arange(half + 1)))
    basis[:, 1:] *= 2
    wanted = _prototype(grid, letter) / np.abs(low)
    weight = 1 / wanted  # equal error in dB everywhere
    taps, *_ = np.linalg.lstsq(basis * weight[:, None], wanted * weight, rcond=None)
    symmetric = np.concatenate([taps[:0:-1], taps])
    # without delay, so that a window in time holds what it says
    return sos, scipy.signal.minimum_phase(symmetric, n_fft=8192, half=False)


class Weighting:
    """A weighting that runs over blocks: call with (channels, samples), get the same shape back, weighted."""

    def __init__(self, letter: Letter, rate_hz: float, channels: int) -> None:
        self.sos, self.taps = _design(letter, rate_hz)
        self.state = np.zeros((self.sos.shape[0], channels, 2))
        self.tail = np.zeros((channels, self.taps.size - 1))

    def __call__(self, block: Floats) -> Floats:
        """The block weighted, as the continuation of those before."""
        out, self.state = scipy.signal.sosfilt(self.sos, block, zi=self.state)
        out, self.tail = scipy.signal.lfilter(self.taps, [1.0], out, axis=1, zi=self.tail)
        return np.asarray(out)


def gain_db(letter: Letter, rate_hz: float, frequency_hz: Floats) -> Floats:
    """What the digital weighting really does at frequencies below half the sampling rate, dB."""
    sos, taps = _design(letter, rate_hz)
    _, a = scipy.signal.sosfreqz(sos, frequency_hz, fs=rate_hz)
    _, b = scipy.signal.freqz(taps, 1, frequency_hz, fs=rate_hz)
    return np.asarray(20 * np.log10(np.abs(a * b)))


class Exponential:
    """F or S time weighting of squared pressure over blocks (IEC 61672-1:2013, 3.8); starts from silence."""

    def __init__(self, time_constant_s: float, rate_hz: float, channels: int) -> None:
        self.keep = float(np.exp(-1 / (time_constant_s * rate_hz)))
        self.state = np.zeros((channels, 1))

    def __call__(self, squared: Floats) -> Floats:
        """Running mean square, same shape (channels, samples)."""
        out, self.state = scipy.signal.lfilter([1 - self.keep], [1, -self.keep], squared, zi=self.state)
        return np.asarray(out)
