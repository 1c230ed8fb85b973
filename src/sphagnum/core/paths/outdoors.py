"""Out of doors to a neighbour's window: distance, direction, ground, one reflecting wall, a screen or an open-sided hood."""

from __future__ import annotations

import math

import numpy as np
from pydantic import Field

from ..forms import Asked, asked
from ..levels.bands import PREDICTED_HZ, Floats
from ..materials.elements import SPEED_OF_SOUND
from ..schema import Strict
from ..worded import of
from ..working import Answer, Working, band_line, figure, inputs

MOST_SCREEN_DB = 20.0  # ISO 9613-2, 7.4: one edge


def screen_db(frequency_hz: Floats, detour_m: float) -> Floats:
    """Attenuation by a thin screen, dB: 10·lg(3 + 20·z/λ), at most 20 dB (ISO 9613-2:1996, 7.4, without ground behind it).

    ``detour_m`` is the way over the edge less the straight way; negative where the screen does not cut the line of sight.
    """
    inside = 3 + 20 * np.asarray(frequency_hz) / SPEED_OF_SOUND * detour_m
    return np.asarray(np.where(inside > 1, np.clip(10 * np.log10(np.maximum(inside, 1)), 0, MOST_SCREEN_DB), 0.0))


def maekawa_db(frequency_hz: Floats, detour_m: float) -> Floats:
    """Attenuation by a thin screen in the free field, dB: 10·lg(3 + 20·N), N = 2z/λ (Maekawa 1968, as fitted later)."""
    n = 2 * np.asarray(frequency_hz) * detour_m / SPEED_OF_SOUND
    return np.asarray(np.where(n > -0.1, 10 * np.log10(np.maximum(3 + 20 * n, 1)), 0.0))


def ground_db(source_height_m: float, receiver_height_m: float, distance_m: float) -> float:
    """Attenuation by soft ground, dB(A): 4.8 − (2·h_m/d)·(17 + 300/d), at least 0 (ISO 9613-2:1996, 7.3.2)."""
    mean = (source_height_m + receiver_height_m) / 2
    return max(4.8 - 2 * mean / distance_m * (17 + 300 / distance_m), 0.0)


def reflected_db(distance_m: float, wall_at_m: float) -> float:
    """What one reflecting wall behind the source adds at a distance, dB: its image is 2·w further off; 0 without a wall."""
    return 10 * math.log10(1 + (distance_m / (distance_m + 2 * wall_at_m)) ** 2) if wall_at_m else 0.0


class YardIn(Strict):
    """A source read near by, and a listener further off."""

    level_db: Asked = asked(64.0, "Level near the source", "dB", ge=0, le=160)
    near_m: Asked = asked(1.0, "Read at", "m", gt=0.1, le=1000)
    far_m: Asked = asked(7.0, "Listener at", "m", gt=0.1, le=5000)
    source_height_m: Asked = asked(0.8, "Source height", "m", ge=0, le=100)
    listener_height_m: Asked = asked(4.0, "Listener height", "m", ge=0, le=100)
    screen_m: Asked = asked(0.0, "Screen or hood height (0: none)", "m", ge=0, le=50)
    screen_at_m: Asked = asked(1.0, "Screen from source", "m", gt=0.05, le=4000)
    wall_at_m: Asked = asked(0.0, "Wall behind the source (0: none)", "m", ge=0, le=100)
    turned_away_db: Asked = asked(0.0, "Quieter in this direction by", "dB", ge=-10, le=25)
    soft_ground: bool = Field(default=False, title="Soft ground between")


def detour_m(given: YardIn) -> float:
    """Way over the screen's edge less the straight way, m; negative where the straight way clears it."""
    at = min(given.screen_at_m, given.far_m - 1e-3)
    line = given.source_height_m + (given.listener_height_m - given.source_height_m) * at / given.far_m
    straight = math.hypot(given.far_m, given.listener_height_m - given.source_height_m)
    over = math.hypot(at, given.screen_m - given.source_height_m) + math.hypot(given.far_m - at,
                                                                               given.screen_m - given.listener_height_m)
    return math.copysign(over - straight, given.screen_m - line)


def yard(given: YardIn) -> Answer:
    """The level at a listener out of doors."""
    f = np.array(PREDICTED_HZ)
    slant = math.hypot(given.far_m, given.listener_height_m - given.source_height_m)
    distance = 20 * math.log10(slant / given.near_m)
    reflected = reflected_db(slant, given.wall_at_m) - reflected_db(given.near_m, given.wall_at_m)
    screen = screen_db(f, detour_m(given)) if given.screen_m else np.zeros_like(f)
    ground = ground_db(given.source_height_m, given.listener_height_m,
                       given.far_m) if given.soft_ground and not given.screen_m else 0.0
    change = distance - reflected + screen + ground + given.turned_away_db
    cautions = []
    if given.screen_m and screen[PREDICTED_HZ.index(125.0)] < 6:
        cautions.append("A low hum goes over a screen this low; it stops hiss, not hum.")
    if given.wall_at_m and given.screen_m:
        cautions.append("The wall's reflection may clear the screen: line it, or close the side.")
    mid = float(change[PREDICTED_HZ.index(500.0)])
    return Answer(
        sentence=f"{given.level_db - mid:.1f} dB at the listener in the 500 Hz band: {mid:.1f} dB less than near the source.",
        figures=(figure("By distance", distance, "dB", 1), figure("By the wall, beyond the near reading", -reflected, "dB", 1),
                 figure("By the ground", ground, "dB", 1),
                 figure("By the screen at 125 Hz", screen[PREDICTED_HZ.index(125.0)], "dB", 1),
                 figure("By the screen at 1 kHz", screen[PREDICTED_HZ.index(1000.0)], "dB", 1)),
        lines=(band_line("Less than near the source", "dB", change), band_line("By the screen", "dB", screen)),
        cautions=tuple(cautions), effect_db=tuple(round(float(v), 2) for v in screen) if given.screen_m else None,
        working=Working(
            figure="level out of doors", formula="20·lg(r₂/r₁) + screen 10·lg(3 + 20·z/λ) ≤ 20 dB − reflection + ground",
            inputs=inputs(detour=of(detour_m(given), "m", ".3f") if given.screen_m else "no screen",
                          distance=f"{of(f'{given.near_m:g} to {slant:.2f}', 'm')} on the slant"),
            source="ISO 9613-2:1996, 7.1 to 7.5, simple form", accuracy="± 3 dB",
            valid="a source small against its distance; light wind",
        ),
    )
