"""Heavy layers without stiffness: barrier sheet, film, lead."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ...levels.bands import Floats
from ..elements import Moving, Place
from ..family import MM, SI, Columns, Family, Laid, Layer
from ..properties import Properties, known


class Limp(Layer):
    """A heavy layer without stiffness."""

    kind: Literal["limp"]
    surface_mass_kg_m2: Annotated[float, Field(ge=0.01, le=2000, strict=True, allow_inf_nan=False)]


COLUMNS: Columns = {"thickness": ("thickness_mm", MM), "surface_mass": ("surface_mass_kg_m2", SI)}


def _of_material(p: Properties, laid: Laid) -> Limp:
    return Limp(kind="limp", thickness_mm=laid.thickness_mm, surface_mass_kg_m2=laid.thickness_mm / 1e3 * known(p.density_kg_m3))


def element(layer: Place, frequency_hz: Floats) -> Moving:
    """A mass that moves as a whole: jω·m′."""
    return Moving(np.asarray(1j * (2 * np.pi * frequency_hz) * layer["surface_mass"]))


FAMILY = Family(
    name="limp", acts="limp", layer=Limp, columns=lambda _: COLUMNS, mass=lambda place: place["surface_mass"],
    of_material=_of_material, element=element, closes=True, absorbs=True,
    example={"kind": "limp", "thickness_mm": 2.5, "surface_mass_kg_m2": 5},
)
