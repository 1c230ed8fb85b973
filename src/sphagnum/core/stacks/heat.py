"""Heat and moisture through a stack: resistance, temperatures, and where water could condense (Glaser)."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..forms import Asked, asked
from ..levels.bands import Floats
from ..schema import Strict
from ..working import Answer, Working, figure, inputs

INSIDE, OUTSIDE = 0.13, 0.04  # m²K/W, surface resistances of ISO 6946 for walls
AIR_VAPOUR = 2e-10  # kg/(m·s·Pa), vapour permeability of still air (ISO 13788)


class HeatLayer(NamedTuple):
    """A layer for heat and vapour: thickness (m), conductivity (W/(m·K)), vapour resistance factor μ."""

    name: str
    thickness_m: float
    conductivity: float
    vapour_mu: float


class Climate(Strict):
    """The air on both sides."""

    inside_c: Asked = asked(20.0, "Air inside", "°C", ge=-40, le=100)
    inside_humidity: Asked = asked(0.5, "Humidity inside", "0–1", gt=0, le=1)
    outside_c: Asked = asked(-5.0, "Air outside", "°C", ge=-60, le=100)
    outside_humidity: Asked = asked(0.8, "Humidity outside", "0–1", gt=0, le=1)


class HeatResult(NamedTuple):
    """U (W/(m²K)), temperatures at the layers' faces from outside to inside (°C), and where water condenses: faces, counted from
    the outermost as 0, with a half where it is inside the layer after a face."""

    resistance: float
    u_value: float
    temperatures_c: Floats
    wet: list[float]


def saturation_pa(temperature_c: Floats | float) -> Floats:
    """Saturation pressure of water vapour, Pa (ISO 13788:2012, annex E)."""
    t = np.asarray(temperature_c, dtype=float)
    return np.where(t >= 0, 610.5 * np.exp(17.269 * t / (237.3 + t)), 610.5 * np.exp(21.875 * t / (265.5 + t)))


def dew_point_c(temperature_c: float, humidity: float) -> float:
    """Dew point of air, °C: the inverse of ``saturation_pa``."""
    x = math.log(humidity * float(saturation_pa(temperature_c)) / 610.5)
    a, b = (17.269, 237.3) if x >= 0 else (21.875, 265.5)
    return b * x / (a - x)


MOST_R = 0.25
"""A layer that resists more than this (m²K/W) is looked at in parts, since saturation bends inside it (ISO 13788, 6.2)."""


def through(layers: list[HeatLayer], climate: Climate) -> HeatResult:
    """Steady heat and vapour through ``layers`` from outside to inside (ISO 6946; Glaser's check of ISO 13788:2012, 6.4).

    The vapour pressure is the string drawn taut under saturation between both airs, over the vapour resistances: water condenses
    where that string touches saturation, and nowhere else, however far the straight line between the airs lies above it.
    """
    cuts = [max(1, math.ceil(x.thickness_m / x.conductivity / MOST_R)) for x in layers]
    parts = [(x.thickness_m / x.conductivity / n, x.thickness_m * x.vapour_mu / n) for x, n in zip(layers, cuts, strict=True)
             for _ in range(n)]
    heat = np.cumsum([OUTSIDE, *(r for r, _ in parts)])
    whole = float(heat[-1]) + INSIDE
    temperatures = climate.outside_c + (climate.inside_c - climate.outside_c) * heat / whole
    vapour = np.concatenate([[0.0], np.cumsum([s for _, s in parts])])
    at = np.concatenate([[0], np.cumsum(cuts)])
    wet = [] if vapour[-1] <= 0 else _touched(
        vapour, saturation_pa(temperatures), climate.outside_humidity * float(saturation_pa(climate.outside_c)),
        climate.inside_humidity * float(saturation_pa(climate.inside_c)))
    faces = [float(np.interp(i, at, np.arange(len(at)))) for i in wet]
    return HeatResult(whole, 1 / whole, temperatures[at], sorted({math.floor(x) + 0.5 * (x % 1 > 1e-9) for x in faces}))


def _touched(vapour_m: Floats, saturation: Floats, outside_pa: float, inside_pa: float) -> list[int]:
    """Where the string from outside to inside, drawn taut under saturation, touches it: the corners of the lower convex hull."""
    points = [(0.0, min(outside_pa, float(saturation[0])), -1), *zip(vapour_m.tolist(), saturation.tolist(), range(len(vapour_m)),
                                                                      strict=True),
              (float(vapour_m[-1]), inside_pa, -1)]
    hull: list[tuple[float, float, int]] = []
    for x, y, i in points:
        while len(hull) > 1 and ((hull[-1][1] - hull[-2][1]) * (x - hull[-2][0])
                                 >= (y - hull[-2][1]) * (hull[-1][0] - hull[-2][0]) - 1e-9):
            hull.pop()
        hull.append((x, y, i))
    return [i for _, _, i in hull[1:-1] if i >= 0]


def heat_answer(layers: list[HeatLayer], climate: Climate) -> Answer:
    """U, temperatures and condensation of a stack in words."""
    found = through(layers, climate)
    dew = dew_point_c(climate.inside_c, climate.inside_humidity)
    names = ["outside", *(x.name for x in layers), "inside"]
    wet = [f"inside {names[int(i) + 1]}" if i % 1 else f"between {names[int(i)]} and {names[int(i) + 1]}" for i in found.wet]
    says = f"Water can condense {' and '.join(wet)}." if wet else "It stays dry inside the stack."
    return Answer(
        sentence=f"U = {found.u_value:.2f} W/(m²K). {says}",
        figures=(figure("R", found.resistance, "m²K/W", 3),
                 figure("U", found.u_value, "W/(m²K)", 3),
                 figure("Dew point inside", dew, "°C", 1),
                 *(figure(f"Between {a} and {b}", t, "°C", 1)
                   for a, b, t in zip(names, names[1:], found.temperatures_c, strict=False))),
        cautions=() if not wet else ("Put a vapour-tight layer on the warm side, or let the cold side breathe.",),
        working=Working(
            figure="heat and moisture through the stack",
            formula="R = ΣR_i; T straight over R, vapour pressure over s_d as a string drawn taut under saturation",
            inputs=inputs(inside=f"{climate.inside_c:g} °C, {100 * climate.inside_humidity:g} %",
                          outside=f"{climate.outside_c:g} °C, {100 * climate.outside_humidity:g} %"),
            source="ISO 6946; ISO 13788 (Glaser)", accuracy="± 20 % on R with typical conductivities",
            valid="steady state, no air leaking through, no bridges",
        ),
    )
