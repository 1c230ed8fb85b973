"""Transmission of one leaf after ISO 12354-1, Annex B and C, and of a limp layer by its forced part alone."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from ..levels.bands import Floats
from ..materials import fitted
from ..materials.elements import AIR_DENSITY, SPEED_OF_SOUND
from .leaf import Leaf


def critical_hz(mass: ArrayLike, stiffness: ArrayLike) -> Floats:
    """Critical frequency c₀²/(2π)·√(m′/D), Hz."""
    return np.asarray(SPEED_OF_SOUND**2 / (2 * np.pi) * np.sqrt(mass / np.asarray(stiffness)))


Size = tuple[Floats, Floats]
"""Width and height of the panels, m, columns (stacks, 1)."""


def forced_radiation(frequency_hz: Floats, size_m: Size) -> Floats:
    """Radiation efficiency of forced waves on a finite panel, ≤ 2 (ISO 12354-1:2017, B.2)."""
    long, short = np.maximum(*size_m), np.minimum(*size_m)
    k0 = 2 * np.pi * frequency_hz / SPEED_OF_SOUND
    shape = (
        -0.964
        - (0.5 + short / (np.pi * long)) * np.log(short / long)
        + 5 * short / (2 * np.pi * long)
        - 1 / (4 * np.pi * long * short * k0**2)
    )
    # below the formula's range the logarithm turns negative; a small positive floor keeps τ finite
    return np.asarray(np.clip(0.5 * (np.log(k0 * np.sqrt(long * short)) - shape), 0.05, 2.0))


def free_radiation(frequency_hz: Floats, critical: Floats, size_m: Size) -> Floats:
    """Radiation efficiency of free bending waves, bounded (ISO 12354-1:2017, B.3). ``critical`` per frequency, Hz."""
    l1, l2 = size_m
    f, fc, c = frequency_hz, critical, SPEED_OF_SOUND
    f11 = c**2 / (4 * fc) * (1 / l1**2 + 1 / l2**2)
    above = f > fc
    ratio = np.where(above, fc / f, f / fc)
    off = np.sqrt(np.maximum(1 - ratio, 1e-6))
    sigma1 = 1 / off
    sigma2 = 4 * l1 * l2 * (f / c) ** 2
    sigma3 = np.sqrt(2 * np.pi * f * (l1 + l2) / (16 * c))
    lam = np.sqrt(np.minimum(f / fc, 1 - 1e-6))
    rest = 1 - lam**2
    delta1 = (rest * np.log((1 + lam) / (1 - lam)) + 2 * lam) / (4 * np.pi**2 * rest**1.5)
    delta2 = np.where(
        f > fc / 2, 0.0, 8 * c**2 * (1 - 2 * lam**2) / (fc**2 * np.pi**4 * l1 * l2 * lam * np.sqrt(rest))
    )
    below = 2 * (l1 + l2) / (l1 * l2) * c / fc * delta1 + delta2
    below = np.where((f < f11) & (below > sigma2), sigma2, below)
    large = np.where(above, sigma1, below)
    small = np.where(~above & (sigma2 < sigma3), sigma2, np.where(above & (sigma1 < sigma3), sigma1, sigma3))
    return np.asarray(np.minimum(np.where(f11 <= fc / 2, large, small), fitted.VALUES.most_radiation))


FRAME_MASS, FRAME_HZ = 1380.0, 31.1
"""What takes up the energy at a leaf's edges, its mass (kg/m²) and critical frequency: a laboratory's frame, 600 mm of concrete
(ISO 12354-1:2017, Annex C, recalled). Of what hands fit into a van or a hood nobody knows."""


def total_loss(
    leaf: Leaf, frequency_hz: Floats, critical: Floats, sigma: Floats, size_m: Size, surround: str | None
) -> Floats:
    """Total loss factor: inside the leaf, and what it radiates and loses at its edges (ISO 12354-1:2017, Annex C).

    η + 2·ρc·σ/(ω·m′) + c/(π²·S·√(f·f_c))·Σ l·α, m′/(485·√f) at least. α is what the neighbours take up by a rigid corner
    (recalled). ``critical`` and ``sigma`` are the leaf's; ``surround`` None: the loss given is the total.
    """
    inside = leaf.stiffness.imag / leaf.stiffness.real
    if surround is None:
        return np.asarray(np.maximum(inside, 1e-5))
    lost = leaf.mass / (485 * np.sqrt(frequency_hz))
    if surround != "fitted":
        own = critical_hz(leaf.mass, leaf.stiffness.real)
        chi, psi = np.sqrt(FRAME_HZ / own), FRAME_MASS / FRAME_HZ * own / leaf.mass
        root = 2 * np.sqrt(chi * psi) * (1 + chi) * (1 + psi) / (chi * (1 + psi) ** 2 + 2 * psi * (1 + chi**2))
        alpha = root**2 / 3  # a third of what goes round a corner at normal incidence, over all angles
        edges = 2 * (size_m[0] + size_m[1]) / (size_m[0] * size_m[1])
        radiated = AIR_DENSITY * SPEED_OF_SOUND * sigma / (np.pi * frequency_hz * leaf.mass)
        lost = np.maximum(lost, radiated + SPEED_OF_SOUND / (np.pi**2 * np.sqrt(frequency_hz * own)) * edges * alpha)
    return np.asarray(np.maximum(inside + lost, 1e-5))


def effective_critical_hz(leaf: Leaf, frequency_hz: Floats) -> Floats:
    """Critical frequency with the shear of thick leaves, Hz (ISO 12354-1:2017, B.1).

    f_c,eff = f_c·(4.05·h·f/c_L + √(1 + (4.05·h·f/c_L)²)) up to f_p = c_L/(5.5·h), above it 2·f_c·(f/f_p)³.
    """
    f, fc = frequency_hz, critical_hz(leaf.mass, leaf.stiffness.real)
    x = 4.05 * leaf.thickness * f / leaf.sound_speed
    plateau = leaf.sound_speed / (5.5 * leaf.thickness)
    return np.asarray(np.where(f < plateau, fc * (x + np.sqrt(1 + x**2)), 2 * fc * (f / plateau) ** 3))


class FreeWaves(NamedTuple):
    """Free bending waves of leaves: effective critical frequency (Hz), radiation efficiency, and what they add to
    2·σ_forced in ISO 12354-1, B.1, below the critical frequency (the whole bracket above); (stacks, frequencies)."""

    critical: Floats
    sigma: Floats
    part: Floats


def free_waves(frequency_hz: Floats, size_m: Size, loss: Floats, critical: Floats, sigma: Floats) -> FreeWaves:
    """The free waves of finite leaves (ISO 12354-1:2017, B.1 and B.3)."""
    (l1, l2), f, fc = size_m, frequency_hz, critical
    shape = np.where(f < fc, (l1 + l2) ** 2 / (l1**2 + l2**2) * np.sqrt(fc / f), np.pi * fc / (2 * f))
    near = np.abs(f / fc - 1) < 1e-3
    return FreeWaves(fc, sigma, np.asarray(np.where(near, np.pi / 2, shape) * sigma**2 / loss))


def leaf_transmission(leaf: Leaf, free: FreeWaves, frequency_hz: Floats, size_m: Size) -> Floats:
    """Diffuse transmission coefficient τ of finite leaves, 0–1 (ISO 12354-1:2017, B.1), shape (stacks, frequencies)."""
    forced = np.where(frequency_hz < free.critical, 2 * forced_radiation(frequency_hz, size_m), 0.0)
    return np.asarray(np.minimum(_mass_law(leaf.mass, frequency_hz) * (forced + free.part), 1.0))


def limp_transmission(mass: Floats, frequency_hz: Floats, size_m: Size) -> Floats:
    """Diffuse transmission coefficient of limp layers: the forced part of ISO 12354-1, B.1, alone."""
    return np.asarray(np.minimum(_mass_law(mass, frequency_hz) * 2 * forced_radiation(frequency_hz, size_m), 1.0))


def _mass_law(mass: Floats, frequency_hz: Floats) -> Floats:
    return np.asarray((AIR_DENSITY * SPEED_OF_SOUND / (np.pi * frequency_hz * mass)) ** 2)
