"""The drum note: knocks in a recording, the frequencies that ring after them, how long, and the loss factor that means."""

from __future__ import annotations

import math

import numpy as np
import scipy  # loads its parts where they are used: signals take a second

from ..errors import BadInput
from ..schema import Strict
from .bands import NOMINAL_HZ, Floats, exact_hz
from .bank import EDGE

FRAME_S = 0.004
APART_S = 0.25
RISE_DB, FIT_FROM_DB, FIT_TO_DB = 20.0, 3.0, 23.0
LEAST_HZ, MOST_HZ = 50.0, 4000.0
MOST_NOTES = 3


class Note(Strict):
    """One frequency that rings: mean over the knocks, and their standard deviation (None for one knock)."""

    frequency_hz: float
    decay_time_s: float
    loss_factor: float
    deviation_s: float | None
    knocks: int


class Ring(Strict):
    """What the knocks of one recording tell; ``low_share`` is the energy up to 250 Hz."""

    knocks: int
    notes: tuple[Note, ...]
    peak_db: float
    low_share: float
    high_share: float


def find_knocks(samples: Floats, rate_hz: float) -> list[int]:
    """First samples of knocks: where the level jumps by RISE_DB over what was before, at least APART_S apart."""
    frame = max(1, round(FRAME_S * rate_hz))
    power = np.add.reduceat(np.square(samples), np.arange(0, samples.size, frame)) / frame
    level = 10 * np.log10(np.maximum(power, 1e-16))
    loud = float(level.max())
    apart = round(APART_S / FRAME_S)
    found: list[int] = []
    for i in range(1, level.size):
        before = level[max(0, i - apart) : i].min()
        if level[i] >= before + RISE_DB and level[i] >= loud - 25 and (not found or i * frame - found[-1] >= apart * frame):
            found.append(i * frame)
    return found


def decay_time(envelope_db: Floats, step_s: float) -> float | None:
    """Time for 60 dB of decay, s, from the straight fall between 3 and 23 dB under the top; None where it does not fall so far.

    ``envelope_db``: level from the top on, at equal steps (the manner of ISO 3382-2, evaluated over 20 dB).
    """
    under = envelope_db.max() - envelope_db
    start = int(np.argmax(under >= FIT_FROM_DB))
    reached = np.flatnonzero(under >= FIT_TO_DB)
    if not reached.size or reached[0] - start < 4:
        return None
    part = envelope_db[start : reached[0] + 1]
    slope = float(np.polyfit(np.arange(part.size) * step_s, part, 1)[0])
    return -60 / slope if slope < 0 else None


def analyse_ring(samples: Floats, rate_hz: float, full_scale_db: float | None = None) -> Ring:
    """Ring frequencies and decay of the knocks in one channel. BadInput when there is none.

    The loss factor is 2.2/(f·T60).
    """
    starts = find_knocks(samples, rate_hz)
    if not starts:
        raise BadInput("no knock stands out in it", "recording", "knock once a second in a quiet place, and record again")
    tails = [samples[a : b] for a, b in zip(starts, [*starts[1:], samples.size], strict=True)]
    bands = [f for f in NOMINAL_HZ if LEAST_HZ <= f <= min(MOST_HZ, rate_hz / 2 / EDGE / 1.1)]
    times: dict[float, list[float]] = {}
    energies = np.zeros(len(bands))
    for i, f in enumerate(bands):
        centre = exact_hz(f)
        sos = scipy.signal.butter(2, [centre / EDGE, centre * EDGE], "band", fs=rate_hz, output="sos")
        for tail in tails:
            # run backwards, so that the filter's own ringing does not pass for the panel's (Jacobsen and Rindel 1987)
            band = scipy.signal.sosfilt(sos, tail[::-1])[::-1]
            energies[i] += float(np.sum(np.square(band)))
            found = _decay_of(band, rate_hz, centre)
            if found is not None:
                times.setdefault(f, []).append(found)
    # a note's energy spills into the neighbours of its band; only bands that top both are notes of their own
    around = np.pad(energies, 1)
    tops = (energies >= around[:-2]) & (energies >= around[2:])
    order = [i for i in np.argsort(-energies) if tops[i] and bands[i] in times and len(times[bands[i]]) * 2 >= len(tails)]
    notes = []
    for i in order[:MOST_NOTES]:
        if energies[i] < energies.max() / 100:
            break
        t = np.array(times[bands[i]])
        f = _peak_hz(tails, rate_hz, exact_hz(bands[i]))
        notes.append(Note(frequency_hz=round(f, 1), decay_time_s=round(float(t.mean()), 4), knocks=t.size,
                          loss_factor=round(2.2 / (f * float(t.mean())), 4),
                          deviation_s=round(float(t.std(ddof=1)), 4) if t.size > 1 else None))
    if not notes:
        raise BadInput("the knocks do not ring down far enough to be read", "recording", "knock harder, or in a quieter place")
    total = float(energies.sum())
    low = float(energies[np.array(bands) <= 250].sum()) / total
    peak = 20 * math.log10(float(np.abs(samples).max())) + (full_scale_db or 0.0)
    return Ring(knocks=len(tails), notes=tuple(notes), peak_db=round(peak, 1), low_share=round(low, 3),
                high_share=round(float(energies[np.array(bands) >= 1000].sum()) / total, 3))


def _decay_of(band: Floats, rate_hz: float, centre: float) -> float | None:
    """Decay time of one band after one knock, by backward integration less the noise of the tail's end."""
    squared = np.square(band)
    noise = float(np.median(squared[-max(1, squared.size // 10):]))
    energy = np.cumsum((squared - noise)[::-1])[::-1]
    step = max(1, round(rate_hz / centre / 2))
    curve = energy[::step]
    end = int(np.argmax(curve <= curve.max() * 1e-4)) or curve.size
    return decay_time(10 * np.log10(np.maximum(curve[:end], 1e-30)), step / rate_hz)


def _peak_hz(tails: list[Floats], rate_hz: float, centre: float) -> float:
    """Frequency of the strongest line within a band over all knocks, Hz (parabola through the top of the spectrum)."""
    size = 1 << math.ceil(math.log2(max(rate_hz * 2, *(t.size for t in tails))))
    power = np.sum([np.square(np.abs(np.fft.rfft(t, size))) for t in tails], axis=0)
    low, high = (int(centre * x * size / rate_hz) for x in (1 / EDGE, EDGE))
    k = low + int(np.argmax(power[low : high + 1]))
    a, b, c = (math.log(max(power[j], 1e-30)) for j in (k - 1, k, k + 1))
    shift = 0.5 * (a - c) / (a - 2 * b + c) if a - 2 * b + c else 0.0
    return (k + shift) * rate_hz / size
