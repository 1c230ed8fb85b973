"""A loudspeaker in a panel: what closing the opening beside it, and a stiffer mount, may give per band, as a range."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..forms import Asked, asked
from ..levels.bands import NOMINAL_HZ, PREDICTED_HZ, Floats
from ..levels.rows import QUANTITIES
from ..materials.elements import SPEED_OF_SOUND
from ..schema import Strict
from ..worded import of
from ..words import signed
from ..working import Answer, Working, band_line, figure, inputs

RANGE_HZ = tuple(f for f in NOMINAL_HZ if 31.5 <= f <= 500)
HOLE_LOSS, HOLE_M2 = 0.8, 0.06
"""Damping ratio of the air moving through an opening of HOLE_M2: sharp edges, cables, trim behind it; the narrower, the more
of it. Assumed."""


def rear_share(frequency_hz: Floats, open_m2: float, volume_m3: float) -> Floats:
    """Share of the cone's rear volume flow that comes out of the opening beside it (complex).

    The air in the opening on the air in the cavity: 1/(1 − (f/f_h)² + 2jζ·f/f_h), f_h of a Helmholtz resonator; below f_h all
    of it comes out of a wide opening, little of it through cracks, which resist. In a cabin small against the wave only the
    sum of front and rear counts, so the way between them hardly does.
    """
    if open_m2 <= 0:
        return np.zeros_like(frequency_hz, dtype=complex)
    neck = 1.7 * math.sqrt(open_m2 / math.pi)
    resonance = SPEED_OF_SOUND / (2 * math.pi) * math.sqrt(open_m2 / (neck * volume_m3))
    r, damping = frequency_hz / resonance, HOLE_LOSS * math.sqrt(HOLE_M2 / open_m2)
    return np.asarray(1 / (1 - r**2 + 2j * damping * r))


def closing_gain_db(frequency_hz: Floats, open_m2: float, left_m2: float, volume_m3: float, distance_m: float) -> Floats:
    """Gain of the level in front by closing an opening ``distance_m`` from the cone to what is left of it, dB."""
    k = 2 * np.pi * frequency_hz / SPEED_OF_SOUND
    front = [np.abs(1 - rear_share(frequency_hz, a, volume_m3) * np.exp(-1j * k * distance_m)) for a in (open_m2, left_m2)]
    return np.asarray(20 * np.log10(np.maximum(front[1], 1e-3) / np.maximum(front[0], 1e-3)))


def mount_gain_db(moving_g: float, mount_kg: float, added_kg: float) -> float:
    """Gain from a heavier mount, dB: the mount takes the share m_moving/m_mount of the cone's motion the other way."""
    moving = moving_g / 1e3
    return 20 * math.log10((1 - moving / (mount_kg + added_kg + moving)) / (1 - moving / (mount_kg + moving)))


class DoorIn(Strict):
    """A loudspeaker in a door."""

    open_cm2: Asked = asked(600.0, "Open beside it now", "cm²", ge=0, le=5000)
    left_cm2: Asked = asked(20.0, "Open when done", "cm²", ge=0, le=5000)
    volume_l: Asked = asked(35.0, "Air in the door", "l", gt=1, le=500)
    cone_mm: Asked = asked(165.0, "Loudspeaker across", "mm", gt=20, le=500)
    lowest_hz: Asked = asked(60.0, "It plays down to", "Hz", gt=10, le=1000)
    added_kg: Asked = asked(1.5, "Damping and stiff patches on the skins", "kg", ge=0, le=20)


CLOSE_WITH = "a flat stiff patch where the skin is flat, two layers of formable damping where it bulges"
TAKES_PART = (0.3, 1.3)
"""Share of a door's air that the opening and the cone work on: window and trim part it, soft skins add to it. Assumed."""
BASS_HZ = QUANTITIES["bass gain"].bands_hz or (RANGE_HZ[0], RANGE_HZ[-1])


class GainRange(NamedTuple):
    """Least and most gain per band of RANGE_HZ, dB, where it plays, and their means over the bass it plays (None: none)."""

    least: Floats
    most: Floats
    plays: np.typing.NDArray[np.bool_]
    bass: tuple[float, float] | None


def gain_range(given: DoorIn) -> GainRange:
    """The gain over what is not known of a door: its air, the way round to the cone, the weight of its mount."""
    f = np.array(RANGE_HZ)
    cases = [
        closing_gain_db(f, given.open_cm2 / 1e4, given.left_cm2 / 1e4, given.volume_l / 1e3 * v, d) + mount_gain_db(
            12 * (given.cone_mm / 165) ** 2, mount, given.added_kg)
        for v in TAKES_PART for d in (0.0, 0.3) for mount in (1.5, 4.0)
    ]
    plays = f >= given.lowest_hz
    least, most = np.min(cases, axis=0), np.max(cases, axis=0)
    bass = plays & (f >= BASS_HZ[0]) & (f <= BASS_HZ[1])
    return GainRange(least, most, plays, (float(least[bass].mean()), float(most[bass].mean())) if bass.any() else None)


def door(given: DoorIn) -> Answer:
    """What closing and stiffening a door may give its loudspeaker: a range over what is not known of the door."""
    f, found = np.array(RANGE_HZ), gain_range(given)
    low, high, plays = found.least, found.most, found.plays
    span = found.bass or (0.0, 0.0)
    cautions = [] if found.bass else ["It does not play low enough to gain: a sealed door gives a little less road noise."]
    low21, high21 = (np.interp(PREDICTED_HZ, f, np.where(plays, x, 0.0), right=0.0) for x in (low, high))
    return Answer(
        sentence=f"{signed(span[0], 0)} to {signed(span[1], 0)} dB of bass, where it plays; close it with {CLOSE_WITH}.",
        figures=(figure("Least, mean of its bass bands", span[0], "dB", 1),
                 figure("Most, mean of its bass bands", span[1], "dB", 1)),
        lines=(band_line("Least", "dB", low21), band_line("Most", "dB", high21)),
        cautions=(*cautions, "Drains, the window and the latch keep their way; the water membrane stays whole."),
        working=Working(
            figure="gain of a loudspeaker in a door",
            formula="front + rear wave through the opening, |1 − β·e^(−jkd)|; mount m_moving/m_mount",
            inputs=inputs(opening=of(f"{given.open_cm2:g} to {given.left_cm2:g}", "cm²"),
                          air=f"{given.volume_l:g} l × {TAKES_PART[0]:g} to {TAKES_PART[1]:g}",
                          distance=f"{of('0 to 0.3', 'm')} further on", mount=of("1.5 to 4", "kg")),
            source="acoustic short circuit of two opposed sources; Helmholtz opening",
            accuracy="a range, not a figure; ± 3 dB beyond it",
            valid="below some 300 Hz",
        ),
    )
