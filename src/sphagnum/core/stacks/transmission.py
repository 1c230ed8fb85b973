"""Diffuse transmission of stacks of one make-up: leaves, linings and cavities, the links between leaves, leaks.

One method for every order of layers: transfer matrices over a field of limited angles give the whole; what a finite panel
radiates differently (ISO 12354-1: forced waves) and its free waves add are put on as factors of the leaves concerned.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from . import bridges, multilayer, openings, single_leaf
from .columns import MakeUp, Place, Plan, column, places, plan
from .leaf import Leaf, first_mode_hz, make_leaf
from .model import Stack
from .multilayer import Element, Moving, Tie
from .single_leaf import Size

EDGE_ABSORPTION = 0.04
"""Absorption coefficient of the edge of an empty cavity."""
SMOOTHING = 0.1
"""Least loss factor of a leaf in the sum over angles, so that few angles find its coincidence; its own loss comes in with
its free waves."""
LEAST = 1e-12
"""Smallest transmission coefficient given: beyond 120 dB no figure means anything."""


class Heavy(NamedTuple):
    """A leaf or a limp layer alone: mass, its place in the chain, its own diffuse τ, and what free waves change of it."""

    mass: Floats
    element: Moving
    alone: Floats
    excess: Floats | float
    leaf: Leaf | None = None
    loss: Floats | None = None
    linked: bridges.Linked | None = None


class Result(NamedTuple):
    """τ of the stacks, (stacks, frequencies), and what was met on the way, by group."""

    tau: Floats
    plan: Plan
    layers: tuple[Place, ...]
    heavy: dict[int, Heavy]
    first_mode_hz: Floats | None


def transmission(stacks: Sequence[Stack], made: MakeUp, frequency_hz: Floats) -> Result:
    """Diffuse transmission coefficients of stacks of one make-up at ``frequency_hz`` (frequencies,).

    BadInput where the make-up does not hold together (see ``columns.plan``).
    """
    f, arranged, layers = frequency_hz[None, :], plan(made), places(stacks, made)
    size = column(stacks, "width_m"), column(stacks, "height_m")
    elements: list[Element] = []
    heavy: dict[int, Heavy] = {}
    for i, group in enumerate(arranged.groups):
        if group.mass:
            heavy[i] = _leaf([layers[p] for p in group.places], made, f, size) if group.kind == "leaf" else (
                _limp([layers[p] for p in group.places], f, size))
            elements.append(heavy[i].element)
        else:
            elements.append(multilayer.soft_element(layers[group.places[0]], f))
    tau = multilayer.diffuse_transmission(elements, f, _tie(stacks, made, arranged, heavy, f))
    if heavy:
        tau = tau * finite(np.max([h.mass for h in heavy.values()], axis=0), f, size)
        for one in heavy.values():
            tau = tau * one.excess
        tau = tau + _cavity_fields(stacks, arranged, layers, heavy, size)
        tau = tau + _links(stacks, made, arranged, heavy, elements, f, size)
    first = next((first_mode_hz(h.leaf.stiffness[:, :1].real / h.mass, *size) for h in heavy.values() if h.leaf), None)
    return Result(np.maximum(_leaking(stacks, made, tau, f, size), LEAST), arranged, layers, heavy, first)


def finite(mass: Floats, frequency_hz: Floats, size_m: Size) -> Floats:
    """What the size of a panel makes of forced transmission: ISO 12354-1 over the unbounded field's, for a limp layer."""
    limp = single_leaf.limp_transmission(mass, frequency_hz, size_m)
    return np.asarray(limp / multilayer.limp_field(mass, frequency_hz))


def _leaf(layers: list[Place], made: MakeUp, f: Floats, size: Size) -> Heavy:
    leaf = make_leaf(layers, f, *size)
    loss = single_leaf.total_loss(leaf, f, made.edge_losses)
    free, omega = single_leaf.free_waves(leaf, f, size, loss), 2 * np.pi * f
    # shear softens thick leaves: the stiffness that has the effective critical frequency
    bending = leaf.stiffness.real * (single_leaf.critical_hz(leaf.mass, leaf.stiffness.real) / free.critical) ** 2
    smooth = np.maximum(loss, SMOOTHING)
    trace = (omega / single_leaf.SPEED_OF_SOUND) ** 4 / (1j * omega)
    element = Moving(1j * omega * leaf.mass, bending * (1 + 1j * smooth) * trace)
    alone = single_leaf.leaf_transmission(leaf, free, f, size)
    excess = alone / multilayer.leaf_field(leaf.mass, bending, smooth, f) / finite(leaf.mass, f, size)
    return Heavy(leaf.mass, element, alone, excess, leaf, loss, bridges.linked(leaf, free))


def _limp(layers: list[Place], f: Floats, size: Size) -> Heavy:
    mass: Floats = np.sum([x["surface_mass_kg_m2"] for x in layers], axis=0)
    return Heavy(mass, Moving(2j * np.pi * f * mass), single_leaf.limp_transmission(mass, f, size), 1.0)


def _tie(stacks: Sequence[Stack], made: MakeUp, arranged: Plan, heavy: dict[int, Heavy], f: Floats) -> Tie | None:
    if arranged.tied is None:
        return None
    spring = bridges.frame_spring(stacks, made, [heavy[i].leaf for i in arranged.tied], f)
    return None if spring is None else Tie(*arranged.tied, spring)


def _cavity_fields(
    stacks: Sequence[Stack], arranged: Plan, layers: tuple[Place, ...], heavy: dict[int, Heavy], size: Size
) -> Floats:
    """What the waves along empty cavities carry across: τ₁·τ₂ over the absorption of the cavity's edges (as in SEA).

    Where all that parts the leaves of a stack is air; anything porous or springy between them takes these waves out.
    """
    order = sorted(heavy)
    if len(order) < 2:
        return np.zeros((1, 1))
    # a ladder of leaks and losses, from the listener's side: what flows and what stands in each cavity for 1 in the last
    flow, stands = heavy[order[-1]].alone, np.ones((1, 1))
    passed = flow
    for b, a in pairwise(reversed(order)):
        between = arranged.groups[a + 1 : b]
        if not between or any(g.kind != "air" for g in between):
            return np.zeros((1, 1))
        depth = np.sum([layers[g.places[0]]["thickness_mm"] for g in between], axis=0) / 1e3
        bay = np.fmin(column(stacks, "frame.spacing_mm") / 1e3, size[0]) if arranged.tied == (a, b) else size[0]
        edge = EDGE_ABSORPTION * 2 * depth * (1 / bay + 1 / size[1])
        flow = flow + edge * stands
        stands = stands + flow / heavy[a].alone
    return np.asarray(passed / stands)


def _links(
    stacks: Sequence[Stack], made: MakeUp, arranged: Plan, heavy: dict[int, Heavy], elements: list[Element], f: Floats, size: Size
) -> Floats:
    """What frames and the surround carry from leaf to leaf."""
    total: Floats = np.zeros((1, 1))
    leaves = [h.linked for _, h in sorted(heavy.items()) if h.linked is not None]
    if len(leaves) > 1:
        around = size[0] * size[1] / 2 / (size[0] + size[1])
        total = total + bridges.SURROUND_SHARE * bridges.line_links(leaves[0], leaves[-1], around, 0.0, f)
    if arranged.tied is not None:
        a, b = (heavy[i].linked for i in arranged.tied)
        if a is not None and b is not None:
            outer = _beyond(arranged.tied, elements, f)
            total = total + bridges.frame_links(stacks, made, a, b, f, size[1]) * outer
    return total


def _beyond(tied: tuple[int, int], elements: list[Element], f: Floats) -> Floats | float:
    """What lies outside the two tied leaves does to what the frame carries: the whole chain over the tied part."""
    first, second = tied
    if first == 0 and second == len(elements) - 1:
        return 1.0
    part = multilayer.diffuse_transmission(elements[first : second + 1], f)
    return np.asarray(np.minimum(multilayer.diffuse_transmission(elements, f) / part, 1.0))


def _leaking(stacks: Sequence[Stack], made: MakeUp, tau: Floats, f: Floats, size: Size) -> Floats:
    share = column(stacks, "leak_cm2") / 1e4 / (size[0] * size[1])
    opening: Floats | float = 1.0
    if made.slit:
        width, depth = column(stacks, "leak_slit_mm") / 1e3, column(stacks, "leak_depth_mm") / 1e3
        opening = openings.slit_transmission(f, width, depth)
    return openings.composite(np.minimum(tau, 1.0), share, opening)

