"""A room's own sound: absorption of what bounds and fills it, how long it rings, how well speech stands out, what is wanted."""

from __future__ import annotations

import math
from typing import Annotated, Final, Literal

import numpy as np
from pydantic import Field

from ..errors import BadInput
from ..levels.bands import A_WEIGHTING_DB, NOMINAL_HZ, PREDICTED_HZ, Floats
from ..levels.decay import OCTAVES_HZ
from ..levels.rows import LEAST_S, MOST_S
from ..paths.room import absorption_from_time_m2, eyring_s, sabine_s
from ..schema import Strict

Octaves = Annotated[tuple[float, ...], Field(min_length=len(OCTAVES_HZ), max_length=len(OCTAVES_HZ))]
Side = Literal["floor", "ceiling", "left", "right", "front", "back"]
PAIRS: Final[tuple[tuple[Side, Side], ...]] = (("floor", "ceiling"), ("left", "right"), ("front", "back"))
OCTAVE_A_DB: Final = np.array([A_WEIGHTING_DB[NOMINAL_HZ.index(f)] for f in OCTAVES_HZ])
SPEECH: Final = slice(1, 5)
"""250 Hz to 2 kHz: what a target of T is the mean over."""
TOLERANCE = 1.2
"""A T counts as wanted up to so many times the target in those octaves (DIN 18041:2016, recalled)."""
OCTAVE_OF: Final = np.clip(np.round(np.log2(np.array(PREDICTED_HZ) / 125)), 0, 5).astype(int)
"""Which of the octaves 125 Hz to 4 kHz each third lies in; those below in the lowest."""
BARE, UNEVEN = 0.10, 4.0


class RoomSurface(Strict):
    """What bounds a room: α per octave 125–4000 Hz."""

    id: str
    name: str
    alpha: Octaves


class RoomUse(Strict):
    """What a room is for: the T wanted, s, is ``per_decade_s``·lg(V/m³) + ``at_1_m3_s``, from and to so many m³."""

    id: str
    name: str
    per_decade_s: float
    at_1_m3_s: float
    source: str


class Rooms(Strict):
    """The shipped figures of rooms."""

    surfaces: dict[str, RoomSurface]
    uses: dict[str, RoomUse]
    air_per_m: Octaves
    """Power lost in air, 4m, 1/m."""
    person_m2: Octaves
    """Absorption area of one who sits."""


RoomMm = Annotated[tuple[Annotated[float, Field(ge=500, le=50_000, strict=True, allow_inf_nan=False)], ...],
                   Field(min_length=3, max_length=3)]


class Room(Strict):
    """A box of a room: length (x), width (y), height (z); ``surfaces`` of "walls" stand for each wall not named by itself."""

    room_mm: RoomMm
    surfaces: dict[Literal["floor", "ceiling", "walls", "left", "right", "front", "back"], str]
    furniture_m2: Annotated[float, Field(ge=0, le=10_000, strict=True, allow_inf_nan=False)] = 0.0
    people: Annotated[int, Field(ge=0, le=10_000)] = 0
    measured_t_s: dict[str, float] = {}

    @property
    def volume_m3(self) -> float:
        """Of the whole room."""
        return math.prod(self.room_mm) / 1e9

    def area_m2(self, side: Side) -> float:
        """Of one side of it."""
        x, y, z = (v / 1e3 for v in self.room_mm)
        return {"floor": x * y, "ceiling": x * y, "left": x * z, "right": x * z, "front": y * z, "back": y * z}[side]

    @property
    def surface_m2(self) -> float:
        """Of all sides."""
        return sum(self.area_m2(s) for pair in PAIRS for s in pair)


def alphas(room: Room, rooms: Rooms) -> dict[Side, Floats]:
    """α per octave of each side. BadInput for a side of nothing, or of what nobody knows."""
    out: dict[Side, Floats] = {}
    for side in (s for pair in PAIRS for s in pair):
        wall = side not in ("floor", "ceiling")
        name = room.surfaces.get(side) or (room.surfaces.get("walls") if wall else None)
        if name is None:
            raise BadInput(f"nobody says what the {side} is of", "surfaces", f"give one of: {', '.join(rooms.surfaces)}")
        if name not in rooms.surfaces:
            raise BadInput(f"no surface '{name[:40]}' is known", f"surfaces.{side}", f"give one of: {', '.join(rooms.surfaces)}")
        out[side] = np.array(rooms.surfaces[name].alpha)
    return out


def computed_m2(room: Room, rooms: Rooms) -> Floats:
    """Absorption area per octave, m²: sides, furniture, people, air (EN 12354-6:2003 in its simple form)."""
    sides = sum((a * room.area_m2(s) for s, a in alphas(room, rooms).items()), np.zeros(len(OCTAVES_HZ)))
    return np.asarray(sides + room.furniture_m2 + room.people * np.array(rooms.person_m2)
                      + np.array(rooms.air_per_m) * room.volume_m3)


def absorption_m2(room: Room, rooms: Rooms) -> Floats:
    """Absorption area per octave, m²: what was measured where it was, else as computed. BadInput for a T that can't be."""
    area = computed_m2(room, rooms)
    for label, t in room.measured_t_s.items():
        at = next((i for i, f in enumerate(OCTAVES_HZ) if f"{f:g}" == label), None)
        if at is None:
            raise BadInput(f"'{label[:20]}' is no octave", "measured_t_s", "give 125, 250, 500, 1000, 2000 or 4000")
        if not LEAST_S <= t <= MOST_S:
            raise BadInput(f"a room does not ring for {t:g} s", f"measured_t_s.{label}", f"give {LEAST_S:g} to {MOST_S:g} s")
        area[at] = absorption_from_time_m2(room.volume_m3, t)
    return area


def sabine(room: Room, area_m2: Floats) -> Floats:
    """T per octave, s (Sabine)."""
    return sabine_s(room.volume_m3, area_m2)


def eyring(room: Room, area_m2: Floats) -> Floats:
    """T per octave, s, of the same absorption taken as spread over all sides (Eyring 1930)."""
    return eyring_s(room.volume_m3, room.surface_m2, np.minimum(area_m2 / room.surface_m2, 0.99))


def fitzroy(room: Room, by_side_m2: dict[Side, Floats]) -> Floats:
    """T per octave, s, where the three pairs of sides differ: each pair's own Eyring time by its share of the surface
    (Fitzroy 1959). ``by_side_m2``: absorption area on each side, with its share of what stands in the room."""
    out, whole = np.zeros(len(OCTAVES_HZ)), room.surface_m2
    for pair in PAIRS:
        area = sum(room.area_m2(s) for s in pair)
        mean = np.clip(sum((by_side_m2[s] for s in pair), np.zeros(len(OCTAVES_HZ))) / area, 1e-4, 0.99)
        out += area / whole * eyring_s(room.volume_m3, whole, mean)
    return out


def clarity_db(t_s: Floats | float) -> Floats:
    """C50 of an exponential fall, dB: 10·lg(e^(0.691/T) − 1)."""
    return np.asarray(10 * np.log10(np.expm1(0.05 * 6 * math.log(10) / np.asarray(t_s))))


def target_s(use: RoomUse, volume_m3: float) -> float:
    """T wanted in the middle octaves, s."""
    return max(use.per_decade_s * math.log10(volume_m3) + use.at_1_m3_s, 0.2)


def octaves_of(bands: tuple[float, ...]) -> Floats:
    """Means over the three bands of each octave of a figure of the 21 bands."""
    return np.array([np.mean([bands[PREDICTED_HZ.index(f) + k] for k in (-1, 0, 1)]) for f in OCTAVES_HZ])


def weighted_drop_db(before_m2: Floats, after_m2: Floats) -> float:
    """What more absorption takes off a noise alike in all octaves, dB(A): negative where it gets quieter."""
    heard = 10 ** (OCTAVE_A_DB / 10)
    return float(10 * np.log10(np.sum(heard * before_m2 / after_m2) / np.sum(heard)))
