"""Vibration isolation: load per pad, deflection, natural frequency and what passes at each band."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np
from pydantic import Field

from ..forms import Asked, Optional, asked
from ..levels.bands import PREDICTED_HZ, Floats
from ..schema import Strict
from ..worded import of
from ..working import Answer, Working, band_line, figure, inputs

GRAVITY = 9.81


def transmissibility(frequency_hz: Floats | float, natural_hz: float, damping_ratio: float) -> Floats:
    """Force passed on over force given by a mass on a spring with viscous damping: √((1 + (2ζr)²)/((1 − r²)² + (2ζr)²))."""
    r = np.asarray(frequency_hz) / natural_hz
    part = (2 * damping_ratio * r) ** 2
    return np.asarray(np.sqrt((1 + part) / ((1 - r**2) ** 2 + part)))


def natural_hz(stiffness_n_m: float, mass_kg: float) -> float:
    """Natural frequency of a mass on a spring, Hz: √(k/m)/2π."""
    return math.sqrt(stiffness_n_m / mass_kg) / (2 * math.pi)


MOST_DB = 30.0
"""More than this no pad keeps back: waves in it and ways past it take over. Assumed."""


class PadsIn(Strict):
    """A machine on pads; stiffness is dynamic, of one pad."""

    mass_kg: Asked = asked(45.0, "Machine", "kg", gt=0, le=1e5)
    pads: Annotated[int, Field(ge=1, le=100)] = Field(default=4, title="Pads")
    stiffness_n_mm: Asked = asked(40.0, "Stiffness of one pad", "N/mm", gt=0, le=1e6)
    damping_ratio: Asked = asked(0.06, "Damping ratio", "0–1", ge=0.005, le=1)
    most_kg: Annotated[Asked | None, Optional] = asked(None, "One pad may carry", "kg", gt=0, le=1e5)
    lowest_hz: Asked = asked(25.0, "Lowest strong frequency", "Hz", gt=0, le=5000)


def pads(given: PadsIn) -> Answer:
    """Deflection, natural frequency and transmissibility of a machine on pads, with what speaks against it."""
    k = given.stiffness_n_mm * 1e3
    load = given.mass_kg / given.pads
    f0 = natural_hz(k * given.pads, given.mass_kg)
    sag = load * GRAVITY / k * 1e3
    at_lowest = float(transmissibility(given.lowest_hz, f0, given.damping_ratio))
    cautions = []
    if given.lowest_hz < math.sqrt(2) * f0:
        sag_mm = 2 * GRAVITY / (2 * math.pi * given.lowest_hz) ** 2 * 1e3
        cautions.append(f"The source's {given.lowest_hz:g} Hz lies under √2 · {f0:.1f} Hz: these pads make it worse. "
                        f"Softer ones, to sag at least {of(sag_mm, 'mm', '.1f')}.")
    if given.most_kg is not None and load > given.most_kg:
        cautions.append(f"{of(load, 'kg', '.1f')} on a pad that may carry {of(given.most_kg, 'kg')}: use more or larger pads.")
    passed = 20 * math.log10(at_lowest)
    per_band = 20 * np.log10(transmissibility(np.array(PREDICTED_HZ), f0, given.damping_ratio))
    word = "less" if passed < 0 else "more"
    return Answer(
        sentence=f"{f0:.1f} Hz on {given.pads} pads; at {given.lowest_hz:g} Hz {abs(passed):.1f} dB {word} force passes.",
        figures=(figure("Load per pad", load, "kg", 2), figure("Deflection", sag, "mm", 2),
                 figure("Natural frequency", f0, "Hz", 2),
                 figure("Passes at the lowest strong frequency", at_lowest, "× the force", 3)),
        lines=(band_line("Force passed on", "dB", per_band),),
        cautions=tuple(cautions),
        effect_db=tuple(round(float(v), 2) + 0.0 for v in -np.maximum(per_band, -MOST_DB)), effect_at="path",
        working=Working(
            figure="vibration isolation", formula="f₀ = √(k/m)/2π; T = √((1 + (2ζr)²)/((1 − r²)² + (2ζr)²))",
            inputs=inputs(stiffness=f"{given.pads} × {given.stiffness_n_mm:g} N/mm", mass=of(given.mass_kg, "kg"),
                          damping_ratio=given.damping_ratio),
            source="mass on a spring with viscous damping", accuracy="± 20 % on f₀ with typical stiffness",
            valid="stiff floor, load even on all pads; above some 10 · f₀ waves in the pad pass more",
        ),
    )
