"""Transfer matrices of layers (plate, limp mass, foam, air, porous) and their diffuse transmission, many stacks at once.

Arrays are (stacks, angles, frequencies). Pressure and velocity are carried from the listener's side to the source's, each
layer's 2 × 2 matrix applied to the pair; the products are those of the full matrices.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats, Ints
from ..materials.elements import AIR_DENSITY, SPEED_OF_SOUND, Complexes, Element, Fluid, Moving, Place
from ..materials.table import family
from .alike import sorts_of, spread

ANGLES = 8
LIMIT_DEG = 78.0
"""Largest angle of incidence of the field on a finite partition."""
MOST_DECAY = 16.0
"""Largest decay through one layer, neper: beyond, nothing measurable comes through and numbers overflow."""
RESCALED = 8
"""Layers between two rescalings of pressure and velocity, so that no chain of forty layers overflows."""
TOGETHER = 32
"""Stacks whose chains are computed in one pass over all angles: few enough to stay near the processor."""


def element_of(layer: Place, frequency_hz: Floats) -> Element:
    """The element of a soft or limp layer, as its family makes it."""
    make = family(layer.kind).element
    assert make is not None, layer.kind
    return make(layer, frequency_hz)


@lru_cache(maxsize=1)
def angles() -> tuple[Floats, Floats]:
    """Gauss–Legendre points of sin²θ of the field's angles, shape (ANGLES,), and their weights (sum 1)."""
    x, w = np.polynomial.legendre.leggauss(ANGLES)
    top = np.sin(np.radians(LIMIT_DEG)) ** 2  # the field weight sinθcosθ dθ is uniform in sin²θ
    return top * (x + 1) / 2, w / 2


def limp_field(mass: Floats, frequency_hz: Floats) -> Floats:
    """What ``diffuse_transmission`` of a limp layer alone comes to, in closed form (the mass law over the field's angles)."""
    top = np.sin(np.radians(LIMIT_DEG)) ** 2
    a2 = (np.pi * frequency_hz * mass / (AIR_DENSITY * SPEED_OF_SOUND)) ** 2
    return np.asarray((np.log1p(a2) - np.log1p(a2 * (1 - top))) / (a2 * top))


def leaf_field(mass: Floats, bending: Floats, loss: Floats, frequency_hz: Floats) -> Floats:
    """What ``diffuse_transmission`` of one leaf alone comes to, by real arithmetic; ``bending`` is the real stiffness, N·m."""
    sine2, weight = angles()
    s2 = sine2[None, :, None]
    omega, half = 2 * np.pi * frequency_hz, np.sqrt(1 - s2) / (2 * AIR_DENSITY * SPEED_OF_SOUND)
    stiff = (bending * (omega / SPEED_OF_SOUND) ** 4 / omega)[:, None, :] * s2**2
    inertia = (omega * mass)[:, None, :] - stiff
    tau = 1 / ((1 + stiff * loss[:, None, :] * half) ** 2 + (inertia * half) ** 2)
    return np.asarray(np.einsum("saf,a->sf", tau, weight))


class Tie(NamedTuple):
    """A spring (N/m³, complex, a column) between two moving elements, beside all that lies between them; positions in the
    chain."""

    first: int
    second: int
    stiffness: Complexes


class Shared(NamedTuple):
    """An element of each sort there is among stacks, and the sort of each stack."""

    element: Element
    of: Ints


def diffuse_transmission(elements: Sequence[Shared], frequency_hz: Floats, ties: Sequence[Tie] = ()) -> Floats:
    """Transmission coefficient of chains between air on both sides, averaged over angles; shape (stacks, frequencies).

    ``frequency_hz`` is (1, frequencies). Ties may meet at an element, not overlap. Stacks that are alike from a layer to the
    listener's side share what is computed of them so far.
    """
    count = len(elements[0].of)
    out = np.empty((count, frequency_hz.shape[1]))
    for start in range(0, count, TOGETHER):
        some = slice(start, start + TOGETHER)
        out[some] = _chains([Shared(x.element, x.of[some]) for x in elements], frequency_hz,
                            [Tie(t.first, t.second, t.stiffness[some]) for t in ties])
    return out


def _chains(elements: Sequence[Shared], frequency_hz: Floats, ties: Sequence[Tie]) -> Floats:
    sine2, weight = angles()
    at = plane(frequency_hz, sine2)
    states = [at.radiating()]  # the chain's, and while a spring bridges it the far side's and that of pressure 1 there
    tail: Ints = np.zeros(len(elements[0].of), dtype=np.int64)
    shrunk: Floats = np.ones_like(at.trace2)
    begins, ends = {t.first: t for t in ties}, {t.second for t in ties}
    for i in reversed(range(len(elements))):
        spring = begins.get(i)
        kinds = [tail, elements[i].of]
        if spring is not None:
            kinds.append(sorts_of(np.concatenate([spring.stiffness.real, spring.stiffness.imag], axis=1)).of)
        found = sorts_of(np.column_stack(kinds))
        states, shrunk = [spread(s, tail[found.first]) for s in states], spread(shrunk, tail[found.first])
        if spring is not None:
            state, far, unit = states
            states = [_tied(state, far, unit, spring.stiffness[found.first][:, None, :] / (1j * at.omega))]
        tail = found.of
        element = spread(elements[i].element, elements[i].of[found.first])
        if i in ends:
            reached = before(element, states[0], at)
            states = [reached, reached, State(np.ones_like(reached.pressure), np.zeros_like(reached.pressure))]
        elif len(states) > 1:
            states = [before(element, states[0], at), states[1], before(element, states[2], at)]
        else:
            states = [before(element, states[0], at)]
            if (len(elements) - i) % RESCALED == 0:
                size = np.abs(states[0].pressure) / at.z0 + np.abs(states[0].velocity)
                states, shrunk = [State(states[0].pressure / size, states[0].velocity / size)], shrunk / size
    tau = np.abs(2 * at.z0 * shrunk / (states[0].pressure + at.z0 * states[0].velocity)) ** 2
    return np.asarray(np.einsum("saf,a->sf", tau, weight)[tail])


class State(NamedTuple):
    """Pressure and normal velocity at a plane of the chain, (stacks, angles, frequencies)."""

    pressure: Complexes
    velocity: Complexes


class Plane(NamedTuple):
    """The waves that meet the layers: sin⁴θ, ρc/cosθ, ω and the trace wavenumber squared; (1, angles, frequencies)."""

    sine4: Floats
    z0: Floats
    omega: Floats
    trace2: Floats

    def radiating(self) -> State:
        """The state behind the last layer where sound goes on into air."""
        return State(self.z0 + 0j * self.trace2, np.ones_like(self.trace2, dtype=complex))

    def still(self) -> State:
        """The state at a rigid wall."""
        return State(np.ones_like(self.trace2, dtype=complex), np.zeros_like(self.trace2, dtype=complex))


def plane(frequency_hz: Floats, sine2: Floats) -> Plane:
    """Waves of ``frequency_hz`` (1, frequencies) under angles of sin²θ (angles,)."""
    s2, omega = sine2[None, :, None], 2 * np.pi * frequency_hz[:, None, :]
    return Plane(s2**2, AIR_DENSITY * SPEED_OF_SOUND / np.sqrt(1 - s2), omega, (omega / SPEED_OF_SOUND) ** 2 * s2)


def _tied(near: State, far: State, unit: State, spring: Complexes) -> State:
    """The state before a cavity that a spring bridges: ``unit`` is what pressure 1 at its far side makes of itself."""
    velocity = (near.velocity + unit.velocity * spring * far.velocity) / (1 + unit.velocity * spring)
    force = spring * (velocity - far.velocity)
    return State(near.pressure + (1 - unit.pressure) * force, velocity)


def before(element: Element, state: State, at: Plane) -> State:
    """The state on the source side of an element."""
    pressure, velocity = state
    if isinstance(element, Moving):
        z = element.impedance[:, None, :]
        if element.bending is not None:
            z = z + element.bending[:, None, :] * at.sine4
        return State(pressure + z * velocity, velocity)
    return State(*_through(element, 0 * at.trace2 if element.straight else at.trace2, pressure, velocity))


def _through(fluid: Fluid, trace2: Floats, pressure: Complexes, velocity: Complexes) -> tuple[Complexes, Complexes]:
    """Pressure and velocity on the other side of a fluid layer under the trace wavenumber squared ``trace2``."""
    # roots and exponentials by their real parts: an order of magnitude quicker than complex ones
    k2 = fluid.wavenumber[:, None, :] ** 2
    real, imag = k2.real - trace2, k2.imag
    size = np.sqrt(real**2 + imag**2)
    depth = fluid.thickness[:, None, :]
    along, decay = np.sqrt(0.5 * (size + real)), np.sqrt(np.maximum(0.5 * (size - real), 0.0))
    # single precision is quicker by far here and good to 1e-5 rad
    turn, fade = (along * depth).astype(np.float32), np.exp(-np.minimum(decay * depth, MOST_DECAY))
    cosine, sine = np.cos(turn), np.sin(turn)
    grown, shrunk = 0.5 / fade, 0.5 * fade
    more, less = grown + shrunk, grown - shrunk
    cos, jsin = _complex(more * cosine, less * sine), _complex(less * cosine, more * sine)
    # the normal wavenumber is along − j·decay, of magnitude squared ``size``: its inverse without a complex division
    z0 = (fluid.impedance * fluid.wavenumber)[:, None, :]
    z, admittance = z0 * _complex(along / size, decay / size), _complex(along, -decay) * (1 / z0)
    return cos * pressure + z * jsin * velocity, admittance * jsin * pressure + cos * velocity


def _complex(real: Floats, imaginary: Floats) -> Complexes:
    """A complex array from its parts, without the products that writing a + 1j·b takes."""
    out: Complexes = np.empty(real.shape, dtype=complex)
    out.real, out.imag = real, imaginary
    return out
