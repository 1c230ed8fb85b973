"""What a family of materials is: its fields, its mass, its part in a stack, its bounds. One module per family fills it in."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..schema import Strict, ThicknessMm
from .elements import Element, Place
from .properties import Properties

Acts = Literal["plate", "damping", "limp", "soft", "line", "combined", "thing"]
"""A plate bends; damping bends with the plate beside it; a limp layer only weighs; what is soft parts two masses; a line
(a seal, a strip) is no layer; what is combined acts as its parts; a thing (a stud, a screw, a cleaner) is no layer either."""


class Layer(Strict):
    """A layer of a stack as a file or a form gives it; each family adds its fields."""

    kind: str
    thickness_mm: ThicknessMm


class Unit(NamedTuple):
    """A unit of the outside: what it is multiplied by, or divided by, to be SI."""

    times: float = 1.0
    by: float = 1.0


SI, MM, CM2 = Unit(), Unit(by=1e3), Unit(by=1e4)
GPA, MPA, KPA = Unit(times=1e9), Unit(times=1e6), Unit(times=1e3)
Columns = Mapping[str, tuple[str, Unit]]
"""A layer's numbers by their name inside: the field of the layer, and the unit that field has."""


class Laid(NamedTuple):
    """How a material is used: thickness (mm), share covered, join to the plate before, temperature (°C)."""

    thickness_mm: float
    coverage: float = 1.0
    join: str | None = None
    temperature_c: float = 20.0


class Remark(NamedTuple):
    """Something the reader of a result should know of a layer; ``rule`` is its stable name."""

    rule: str
    severity: str
    text: str


def even_mass(place: Place) -> Floats:
    """Mass of a layer of one density, kg/m²."""
    return np.asarray(place["thickness"] * place["density"])


def own_depth(place: Place) -> Floats:
    """Depth of a layer that has nothing on it, m."""
    return place["thickness"]


@dataclass(frozen=True)
class Family:
    """One family. All else in the program asks this, never the name.

    ``columns`` of a variant are the numbers computed with; ``mass`` (kg/m²) and ``depth`` (m) are of those. ``element`` and
    ``compliance`` (m³/N) are of soft and limp layers; ``of_material`` makes the layer from a material of the shelf.
    """

    name: str
    acts: Acts
    layer: type[Layer] | None = None
    example: Mapping[str, Any] | None = None
    """A layer of this family as a file gives it."""
    columns: Callable[[str], Columns] = lambda _: {}
    variant: Callable[[Any], str] = lambda _: ""
    """What of a layer decides how it is computed, beside its kind."""
    mass: Callable[[Place], Floats] = even_mass
    depth: Callable[[Place], Floats] = own_depth
    of_material: Callable[[Properties, Laid], Layer] | None = None
    element: Callable[[Place, Floats], Element] | None = None
    compliance: Callable[[Place], Floats] | None = None
    runs_along: bool = False
    """Whether sound runs along a cavity in it."""
    fills: bool = False
    """Whether it takes up what runs along a cavity."""
    soaks: bool = False
    """Whether it can hold water, where the material is not closed to it."""
    closes: bool = False
    """Whether it closes off what lies behind it from the sound of a room."""
    absorbs: bool = False
    """Whether it can be part of an absorbing lining."""
    bought: bool = True
    """Whether it is a thing to lay at all: an air gap is none."""
    remarks: Callable[[Any], tuple[Remark, ...]] = lambda _: ()
    """What its bounds say of a layer."""
