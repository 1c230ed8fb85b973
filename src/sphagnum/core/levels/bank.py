"""One-third-octave filter bank that halves the sampling rate as it goes down, and energies per step of time."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np
import scipy  # loads its parts where they are used: signals take a second
from numpy.typing import NDArray

from .bands import NOMINAL_HZ, Floats, exact_hz

STEP_S = 0.125
LEAST = 1 << 16
"""Samples a stage waits for: many short calls cost more than the filtering."""
ORDER = 4  # of the low-pass prototype; order 3 misses the class 1 skirts near half the sampling rate
HIGHEST_CENTRE = 0.42  # of a stage's rate; above it a band is filtered one stage earlier
EDGE = 10 ** (3 / 60)  # band edge over mid-band frequency, base ten (IEC 61260-1:2014, 5.4)


HISS = 1e-25 * np.random.default_rng(1).choice([-1.0, 1.0], 1 << 16)
"""Far below anything that is read (a power of 1e-50 re full scale), and far above where processors begin to crawl."""


def kept_awake(block: Floats) -> Floats:
    """A block (channels, samples) with the faintest noise in it.

    After sound, digital silence lets filters fade into numbers so small that every step with them costs thirty times as much.
    """
    return np.asarray(block + _hiss(block.shape[1]))


@lru_cache(maxsize=2)  # what is read comes in blocks of one size and a rest
def _hiss(samples: int) -> Floats:
    return np.resize(HISS, samples)


class Stage(NamedTuple):
    """Bands filtered at one sampling rate: (index into NOMINAL_HZ, sections) of each."""

    rate_hz: float
    bands: tuple[tuple[int, Floats], ...]


@lru_cache(maxsize=16)
def stages(rate_hz: float) -> tuple[Stage, ...]:
    """The stages for a sampling rate, highest first. Bands whose upper edge passes half the rate are left out."""
    left = [i for i, f in enumerate(NOMINAL_HZ) if exact_hz(f) * EDGE < rate_hz / 2]
    out = []
    while left:
        here = [i for i in left if exact_hz(NOMINAL_HZ[i]) > HIGHEST_CENTRE * rate_hz / 2]
        bands = tuple((i, scipy.signal.butter(ORDER, [exact_hz(NOMINAL_HZ[i]) / EDGE, exact_hz(NOMINAL_HZ[i]) * EDGE],
                                        "band", fs=rate_hz, output="sos")) for i in here)
        out.append(Stage(rate_hz, bands))
        left = [i for i in left if i not in here]
        rate_hz /= 2
    return tuple(out)


@lru_cache(maxsize=1)
def halving() -> Floats:
    """Low-pass before every second sample is dropped: flat to 0.236 of the rate, 80 dB down from 0.264 on."""
    sos = scipy.signal.ellip(12, 0.002, 80, 0.238, fs=1.0, output="sos")
    gain = np.prod(sos[:, :3].sum(axis=1) / sos[:, 3:].sum(axis=1))
    sos[0, :3] /= gain
    return np.asarray(sos)


class Steps:
    """Mean, maximum or last value of a signal per step of STEP_S, at any sampling rate."""

    def __init__(self, rate_hz: float, how: Literal["mean", "max", "last"] = "mean") -> None:
        self.per_step = rate_hz * STEP_S
        self.how = how
        self.seen = 0
        self.values = np.zeros(64)

    def _bounds(self, first: int, last: int) -> NDArray[np.int_]:
        """First samples of steps ``first`` … ``last``."""
        return np.asarray(np.ceil(np.arange(first, last + 1) * self.per_step - 1e-6), dtype=int)

    def add(self, values: Floats) -> None:
        """Add samples, shape (samples,)."""
        n = values.size
        if not n:
            return
        first, last = int(self.seen / self.per_step + 1e-9), int((self.seen + n - 1) / self.per_step + 1e-9)
        while last >= self.values.size:
            self.values = np.concatenate([self.values, np.zeros(self.values.size)])
        starts = np.concatenate([[0], self._bounds(first + 1, last) - self.seen])
        into = slice(first, last + 1)
        if self.how == "mean":
            self.values[into] += np.add.reduceat(values, starts)
        elif self.how == "max":
            self.values[into] = np.maximum(self.values[into], np.maximum.reduceat(values, starts))
        else:
            self.values[into] = values[np.concatenate([starts[1:], [n]]) - 1]
        self.seen += n

    @property
    def size(self) -> int:
        """Steps begun so far."""
        return 0 if not self.seen else int((self.seen - 1) / self.per_step + 1e-9) + 1

    def result(self) -> Floats:
        """Value per step, the last one over what there is of it, shape (size,)."""
        n = self.size
        if self.how != "mean":
            return self.values[:n].copy()
        counts = np.diff(np.minimum(self._bounds(0, n), self.seen))
        return np.asarray(self.values[:n] / np.maximum(counts, 1))


def mean_square(block: Floats) -> Floats:
    """Square averaged over the channels of (channels, samples), shape (samples,)."""
    return np.square(block[0]) if block.shape[0] == 1 else np.asarray(np.mean(np.square(block), axis=0))


class Bank:
    """Mean square per band and step of a signal that comes in blocks (channels, samples), averaged over channels.

    A stage waits until it has ``least`` samples. Live use asks for few.
    """

    def __init__(self, rate_hz: float, channels: int, least: int = LEAST) -> None:
        self.plan = stages(rate_hz)
        self.least = least
        self.state = {i: np.zeros((ORDER, channels, 2)) for stage in self.plan for i, _ in stage.bands}
        self.halve = [np.zeros((halving().shape[0], channels, 2)) for _ in self.plan]
        self.odd = [0] * len(self.plan)
        self.waiting: list[list[Floats]] = [[] for _ in self.plan]
        self.steps = {i: Steps(stage.rate_hz) for stage in self.plan for i, _ in stage.bands}

    def feed(self, block: Floats) -> None:
        """Take the next block in."""
        self._stage(0, kept_awake(block), self.least)

    def _stage(self, k: int, block: Floats, least: int) -> None:
        if k == len(self.plan):
            return
        self.waiting[k].append(block)
        if sum(b.shape[1] for b in self.waiting[k]) < least:
            return
        block = np.concatenate(self.waiting[k], axis=1)
        self.waiting[k] = []
        if block.shape[1]:
            for i, sos in self.plan[k].bands:
                out, self.state[i] = scipy.signal.sosfilt(sos, block, zi=self.state[i])
                self.steps[i].add(mean_square(out))
            block, self.halve[k] = scipy.signal.sosfilt(halving(), block, zi=self.halve[k])
            kept = block[:, self.odd[k]::2]
            self.odd[k] = (self.odd[k] + block.shape[1]) % 2
            block = kept
        self._stage(k + 1, block, least)

    def result(self) -> Floats:
        """Mean square so far, shape (33, steps); NaN for bands above half the sampling rate."""
        for k in range(len(self.plan)):
            self._stage(k, np.zeros((self.halve[k].shape[1], 0)), 0)
        n = max((s.size for s in self.steps.values()), default=0)
        out = np.full((len(NOMINAL_HZ), n), math.nan)
        for i, steps in self.steps.items():
            got = steps.result()
            out[i, :] = 0.0
            out[i, : got.size] = got
        return out
