"""What a damping layer does to a plate: stiffness and loss (Oberst; Ross, Kerwin and Ungar) and partial coverage."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..levels.bands import Floats
from .model import Damping

Complexes = NDArray[np.complexfloating[Any, Any]]


class Sheet(NamedTuple):
    """An elastic sheet: thickness m, density kg/m³, complex modulus E(1 + jη)/(1 − ν²) in Pa."""

    thickness: float
    density: float
    modulus: complex


def oberst(base: Sheet, layer: Sheet) -> complex:
    """Complex bending stiffness per width (N·m) of a plate with a free damping layer.

    The bonded pair bends about its common neutral axis (Oberst 1952; identical to ISO 12354-1's laminate for η = 0).
    """
    return bonded((base, layer))


def bonded(sheets: tuple[Sheet, ...]) -> complex:
    """Complex bending stiffness (N·m) of fully bonded sheets about their common neutral axis."""
    z, middles = 0.0, []
    for sheet in sheets:
        middles.append(z + sheet.thickness / 2)
        z += sheet.thickness
    tension = [s.modulus * s.thickness for s in sheets]
    axis = sum(t * m for t, m in zip(tension, middles, strict=True)) / sum(tension)
    return sum(
        (s.modulus * s.thickness**3 / 12 + t * (m - axis) ** 2)
        for s, t, m in zip(sheets, tension, middles, strict=True)
    ) + 0j


def ross_kerwin_ungar(
    base: Sheet, core: Sheet, face: Sheet, shear_modulus: complex, frequency_hz: Floats, extra_mass: float = 0.0
) -> Complexes:
    """Complex bending stiffness (N·m) of base, viscoelastic core and constraining face, shape of ``frequency_hz``.

    Ross, Ungar and Kerwin (1959). The bending wavenumber the shear parameter depends on is found by iteration;
    ``extra_mass`` (kg/m²) rides along.
    """
    h1, h2, h3 = base.thickness, core.thickness, face.thickness
    k1, k2, k3 = base.modulus * h1, core.modulus * h2, face.modulus * h3
    h21, h31 = (h1 + h2) / 2, (h1 + h3) / 2 + h2
    mass = sum(s.thickness * s.density for s in (base, core, face)) + extra_mass
    omega = 2 * np.pi * frequency_hz
    own = base.modulus * h1**3 / 12 + core.modulus * h2**3 / 12 + face.modulus * h3**3 / 12
    stiffness: Complexes = np.full(frequency_hz.shape, own, dtype=complex)
    for _ in range(40):
        p2 = omega * np.sqrt(mass / stiffness.real)
        g = shear_modulus / (k3 * h2 * p2)
        axis = (k2 * (h21 - h31 / 2) + g * (k2 * h21 + k3 * h31)) / (k1 + k2 / 2 + g * (k1 + k2 + k3))
        shear = 1 / (1 + g)
        new: Complexes = (
            own
            - core.modulus * h2**2 / 12 * (h31 - axis) * shear
            + k1 * axis**2
            + k2 * (h21 - axis) ** 2
            + k3 * (h31 - axis) ** 2
            - (k2 / 2 * (h21 - axis) + k3 * (h31 - axis)) * (h31 - axis) * shear
        )
        settled = bool(np.all(np.abs(new - stiffness) <= 1e-6 * np.abs(new)))
        stiffness = 0.5 * (stiffness + new) if not settled else new
        if settled:
            break
    return stiffness


def first_mode_share(coverage: float, side_ratio: float = 1.0, poisson: float = 0.3) -> float:
    """Share of the first mode's bending energy under a centred patch of area share ``coverage``, 0–1.

    Simply supported panel, patch of the panel's own proportions, ``side_ratio`` of its sides.
    """
    c = math.sqrt(min(max(coverage, 0.0), 1.0))
    a, b = c + math.sin(math.pi * c) / math.pi, c - math.sin(math.pi * c) / math.pi
    ratio = max(side_ratio, 1 / side_ratio)
    return a * a - 2 * (1 - poisson) * ratio**2 / (1 + ratio**2) ** 2 * (a * a - b * b)


def coverage_share(coverage: float, frequency_hz: Floats, first_mode_hz: float, side_ratio: float) -> Floats:
    """Share of the full layer's effect a centred patch keeps at each frequency, 0–1.

    The first mode's law up to twice its frequency, the plain area share for high modes, and in between the first
    mode's part falls as the number of modes below f grows (∝ f).
    """
    first = first_mode_share(coverage, side_ratio)
    weight = np.minimum(1.0, 2 * first_mode_hz / frequency_hz)
    return np.asarray(coverage + (first - coverage) * weight)


def core_of(layer: Damping) -> tuple[Sheet, complex]:
    """The viscoelastic sheet of a damping layer and its complex shear modulus (Pa)."""
    young = layer.youngs_modulus_mpa * 1e6 * (1 + 1j * layer.loss_factor)
    sheet = Sheet(layer.thickness_mm / 1e3, layer.density_kg_m3, young / (1 - layer.poisson**2))
    return sheet, young / (2 * (1 + layer.poisson))


def damped_stiffness(base: Sheet, layer: Damping, frequency_hz: Floats) -> Complexes:
    """Complex bending stiffness (N·m) of ``base`` fully covered by ``layer``, shape of ``frequency_hz``."""
    core, shear = core_of(layer)
    if layer.facing is None:
        return np.full(frequency_hz.shape, oberst(base, core), dtype=complex)
    facing = layer.facing
    face = Sheet(facing.thickness_mm / 1e3, facing.density_kg_m3, facing.youngs_modulus_gpa * 1e9 / (1 - 0.33**2) + 0j)
    return ross_kerwin_ungar(base, core, face, shear, frequency_hz)


def damping_mass(layer: Damping) -> float:
    """Mass a damping layer adds where it lies, times its coverage, kg/m²."""
    facing = layer.facing.thickness_mm / 1e3 * layer.facing.density_kg_m3 if layer.facing else 0.0
    return layer.coverage * (layer.thickness_mm / 1e3 * layer.density_kg_m3 + facing)
