"""Plates that move as one: a leaf's mass, bending stiffness and loss factor over frequency."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from ..levels.bands import Floats
from . import damping
from .damping import Sheet
from .model import Damping, PhysicalLayer, Plate


class Leaf(NamedTuple):
    """Plates (and the damping on them) that move as one; stiffness complex, per frequency."""

    mass: float  # kg/m²
    stiffness: damping.Complexes  # N·m, real part bends, imaginary part loses
    thickness: float  # m, of the thickest plate, for shear at high frequencies
    sound_speed: float  # m/s, longitudinal, of the thickest plate


def sheet_of(plate: Plate) -> Sheet:
    """A plate as a bending sheet with its own internal loss."""
    modulus = plate.youngs_modulus_gpa * 1e9 * (1 + 1j * plate.loss_factor) / (1 - plate.poisson**2)
    return Sheet(plate.thickness_mm / 1e3, plate.density_kg_m3, modulus)


def _laminate(plates: list[Plate], frequency_hz: Floats) -> tuple[damping.Complexes, Sheet]:
    """Complex stiffness of joined plates and the single sheet that stands for them under a damping layer."""
    sheets = [sheet_of(p) for p in plates]
    stiffness: damping.Complexes = np.full(frequency_hz.shape, damping.bonded((sheets[0],)), dtype=complex)
    run = [sheets[0]]
    for i, plate in enumerate(plates[1:], start=1):
        lower = equivalent(sheets[:i], stiffness)
        if plate.join == "bonded":
            run.append(sheets[i])
            whole = run if len(run) == i + 1 else [lower, sheets[i]]
            stiffness = np.full(frequency_hz.shape, damping.bonded(tuple(whole)), dtype=complex)
            continue
        if plate.join == "viscous" and plate.interlayer is not None:
            core = plate.interlayer
            shear = core.shear_modulus_mpa * 1e6 * (1 + 1j * core.loss_factor)
            viscous = Sheet(core.thickness_mm / 1e3, 1000.0, 3 * shear)
            stiffness = damping.ross_kerwin_ungar(lower, viscous, sheets[i], shear, frequency_hz)
        else:
            stiffness = stiffness + damping.bonded((sheets[i],))
        run = []
    return stiffness, equivalent(sheets, stiffness)


def equivalent(sheets: list[Sheet], stiffness: damping.Complexes) -> Sheet:
    """One sheet of the same mass and thickness that bends like ``stiffness`` (at mid-frequencies)."""
    thickness = sum(s.thickness for s in sheets)
    mass = sum(s.thickness * s.density for s in sheets)
    middle = complex(stiffness.flat[stiffness.size // 2])
    return Sheet(thickness, mass / thickness, 12 * middle / thickness**3)


def make_leaf(
    layers: list[tuple[int, PhysicalLayer]], frequency_hz: Floats, size_m: tuple[float, float]
) -> Leaf:
    """Plates and the damping layers against them as one leaf.

    ``layers`` are (position in the stack, layer); ``frequency_hz`` any shape. Raises BadInput for damping that no
    plate carries. Partial coverage follows ``damping.coverage_share``; mass is spread evenly.
    """
    plates = [p for _, p in layers if isinstance(p, Plate)]
    if not plates:
        place = f"layers[{layers[0][0]}]"
        raise BadInput("a damping layer needs a plate beside it", place, "put it against a plate")
    bare, base = _laminate(plates, frequency_hz)
    mass = base.thickness * base.density
    stiffness = bare
    for _, layer in layers:
        if not isinstance(layer, Damping):
            continue
        covered = damping.damped_stiffness(base, layer, frequency_hz)
        carried = mass + damping.damping_mass(layer)
        first = first_mode_hz(float(bare.real.flat[0]) / carried, size_m)
        share = damping.coverage_share(layer.coverage, frequency_hz, first, size_m[0] / size_m[1])
        stiffness = stiffness + share * (covered - bare)
        mass = carried
    thickest = max(plates, key=lambda p: p.thickness_mm)
    modulus = thickest.youngs_modulus_gpa * 1e9 / (thickest.density_kg_m3 * (1 - thickest.poisson**2))
    return Leaf(mass, stiffness, thickest.thickness_mm / 1e3, modulus**0.5)


def first_mode_hz(stiffness_per_mass: float, size_m: tuple[float, float]) -> float:
    """First natural frequency of a simply supported panel, Hz: π/2·√(D/m′)·(1/a² + 1/b²)."""
    return float(np.pi / 2 * np.sqrt(stiffness_per_mass) * (1 / size_m[0] ** 2 + 1 / size_m[1] ** 2))
