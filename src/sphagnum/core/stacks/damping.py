"""What a damping layer does to a plate: stiffness and loss (Oberst; Ross, Kerwin and Ungar) and partial coverage."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..levels.bands import Floats
from ..materials.elements import Complexes, Place, Sheet
from ..materials.families.damping import FACED, core_of, face_of


def bonded(sheets: tuple[Sheet, ...]) -> Complexes:
    """Complex bending stiffness (N·m) of fully bonded sheets about their common neutral axis, a column.

    Of a plate with a free damping layer it is Oberst's (1952), of plates ISO 12354-1's laminate.
    """
    z: Floats = np.zeros_like(sheets[0].thickness)
    middles = []
    for sheet in sheets:
        middles.append(z + sheet.thickness / 2)
        z = z + sheet.thickness
    tension = [s.modulus * s.thickness for s in sheets]
    axis = sum(t * m for t, m in zip(tension, middles, strict=True)) / sum(tension)
    return np.asarray(sum(
        s.modulus * s.thickness**3 / 12 + t * (m - axis) ** 2
        for s, t, m in zip(sheets, tension, middles, strict=True)
    ), dtype=complex)


SETTLING = 10
"""Rounds of the search for the bending wavenumber: each round more than halves what is left."""


def ross_kerwin_ungar(base: Sheet, core: Sheet, face: Sheet, shear_modulus: Complexes, frequency_hz: Floats) -> Complexes:
    """Complex bending stiffness (N·m) of base, viscoelastic core and constraining face, shape (stacks, frequencies).

    Ross, Ungar and Kerwin (1959). The bending wavenumber the shear parameter depends on is found by repetition.
    """
    h1, h2, h3 = base.thickness, core.thickness, face.thickness
    k1, k2, k3 = base.modulus * h1, core.modulus * h2, face.modulus * h3
    h21, h31 = (h1 + h2) / 2, (h1 + h3) / 2 + h2
    mass = sum(s.thickness * s.density for s in (base, core, face))
    omega = 2 * np.pi * frequency_hz
    own = base.modulus * h1**3 / 12 + core.modulus * h2**3 / 12 + face.modulus * h3**3 / 12
    stiffness: Complexes = own + np.zeros_like(omega)
    least = np.maximum(own.real, 1e-30)
    for _ in range(SETTLING):
        p2 = omega * np.sqrt(mass / stiffness.real)
        g = shear_modulus / (k3 * h2 * p2)
        axis = (k2 * (h21 - h31 / 2) + g * (k2 * h21 + k3 * h31)) / (k1 + k2 / 2 + g * (k1 + k2 + k3))
        shear = 1 / (1 + g)
        stiffness = (
            own
            - core.modulus * h2**2 / 12 * (h31 - axis) * shear
            + k1 * axis**2
            + k2 * (h21 - axis) ** 2
            + k3 * (h31 - axis) ** 2
            - (k2 / 2 * (h21 - axis) + k3 * (h31 - axis)) * (h31 - axis) * shear
        )
        # three layers never bend more easily than unjoined; the formula can say so where the core is far thicker than the plates
        stiffness = np.maximum(stiffness.real, least) + 1j * np.maximum(stiffness.imag, 0.0)
    return stiffness


def _shared(base: Sheet, core: Sheet, face: Sheet, shear_modulus: Complexes, frequency_hz: Floats) -> Complexes:
    """As ``ross_kerwin_ungar``; stacks that share plate and damping are worked out once."""
    given = np.concatenate([np.asarray(x, dtype=complex) for x in (*base, *core, *face, shear_modulus)], axis=1)
    _, first, of = np.unique(given, axis=0, return_index=True, return_inverse=True)
    if len(first) == len(given):
        return ross_kerwin_ungar(base, core, face, shear_modulus, frequency_hz)
    base, core, face = (Sheet(x.thickness[first], x.density[first], x.modulus[first]) for x in (base, core, face))
    return np.asarray(ross_kerwin_ungar(base, core, face, shear_modulus[first], frequency_hz)[of.ravel()])


def first_mode_share(coverage: Floats | float, side_ratio: Floats | float = 1.0, poisson: float = 0.3) -> Floats:
    """Share of the first mode's bending energy under a centred patch of area share ``coverage``, 0–1.

    Simply supported panel, patch of the panel's own proportions, ``side_ratio`` of its sides.
    """
    c = np.sqrt(np.clip(coverage, 0.0, 1.0))
    a, b = c + np.sin(np.pi * c) / np.pi, c - np.sin(np.pi * c) / np.pi
    ratio = np.maximum(side_ratio, 1 / np.asarray(side_ratio))
    return np.asarray(a * a - 2 * (1 - poisson) * ratio**2 / (1 + ratio**2) ** 2 * (a * a - b * b))


def coverage_share(coverage: Floats, frequency_hz: Floats, first_mode_hz: Floats, side_ratio: Floats) -> Floats:
    """Share of the full layer's effect a centred patch keeps at each frequency, 0–1.

    The first mode's law up to twice its frequency, the plain area share for high modes, and in between the first
    mode's part falls as the number of modes below f grows (∝ f).
    """
    weight = np.minimum(1.0, 2 * first_mode_hz / frequency_hz)
    return np.asarray(coverage + (first_mode_share(coverage, side_ratio) - coverage) * weight)


def damped_stiffness(base: Sheet, layers: Sequence[Place], frequency_hz: Floats) -> Complexes:
    """Complex bending stiffness (N·m) of ``base`` fully covered by layers, the nearest first, shape (stacks, frequencies).

    Layers under a facing shear together as one core: their shear compliances add. What lies on a facing meets a new base.
    """
    cores = [core_of(x) for x in layers]
    faced = next((i for i, x in enumerate(layers) if x.variant == FACED), None)
    if faced is None:
        return bonded((base, *(sheet for sheet, _ in cores))) + np.zeros_like(frequency_hz)
    under = cores[: faced + 1]
    depth = np.sum([sheet.thickness for sheet, _ in under], axis=0)
    shear = depth / np.sum([sheet.thickness / g for sheet, g in under], axis=0)
    core = Sheet(depth, np.sum([x.thickness * x.density for x, _ in under], axis=0) / depth,
                 np.sum([x.thickness * x.modulus for x, _ in under], axis=0) / depth)
    face, layer = face_of(layers[faced]), layers[faced]
    stiffness = _shared(base, core, face, shear, frequency_hz)
    if faced == len(layers) - 1:
        return stiffness
    thick = base.thickness + depth + layer["facing.thickness"]
    mass = base.thickness * base.density + depth * core.density + face.thickness * face.density
    middle = stiffness.shape[1] // 2
    whole = Sheet(thick, mass / thick, 12 * stiffness[:, middle : middle + 1] / thick**3)
    return stiffness + damped_stiffness(whole, layers[faced + 1 :], frequency_hz) - bonded((whole,))
