"""Elastic plates: sheet metal, boards, glass; bonded, fixed or joined by a viscous layer to the plate before them."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import model_validator

from ...levels.bands import Floats
from ...schema import Density, LossFactor, Poisson, Positive, Strict, ThicknessMm
from ..elements import Place, Sheet
from ..family import GPA, MM, MPA, SI, Columns, Family, Laid, Layer
from ..properties import Properties

INTERLAYER_DENSITY = 1000.0  # kg/m³, of a viscous layer between two plates
Join = Literal["fixed", "bonded", "viscous"]


class Interlayer(Strict):
    """A viscous layer that joins two plates."""

    thickness_mm: ThicknessMm
    shear_modulus_mpa: Positive
    loss_factor: LossFactor


def joined_rightly(join: Join | None, interlayer: Interlayer | None) -> None:
    """Refuses a viscous join without its layer, and a layer without that join."""
    if (join == "viscous") != (interlayer is not None):
        raise ValueError("'interlayer' goes with join \"viscous\"; give both or neither")


class Plate(Layer):
    """An elastic plate. ``join`` says how it is held to the plate before it."""

    kind: Literal["plate"]
    density_kg_m3: Density
    youngs_modulus_gpa: Positive
    poisson: Poisson = 0.3
    loss_factor: LossFactor = 0.01
    join: Join | None = None
    interlayer: Interlayer | None = None

    @model_validator(mode="after")
    def _interlayer_with_viscous(self) -> Plate:
        joined_rightly(self.join, self.interlayer)
        return self


def _columns(join: str) -> Columns:
    own: Columns = {"thickness": ("thickness_mm", MM), "density": ("density_kg_m3", SI), "modulus": ("youngs_modulus_gpa", GPA),
           "poisson": ("poisson", SI), "loss": ("loss_factor", SI)}
    between: Columns = {"interlayer.thickness": ("interlayer.thickness_mm", MM),
                        "interlayer.loss": ("interlayer.loss_factor", SI),
                        "interlayer.shear": ("interlayer.shear_modulus_mpa", MPA)}
    return {**own, **between} if join == "viscous" else own


def _mass(place: Place) -> Floats:
    return np.asarray(place["thickness"] * place["density"] + place.values.get("interlayer.thickness", 0.0) * INTERLAYER_DENSITY)


def _depth(place: Place) -> Floats:
    return np.asarray(place["thickness"] + place.values.get("interlayer.thickness", 0.0))


def _of_material(p: Properties, laid: Laid) -> Plate:
    return Plate.model_validate({
        "kind": "plate", "thickness_mm": laid.thickness_mm, "density_kg_m3": p.density_kg_m3, "poisson": p.poisson,
        "youngs_modulus_gpa": p.youngs_modulus_gpa, "loss_factor": p.loss_factor, "join": laid.join,
    })


def sheet(plate: Place) -> Sheet:
    """A plate as a bending sheet with its own internal loss."""
    modulus = plate["modulus"] * (1 + 1j * plate["loss"]) / (1 - plate["poisson"] ** 2)
    return Sheet(plate["thickness"], plate["density"], np.asarray(modulus, dtype=complex))


FAMILY = Family(
    name="plate", acts="plate", layer=Plate, columns=_columns, variant=lambda layer: layer.join or "", mass=_mass, depth=_depth,
    of_material=_of_material, closes=True,
    example={"kind": "plate", "thickness_mm": 0.8, "density_kg_m3": 7850, "youngs_modulus_gpa": 210},
)
