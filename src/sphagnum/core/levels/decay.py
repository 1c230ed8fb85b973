"""Reverberation from a recording: what an impulse or a stopped noise leaves in a room, per octave (ISO 3382-2)."""

from __future__ import annotations

import math
from typing import Final, Literal, NamedTuple

import numpy as np
import scipy  # loads its parts where they are used: signals take a second

from ..errors import BadInput
from ..schema import Strict
from .bands import Floats
from .ring import find_knocks
from .rows import LEAST_S, MOST_S

OCTAVES_HZ: Final = (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0)
FRAME_S, LEVEL_S = 0.002, 0.01
STEADY_S, LEVEL_WITHIN_DB = 0.5, 2.0
"""A noise that is stopped has stood this long, falling by no more than this."""
FIT_FROM_DB = 5.0
NEEDS_DB: Final = {20.0: 35.0, 30.0: 45.0}
"""How far the noise must lie below the top for a fit over so much of the fall (ISO 3382-2:2008, 5.3.3)."""
LEAST_BT: Final = {"impulse": 4.0, "stopped noise": 20.0}
"""Bandwidth times T under which a filter run backwards bends the fall (ISO 3382-2:2008, 7.3), or a noise falls by chance."""
MOST_HIDDEN, MOST_DOUBT = 0.03, 0.018
PEAK_DB = 5.0
"""A single frame of a fall stands about so much over its mean."""
AHEAD_S = 0.1
"""A filter run backwards rings ahead of an impulse; that energy is the impulse's too."""
KNEE_DB = 2.0
KNEE_SHARE = 10 ** (KNEE_DB / 10) - 1
"""What of the fall is left there, in shares of the noise."""
LEAST_NOISE_S = 0.15
MOST_POINTS = 160
IMPULSE_COUNTS_FOR = 10
"""Decays of stopped noise that one integrated impulse is worth."""

Excitation = Literal["impulse", "stopped noise"]


class OctaveDecay(Strict):
    """The fall in one octave: T20 and T30 (s), None where the recording does not tell, and ``why``. ``uncertainty_s``: standard,
    of T20 by the chance of the fall itself. ``curve_db``: the first decay, under its top, each ``step_s``."""

    frequency_hz: float
    t20_s: float | None
    t30_s: float | None
    uncertainty_s: float | None
    dynamic_db: float
    curvature_percent: float | None
    decays: int
    why: str
    curve_db: tuple[float, ...]
    step_s: float


class Decay(Strict):
    """What the decays of one recording tell; a clap is an impulse of little below 250 Hz."""

    excitation: Excitation
    decays: int
    octaves: tuple[OctaveDecay, ...]


class _Fall(NamedTuple):
    """A fall as it is taken to be, and as it would be with less and more of what the noise hides."""

    curve_db: Floats
    dynamic_db: float
    otherwise: tuple[Floats, ...] = ()
    doubt_db: Floats | None = None
    """Standard uncertainty of each point by what beats between the fall and the noise."""


def analyse_decay(samples: Floats, rate_hz: float, excitation: Excitation | None = None) -> Decay:
    """T20 and T30 per octave 125–4000 Hz of one channel. BadInput where nothing in it dies away by 20 dB.

    An impulse is squared and integrated backwards, less its noise, to where it drowns in it, with what is cut off there added
    (ISO 3382-2:2008, 5.3; Lundeby and others 1995); a stopped noise is fitted as it falls. Fits begin 5 dB under the top.
    """
    if samples.size < 0.2 * rate_hz or not np.isfinite(samples).all() or float(np.abs(samples).max()) <= 0:
        raise BadInput("there is nothing in it that dies away", "recording", "record a clap, a balloon, or a noise that stops")
    stops = [] if excitation == "impulse" else _stops(samples, rate_hz)
    excitation = excitation or ("stopped noise" if stops else "impulse")
    starts = stops if excitation == "stopped noise" else find_knocks(samples, rate_hz)
    if not starts:
        raise BadInput("nothing in it stands out and dies away", "recording", "clap once every few seconds in a quiet room")
    ends = [*(b - round(AHEAD_S * rate_hz) for b in starts[1:]), samples.size]
    if excitation == "stopped noise":
        ends = [min(e, _rises(samples, a, rate_hz)) for a, e in zip(starts, ends, strict=True)]
    octaves = tuple(_octave(samples, rate_hz, f, list(zip(starts, ends, strict=True)), excitation)
                    for f in OCTAVES_HZ if f * math.sqrt(2) < 0.45 * rate_hz)
    if all(o.t20_s is None for o in octaves):
        most = max((o.dynamic_db for o in octaves), default=0.0)
        raise BadInput(f"it falls by {max(most, 0.0):.0f} dB before it drowns in the noise; 35 dB are needed", "recording",
                       "make it louder, or wait for quiet")
    return Decay(excitation=excitation, decays=len(starts), octaves=octaves)


def _levels(samples: Floats, rate_hz: float) -> Floats:
    step = max(1, round(LEVEL_S * rate_hz))
    power = np.square(samples[: samples.size // step * step]).reshape(-1, step).mean(axis=1)
    return np.asarray(10 * np.log10(np.maximum(power, 1e-20)))


def _stops(samples: Floats, rate_hz: float) -> list[int]:
    """First samples after each stretch in which a noise stood."""
    level = _levels(samples, rate_hz)
    n = round(STEADY_S / LEVEL_S)
    if level.size < 2 * n:
        return []
    smooth = np.convolve(level, np.full(5, 0.2), "same")
    loud = smooth >= float(np.percentile(smooth, 95)) - 8
    found, begun = [], None
    for i, on in enumerate([*loud.tolist(), False]):
        if on and begun is None:
            begun = i
        elif not on and begun is not None:
            run = level[begun:i]
            begun = None
            if run.size < n:
                continue
            fifth = run.size // 5
            falls = float(run[fifth : 2 * fifth].mean() - run[3 * fifth : 4 * fifth].mean())
            if abs(falls) <= LEVEL_WITHIN_DB and i < level.size - 5:
                found.append(round((i - 1) * LEVEL_S * rate_hz))
    return found


def _rises(samples: Floats, start: int, rate_hz: float) -> int:
    """Where what fell from ``start`` on is drowned by something new: 15 dB over the least since."""
    level = _levels(samples[start:], rate_hz)
    smooth = np.convolve(level, np.full(5, 0.2), "same")
    fallen = np.minimum.accumulate(smooth)
    again = np.flatnonzero((smooth > fallen + 15) & (fallen < smooth[0] - 15))
    return samples.size if not again.size else start + round(int(again[0]) * LEVEL_S * rate_hz)


def _octave(samples: Floats, rate_hz: float, f: float, parts: list[tuple[int, int]], excitation: Excitation) -> OctaveDecay:
    sos = scipy.signal.butter(4, [f / math.sqrt(2), f * math.sqrt(2)], "band", fs=rate_hz, output="sos")
    falls, times = [], {20.0: list[float](), 30.0: list[float]()}
    for start, end in parts:
        before = max(0, start - round((STEADY_S if excitation == "stopped noise" else AHEAD_S) * rate_hz))
        # run backwards, so that the filter's own ringing does not pass for the room's (Jacobsen and Rindel 1987)
        band = scipy.signal.sosfilt(sos, samples[before:end][::-1])[::-1]
        step = max(1, round(FRAME_S * rate_hz))
        if band.size < 20 * step:
            continue
        power = np.square(band[: band.size // step * step]).reshape(-1, step).mean(axis=1)
        fall = (_integrated(power, 0.71 * f) if excitation == "impulse"
                else _as_it_falls(power, (start - before) // step, 0.71 * f))
        falls.append(fall)
        for span, found in times.items():
            one = _sure_time(fall, span)
            if one is not None and LEAST_S <= one <= MOST_S and one * 0.71 * f >= LEAST_BT[excitation]:
                found.append(one)
    t20, t30 = (float(np.mean(x)) if x else None for x in times.values())
    n = len(times[20.0])
    worth = IMPULSE_COUNTS_FOR if excitation == "impulse" else 1
    dynamic = max((x.dynamic_db for x in falls), default=0.0)
    return OctaveDecay(
        frequency_hz=f, t20_s=None if t20 is None else round(t20, 3), t30_s=None if t30 is None else round(t30, 3), decays=n,
        uncertainty_s=None if t20 is None else round(chance_s(t20, f, n, worth), 3), dynamic_db=round(dynamic, 1),
        curvature_percent=None if t20 is None or t30 is None else round(100 * (t30 / t20 - 1), 1),
        why="" if t20 is not None else _why(dynamic), **_drawn(falls))


def chance_s(t20_s: float, frequency_hz: float, places: int, decays: float = 1) -> float:
    """Standard uncertainty of T20 of an octave by the chance of the fall, s: 0.88·T·√((1 + 1.9/n)/(N·B·T)), B = 0.71·f
    (ISO 3382-2:2008, annex A, recalled)."""
    return 0.88 * t20_s * math.sqrt((1 + 1.9 / max(decays, 1)) / (places * 0.71 * frequency_hz * t20_s))


def _why(dynamic_db: float) -> str:
    if dynamic_db < NEEDS_DB[20.0]:
        return f"it stands only {max(dynamic_db, 0):.0f} dB over its noise; {NEEDS_DB[20.0]:.0f} dB are needed"
    return "it falls too fast, too slowly or too unsteadily to be read"


def _integrated(power: Floats, bandwidth_hz: float) -> _Fall:
    """An impulse squared, in frames: its energy still to come, dB under all of it, to where it drowns in the noise."""
    noise, knee, tau = _knee(power, bandwidth_hz)
    top = float(power[: max(3, round(tau / 4)) + int(np.argmax(power))].max())
    heard = max(power.size - knee, power.size // 10) * FRAME_S
    unsure = min(1.5 / math.sqrt(max(bandwidth_hz * heard, 1.0)), 0.5)

    def to_come(share: float, hidden: float) -> Floats:
        """With so much of the noise taken off, and so much of what is cut off (an exponential from the noise on) added."""
        kept = np.cumsum((power[:knee] - noise * share)[::-1])[::-1]
        return np.maximum(kept + noise * KNEE_SHARE * tau * hidden, 1e-30)

    energy, *others = to_come(1, 1), to_come(1 + unsure, 0.6), to_come(1 - unsure, 1.6)
    return _Fall(_under(energy), min(10 * math.log10(max(top, 1e-30) / max(noise, 1e-30)) - PEAK_DB, 120.0),
                 tuple(_under(x) for x in others), 20 / math.log(10) * np.sqrt(noise / (bandwidth_hz * FRAME_S * energy)))


def _under(energy: Floats) -> Floats:
    return np.asarray(10 * np.log10(energy / energy[0]))


def _knee(tail: Floats, bandwidth_hz: float) -> tuple[float, int, float]:
    """Noise, the frame in which the fall is down to it, and the frames it takes to fall by e just before (after Lundeby and
    others 1995). The noise is that of the recording's end; what is looked at is smoothed, so that chance in a narrow band is no
    knee."""
    noise = float(np.mean(tail[-max(round(LEAST_NOISE_S / FRAME_S), tail.size // 8) :]))
    floor = 10 * math.log10(max(noise, 1e-30))
    least = max(3, round(4 / bandwidth_hz / FRAME_S))
    knee, tau, wide = tail.size, tail.size / 8, least
    for _ in range(3):
        smooth = np.convolve(tail, np.full(wide, 1 / wide), "same")
        level = 10 * np.log10(np.maximum(smooth, 1e-30))
        first = int(np.argmax(level))
        under = np.flatnonzero(level[first:] < floor + KNEE_DB)
        knee = first + (int(under[0]) if under.size else level.size - first - 1)
        above = 10 * np.log10(np.maximum(smooth[first:knee] - noise, 1e-30))
        late = np.flatnonzero(above > floor + 18)
        begin = int(late[-1]) if late.size else 0
        if above.size - begin < 4:
            break
        slope = float(np.polyfit(np.arange(begin, above.size), above[begin:], 1)[0])
        if slope >= -1e-9:
            break
        tau = -10 / math.log(10) / slope
        wide = max(least, min(round(tau / 2), 250))
    return noise, max(4, knee), tau


def _as_it_falls(power: Floats, stop: int, bandwidth_hz: float) -> _Fall:
    """A noise that was stopped at a frame, as it falls: dB under what stood before, smoothed to a sixth of the time it takes to
    fall by e, to 5 dB over the noise."""
    stood = float(power[max(0, stop - round(0.4 / FRAME_S)) : max(1, stop - round(0.02 / FRAME_S))].mean())
    tail = power[stop:]
    noise, knee, tau = _knee(tail, bandwidth_hz)
    wide = max(1, min(round(tau / 6), 100))
    smooth = np.convolve(np.maximum(tail - noise, 0), np.full(wide, 1 / wide), "valid")
    end = max(1, min(smooth.size, knee - round(1.15 * tau) - wide))
    return _Fall(10 * np.log10(np.maximum(smooth[:end], 1e-30) / max(stood, 1e-30)), 10 * math.log10(stood / max(noise, 1e-30)))


def _time(fall: _Fall, span_db: float) -> float | None:
    """Time of 60 dB, s, from the straight line over ``span_db`` from 5 dB under the top; None where the noise is too near.

    What is fitted is found by the line itself, so that a chance dip of a noise neither begins nor ends it.
    """
    if fall.dynamic_db < NEEDS_DB[span_db]:
        return None
    curve = fall.curve_db
    start, reached = int(np.argmax(curve <= -FIT_FROM_DB)), np.flatnonzero(curve <= -FIT_FROM_DB - span_db)
    if not reached.size:
        return None
    end = int(reached[0]) + 1
    for _ in range(1 if fall.doubt_db is not None else 6):
        if end - start < 6:
            return None
        slope, at = np.polyfit(np.arange(start, end), curve[start:end], 1)
        if slope >= -1e-9:
            return None
        ends = (np.array([-FIT_FROM_DB, -FIT_FROM_DB - span_db]) - at) / slope
        start, end = (int(x) for x in np.clip(np.round(ends), 0, curve.size))
    return float(-60 / slope) * FRAME_S


def _sure_time(fall: _Fall, span_db: float) -> float | None:
    """The time where what the noise hides hardly changes it, else None."""
    time, *others = (_time(x, span_db) for x in (fall, *(fall._replace(curve_db=c) for c in fall.otherwise)))
    if time is None or any(x is None or abs(x / time - 1) > MOST_HIDDEN for x in others):
        return None
    ends = int(np.argmax(fall.curve_db <= -FIT_FROM_DB - span_db))
    return None if fall.doubt_db is not None and fall.doubt_db[ends] > MOST_DOUBT * span_db else time


def _drawn(falls: list[_Fall]) -> dict[str, object]:
    if not falls:
        return {"curve_db": (), "step_s": FRAME_S}
    curve = falls[0].curve_db
    every = max(1, math.ceil(curve.size / MOST_POINTS))
    return {"curve_db": tuple(np.round(np.maximum(curve[::every], -80), 1).tolist()), "step_s": round(every * FRAME_S, 4)}
