"""What is given of a box round a machine: its machine, walls, lining, openings, doors, feet and where it stands."""

from __future__ import annotations

import math
from typing import Annotated, Final, Literal, NamedTuple

import numpy as np
from pydantic import Field

from ..errors import BadInput
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.typed_bands import OCTAVES_HZ
from ..schema import Strict
from ..worded import of
from .model import Axis, Millimetres, NotNegativeMm, Sheet

BoxSide = Literal["left", "right", "front", "back", "top", "bottom"]
Watts = Annotated[float, Field(ge=0, le=1e6, strict=True, allow_inf_nan=False)]
Celsius = Annotated[float, Field(ge=-50, le=1000, strict=True, allow_inf_nan=False)]
Seal = Literal["none", "worn", "compressed", "double"]

SIDES: Final[dict[BoxSide, tuple[int, bool]]] = {
    "left": (0, False), "right": (0, True), "front": (1, False), "back": (1, True), "bottom": (2, False), "top": (2, True)}
"""Of each side the axis it stands across, and whether at that axis' far end. Left and right are seen from in front."""
AXES: Final[tuple[Axis, ...]] = ("x", "y", "z")
THIRDS_OF: Final = 3.0
FEET_MM: Final = 25.0
"""How high pads under a machine are, and more than any of the shelf."""


class Machine(Strict):
    """What stands inside. Heat is given, or what is put in less what leaves the box by a shaft or pipe."""

    size_mm: tuple[Millimetres, Millimetres, Millimetres]
    mass_kg: Annotated[float, Field(gt=0, le=100_000, strict=True, allow_inf_nan=False)]
    input_w: Watts | None = None
    leaves_w: Watts = 0.0
    heat_w: Watts | None = None
    sound_power_db: dict[str, Annotated[float, Field(ge=-20, le=180, strict=True, allow_inf_nan=False)]]
    most_c: Celsius | None = None
    fuel: bool = False
    """It burns something."""
    exhaust_outside: bool = False
    hot_c: Celsius | None = None
    """Of its hottest part, where one lies open towards the lining."""


class Opening(Strict):
    """A way for air, with a duct outside it that is lined or not, and bends in it; ``at_mm``: its centre from the
    innermost left lower corner of its side, low for what comes in and high for what goes out where nobody says."""

    role: Literal["in", "out", "cable", "shaft"]
    side: BoxSide
    width_mm: Millimetres
    height_mm: Millimetres
    at_mm: tuple[NotNegativeMm, NotNegativeMm] | None = None
    duct_mm: NotNegativeMm = 0.0
    lined_mm: NotNegativeMm = 0.0
    bends: Annotated[int, Field(ge=0, le=6)] = 0
    closed: bool = False
    """Of cables, hoses and shafts: packed, so that an eighth of it stays open."""


class Door(Strict):
    """A leaf that lies on its wall from outside, over an opening smaller all round by ``LAP_MM``."""

    side: Literal["left", "right", "front", "back", "top"]
    leaf_mm: tuple[Millimetres, Millimetres]
    seal: Seal = "compressed"
    at_mm: tuple[NotNegativeMm, NotNegativeMm] | None = None
    window_mm: tuple[Millimetres, Millimetres] | None = None


class Feet(Strict):
    """What the machine stands on inside."""

    material: str
    count: Annotated[int, Field(ge=3, le=40)] = 4


class BoxIn(Strict):
    """A box round a machine; lengths in mm, true thicknesses as the caliper says."""

    kind: Literal["box"]
    machine: Machine
    clearance_mm: NotNegativeMm = 80.0
    """Machine to the innermost face, all round."""
    outside_c: Annotated[float, Field(ge=-40, le=60, strict=True, allow_inf_nan=False)] = 25.0
    walls: Annotated[tuple[Sheet, ...], Field(min_length=1, max_length=2)]
    """One leaf, or two from outside in, each a box of its own."""
    leaf_gap_mm: NotNegativeMm = 0.0
    lining: Annotated[tuple[Sheet, ...], Field(max_length=4)] = ()
    """From the wall inwards."""
    openings: Annotated[tuple[Opening, ...], Field(max_length=20)] = ()
    fan_m3_h: Annotated[float, Field(ge=0, le=100_000, strict=True, allow_inf_nan=False)] = 0.0
    doors: Annotated[tuple[Door, ...], Field(max_length=6)] = ()
    feet: Feet | None = None
    base: bool = True
    """Whether it has a bottom of its own; else its walls stand on the floor, with a seal under them."""
    frame: bool = False
    """Battens in all edges, cut from stock lengths."""
    stands: Literal["floor", "wall", "corner", "outdoors"] = "floor"
    rain: bool = False
    open_side: Literal["left", "right", "front", "back", "top"] | None = None
    """An open hood: a side is missing."""
    faces: Literal["towards", "beside", "away"] = "towards"
    """How the missing side looks at whom it disturbs."""
    own_case: bool = False
    """The machine's own case: it stands already, only what is put in counts."""
    inside_mm: tuple[Millimetres, Millimetres, Millimetres] | None = None
    """Where its inner size is settled, to the innermost faces; else as small as clearance lets it be."""
    kerf_mm: Annotated[float, Field(ge=0, le=10, strict=True, allow_inf_nan=False)] = 3.0


class Shell(NamedTuple):
    """Sizes along x, y, z: to the innermost faces; within the walls, without the lining; outside; how thick
    its walls are."""

    clear_mm: tuple[float, float, float]
    within_mm: tuple[float, float, float]
    outside_mm: tuple[float, float, float]
    wall_mm: float


def shell(given: BoxIn) -> Shell:
    """The sizes of a box. BadInput where its machine does not go in."""
    lining = sum(x.thickness_mm for x in given.lining)
    wall = sum(x.thickness_mm for x in given.walls) + (given.leaf_gap_mm if len(given.walls) > 1 else 0.0)
    least = [m + 2 * given.clearance_mm for m in given.machine.size_mm]
    if not given.base:  # it stands on the floor, or on its feet there
        least[2] += (FEET_MM if given.feet is not None else 0.0) - given.clearance_mm
    clear = least if given.inside_mm is None else list(given.inside_mm)
    for k, (a, b) in enumerate(zip(clear, least, strict=True)):
        if a < b - 1e-6:
            raise BadInput(f"{of(a, 'mm', '.0f')} along {AXES[k]} do not hold a machine of "
                           f"{of(given.machine.size_mm[k], 'mm', '.0f')} with {of(given.clearance_mm, 'mm', 'g')} round it",
                           "inside_mm", f"give {of(b, 'mm', '.0f')}, or less clearance")
    # the bottom is walked on by the machine: it has no lining
    within = [clear[0] + 2 * lining, clear[1] + 2 * lining, clear[2] + lining]
    out = [within[0] + 2 * wall, within[1] + 2 * wall, within[2] + wall * (2 if given.base else 1)]
    if max(out) > 20_000:
        raise BadInput(f"a box of {of(max(out) / 1e3, 'm', '.1f')} is a room", "clearance_mm", "make it smaller")
    clear_mm, within_mm, out_mm = ((v[0], v[1], v[2]) for v in (clear, within, out))
    return Shell(clear_mm, within_mm, out_mm, wall)


def machine_block(given: BoxIn) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
    """Where the machine stands, its least corner from the box's, and its size: in the middle, ``clearance_mm`` over a bottom."""
    found, size = shell(given), given.machine.size_mm
    at = [(a - b) / 2 for a, b in zip(found.outside_mm, size, strict=True)]
    at[2] = found.wall_mm + given.clearance_mm if given.base else FEET_MM if given.feet is not None else 0.0
    return (at[0], at[1], at[2]), size


def heat_w(machine: Machine) -> float:
    """What must leave the box as heat. BadInput where nobody knows."""
    if machine.heat_w is not None:
        return machine.heat_w
    if machine.input_w is None:
        raise BadInput("nobody says how much heat the machine gives off", "machine.input_w",
                       "give what its plate says it takes, or heat_w")
    if machine.leaves_w > machine.input_w:
        raise BadInput("more leaves by the shaft than is put in", "machine.leaves_w", "give less than input_w")
    return machine.input_w - machine.leaves_w


def power_db(machine: Machine) -> Floats:
    """Sound power per third, dB, 21 bands; octaves are shared among their thirds. BadInput where no band is given."""
    found: dict[float, float] = {}
    for name, level in machine.sound_power_db.items():
        try:
            f = float(name)
        except ValueError:
            f = math.nan
        if not 10 <= f <= 20_000:
            raise BadInput(f"'{name[:20]}' is no frequency", "machine.sound_power_db", "name bands by Hz, as \"125\"")
        found[f] = level
    octaves = all(f in OCTAVES_HZ for f in found)
    out = np.full(len(PREDICTED_HZ), -math.inf)
    for i, f in enumerate(PREDICTED_HZ):
        near = min(OCTAVES_HZ, key=lambda o: abs(math.log2(o / f)))
        given = found.get(near) if octaves else found.get(f)
        if given is not None:
            out[i] = given - (10 * math.log10(THIRDS_OF) if octaves else 0.0)
    if not np.isfinite(out).any():
        raise BadInput("nobody says how loud the machine is", "machine.sound_power_db",
                       "give its sound power in octaves or thirds, 63 to 4000 Hz")
    return out

