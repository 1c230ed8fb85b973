"""Sound through openings: slits and holes of finite depth, and a wall with an opening in it."""

from __future__ import annotations

import numpy as np

from ..levels.bands import Floats
from ..materials.elements import SPEED_OF_SOUND

EULER = 0.57722


def slit_transmission(frequency_hz: Floats, width_m: Floats | float, depth_m: Floats | float, edge: bool = False) -> Floats:
    """Diffuse transmission coefficient of a slit (Gomperts and Kihlman 1967); can exceed 1 at its resonances.

    K = k·w, X = depth/w, e = (ln(8/K) − 0.577)/π; m = 8 for a diffuse field, n = 1 in the middle of a wall, 1/2 at an
    edge. Meant for K < 1; above that the opening tends to τ = 1, which it is given from K = 2 on.
    """
    k, n = 2 * np.pi * frequency_hz / SPEED_OF_SOUND * width_m, 0.5 if edge else 1.0
    x = np.asarray(depth_m) / width_m
    e = np.maximum(np.log(8 / k) - EULER, 0.0) / np.pi
    near = np.cos(k * e) ** 2
    whole = k * (x + 2 * e)
    body = np.sin(whole) ** 2 / near + k**2 / (2 * n**2) * (1 + np.cos(whole) * np.cos(k * x))
    tau = 8 * k * near / (2 * n**2 * np.maximum(body, 1e-9))
    return np.asarray(np.where(k < 2, tau, 1.0))


def hole_transmission(frequency_hz: Floats, radius_m: Floats | float, depth_m: Floats | float) -> Floats:
    """Diffuse transmission coefficient of a round hole in a thick wall: a short pipe between two flanged ends.

    End impedance ρc·((ka)²/2 + j·0.85·ka) (Rayleigh's piston in a baffle), the pressure doubled before the wall at low
    frequencies; tends to 1 where the hole is large against the wave.
    """
    k = 2 * np.pi * frequency_hz / SPEED_OF_SOUND
    ka = k * radius_m
    resistance = np.minimum(ka**2 / 2, 1.0)
    end = resistance + 1j * 0.85 * ka * (1 - resistance)
    cos, sin = np.cos(k * depth_m), np.sin(k * depth_m)
    velocity = 1 / (end * (1j * sin * end + cos) + cos * end + 1j * sin)
    return np.asarray(8 / (1 + resistance) * resistance * np.abs(velocity) ** 2)


def composite(tau: Floats, open_share: Floats | float, opening: Floats | float = 1.0) -> Floats:
    """A wall of transmission ``tau`` whose share ``open_share`` is an opening of transmission ``opening``; at most 1."""
    return np.asarray(np.minimum(tau * (1 - open_share) + open_share * np.asarray(opening), 1.0))
