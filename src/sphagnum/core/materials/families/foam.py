"""Closed-cell foams and dense pads: a spring with loss below their first wave, a medium above it."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ...levels.bands import Floats
from ...schema import Density, LossFactor, Positive
from ..elements import Fluid, Place
from ..family import MM, MPA, SI, Columns, Family, Laid, Layer
from ..properties import Properties, known


class Foam(Layer):
    """A closed-cell or dense layer that acts as a spring with loss."""

    kind: Literal["foam"]
    dynamic_stiffness_mn_m3: Positive
    density_kg_m3: Density
    loss_factor: LossFactor = 0.1


COLUMNS: Columns = {"thickness": ("thickness_mm", MM), "stiffness": ("dynamic_stiffness_mn_m3", MPA),
                    "density": ("density_kg_m3", SI), "loss": ("loss_factor", SI)}


def _of_material(p: Properties, laid: Laid) -> Foam:
    return Foam(kind="foam", thickness_mm=laid.thickness_mm, density_kg_m3=known(p.density_kg_m3),
                dynamic_stiffness_mn_m3=known(p.youngs_dynamic_mpa) * 1e3 / laid.thickness_mm, loss_factor=known(p.loss_factor))


def element(layer: Place, frequency_hz: Floats) -> Fluid:
    """A closed foam as a medium of its own density; its modulus is its dynamic stiffness times its thickness."""
    omega, density = 2 * np.pi * frequency_hz, layer["density"]
    modulus = layer["stiffness"] * layer["thickness"] * (1 + 1j * layer["loss"])
    return Fluid(np.asarray(np.sqrt(density * modulus) + 0j * omega), np.asarray(omega * np.sqrt(density / modulus) + 0j),
                 layer["thickness"], True)


FAMILY = Family(
    name="foam", acts="soft", layer=Foam, columns=lambda _: COLUMNS, of_material=_of_material, element=element,
    compliance=lambda layer: np.asarray(1 / layer["stiffness"]), fills=True, soaks=True, closes=True,
    example={"kind": "foam", "thickness_mm": 10, "dynamic_stiffness_mn_m3": 30, "density_kg_m3": 60, "loss_factor": 0.2},
)
