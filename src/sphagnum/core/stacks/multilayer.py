"""Transfer matrices of layers (plate, limp mass, spring, air, porous) and their diffuse transmission."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from .damping import Complexes
from .leaf import Leaf
from .model import Air, Foam, Limp, Porous
from .single_leaf import AIR_DENSITY, SPEED_OF_SOUND

ANGLES = 24
LIMIT_DEG = 78.0  # field incidence, as customary for laboratory walls


class Matrix(NamedTuple):
    """Transfer matrix of (pressure, normal velocity) through a layer; entries broadcast over (angle, frequency)."""

    a: Complexes | float
    b: Complexes | float
    c: Complexes | float
    d: Complexes | float


IDENTITY = Matrix(1.0, 0.0, 0.0, 1.0)


def chain(first: Matrix, then: Matrix) -> Matrix:
    """Product of two transfer matrices."""
    return Matrix(
        first.a * then.a + first.b * then.c,
        first.a * then.b + first.b * then.d,
        first.c * then.a + first.d * then.c,
        first.c * then.b + first.d * then.d,
    )


def miki(frequency_hz: Floats, resistivity: float) -> tuple[Complexes, Complexes]:
    """Characteristic impedance (Pa·s/m) and wavenumber (1/m) of a porous medium, e^{+jωt}.

    Delany and Bazley (1970) with Miki's (1990) coefficients; valid for 0.01 < f/σ < 1.
    """
    x = frequency_hz / resistivity
    impedance = AIR_DENSITY * SPEED_OF_SOUND * (1 + 0.070 * x**-0.632 - 0.107j * x**-0.632)
    wavenumber = 2 * np.pi * frequency_hz / SPEED_OF_SOUND * (1 + 0.109 * x**-0.618 - 0.160j * x**-0.618)
    return np.asarray(impedance, dtype=complex), np.asarray(wavenumber, dtype=complex)


def fluid(frequency_hz: Floats, sine: Floats, thickness: float, impedance: Complexes | float, k: Complexes) -> Matrix:
    """A fluid layer seen under the trace wavenumber k₀·sinθ."""
    k_trace = 2 * np.pi * frequency_hz / SPEED_OF_SOUND * sine
    k_normal = np.sqrt(k**2 - k_trace**2 + 0j)
    z = impedance * k / k_normal
    cos, sin = np.cos(k_normal * thickness), np.sin(k_normal * thickness)
    return Matrix(cos, 1j * z * sin, 1j * sin / z, cos)


def layer_matrix(layer: Limp | Foam | Porous | Air, frequency_hz: Floats, sine: Floats) -> Matrix:
    """Transfer matrix of one layer, entries of shape (angle, frequency)."""
    omega, depth = 2 * np.pi * frequency_hz, layer.thickness_mm / 1e3
    k0 = omega / SPEED_OF_SOUND + 0j
    if isinstance(layer, Limp):
        return Matrix(1.0, 1j * omega * layer.surface_mass_kg_m2, 0.0, 1.0)
    if isinstance(layer, Air):
        return fluid(frequency_hz, sine, depth, AIR_DENSITY * SPEED_OF_SOUND, k0)
    if isinstance(layer, Foam):
        stiffness = layer.dynamic_stiffness_mn_m3 * 1e6 * (1 + 1j * layer.loss_factor)
        half = Matrix(1.0, 1j * omega * layer.density_kg_m3 * depth / 2, 0.0, 1.0)
        return chain(half, chain(Matrix(1.0, 0.0, 1j * omega / stiffness, 1.0), half))
    impedance, k = miki(frequency_hz, layer.flow_resistivity_pa_s_m2)
    # limp frame: the skeleton's mass rides with the air (Panneton 2007)
    rho = impedance * k / omega
    bulk = layer.density_kg_m3 + AIR_DENSITY
    limp = (bulk * rho - AIR_DENSITY**2) / (bulk + rho - 2 * AIR_DENSITY)
    k_limp = k * np.sqrt(limp / rho)
    return fluid(frequency_hz, sine, depth, limp * omega / k_limp, k_limp)


def leaf_matrix(leaf: Leaf, loss: Floats, frequency_hz: Floats, sine: Floats) -> Matrix:
    """A thin elastic plate: Z = jωm′ + D(1 + jη)(k₀ sinθ)⁴/(jω)."""
    omega = 2 * np.pi * frequency_hz
    trace = (omega / SPEED_OF_SOUND * sine) ** 4
    impedance = 1j * omega * leaf.mass + leaf.stiffness.real * (1 + 1j * loss) * trace / (1j * omega)
    return Matrix(1.0, impedance, 0.0, 1.0)


def angles() -> tuple[Floats, Floats]:
    """Gauss–Legendre sines of the field's angles, shape (ANGLES, 1), and their weights (sum 1)."""
    x, w = np.polynomial.legendre.leggauss(ANGLES)
    top = np.sin(np.radians(LIMIT_DEG)) ** 2  # the field weight sinθcosθ dθ is uniform in sin²θ
    return np.sqrt(top * (x + 1) / 2)[:, None], (w / 2)[:, None]


def diffuse_transmission(matrices: list[Matrix], sine: Floats, weight: Floats) -> Floats:
    """Transmission coefficient of a chain of layers between air on both sides, averaged over angles; shape (F,)."""
    whole = IDENTITY
    for matrix in matrices:
        whole = chain(whole, matrix)
    z = AIR_DENSITY * SPEED_OF_SOUND / np.sqrt(1 - sine**2)
    tau = np.abs(2 / (whole.a + whole.b / z + whole.c * z + whole.d)) ** 2
    return np.asarray(np.sum(weight * tau, axis=0))
