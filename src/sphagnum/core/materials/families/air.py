"""Empty gaps: air as a medium, with the loss of a cavity's edges and boundary layers."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ...levels.bands import Floats
from ..elements import AIR_DENSITY, SPEED_OF_SOUND, Fluid, Place
from ..family import MM, Columns, Family, Laid, Layer
from ..properties import Properties

CAVITY_LOSS = 0.05
"""Loss factor of the air in an empty cavity: its edges, frames and boundary layers."""
BULK = AIR_DENSITY * SPEED_OF_SOUND**2
"""Adiabatic bulk modulus of air, Pa."""


class Air(Layer):
    """An empty gap."""

    kind: Literal["air"]


COLUMNS: Columns = {"thickness": ("thickness_mm", MM)}


def _of_material(_: Properties, laid: Laid) -> Air:
    return Air(kind="air", thickness_mm=laid.thickness_mm)


def element(layer: Place, frequency_hz: Floats, loss: float = CAVITY_LOSS) -> Fluid:
    """An air gap as a fluid with the loss of an empty cavity."""
    k = 2 * np.pi * frequency_hz / SPEED_OF_SOUND * np.sqrt(1 - 1j * loss)
    return Fluid(AIR_DENSITY * SPEED_OF_SOUND / np.sqrt(1 - 1j * loss) + 0 * k, k, layer["thickness"])


FAMILY = Family(
    name="air", acts="soft", layer=Air, columns=lambda _: COLUMNS, mass=lambda place: np.zeros_like(place["thickness"]),
    of_material=_of_material, element=element, compliance=lambda layer: np.asarray(layer["thickness"] / BULK),
    runs_along=True, absorbs=True, bought=False, example={"kind": "air", "thickness_mm": 20},
)
