"""Damping: viscous layers that bend with the plate they lie on, free or under a stiff facing."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ...levels.bands import Floats
from ...schema import Density, LossFactor, Poisson, Positive, Share, Strict, ThicknessMm
from ..elements import Complexes, Place, Sheet
from ..family import GPA, MM, MPA, SI, Columns, Family, Laid, Layer
from ..properties import Properties, known

FACED = "faced"
FACING_POISSON = 0.33


class Facing(Strict):
    """The stiff foil that makes a damping layer a constrained one."""

    thickness_mm: ThicknessMm
    youngs_modulus_gpa: Positive
    density_kg_m3: Density


class Damping(Layer):
    """A layer that takes bending energy out of the plate it lies on; constrained when it has a facing."""

    kind: Literal["damping"]
    density_kg_m3: Density
    youngs_modulus_mpa: Positive
    poisson: Poisson = 0.45
    loss_factor: LossFactor
    facing: Facing | None = None
    coverage: Share = 1.0


def _columns(variant: str) -> Columns:
    own: Columns = {"thickness": ("thickness_mm", MM), "density": ("density_kg_m3", SI), "modulus": ("youngs_modulus_mpa", MPA),
                    "poisson": ("poisson", SI), "loss": ("loss_factor", SI), "coverage": ("coverage", SI)}
    face: Columns = {"facing.thickness": ("facing.thickness_mm", MM), "facing.modulus": ("facing.youngs_modulus_gpa", GPA),
                     "facing.density": ("facing.density_kg_m3", SI)}
    return {**own, **face} if variant == FACED else own


def _mass(place: Place) -> Floats:
    """Averaged over the panel: by its coverage."""
    face = place["facing.thickness"] * place["facing.density"] if place.variant == FACED else 0.0
    return np.asarray(place["coverage"] * (place["thickness"] * place["density"] + face))


def _depth(place: Place) -> Floats:
    return np.asarray(place["thickness"] + place.values.get("facing.thickness", 0.0))


def at_temperature(p: Properties, temperature_c: float) -> tuple[float, float]:
    """Modulus (MPa) and loss factor of a viscous material, known at 20 °C, at another temperature.

    The loss is a bell over temperature, η ∝ 1/(1 + ((T − T_peak)/w)²); the modulus falls by a decade per ``modulus_decade_c``.
    """
    modulus, loss = known(p.youngs_modulus_mpa), known(p.loss_factor)
    if p.modulus_decade_c is not None:
        modulus *= 10 ** ((20 - temperature_c) / p.modulus_decade_c)
    if p.loss_peak_c is not None and p.loss_width_c is not None:
        off = [1 + ((t - p.loss_peak_c) / p.loss_width_c) ** 2 for t in (20.0, temperature_c)]
        loss *= off[0] / off[1]
    return modulus, min(loss, 3.0)


def _of_material(p: Properties, laid: Laid) -> Damping:
    facing = None
    if p.facing_thickness_mm is not None:
        facing = Facing(thickness_mm=p.facing_thickness_mm, youngs_modulus_gpa=known(p.facing_modulus_gpa),
                        density_kg_m3=known(p.facing_density_kg_m3))
    modulus, loss = at_temperature(p, laid.temperature_c)
    return Damping(kind="damping", thickness_mm=laid.thickness_mm, density_kg_m3=known(p.density_kg_m3), poisson=p.poisson,
                   youngs_modulus_mpa=modulus, loss_factor=loss, facing=facing, coverage=laid.coverage)


def core_of(layer: Place) -> tuple[Sheet, Complexes]:
    """The viscoelastic sheets of damping layers and their complex shear modulus (Pa)."""
    young: Complexes = layer["modulus"] * (1 + 1j * layer["loss"])
    sheet = Sheet(layer["thickness"], layer["density"], young / (1 - layer["poisson"] ** 2))
    return sheet, young / (2 * (1 + layer["poisson"]))


def face_of(layer: Place) -> Sheet:
    """The facing of faced damping layers as a sheet."""
    modulus = layer["facing.modulus"] / (1 - FACING_POISSON**2) + 0j
    return Sheet(layer["facing.thickness"], layer["facing.density"], modulus)


FAMILY = Family(
    name="damping", acts="damping", layer=Damping, columns=_columns,
    variant=lambda layer: FACED if layer.facing is not None else "", mass=_mass, depth=_depth, of_material=_of_material,
    closes=True, example={"kind": "damping", "thickness_mm": 2.2, "density_kg_m3": 1600, "youngs_modulus_mpa": 20,
                          "loss_factor": 0.5},
)
