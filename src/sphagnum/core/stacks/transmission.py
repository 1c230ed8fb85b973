"""Diffuse transmission of stacks of one make-up: leaves, linings and cavities, the links between leaves, leaks.

One method for every order of layers: transfer matrices over a field of limited angles give the whole; what a finite panel
radiates differently (ISO 12354-1: forced waves) and its free waves add are put on as factors of the leaves concerned.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from itertools import combinations, groupby, pairwise
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..materials import fitted
from ..materials.elements import SPEED_OF_SOUND, Complexes, Fluid, Moving, Place
from ..materials.families import porous
from ..materials.families.air import BULK, LOSS_DEPTH
from ..materials.family import CM2, MM
from ..materials.table import family
from . import bridges, multilayer, openings, single_leaf
from .alike import Again, by_sort, spread
from .columns import NO_FRAME, MakeUp, Plan, column, frame_column, places, plan
from .leaf import Leaf, first_mode_hz, make_leaf
from .model import Stack
from .multilayer import Shared, Tie
from .single_leaf import Size

AS_ONE_HZ, LEAST_ONE = 1500.0, 0.01
"""Resonance about which two masses begin to move as one over all that is heard, and the least of it that counts."""
NO_DEPTH = 1e-9
"""Of a cavity with nothing fluid in it, m: no wave runs along it."""
FILL_PATH = 4.0
"""Of a diffuse field, absorption area over energy attenuation times volume (4·m·V)."""
SMOOTHING = 0.1
"""Least loss factor of a leaf in the sum over angles, so that few angles find its coincidence; its own loss comes in with
its free waves."""
LEAST = 1e-12
"""Smallest transmission coefficient given: beyond 120 dB no figure means anything."""


LEAVES = Again(6 * 2**20)
"""Leaves that were met, some 12 KB each: a panel with its damping comes under many linings."""


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
    f, layers = frequency_hz[None, :], _with_cavities(places(stacks, made))
    found = _whole(stacks, made, layers, f)
    size = column(stacks, "width_m"), column(stacks, "height_m")
    first = next((first_mode_hz(h.leaf.stiffness[:, :1].real / h.mass, *size) for h in found.heavy.values() if h.leaf), None)
    return found._replace(tau=np.maximum(_leaking(stacks, made, found.tau, f, size), LEAST), first_mode_hz=first)


def _with_cavities(layers: tuple[Place, ...]) -> tuple[Place, ...]:
    """Layers, each of air with the depth of all the air in its cavity: cut in three it is the same air."""
    out: list[Place] = []
    for soft, run in groupby(layers, lambda x: family(x.kind).acts == "soft"):
        own = list(run)
        empty = [x["thickness"] for x in own if soft and x.kind == "air"]
        depth = np.sum(empty, axis=0) if empty else None
        out += [x if x.kind != "air" or depth is None else replace(x, values={**x.values, "cavity": depth}) for x in own]
    return tuple(out)


def _whole(stacks: Sequence[Stack], made: MakeUp, layers: tuple[Place, ...], f: Floats) -> Result:
    """Stacks without their leaks. What parts two leaves and is too thin and stiff to part them makes them one, by degrees."""
    found = _parted(stacks, made, layers, f)
    apart, weight, log_tau = np.ones((1, 1)), np.zeros((1, 1)), np.zeros((1, 1))
    for a, b in pairwise(sorted(found.heavy)):
        soft = [layers[g.places[0]] for g in found.plan.groups[a + 1 : b]]
        one = _as_one(soft, found.heavy[a].mass, found.heavy[b].mass) if soft else np.zeros((1, 1))
        if one.any():  # the other gaps of what is joined are met on the way
            joined = _whole(stacks, *_joined(made, layers, found.plan, a, b), f)
            apart, weight, log_tau = apart * (1 - one), weight + one, log_tau + one * np.log(joined.tau)
    if not weight.any():
        return found
    joined_log = log_tau / np.where(weight > 0, weight, 1.0)
    return found._replace(tau=np.exp(apart * np.log(found.tau) + (1 - apart) * joined_log))


def compliance_of(layer: Place) -> Floats:
    """Compliance of a soft layer, m³/N, as its family has it."""
    found = family(layer.kind).compliance
    assert found is not None, layer.kind
    return found(layer)


def _as_one(soft: list[Place], near: Floats, far: Floats) -> Floats:
    """How far two masses move as one, 0–1, by the resonance of the heavier on what lies between; (stacks, 1)."""
    compliance = np.sum([compliance_of(x) for x in soft], axis=0)
    resonance = np.sqrt(1 / np.maximum(near, far) / compliance) / (2 * np.pi)
    one = 1 / (1 + (AS_ONE_HZ / resonance) ** 4)
    return np.where(one > LEAST_ONE, one, 0.0)


def _joined(made: MakeUp, layers: tuple[Place, ...], plan_: Plan, a: int, b: int) -> tuple[MakeUp, tuple[Place, ...]]:
    """The make-up and layers without what lies between the leaves of groups ``a`` and ``b``."""
    gone = {p for g in plan_.groups[a + 1 : b] for p in g.places}
    kept = [i for i in range(len(layers)) if i not in gone]
    frames = tuple(
        NO_FRAME if not pair or pair == (a, b) else
        frame._replace(between=(kept.index(plan_.groups[pair[0]].places[0]), kept.index(plan_.groups[pair[1]].places[0])))
        for frame, pair in zip(made.frames, plan_.tied, strict=True))
    rest = made._replace(layers=tuple(made.layers[i] for i in kept), frames=frames)
    return rest, tuple(layers[i] for i in kept)


def _parted(stacks: Sequence[Stack], made: MakeUp, layers: tuple[Place, ...], f: Floats) -> Result:
    """Stacks without their leaks, every leaf by itself."""
    arranged = plan(made)
    size = column(stacks, "width_m"), column(stacks, "height_m")
    elements: list[Shared] = []
    heavy: dict[int, Heavy] = {}
    for i, group in enumerate(arranged.groups):
        own = [layers[p] for p in group.places]
        if group.mass:
            surround = made.surround if made.edge_losses else None
            make, known = (partial(_leaf, surround, f), LEAVES) if group.kind == "leaf" else (partial(_limp, f), None)
            one, of = by_sort(own, size, make, known, (surround, fitted.VALUES, f.tobytes()))
            heavy[i] = spread(one, of)
            elements.append(Shared(one.element, of))
        else:
            elements.append(Shared(*by_sort(own, (), lambda some, _: multilayer.element_of(some[0], f))))
    tau = multilayer.diffuse_transmission(elements, f, _ties(stacks, made, arranged, layers, heavy))
    if heavy:
        tau = tau * finite(np.max([h.mass for h in heavy.values()], axis=0), f, size)
        for one in heavy.values():
            tau = tau * one.excess
        tau = tau + _cavity_fields(stacks, arranged, layers, heavy, f, size)
        tau = tau + _links(stacks, made, arranged, heavy, elements, f, size)
    return Result(tau, arranged, layers, heavy, None)


def finite(mass: Floats, frequency_hz: Floats, size_m: Size) -> Floats:
    """What the size of a panel makes of forced transmission: ISO 12354-1 over the unbounded field's, for a limp layer."""
    limp = single_leaf.limp_transmission(mass, frequency_hz, size_m)
    return np.asarray(limp / multilayer.limp_field(mass, frequency_hz))


def _leaf(surround: str | None, f: Floats, layers: list[Place], size: Size) -> Heavy:
    leaf = make_leaf(layers, f, *size)
    critical = single_leaf.effective_critical_hz(leaf, f)
    sigma = single_leaf.free_radiation(f, critical, size)
    loss = single_leaf.total_loss(leaf, f, critical, sigma, size, surround)
    free, omega = single_leaf.free_waves(f, size, loss, critical, sigma), 2 * np.pi * f
    # shear softens thick leaves: the stiffness that has the effective critical frequency
    bending = leaf.stiffness.real * (single_leaf.critical_hz(leaf.mass, leaf.stiffness.real) / free.critical) ** 2
    smooth = np.maximum(loss, SMOOTHING)
    trace = (omega / SPEED_OF_SOUND) ** 4 / (1j * omega)
    element = Moving(1j * omega * leaf.mass, bending * (1 + 1j * smooth) * trace)
    alone = single_leaf.leaf_transmission(leaf, free, f, size)
    excess = alone / multilayer.leaf_field(leaf.mass, bending, smooth, f) / finite(leaf.mass, f, size)
    return Heavy(leaf.mass, element, alone, excess, leaf, loss, bridges.linked(leaf, free))


def _limp(f: Floats, layers: list[Place], size: Size) -> Heavy:
    mass: Floats = np.sum([family(x.kind).mass(x) for x in layers], axis=0)
    return Heavy(mass, Moving(2j * np.pi * f * mass), single_leaf.limp_transmission(mass, f, size), 1.0)


def _ties(
    stacks: Sequence[Stack], made: MakeUp, arranged: Plan, layers: tuple[Place, ...], heavy: dict[int, Heavy]
) -> list[Tie]:
    """Springs beside what lies between two leaves: their frame, and the frame of a foam that is glued to both."""
    springs: dict[tuple[int, int], Complexes] = {}
    for k, (frame, pair) in enumerate(zip(made.frames, arranged.tied, strict=True)):
        spring = bridges.frame_spring(stacks, k, frame, [heavy[i].leaf for i in pair]) if pair else None
        if pair and spring is not None:
            springs[pair] = spring
    for i, group in enumerate(arranged.groups):
        place = layers[group.places[0]]
        if place.kind == "porous" and place.variant == porous.BONDED:
            springs[i - 1, i + 1] = springs.get((i - 1, i + 1), 0.0) + porous.frame_stiffness(place)
    return [Tie(*pair, spring) for pair, spring in sorted(springs.items(), key=lambda one: one[0])]


def _cavity_fields(
    stacks: Sequence[Stack], arranged: Plan, layers: tuple[Place, ...], heavy: dict[int, Heavy], f: Floats, size: Size
) -> Floats:
    """What the waves along cavities carry across: τ₁·τ₂ over what takes them up, their edges and their filling (as in SEA).

    They stand in what is fluid between two leaves, above its mass–air–mass resonance: below it the leaves move together. A
    leaf that lets all sound through parts nothing: a cavity is as deep as what it opens into.
    """
    order, known = sorted(heavy), fitted.VALUES
    if len(order) < 2:
        return np.zeros((1, 1))
    depths, fills = [], []
    for a, b in pairwise(order):
        between = [layers[g.places[0]] for g in arranged.groups[a + 1 : b]]
        fluids = [x["thickness"] for x in between if family(x.kind).runs_along]
        filling = [x for x in between if family(x.kind).fills]
        depths.append(np.sum(fluids, axis=0) + NO_DEPTH + 0 * f)
        # the wave runs beside a thin filling more than in it
        filled = np.sum([x["thickness"] for x in filling], axis=0) / np.sum([x["thickness"] for x in between], axis=0)
        fills.append(FILL_PATH * np.sqrt(filled) * np.sum(
            [_attenuation(x, f) * x["thickness"] for x in filling], axis=0) + 0 * f)
    through, open_ = [heavy[i].alone for i in order], [_openness(heavy[i]) for i in order]
    light = [1 / heavy[i].mass + 0 * f for i in order]
    # a ladder of leaks and losses, from the listener's side: what flows and what stands in each cavity for 1 in the last
    flow, stands, there = through[-1], np.ones((1, 1)), np.ones((1, 1))
    for i in reversed(range(len(depths))):
        right, left = _beyond_leaf(i + 1, 1, depths, open_, light), _beyond_leaf(i, -1, depths, open_, light)
        depth = depths[i] + right[0] + left[0]
        tied = next((k for k, pair in enumerate(arranged.tied) if pair == (order[i], order[i + 1])), None)
        bay = size[0] if tied is None else np.fmin(frame_column(stacks, tied, "spacing_mm"), size[0])
        taken = np.minimum(known.edge_absorption * (depth / LOSS_DEPTH) ** known.edge_growth, 1.0)
        edge = taken * 2 * depths[i] * (1 / bay + 1 / size[1])
        # where nothing on one side parts anything, there is no cavity; one that an open leaf divides resounds once
        parted = (1 - np.prod(open_[: i + 1], axis=0)) * (1 - np.prod(open_[i + 1 :], axis=0))
        divided = 1 + sum(open_[j] for j in (i, i + 1) if 0 < j < len(order) - 1)
        resonance2 = BULK * (right[1] + left[1]) / depth / (4 * np.pi**2)
        there = there * (1 - parted * (1 - (1 + (resonance2 / f**2) ** 4) ** (-1 / divided)))
        flow = flow + parted * (edge + fills[i]) * stands
        stands = stands + flow / through[i]
    # it takes two leaves that part something
    none = np.prod(open_, axis=0)
    one = np.sum([(1 - q) * np.prod(open_[:i] + open_[i + 1 :], axis=0) for i, q in enumerate(open_)], axis=0)
    return np.asarray((1 - none - one) * there * through[-1] / stands)


def _attenuation(layer: Place, f: Floats) -> Floats:
    """Energy attenuation per metre of a wave in a filling, 2·|Im k|; that of empty air counts at the edges."""
    medium, of = by_sort([layer], (), lambda some, _: multilayer.element_of(some[0], f))
    assert isinstance(medium, Fluid)
    return spread(np.asarray(-2 * medium.wavenumber.imag), of)


def _openness(leaf: Heavy) -> Floats:
    """How far a leaf is as if it were not there, 0–1: only one that lets nearly all through is."""
    return np.asarray(np.minimum(leaf.alone, 1.0) ** 4)


def _beyond_leaf(leaf: int, step: int, depths: list[Floats], open_: list[Floats], light: list[Floats]) -> tuple[Floats, Floats]:
    """Depth a cavity gains beyond a leaf of it, m, and the inverse mass (m²/kg) that bounds it there."""
    if leaf in (0, len(open_) - 1):
        return np.zeros((1, 1)), light[leaf]
    depth, inverse = _beyond_leaf(leaf + step, step, depths, open_, light)
    q = open_[leaf]
    return q * (depths[leaf if step > 0 else leaf - 1] + depth), (1 - q) * light[leaf] + q * inverse


def _links(
    stacks: Sequence[Stack], made: MakeUp, arranged: Plan, heavy: dict[int, Heavy], elements: list[Shared], f: Floats, size: Size
) -> Floats:
    """What frames and the surround carry from leaf to leaf."""
    total: Floats = np.zeros((1, 1))
    if made.surround == "laboratory":
        total = total + bridges.laboratory(f)
    if len(heavy) > 1 and made.surround == "fitted":
        around = size[0] * size[1] / 2 / (size[0] + size[1])
        order = sorted(heavy)
        held = [bridges.by_mass(heavy[i].mass, f) for i in order]
        open_ = [_openness(heavy[i]) for i in order]
        # which leaves are the outer ones: the first and the last that part anything
        first = [(1 - q) * np.prod(open_[:i], axis=0) for i, q in enumerate(open_)]
        last = [(1 - q) * np.prod(open_[i + 1 :], axis=0) for i, q in enumerate(open_)]
        for i, j in combinations(range(len(order)), 2):
            total = total + bridges.FITTED_SHARE * first[i] * last[j] * bridges.line_links(held[i], held[j], around, 0.0, f)
    for k, (frame, pair) in enumerate(zip(made.frames, arranged.tied, strict=True)):
        if not pair:
            continue
        a, b = (heavy[i].linked for i in pair)
        if a is not None and b is not None:
            total = total + bridges.frame_links(stacks, k, frame, a, b, f, size[1]) * _beyond(pair, elements, f)
    return total


def _beyond(tied: tuple[int, int], elements: list[Shared], f: Floats) -> Floats | float:
    """What lies outside the two tied leaves does to what the frame carries: the whole chain over the tied part."""
    first, second = tied
    if first == 0 and second == len(elements) - 1:
        return 1.0
    part = multilayer.diffuse_transmission(elements[first : second + 1], f)
    return np.asarray(np.minimum(multilayer.diffuse_transmission(elements, f) / part, 1.0))


def _leaking(stacks: Sequence[Stack], made: MakeUp, tau: Floats, f: Floats, size: Size) -> Floats:
    share = column(stacks, "leak_cm2", CM2) / (size[0] * size[1])
    opening: Floats | float = 1.0
    if made.slit:
        width, depth = column(stacks, "leak_slit_mm", MM), column(stacks, "leak_depth_mm", MM)
        opening = openings.slit_transmission(f, width, depth)
    return openings.composite(np.minimum(tau, 1.0), share, opening)
