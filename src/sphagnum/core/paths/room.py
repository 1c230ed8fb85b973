"""Rooms and cabins: absorption area, reverberation, and what added absorption takes off the level."""

from __future__ import annotations

import math

import numpy as np

from ..forms import Asked, asked
from ..levels.bands import PREDICTED_HZ, Floats
from ..materials.elements import SPEED_OF_SOUND
from ..schema import Strict
from ..worded import of
from ..working import Answer, Working, figure, inputs

SABINE = 24 * math.log(10) / SPEED_OF_SOUND  # s/m, T = SABINE·V/A


def sabine_s(volume_m3: Floats | float, absorption_m2: Floats | float) -> Floats:
    """Reverberation time T60, s: 24·ln10/c·V/A = 0.161·V/A (Sabine)."""
    return np.asarray(SABINE * np.asarray(volume_m3) / absorption_m2)


def eyring_s(volume_m3: float, surface_m2: float, mean_alpha: Floats | float) -> Floats:
    """Reverberation time T60, s, for strong absorption: 24·ln10/c·V/(−S·ln(1 − ᾱ)) (Eyring 1930); 0 ≤ ᾱ < 1."""
    return np.asarray(SABINE * volume_m3 / (-surface_m2 * np.log1p(-np.asarray(mean_alpha))))


def absorption_from_time_m2(volume_m3: float, time_s: float) -> float:
    """Absorption area that a measured reverberation time means, m² (Sabine)."""
    return SABINE * volume_m3 / time_s


def level_drop_db(before_m2: Floats | float, after_m2: Floats | float) -> Floats:
    """What more absorption takes off a diffuse level, dB: 10·lg(A₂/A₁)."""
    return np.asarray(10 * np.log10(np.asarray(after_m2) / before_m2))


def first_room_mode_hz(longest_m: float) -> float:
    """Lowest mode of a closed room or cabin, Hz: c/(2L); below it no field is diffuse."""
    return SPEED_OF_SOUND / (2 * longest_m)


class RoomIn(Strict):
    """A room or cabin before and after adding a lining."""

    length_m: Asked = asked(4.0, "Length", "m", gt=0.1, le=100)
    width_m: Asked = asked(3.0, "Width", "m", gt=0.1, le=100)
    height_m: Asked = asked(2.5, "Height", "m", gt=0.1, le=30)
    mean_alpha: Asked = asked(0.1, "Mean absorption coefficient now", "0–1", gt=0, lt=1)
    lining_m2: Asked = asked(8.0, "Lining added", "m²", ge=0, le=10_000)
    lining_alpha: Asked = asked(0.8, "Its absorption coefficient", "0–1", ge=0, le=1.2)


def room(given: RoomIn) -> Answer:
    """What a lining does to a room: absorption area, reverberation time and level."""
    a, b, c = given.length_m, given.width_m, given.height_m
    surface, volume = 2 * (a * b + b * c + a * c), a * b * c
    lining = min(given.lining_m2, surface)
    before = given.mean_alpha * surface
    after = before + lining * (given.lining_alpha - given.mean_alpha)
    drop = float(level_drop_db(before, after))
    times = [float(eyring_s(volume, surface, min(a / surface, 0.99))) for a in (before, after)]
    first, cautions = first_room_mode_hz(max(a, b, c)), []
    if volume < 30:
        top = 2000 * math.sqrt(times[1] / volume)
        cautions.append(f"So small a space has single modes, not a diffuse field, up to about {top:.0f} Hz.")
    if drop < 1:
        cautions.append("Less than 1 dB: nobody will hear that.")
    return Answer(
        sentence=f"{drop:.1f} dB less of what builds up inside; its ring falls from {times[0]:.2f} to {times[1]:.2f} s.",
        figures=(figure("Absorption area now", before, "m²", 2),
                 figure("Absorption area after", after, "m²", 2),
                 figure("Level falls by", drop, "dB", 2),
                 figure("Reverberation time now", times[0], "s", 2),
                 figure("Reverberation time after", times[1], "s", 2),
                 figure("First room mode", first, "Hz", 1)),
        cautions=tuple(cautions),
        effect_db=(round(drop, 2),) * len(PREDICTED_HZ), effect_at="listener",
        working=Working(
            figure="effect of added absorption", formula="ΔL = 10·lg(A₂/A₁); T = 0.161·V/(−S·ln(1 − ᾱ))",
            inputs=inputs(volume=of(volume, "m³", ".1f"), surface=of(surface, "m²", ".1f"),
                          lining=f"{of(lining, 'm²')} of α {given.lining_alpha:g}"),
            source="Sabine; Eyring 1930", accuracy="± 1.5 dB", valid="far from the source, above the first room modes",
        ),
    )
