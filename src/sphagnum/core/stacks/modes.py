"""The modes of a rectangular panel, its drum note with what is laid on it, and how long it rings."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..forms import Asked, asked
from ..levels.bands import Floats
from ..schema import Strict
from ..worded import of
from ..working import Answer, Working, figure, inputs

Edges = Literal["simply supported", "clamped"]


def panel_modes(stiffness: float, mass: float, width_m: float, height_m: float, edges: Edges, most: int = 6) -> Floats:
    """Natural frequencies of a rectangular plate, Hz, shape (most, most) by half-waves along width and height.

    Simply supported exact; clamped after Warburton (1954), within 1 % of exact series. ``stiffness`` N·m, ``mass`` kg/m².
    """
    m = np.arange(1, most + 1, dtype=float)
    if edges == "simply supported":
        g, h = m, m**2
    else:
        g = np.where(m == 1, 1.506, m + 0.5)
        h = np.where(m == 1, 1.248, (m + 0.5) ** 2 * (1 - 2 / ((m + 0.5) * np.pi)))
    gx, gy, ratio = g[:, None], g[None, :], width_m / height_m
    value = np.pi**2 * np.sqrt(gx**4 + gy**4 * ratio**4 + 2 * ratio**2 * h[:, None] * h[None, :])
    return np.asarray(value / width_m**2 * np.sqrt(stiffness / mass) / (2 * np.pi))


def plate_stiffness(modulus: float, thickness_m: float, poisson: float) -> float:
    """Bending stiffness of a plate per width, N·m: E·h³/(12·(1 − ν²)), E in Pa."""
    return modulus * thickness_m**3 / 12 / (1 - poisson**2)


def ring_time_s(frequency_hz: float, loss_factor: float) -> float:
    """Time of a panel's ring to fall by 60 dB, s: 2.2/(f·η)."""
    return 2.2 / (frequency_hz * loss_factor)


class DrumIn(Strict):
    """A bare panel, what is laid on it, and its loss factor with that."""

    width_m: Asked = asked(0.9, "Width", "m", ge=0.02, le=50)
    height_m: Asked = asked(0.6, "Height", "m", ge=0.02, le=50)
    thickness_mm: Asked = asked(0.8, "Thickness", "mm", ge=0.01, le=2000)
    density_kg_m3: Asked = asked(7850.0, "Density", "kg/m³", ge=1, le=25_000)
    youngs_modulus_gpa: Asked = asked(210.0, "Young's modulus", "GPa", gt=0, le=2000)
    poisson: Asked = asked(0.3, "Poisson's ratio", "", ge=0, lt=0.5)
    loss_factor: Asked = asked(0.02, "Loss factor", "", gt=0, le=3)
    added_kg_m2: Asked = asked(0.0, "Mass laid on it", "kg/m²", ge=0, le=2000)
    edges: Edges = Field(default="simply supported", title="Edges")


def drum(panel: DrumIn) -> Answer:
    """The drum note of a panel and its next modes, with ring times."""
    stiffness = plate_stiffness(panel.youngs_modulus_gpa * 1e9, panel.thickness_mm / 1e3, panel.poisson)
    own = panel.density_kg_m3 * panel.thickness_mm / 1e3
    mass = own + panel.added_kg_m2
    modes = np.sort(panel_modes(stiffness, mass, panel.width_m, panel.height_m, panel.edges).ravel())[:5]
    first, ring = float(modes[0]), ring_time_s(float(modes[0]), panel.loss_factor)
    bare = float(panel_modes(stiffness, own, panel.width_m, panel.height_m, panel.edges)[0, 0])
    fall = f", from {bare:.0f} Hz bare" if panel.added_kg_m2 else ""
    return Answer(
        sentence=f"It drums at {first:.0f} Hz{fall} and rings {ring:.2f} s.",
        figures=(figure("Drum note", first, "Hz", 1), figure("Ring time", ring, "s", 3),
                 *(figure(f"Mode {i}", float(f), "Hz", 1) for i, f in enumerate(modes[1:], start=2))),
        cautions=("Real edges lie between supported and clamped; ribs and bulges raise the note.",),
        working=Working(
            figure="natural frequencies of a panel", formula="plate equation; clamped edges by Warburton's beam functions",
            inputs=inputs(stiffness=f"{stiffness:.3g} N·m", mass=of(mass, "kg/m²", ".2f"), loss_factor=panel.loss_factor),
            source="Warburton 1954; η = 2.2/(f·T60)", accuracy="± 1 % of an ideal flat panel; ± 30 % of a real pressed one",
            valid="flat panels of even thickness",
        ),
    )
