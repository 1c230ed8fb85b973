"""Plates that move as one: a leaf's mass, bending stiffness and loss factor over frequency, for many stacks at once."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..materials.elements import Complexes, Place, Sheet
from ..materials.families.plate import INTERLAYER_DENSITY, sheet
from ..materials.family import Acts
from ..materials.table import family
from . import damping


class Leaf(NamedTuple):
    """Plates (and the damping on them) that move as one; columns (stacks, 1), stiffness (stacks, frequencies)."""

    mass: Floats  # kg/m²
    stiffness: Complexes  # N·m, real part bends, imaginary part loses
    thickness: Floats  # m, of the thickest plate, for shear at high frequencies
    sound_speed: Floats  # m/s, longitudinal, of the thickest plate


def _acts(layer: Place) -> Acts:
    return family(layer.kind).acts


def _laminate(plates: list[Place], frequency_hz: Floats) -> tuple[Complexes, Sheet]:
    """Complex stiffness of joined plates and the single sheet that stands for them under a damping layer.

    Plates bonded to one another are one plate; what is fixed to it adds its stiffness, a viscous layer shears between.
    """
    runs: list[list[Place]] = []
    for plate in plates:
        if runs and plate.variant == "bonded":
            runs[-1].append(plate)
        else:
            runs.append([plate])
    sheets = [_bonded_sheet([sheet(p) for p in run], frequency_hz) for run in runs]
    stiffness: Complexes = damping.bonded((sheets[0],)) + np.zeros_like(frequency_hz)
    extra: Floats | float = 0.0
    for i, run in enumerate(runs[1:], start=1):
        plate = run[0]
        if plate.variant == "viscous":
            shear = plate["interlayer.shear"] * (1 + 1j * plate["interlayer.loss"])
            viscous = Sheet(plate["interlayer.thickness"], np.full_like(plate["thickness"], INTERLAYER_DENSITY),
                            3 * shear)
            lower = equivalent(sheets[:i], stiffness)
            stiffness = damping.ross_kerwin_ungar(lower, viscous, sheets[i], shear, frequency_hz)
            extra = extra + viscous.thickness * viscous.density
        else:
            stiffness = stiffness + damping.bonded((sheets[i],))
    base = equivalent(sheets, stiffness)
    return stiffness, base._replace(density=base.density + extra / base.thickness)


def _bonded_sheet(sheets: list[Sheet], frequency_hz: Floats) -> Sheet:
    return sheets[0] if len(sheets) == 1 else equivalent(sheets, damping.bonded(tuple(sheets)) + np.zeros_like(frequency_hz))


def equivalent(sheets: list[Sheet], stiffness: Complexes) -> Sheet:
    """One sheet of the same mass and thickness that bends like ``stiffness`` (at mid-frequencies)."""
    thickness = np.sum([s.thickness for s in sheets], axis=0)
    mass = np.sum([s.thickness * s.density for s in sheets], axis=0)
    middle = stiffness.shape[1] // 2
    return Sheet(thickness, mass / thickness, 12 * stiffness[:, middle : middle + 1] / thickness**3)


def make_leaf(layers: list[Place], frequency_hz: Floats, width_m: Floats, height_m: Floats) -> Leaf:
    """Plates, the damping against them and limp layers on them as one leaf; at least one of ``layers`` is a plate.

    ``frequency_hz`` is (1, frequencies), sizes are columns. Partial coverage follows ``damping.coverage_share``; mass is
    spread evenly.
    """
    plates = [p for p in layers if _acts(p) == "plate"]
    bare, base = _laminate(plates, frequency_hz)
    mass = base.thickness * base.density
    stiffness = bare
    mass = mass + np.sum([family(x.kind).mass(x) for x in layers if _acts(x) == "limp"], axis=0)
    mass = mass + np.sum([family(x.kind).mass(x) for x in layers if _acts(x) == "damping"], axis=0)
    first = first_mode_hz(bare[:, :1].real / mass, width_m, height_m)
    for run in _damping_runs(layers):
        before = bare
        for i, layer in enumerate(run, start=1):
            covered = damping.damped_stiffness(base, run[:i], frequency_hz)
            share = damping.coverage_share(layer["coverage"], frequency_hz, first, width_m / height_m)
            stiffness, before = stiffness + share * (covered - before), covered
    depth = np.concatenate(_bonded_depths(plates), axis=1)
    thickest = np.argmax(depth, axis=1)[:, None]
    speed = np.concatenate(
        [np.sqrt(p["modulus"] / (p["density"] * (1 - p["poisson"] ** 2))) for p in plates], axis=1)
    return Leaf(mass, stiffness, np.take_along_axis(depth, thickest, 1), np.take_along_axis(speed, thickest, 1))


def _damping_runs(layers: list[Place]) -> list[list[Place]]:
    """Damping layers that lie on one another, those nearest to their plate first."""
    runs: list[list[Place]] = []
    for i, layer in enumerate(layers):
        if _acts(layer) == "damping":
            if i and _acts(layers[i - 1]) == "damping":
                runs[-1].append(layer)
            else:
                runs.append([layer])
    if _acts(layers[0]) == "damping":  # before the first plate, so its last layer lies on it
        runs[0].reverse()
    return runs


def _bonded_depths(plates: list[Place]) -> list[Floats]:
    """Thickness of what each plate shears as, m: bonded plates as one."""
    out: list[Floats] = []
    for plate in plates:
        bonded = plate.variant == "bonded"
        out.append(plate["thickness"] + (out[-1] if bonded else 0.0))
    return out


def first_mode_hz(stiffness_per_mass: Floats, width_m: Floats | float, height_m: Floats | float) -> Floats:
    """First natural frequency of a simply supported panel, Hz: π/2·√(D/m′)·(1/a² + 1/b²)."""
    return np.asarray(np.pi / 2 * np.sqrt(stiffness_per_mass) * (1 / np.square(width_m) + 1 / np.square(height_m)))
