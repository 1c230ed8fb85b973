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
    """U (W/(m²K)), temperatures at the layers' faces from outside to inside (°C), and the wet faces (index, excess Pa)."""

    resistance: float
    u_value: float
    temperatures_c: Floats
    wet: list[tuple[int, float]]


def saturation_pa(temperature_c: Floats | float) -> Floats:
    """Saturation pressure of water vapour, Pa (ISO 13788:2012, annex E)."""
    t = np.asarray(temperature_c, dtype=float)
    return np.where(t >= 0, 610.5 * np.exp(17.269 * t / (237.3 + t)), 610.5 * np.exp(21.875 * t / (265.5 + t)))


def dew_point_c(temperature_c: float, humidity: float) -> float:
    """Dew point of air, °C: the inverse of ``saturation_pa``."""
    x = math.log(humidity * float(saturation_pa(temperature_c)) / 610.5)
    a, b = (17.269, 237.3) if x >= 0 else (21.875, 265.5)
    return b * x / (a - x)


def through(layers: list[HeatLayer], climate: Climate) -> HeatResult:
    """Steady heat and vapour through ``layers`` from outside to inside (ISO 6946; Glaser's check of ISO 13788).

    Faces whose vapour pressure on the straight line between inside and outside exceeds saturation are wet.
    """
    parts = np.array([OUTSIDE, *(x.thickness_m / x.conductivity for x in layers), INSIDE])
    whole = float(parts.sum())
    at = np.cumsum(parts)[:-1] / whole
    temperatures = climate.outside_c + (climate.inside_c - climate.outside_c) * at
    vapour = np.array([x.thickness_m * x.vapour_mu / AIR_VAPOUR for x in layers])
    share = np.concatenate([[0.0], np.cumsum(vapour) / max(float(vapour.sum()), 1e-30)])
    p_out = climate.outside_humidity * float(saturation_pa(climate.outside_c))
    p_in = climate.inside_humidity * float(saturation_pa(climate.inside_c))
    excess = p_out + (p_in - p_out) * share - saturation_pa(temperatures)
    return HeatResult(whole, 1 / whole, temperatures, [(i, float(e)) for i, e in enumerate(excess) if e > 0])


def heat_answer(layers: list[HeatLayer], climate: Climate) -> Answer:
    """U, temperatures and condensation of a stack in words."""
    found = through(layers, climate)
    dew = dew_point_c(climate.inside_c, climate.inside_humidity)
    names = ["outside", *(x.name for x in layers), "inside"]
    wet = [f"between {names[i]} and {names[i + 1]}" for i, _ in found.wet]
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
            formula="R = ΣR_i; T and vapour pressure straight over their resistances",
            inputs=inputs(inside=f"{climate.inside_c:g} °C, {100 * climate.inside_humidity:g} %",
                          outside=f"{climate.outside_c:g} °C, {100 * climate.outside_humidity:g} %"),
            source="ISO 6946; ISO 13788 (Glaser)", accuracy="± 20 % on R with typical conductivities",
            valid="steady state, no air leaking through, no bridges",
        ),
    )
