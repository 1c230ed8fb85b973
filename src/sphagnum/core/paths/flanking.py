"""Ways round a wall between two rooms: leaves that run on past it, and what else carries by it (ISO 12354-1, simplified)."""

from __future__ import annotations

import math
from typing import Annotated, Final, Literal, NamedTuple

import numpy as np
from pydantic import Field

from ..levels.bands import PREDICTED_HZ, Floats
from ..schema import Strict, Typed

JunctionKind = Literal["heavy cross", "heavy T", "studs", "floating floor", "ceiling over", "common floor", "window bay",
                       "sockets", "door beside door"]
REFERENCE_M2 = 10.0
"""Absorption area that D_n,f is stated for (ISO 12354-1:2017, 3.1)."""


class Flank(Strict):
    """A way round a wall: how the wall meets what runs on there, and how long the joint is."""

    kind: JunctionKind
    length_m: Annotated[float, Field(ge=0.1, le=100, strict=True, allow_inf_nan=False), Typed] = 3.0


class Junction(NamedTuple):
    """A kind of joint: its name and words; a heavy one's usual leaf that runs on (material, mm) and whether it runs on on both
    sides; of others D_n,f at 500 Hz with its slope (dB an octave) over a joint of ``of_m``, judged."""

    name: str
    words: str
    leaf: tuple[str, float] | None = None
    cross: bool = False
    dnf_db: float = 0.0
    slope_db: float = 0.0
    of_m: float | None = None


JUNCTIONS: Final[dict[JunctionKind, Junction]] = {
    "heavy cross": Junction(
        "Heavy floor or wall, running through", "Concrete or masonry that runs on past the wall, with more above or beyond.",
        ("concrete", 160.0), True),
    "heavy T": Junction("Heavy outer wall, running past", "Masonry that the wall only meets.", ("brick", 240.0)),
    "studs": Junction("Light wall on studs, running past", "Its boards run on past the wall; cut them at it.", None, False,
                      52, 4, 2.6),
    "floating floor": Junction("Floating floor, running under", "A screed or boards on wool in one piece under the wall; saw it "
                               "through.", None, False, 42, 3, 4.5),
    "ceiling over": Junction("Hung ceiling, running over", "One void over both rooms: close it above the wall.", None, False,
                             38, 5, 4.5),
    "common floor": Junction("Timber floor under both rooms", "The wall stands on boards and joists that run on.", None, False,
                             46, 3, 4.5),
    "window bay": Junction("Window or facade, meeting the wall's end", "A mullion or sill that both rooms share.", None, False,
                           44, 4, 2.6),
    "sockets": Junction("Sockets back to back", "Two boxes in one bay of the wall.", None, False, 50, 2, None),
    "door beside door": Junction("Door beside door, by the passage", "Out of one door and in by the other.", None, False,
                                 46, 2, None),
}
"""What is picked by picture. D_n,f are judged by what such details are usually found to give, ± 4 dB; readings replace them."""


class FlankFigures(NamedTuple):
    """R of the ways of a flank, in dB per band for the wall's area: ``ff`` in by the flank and out by it, ``fd`` in by it and out
    by the wall, ``df`` in by the wall and out by it; ``leaf_db`` R of the flank as it is, which a lining of it adds to; the
    area."""

    leaf_db: Floats
    ff_db: Floats
    fd_db: Floats
    df_db: Floats
    area_m2: float

    def loss(self, leaf_db: Floats) -> Floats:
        """R of the whole flank with a leaf of another R, any shape of bands last: a lining in the room listened in adds to what
        leaves by the flank, not to what leaves by the wall."""
        more = leaf_db - self.leaf_db
        tau = 10 ** (-(self.ff_db + more) / 10) + 10 ** (-self.fd_db / 10) + 10 ** (-(self.df_db + more) / 10)
        return np.asarray(-10 * np.log10(tau))


def vibration_reduction_db(kind: JunctionKind, mass_ratio_lg: float, light_wall: bool) -> tuple[Floats, Floats]:
    """K of a joint straight on (Ff) and round the corner (Fd, Df), dB per band (EN ISO 12354-1, annex E, recalled).

    ``mass_ratio_lg``: lg of the wall's over the flank's mass per area. A light double wall on a heavy flank has its own law.
    """
    m, f = mass_ratio_lg, np.array(PREDICTED_HZ)
    if light_wall:
        return np.maximum(10 + 10 * m + 3.3 * np.log10(f / 500), 0.0), np.maximum(10 + 10 * abs(m) - 3.3 * np.log10(f / 500), 0.0)
    straight, round_ = (8.7 + 17.1 * m + 5.7 * m**2, 8.7 + 5.7 * m**2) if JUNCTIONS[kind].cross else (
        5.7 + 14.1 * m + 5.7 * m**2, 5.7 + 5.7 * m**2)
    return np.full(len(f), straight), np.full(len(f), round_)


class Leaf(NamedTuple):
    """A leaf at a joint: R per band, dB, its mass per area, and whether it is of two leaves."""

    loss_db: Floats
    kg_m2: float
    double: bool = False


def rigid(kind: JunctionKind, flank: Leaf, wall: Leaf, wall_m2: float, length_m: float) -> FlankFigures:
    """A heavy joint: R_ij = (R_i + R_j)/2 + K_ij + 10·lg(S/(l₀·l)) (ISO 12354-1:2017, eq. 28a), l₀ = 1 m."""
    straight, corner = vibration_reduction_db(kind, math.log10(wall.kg_m2 / flank.kg_m2), wall.double)
    joint = 10 * math.log10(wall_m2 / length_m)
    across = (flank.loss_db + wall.loss_db) / 2 + corner + joint
    return FlankFigures(flank.loss_db, flank.loss_db + straight + joint, across, across, wall_m2)


def given(kind: JunctionKind, leaf_db: Floats | None, length_m: float) -> FlankFigures:
    """Another joint, by its usual D_n,f: for the area that is stated for, corrected by its length."""
    found, none = JUNCTIONS[kind], np.full(len(PREDICTED_HZ), math.inf)
    octaves = np.clip(np.log2(np.array(PREDICTED_HZ) / 500), -2.3, 2)
    loss = found.dnf_db + found.slope_db * octaves
    if found.of_m is not None:
        loss = loss - 10 * math.log10(length_m / found.of_m)
    return FlankFigures(np.zeros(len(PREDICTED_HZ)) if leaf_db is None else leaf_db, loss, none, none, REFERENCE_M2)
