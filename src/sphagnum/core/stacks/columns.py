"""Many stacks of one make-up as columns of numbers, so that one pass of arrays computes them all."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise
from operator import attrgetter
from typing import Literal, NamedTuple

import numpy as np

from ..errors import BadInput
from ..levels.bands import Floats
from ..materials.elements import Place
from ..materials.families.porous import BONDED
from ..materials.family import SI, Acts, Unit
from ..materials.layers import ShelfLayer
from ..materials.table import columns_of, family, variant_of
from .model import Stack

LINKED = ("wood-studs", "light-steel-studs", "staggered-wood-studs", "point-fixings", "channels", "battens")


class FrameMake(NamedTuple):
    """What must be alike of a frame for stacks to be computed together."""

    kind: str
    channels: bool
    isolated: bool
    between: tuple[int, int] | None
    spaced: bool


NO_FRAME = FrameMake("none", False, False, None, False)
"""Stands for a frame whose cavity is gone, so that the others keep their place."""


class MakeUp(NamedTuple):
    """What must be alike for stacks to be computed together."""

    layers: tuple[tuple[str, str], ...]
    """Kind and variant of each."""
    frames: tuple[FrameMake, ...]
    slit: bool
    edge_losses: bool
    surround: str


class Group(NamedTuple):
    """Layers in contact that move as one leaf (or as one limp layer), or one soft layer; places in the stack."""

    places: tuple[int, ...]
    kind: Literal["leaf", "limp", "soft"]

    @property
    def mass(self) -> bool:
        """Whether it is a leaf or a limp layer, not a soft one."""
        return self.kind != "soft"


class Plan(NamedTuple):
    """A make-up's groups, source side first, and per frame the two groups it ties together."""

    groups: tuple[Group, ...]
    tied: tuple[tuple[int, int] | tuple[()], ...]


def make_up(stack: Stack) -> MakeUp:
    """The make-up of a stack whose shelf layers are resolved; BadInput for one that is not."""
    layers = []
    for i, layer in enumerate(stack.layers):
        if isinstance(layer, ShelfLayer):
            raise BadInput(f"'{layer.material}' is not resolved", f"layers[{i}].material", "resolve shelf layers first")
        layers.append(variant_of(layer))
    # a frame holds nothing where a face of it is free or lies on what gives way itself
    acts = ["soft", *(family(kind).acts for kind, _ in layers), "soft"]
    held = tuple((kind, "" if variant == BONDED and "soft" in (acts[i], acts[i + 2]) and kind == "porous" else variant)
                 for i, (kind, variant) in enumerate(layers))
    frames = tuple(FrameMake(f.kind, f.resilient_channel_spacing_mm is not None, bool(f.isolated), f.between,
                             f.spacing_mm is not None) for f in stack.ties)
    return MakeUp(held, frames, stack.leak_slit_mm is not None, stack.edge_losses, stack.surround)


@lru_cache(maxsize=4096)
def plan(made: MakeUp) -> Plan:
    """Groups of a make-up. BadInput for damping that no plate carries and for a frame that does not fit."""
    acts = [family(kind).acts for kind, _ in made.layers]
    for i, act in enumerate(acts):
        if act == "damping" and "plate" not in (_neighbour(acts, i, -1), _neighbour(acts, i, 1)):
            raise BadInput("a damping layer needs a plate beside it", f"layers[{i}]", "put it against one")
    groups: list[Group] = []
    for i, act in enumerate(acts):
        if act != "soft" and groups and groups[-1].mass:
            groups[-1] = Group((*groups[-1].places, i), "limp" if {groups[-1].kind, act} == {"limp"} else "leaf")
        else:
            groups.append(Group((i,), act if act in ("soft", "limp") else "leaf"))
    tied: list[tuple[int, int] | tuple[()]] = []
    for k, frame in enumerate(made.frames):
        pair = () if frame == NO_FRAME else _tied(frame, groups, "frame" if k == 0 else f"frames[{k - 1}]")
        if pair and any(pair[0] < b and a < pair[1] for a, b in filter(None, tied)):
            raise BadInput("two frames stand in one cavity", "frames", "give each cavity its own")
        tied.append(pair)
    return Plan(tuple(groups), tuple(tied))


def _neighbour(acts: list[Acts], place: int, step: int) -> Acts | None:
    """What the next layer in a direction that is no damping does."""
    place += step
    while 0 <= place < len(acts) and acts[place] == "damping":
        place += step
    return acts[place] if 0 <= place < len(acts) else None


def _tied(frame: FrameMake, groups: list[Group], where: str) -> tuple[int, int]:
    if frame.kind == "none":
        raise BadInput("resilient channels need a frame to hang on", f"{where}.kind", "name the frame, such as wood-studs")
    if frame.kind in LINKED and not frame.spaced:
        raise BadInput("is missing", f"{where}.spacing_mm", "give the distance from one to the next")
    masses = [i for i, g in enumerate(groups) if g.mass]
    pairs = [(a, b) for a, b in pairwise(masses) if b > a + 1]
    if frame.between is None:
        if len(pairs) != 1:
            count = "no cavity" if not pairs else f"{len(pairs)} cavities"
            raise BadInput(f"the stack has {count} for the frame", f"{where}.between",
                           "name the layers of the two leaves it joins")
        return pairs[0]
    found = []
    for place in frame.between:
        at = next((i for i in masses if place in groups[i].places), None)
        if at is None:
            raise BadInput(f"layer {place} is no plate or limp layer", f"{where}.between",
                           "name the two leaves by position from 0")
        found.append(at)
    first, second = min(found), max(found)
    if second <= first + 1:
        raise BadInput("there is no cavity between these layers", f"{where}.between", "name the leaves on both sides of one")
    return first, second


def places(stacks: Sequence[Stack], made: MakeUp) -> tuple[Place, ...]:
    """The layers of stacks of one make-up as columns."""
    return tuple(columns_of(*made.layers[i], [s.layers[i] for s in stacks]) for i in range(len(made.layers)))


def column(stacks: Sequence[Stack], name: str, unit: Unit = SI) -> Floats:
    """A number of every stack in SI, shape (stacks, 1); a missing one is NaN."""
    read = attrgetter(name)
    values = [read(s) for s in stacks]
    return np.array([np.nan if v is None else v for v in values], dtype=float)[:, None] * unit.times / unit.by


def frame_column(stacks: Sequence[Stack], k: int, name: str) -> Floats:
    """A length of the k-th frame of every stack, m, shape (stacks, 1); a missing one is NaN."""
    values = [getattr(s.ties[k], name) for s in stacks]
    return np.array([np.nan if v is None else v for v in values], dtype=float)[:, None] / 1e3
