"""Many stacks of one make-up as columns of numbers, so that one pass of arrays computes them all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from operator import attrgetter
from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from ..levels.bands import Floats
from ..materials.layers import Damping, Plate, ShelfLayer
from .model import Stack

FIELDS: dict[str, tuple[str, ...]] = {
    "plate": ("thickness_mm", "density_kg_m3", "youngs_modulus_gpa", "poisson", "loss_factor"),
    "limp": ("thickness_mm", "surface_mass_kg_m2"),
    "foam": ("thickness_mm", "dynamic_stiffness_mn_m3", "density_kg_m3", "loss_factor"),
    "porous": ("thickness_mm", "flow_resistivity_pa_s_m2", "density_kg_m3"),
    "air": ("thickness_mm",),
    "damping": ("thickness_mm", "density_kg_m3", "youngs_modulus_mpa", "poisson", "loss_factor", "coverage"),
}
INTERLAYER = ("interlayer.thickness_mm", "interlayer.shear_modulus_mpa", "interlayer.loss_factor")
FACING = ("facing.thickness_mm", "facing.youngs_modulus_gpa", "facing.density_kg_m3")
LINKED = ("wood-studs", "light-steel-studs", "staggered-wood-studs", "point-fixings")
SOFT = ("foam", "porous", "air")
INTERLAYER_DENSITY = 1000.0  # kg/m³, of a viscous layer between two plates


@dataclass(frozen=True)
class Place:
    """One layer of every stack: its kind, its join, and its properties as columns of shape (stacks, 1)."""

    kind: str
    join: str | None
    faced: bool
    values: dict[str, Floats]

    def __getitem__(self, name: str) -> Floats:
        return self.values[name]


class MakeUp(NamedTuple):
    """What must be alike for stacks to be computed together."""

    layers: tuple[tuple[str, str | None, bool], ...]
    frame: str
    channels: bool
    isolated: bool
    between: tuple[int, int] | None
    spaced: bool
    slit: bool
    edge_losses: bool


class Group(NamedTuple):
    """Layers in contact that move as one leaf (or as one limp layer), or one soft layer; places in the stack."""

    places: tuple[int, ...]
    kind: str  # "leaf", "limp" or a soft layer's kind

    @property
    def mass(self) -> bool:
        """Whether it is a leaf or a limp layer, not a soft one."""
        return self.kind in ("leaf", "limp")


class Plan(NamedTuple):
    """A make-up's groups, source side first, and the two groups a frame ties together."""

    groups: tuple[Group, ...]
    tied: tuple[int, int] | None


def make_up(stack: Stack) -> MakeUp:
    """The make-up of a stack whose shelf layers are resolved; BadInput for one that is not."""
    layers = []
    for i, layer in enumerate(stack.layers):
        if isinstance(layer, ShelfLayer):
            raise BadInput(f"'{layer.material}' is not resolved", f"layers[{i}].material", "resolve shelf layers first")
        join = layer.join if isinstance(layer, Plate) else None
        layers.append((layer.kind, join, isinstance(layer, Damping) and layer.facing is not None))
    frame = stack.frame
    return MakeUp(
        tuple(layers), frame.kind, frame.resilient_channel_spacing_mm is not None, bool(frame.isolated), frame.between,
        frame.spacing_mm is not None, stack.leak_slit_mm is not None, stack.edge_losses,
    )


@lru_cache(maxsize=4096)
def plan(made: MakeUp) -> Plan:
    """Groups of a make-up. BadInput for damping that no plate carries and for a frame that does not fit."""
    kinds = [kind for kind, _, _ in made.layers]
    for i, kind in enumerate(kinds):
        if kind == "damping" and "plate" not in (_neighbour(kinds, i, -1), _neighbour(kinds, i, 1)):
            raise BadInput("a damping layer needs a plate beside it", f"layers[{i}]", "put it against one")
    groups: list[Group] = []
    for i, kind in enumerate(kinds):
        if kind not in SOFT and groups and groups[-1].mass:
            groups[-1] = Group((*groups[-1].places, i), "limp" if {groups[-1].kind, kind} == {"limp"} else "leaf")
        else:
            groups.append(Group((i,), kind if kind in (*SOFT, "limp") else "leaf"))
    return Plan(tuple(groups), _tied(made, groups))


def _neighbour(kinds: list[str], place: int, step: int) -> str | None:
    """The kind of the next layer in a direction that is no damping."""
    place += step
    while 0 <= place < len(kinds) and kinds[place] == "damping":
        place += step
    return kinds[place] if 0 <= place < len(kinds) else None


def _tied(made: MakeUp, groups: list[Group]) -> tuple[int, int] | None:
    if made.frame == "none":
        if made.channels:
            raise BadInput("resilient channels need a frame to hang on", "frame.kind", "name the frame, such as wood-studs")
        return None
    if made.frame in LINKED and not made.spaced:
        raise BadInput("is missing", "frame.spacing_mm", "give the distance from one to the next")
    masses = [i for i, g in enumerate(groups) if g.mass]
    pairs = [(a, b) for a, b in pairwise(masses) if b > a + 1]
    if made.between is None:
        if len(pairs) != 1:
            count = "no cavity" if not pairs else f"{len(pairs)} cavities"
            raise BadInput(f"the stack has {count} for the frame", "frame.between", "name the layers of the two leaves it joins")
        return pairs[0]
    found = []
    for place in made.between:
        at = next((i for i in masses if place in groups[i].places), None)
        if at is None:
            raise BadInput(f"layer {place} is no plate or limp layer", "frame.between", "name the two leaves by position from 0")
        found.append(at)
    first, second = min(found), max(found)
    if second <= first + 1:
        raise BadInput("there is no cavity between these layers", "frame.between", "name the leaves on both sides of one")
    return first, second


def places(stacks: Sequence[Stack], made: MakeUp) -> tuple[Place, ...]:
    """The layers of stacks of one make-up as columns."""
    out = []
    for i, (kind, join, faced) in enumerate(made.layers):
        names = FIELDS[kind] + (INTERLAYER if join == "viscous" else ()) + (FACING if faced else ())
        read = attrgetter(*names)
        rows = np.array([read(s.layers[i]) for s in stacks], dtype=float).reshape(len(stacks), len(names))
        out.append(Place(kind, join, faced, {n: rows[:, j : j + 1] for j, n in enumerate(names)}))
    return tuple(out)


def column(stacks: Sequence[Stack], name: str) -> Floats:
    """A number of every stack, shape (stacks, 1); a missing one is NaN."""
    read = attrgetter(name)
    values = [read(s) for s in stacks]
    return np.array([np.nan if v is None else v for v in values], dtype=float)[:, None]


def depth_column_mm(layer: Place) -> Floats:
    """Thickness of a layer with its facing or interlayer, mm."""
    depth = layer["thickness_mm"]
    for extra in ("facing.thickness_mm", "interlayer.thickness_mm"):
        depth = depth + layer.values.get(extra, 0.0)
    return np.asarray(depth)


def mass_column(layer: Place) -> Floats:
    """Mass of a layer averaged over the panel, kg/m²; damping counts by its coverage."""
    depth = layer["thickness_mm"] / 1e3
    if layer.kind == "limp":
        return layer["surface_mass_kg_m2"]
    if layer.kind == "air":
        return np.zeros_like(depth)
    mass = depth * layer["density_kg_m3"]
    if layer.kind == "damping":
        face = layer["facing.thickness_mm"] / 1e3 * layer["facing.density_kg_m3"] if layer.faced else 0.0
        return np.asarray(layer["coverage"] * (mass + face))
    return np.asarray(mass + layer.values.get("interlayer.thickness_mm", 0.0) / 1e3 * INTERLAYER_DENSITY)
