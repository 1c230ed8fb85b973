"""Figures of a recording: what a meter would show, per step of time, over any window of it."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput
from .bands import NOMINAL_HZ, Floats
from .bank import LEAST, STEP_S, Bank, Steps, kept_awake, mean_square
from .comparison import Caution
from .logs import percentiles, rounded, steady_stretch
from .run_figures import Bands, RecordingAnalysis
from .weighting import TIME_CONSTANT_S, Exponential, Weighting

_workers = ThreadPoolExecutor(2)  # the bands of a block are filtered beside its levels

SINE_OFFSET_DB = 10 * math.log10(2)  # a sine of peak 1 has a mean square of one half
LEAST_POWER = 1e-20
CLIP_RUN = 3  # so many samples in a row at full scale are clipping; fewer may be the top of a wave
SHORT_S, QUIET_DB, OFFSET_SHARE = 5.0, -80.0, 0.02


class History(NamedTuple):
    """A recording per step of STEP_S, as mean squares (full scale 1): A, C, Z, F at the step's end, maxima, bands."""

    duration_s: float
    channels: int
    a: Floats
    c: Floats
    z: Floats
    fast: Floats
    fast_max: Floats
    slow_max: Floats
    bands: Floats
    clipped_samples: int
    offset: float
    cut_short: bool = False


class Meter:
    """Takes a recording in blocks (channels, samples) and keeps its history; memory grows with steps only.

    Without ``bands`` somebody else filters them, and hands them to ``history``.
    """

    def __init__(self, rate_hz: float, channels: int, full_scale: float = 1.0, least: int = LEAST, bands: bool = True) -> None:
        self.rate_hz, self.channels, self.full_scale = rate_hz, channels, full_scale
        self.weightings = {letter: Weighting(letter, rate_hz, channels) for letter in ("A", "C", "Z")}
        self.means = {letter: Steps(rate_hz) for letter in self.weightings}
        self.fast, self.slow = (Exponential(TIME_CONSTANT_S[k], rate_hz, 1) for k in "FS")
        self.fast_end, self.fast_max, self.slow_max = (Steps(rate_hz, k) for k in ("last", "max", "max"))
        self.bank = Bank(rate_hz, channels, least) if bands else None
        self.samples, self.clipped, self.sum = 0, 0, 0.0
        self.runs = [0] * channels  # samples at full scale in a row at the end of the last block

    def feed(self, block: Floats) -> None:
        """Take the next block in. Raises BadInput for samples that are no numbers."""
        if not np.isfinite(block).all():
            raise BadInput("it holds samples that are no numbers", f"after {self.samples / self.rate_hz:.1f} s",
                           "record or export it again")
        bands = None if self.bank is None else _workers.submit(self.bank.feed, block)
        self._levels(block)
        if bands is not None:
            bands.result()

    def _levels(self, block: Floats) -> None:
        self.samples += block.shape[1]
        heard = kept_awake(block)
        self.sum += float(block.sum())
        for channel, row in enumerate(np.abs(block) >= self.full_scale):
            new, self.runs[channel] = clipped_in(row, self.runs[channel])
            self.clipped += new
        for letter, weighting in self.weightings.items():
            squared = mean_square(weighting(heard))
            self.means[letter].add(squared)
            if letter == "A":
                fast = self.fast(squared[None, :])[0]
                self.fast_end.add(fast)
                self.fast_max.add(fast)
                self.slow_max.add(self.slow(squared[None, :])[0])

    def history(self, bands: Floats | None = None) -> History:
        """Everything so far. BadInput when it is less than one step."""
        if self.samples < self.rate_hz * STEP_S:
            raise BadInput(f"the recording lasts {self.samples / self.rate_hz:.3f} s", "", f"record {SHORT_S:g} s or more")
        return History(
            duration_s=self.samples / self.rate_hz, channels=self.channels, a=self.means["A"].result(),
            c=self.means["C"].result(), z=self.means["Z"].result(), fast=self.fast_end.result(),
            fast_max=self.fast_max.result(), slow_max=self.slow_max.result(),
            bands=self.bands() if bands is None else bands[:, : self.means["A"].size],
            clipped_samples=self.clipped, offset=self.sum / self.samples / self.channels,
        )

    def bands(self) -> Floats:
        """Mean square per band and step so far; unknown where somebody else filters them."""
        return np.full((len(NOMINAL_HZ), self.means["A"].size), math.nan) if self.bank is None else self.bank.result()


def clipped_in(top: NDArray[np.bool_], run: int) -> tuple[int, int]:
    """Samples newly known to sit in a run of CLIP_RUN or more at full scale, and the run that is open at the end.

    ``top`` marks the samples of one channel that reach full scale; ``run`` is the run open before them.
    """
    if not run and not top.any():
        return 0, 0
    edges = np.flatnonzero(np.diff(np.concatenate([[False], top, [False]]).astype(np.int8)))
    starts, ends = edges[::2], edges[1::2]
    lengths = ends - starts
    count = 0
    if run and starts.size and starts[0] == 0:
        whole = run + int(lengths[0])
        count = 0 if whole < CLIP_RUN else int(lengths[0]) + (run if run < CLIP_RUN else 0)
        lengths[0] = whole
        rest = lengths[1:]
    else:
        rest = lengths
    count += int(rest[rest >= CLIP_RUN].sum())
    still_open = bool(ends.size) and ends[-1] == top.size
    return count, int(lengths[-1]) if still_open else 0


def decibels(power: Floats, gain_db: float) -> Floats:
    """Levels of mean squares, dB; silence stays finite, NaN stays NaN."""
    return np.asarray(10 * np.log10(np.maximum(power, LEAST_POWER)) + gain_db)


def weights(history: History, start_s: float, end_s: float) -> Floats:
    """Seconds of each step that lie in the window, shape (steps,)."""
    begins = np.arange(history.a.size) * STEP_S
    ends = np.minimum(begins + STEP_S, history.duration_s)
    return np.asarray(np.clip(np.minimum(ends, end_s) - np.maximum(begins, start_s), 0.0, None))


def analyse_recording(
    history: History, full_scale_db: float | None, window_s: tuple[float | None, float | None] = (None, None),
    steady: bool = False,
) -> RecordingAnalysis:
    """Figures over from ≤ t < to. ``full_scale_db``: what a sine of peak 1 reads; None: relative levels.

    Raises BadInput when nothing lies in the window.
    """
    gain = SINE_OFFSET_DB + (full_scale_db or 0.0)
    start = max(0.0, window_s[0] or 0.0)
    end = history.duration_s if window_s[1] is None else min(window_s[1], history.duration_s)
    weight = weights(history, start, end)
    if not weight.sum() > 0:
        raise BadInput(f"nothing lies between {start:g} and {end:g} s", "--from/--to",
                       f"the recording runs from 0 to {history.duration_s:g} s")
    if steady:
        inside = np.flatnonzero(weight)
        first, last = steady_stretch(decibels(history.a[inside], gain))
        start, end = max(start, inside[first] * STEP_S), min(end, (inside[last - 1] + 1) * STEP_S)
        weight = weights(history, start, end)

    def level(power: Floats) -> float:
        return float(decibels(np.asarray(np.average(power, weights=weight)), gain))
    ends = np.minimum((np.arange(history.a.size) + 1) * STEP_S, history.duration_s)
    whole = (ends > start + 1e-9) & (ends <= end + 1e-9) & (weight >= 0.99 * np.max(weight))
    whole = whole if whole.any() else weight > 0
    l90, l50, l10 = percentiles(decibels(history.fast[whole], gain))
    band_levels = decibels(np.average(history.bands, axis=1, weights=weight), gain)
    return RecordingAnalysis(
        duration_s=rounded(end - start), window_s=(rounded(start), rounded(end)), calibrated=full_scale_db is not None,
        channels=history.channels, LAeq=rounded(level(history.a)), LCeq=rounded(level(history.c)),
        LZeq=rounded(level(history.z)), LAFmax=rounded(float(decibels(history.fast_max[whole].max(), gain))),
        LASmax=rounded(float(decibels(history.slow_max[whole].max(), gain))),
        L10=rounded(l10), L50=rounded(l50), L90=rounded(l90), clipped_samples=history.clipped_samples,
        bands=Bands(frequency_hz=NOMINAL_HZ,
                    level_db=tuple(rounded(float(v)) if math.isfinite(v) else None for v in band_levels)),
        cautions=tuple(_cautions(history, end - start)),
    )


def _cautions(history: History, length_s: float) -> list[Caution]:
    out = []
    if history.cut_short:
        out.append(Caution(rule="cut-short", text="The file ends before its header says: only what is there was read."))
    if history.clipped_samples:
        out.append(Caution(rule="clipped", text=f"{history.clipped_samples} samples are clipped: the levels are too low. "
                                                "Turn the gain down and record again."))
    loud = 10 * math.log10(max(float(np.mean(history.z)), LEAST_POWER)) + SINE_OFFSET_DB
    if loud < QUIET_DB:
        out.append(Caution(rule="too-quiet", text=f"The recording lies {-loud:.0f} dB below full scale: what is read may "
                                                  "be the recorder's own noise."))
    if abs(history.offset) > OFFSET_SHARE:
        out.append(Caution(rule="offset", text=f"The recording is offset by {100 * abs(history.offset):.0f} % of full "
                                               "scale; it is taken off, but the recorder may be faulty."))
    if length_s < SHORT_S:
        out.append(Caution(rule="too-short", text=f"{length_s:.1f} s is short: low bands rest on few cycles; "
                                                  "record ten seconds or more."))
    return out


TONE_SHARE, TONE_SPREAD_DB = 0.9, 0.5


def calibrator_level(history: History) -> float:
    """Level of a calibrator's tone re a full-scale sine, dB. BadInput when it is no steady single tone."""
    bands = np.nan_to_num(history.bands)
    inner = bands[:, 1:-1] if bands.shape[1] > 12 else bands
    total = inner.mean(axis=1)
    top = int(np.argmax(total))
    near = total[max(0, top - 1) : top + 2].sum()
    if near < TONE_SHARE * total.sum() or near <= LEAST_POWER:
        raise BadInput("there is no single tone in it", "calibration", "record the calibrator alone, seated tightly")
    tone = 10 * np.log10(np.maximum(inner[top], LEAST_POWER))
    quiet = tone < np.median(tone) - 1  # before the calibrator was on, or after
    first, last = np.flatnonzero(~quiet)[[0, -1]]
    steady = history.z[1:-1][first : last + 1] if bands.shape[1] > 12 else history.z
    trimmed = steady[4:-4] if steady.size > 16 else steady
    if np.std(10 * np.log10(np.maximum(trimmed, LEAST_POWER))) > TONE_SPREAD_DB:
        raise BadInput("the tone is not steady", "calibration", "record the calibrator again, without touching it")
    return 10 * math.log10(float(trimmed.mean())) + SINE_OFFSET_DB
