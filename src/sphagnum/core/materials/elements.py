"""What a layer is in the computation: columns of numbers in SI, and media, moving masses and bending sheets made of them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..levels.bands import Floats

SPEED_OF_SOUND = 343.0  # m/s
AIR_DENSITY = 1.21  # kg/m³
Complexes = NDArray[np.complexfloating[Any, Any]]
"""Complex arrays."""


@dataclass(frozen=True)
class Place:
    """One layer of every stack: its kind, which variant of it, and its properties in SI as columns of shape (stacks, 1)."""

    kind: str
    variant: str
    values: dict[str, Floats]

    def __getitem__(self, name: str) -> Floats:
        return self.values[name]


class Sheet(NamedTuple):
    """An elastic sheet: thickness m, density kg/m³, complex modulus E(1 + jη)/(1 − ν²) in Pa; columns (stacks, 1)."""

    thickness: Floats
    density: Floats
    modulus: Complexes


class Fluid(NamedTuple):
    """A layer as a medium: characteristic impedance (Pa·s/m), wavenumber (1/m), thickness (m).

    In a ``straight`` one waves go straight through, whatever the angle of what meets it, as in a closed foam.
    """

    impedance: Complexes
    wavenumber: Complexes
    thickness: Floats
    straight: bool = False


class Moving(NamedTuple):
    """A layer that moves as a whole: impedance per area (Pa·s/m), for normal incidence and its part ∝ sin⁴θ."""

    impedance: Complexes
    bending: Complexes | None = None


Element = Fluid | Moving
