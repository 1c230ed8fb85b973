"""Pads and feet of the shelf as springs: how stiff each is under its load, and how much it may carry."""

from __future__ import annotations

from typing import Final, NamedTuple

import numpy as np


class Pad(NamedTuple):
    """Dynamic stiffness of one pad over its load, (kg, N/mm), from the least to the most it may carry; its damping ratio; how
    much more it sinks in ten years."""

    table: tuple[tuple[float, float], ...]
    damping_ratio: float
    creep: float


PADS: Final[dict[str, Pad]] = {
    "rubber-pad": Pad(((2, 40), (5, 60), (15, 110), (30, 190)), 0.06, 1.3),
    "rubber-mount": Pad(((3, 25), (10, 45), (25, 90), (50, 170)), 0.05, 1.3),
    "spring-foot": Pad(((8, 14), (25, 16), (60, 18)), 0.02, 1.05),
}
"""Pads of the usual sizes on the shelf: typical of such parts, judged; a maker's table replaces them."""


def stiffness_n_mm(pad: Pad, load_kg: float) -> float:
    """Dynamic stiffness under a load, N/mm; beyond its table as at its ends."""
    return float(np.interp(load_kg, [kg for kg, _ in pad.table], [k for _, k in pad.table]))
