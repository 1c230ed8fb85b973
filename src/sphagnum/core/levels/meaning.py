"""What a change means to an ear: tones that came or went, low against high end, bands that got worse, ear against meter."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..schema import Strict
from ..words import listed, signed
from .bands import A_WEIGHTING_DB, NOMINAL_HZ
from .decibels import Spectrum, energy_sum

LOW_HZ, HIGH_HZ = (31.5, 160.0), (500.0, 5000.0)
WORSE_DB = 1.0
# Prominence of a band above both neighbours that makes it a tone (ISO 1996-2:2007, Annex D, survey method; recalled).
TONE_DB = ((125.0, 15.0), (400.0, 8.0), (10_000.0, 5.0))


class SpectrumChange(Strict):
    """Two spectra of one place: levels, change (negative is less), and what is worth saying about them."""

    frequency_hz: tuple[float, ...]
    before_db: tuple[float | None, ...]
    after_db: tuple[float | None, ...]
    change_db: tuple[float | None, ...]
    within_db: tuple[float | None, ...] = ()
    """Half of the 95 % interval of each change; none where nobody can tell."""
    sayings: tuple[str, ...]


def tones(
    bands_db: Spectrum, limits: Sequence[tuple[float, float]] = TONE_DB, frequency_hz: Sequence[float] = NOMINAL_HZ
) -> set[float]:
    """Bands that stand out of both neighbours, by nominal frequency; ``limits`` are (up to Hz, by dB)."""
    found = set()
    for i in range(1, len(frequency_hz) - 1):
        left, here, right = bands_db[i - 1], bands_db[i], bands_db[i + 1]
        if left is None or here is None or right is None:
            continue
        limit = next((db for upto, db in limits if frequency_hz[i] <= upto), None)
        if limit is not None and here - left >= limit and here - right >= limit:
            found.add(frequency_hz[i])
    return found


def range_change(before: Spectrum, after: Spectrum, span_hz: tuple[float, float], weighted: bool = False) -> float | None:
    """Change of the level in a range of bands known on both sides, dB; None if there is none."""
    known = [(b + w * weighted, a + w * weighted) for f, b, a, w in zip(NOMINAL_HZ, before, after, A_WEIGHTING_DB, strict=True)
             if b is not None and a is not None and span_hz[0] <= f <= span_hz[1]]
    return energy_sum([a for _, a in known]) - energy_sum([b for b, _ in known]) if known else None


def spectrum_change(before: Spectrum, after: Spectrum, up_is_good: bool = False, within_db: Spectrum = ()) -> SpectrumChange:
    """Two spectra set against each other; where up is good a band got worse by falling."""
    change = [None if b is None or a is None else round(a - b, 2) + 0.0 for b, a in zip(before, after, strict=True)]
    sayings = []
    was, now = tones(before), tones(after)
    for verb, found in (("A tone went", was - now), ("A tone came up", now - was), ("A tone is still there", was & now)):
        if found:
            sayings.append(f"{verb}: {listed([hertz(f) for f in sorted(found)])}.")
    low, high = range_change(before, after, LOW_HZ), range_change(before, after, HIGH_HZ)
    if low is not None and high is not None and abs(low - high) >= 3:
        where = "low" if low < high else "high"
        sayings.append(f"It worked at the {where} end: {signed(low)} dB up to 160 Hz, {signed(high)} dB from 500 Hz on.")
    worse = [f for f, c in zip(NOMINAL_HZ, change, strict=True)
             if c is not None and (-c if up_is_good else c) > WORSE_DB and 31.5 <= f <= 10_000]
    if worse:
        sayings.append(f"Got worse: {listed([hertz(f) for f in worse[:6]])}.")
    return SpectrumChange(frequency_hz=NOMINAL_HZ, before_db=tuple(before), after_db=tuple(after), change_db=tuple(change),
                          within_db=tuple(within_db), sayings=tuple(sayings))


def ear_and_meter(heard: str, reduction_db: float, verdict: str, change: SpectrumChange | None) -> str:
    """Why an ear and the meter may disagree; '' where they agree or nothing was said."""
    meter = {"quieter": "quieter", "louder": "louder", "no change shown": "the same"}.get(verdict)
    if not heard or meter is None or heard == meter:
        return ""
    low = range_change(change.before_db, change.after_db, LOW_HZ) if change else None
    high = range_change(change.before_db, change.after_db, HIGH_HZ) if change else None
    if meter == "quieter" and low is not None and low > -reduction_db + 2:
        fell = f"it fell only {-low:.1f} dB" if low < -0.3 else "it did not fall"
        return (f"The meter says {reduction_db:.1f} dB quieter, the ear {heard}: up to 160 Hz {fell}, and the A weighting "
                "hardly counts that.")
    if heard == "quieter" and high is not None and high < -2:
        return (f"The ear says quieter, the meter {verdict}: from 500 Hz on it fell {-high:.1f} dB, and what is loud "
                "on the meter lies below.")
    if meter == "quieter" and abs(reduction_db) < 3:
        return f"{reduction_db:.1f} dB is near what an ear can just notice, and memory is short: play both recordings in turn."
    return f"The ear says {heard}, the meter {verdict}: no spectrum tells why. Read bands in both rounds."


class Response(Strict):
    """A loudspeaker's response over the bands of the goal: gain is good, and so is smoothness."""

    gain_db: float
    band_gain_db: tuple[float | None, ...]
    roughness_before_db: float
    roughness_after_db: float
    peaks_before: int
    peaks_after: int
    words: str


ROUGH_DB = 3.0


def response(before: Spectrum, after: Spectrum, span_hz: tuple[float, float]) -> Response | None:
    """Gain per band, and roughness: scatter of the bands about a straight line over log f, 31.5 Hz to 315 Hz."""
    gain = range_change(before, after, span_hz)
    rows = [(f, b, a) for f, b, a in zip(NOMINAL_HZ, before, after, strict=True)
            if b is not None and a is not None and 31.5 <= f <= 315]
    if gain is None or len(rows) < 4:
        return None
    x = np.log10([f for f, _, _ in rows])
    rough, peaks = [], []
    for values in ([b for _, b, _ in rows], [a for _, _, a in rows]):
        rest = np.array(values) - np.polyval(np.polyfit(x, values, 1), x)
        rough.append(float(np.sqrt(np.mean(rest**2))))
        peaks.append(int(np.sum(np.abs(rest) > ROUGH_DB)))
    steadier = "smoother" if rough[1] < rough[0] - 0.3 else "rougher" if rough[1] > rough[0] + 0.3 else "as smooth as before"
    return Response(
        gain_db=round(gain, 2),
        band_gain_db=tuple(None if b is None or a is None else round(a - b, 2) + 0.0 for b, a in zip(before, after, strict=True)),
        roughness_before_db=round(rough[0], 2), roughness_after_db=round(rough[1], 2),
        peaks_before=peaks[0], peaks_after=peaks[1],
        words=f"{signed(gain)} dB from {hertz(span_hz[0])} to {hertz(span_hz[1])}, and {steadier} "
              f"({rough[0]:.1f} then {rough[1]:.1f} dB about a straight line).",
    )


def hertz(f: float) -> str:
    """'63 Hz', '1.25 kHz'."""
    return f"{f / 1000:g} kHz" if f >= 1000 else f"{f:g} Hz"
