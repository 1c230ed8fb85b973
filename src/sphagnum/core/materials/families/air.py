"""Empty gaps: air as a medium, with the loss of a cavity's edges and boundary layers."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ...levels.bands import Floats
from .. import fitted
from ..elements import AIR_DENSITY, SPEED_OF_SOUND, Complexes, Fluid, Place
from ..family import MM, Columns, Family, Laid, Layer
from ..properties import Properties

LOSS_DEPTH, MOST_LOSS = 0.012, 0.8
"""Depth at which the fitted loss of an empty cavity is given, m, and the most it grows to."""
BULK = AIR_DENSITY * SPEED_OF_SOUND**2
"""Adiabatic bulk modulus of air, Pa."""


class Air(Layer):
    """An empty gap."""

    kind: Literal["air"]


COLUMNS: Columns = {"thickness": ("thickness_mm", MM)}


def _of_material(_: Properties, laid: Laid) -> Air:
    return Air(kind="air", thickness_mm=laid.thickness_mm)


def cavity_loss(depth_m: Floats) -> Floats:
    """Loss factor of the air across an empty cavity: its edges, frames and boundary layers (fitted)."""
    at = fitted.VALUES
    return np.asarray(np.minimum(at.cavity_loss * (depth_m / LOSS_DEPTH) ** at.loss_depth, MOST_LOSS))


def element(layer: Place, frequency_hz: Floats, loss: Floats | float | None = None) -> Fluid:
    """An air gap as a fluid, with the loss of the cavity it is part of (``cavity``: its depth, m) unless another is given."""
    loss = cavity_loss(layer.values.get("cavity", layer["thickness"])) if loss is None else loss
    root: Complexes = np.sqrt(1 - 1j * np.asarray(loss))
    k = 2 * np.pi * frequency_hz / SPEED_OF_SOUND * root
    return Fluid(AIR_DENSITY * SPEED_OF_SOUND / root + 0 * k, k, layer["thickness"])


FAMILY = Family(
    name="air", acts="soft", layer=Air, columns=lambda _: COLUMNS, mass=lambda place: np.zeros_like(place["thickness"]),
    of_material=_of_material, element=element, compliance=lambda layer: np.asarray(layer["thickness"] / BULK),
    runs_along=True, absorbs=True, bought=False, example={"kind": "air", "thickness_mm": 20},
)
