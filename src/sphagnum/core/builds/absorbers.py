"""Framed absorbers of a room: how many, how deep, where they hang, what they are made of, and how long the room rings then."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..errors import BadInput
from ..levels.bands import Floats
from ..levels.decay import OCTAVES_HZ
from ..materials.families.air import Air
from ..materials.families.limp import Limp
from ..materials.families.porous import Porous
from ..materials.model import Material, known_material, to_layer
from ..schema import Strict
from ..stacks.absorption import Lining, LiningLayer, absorb, before_a_wall
from ..worded import of
from .model import MOST_PARTS, Axis, Built, Good, Millimetres, NotNegativeMm, Part, Sheet, added_kg, kg_m3
from .placing import Hung, inside, places
from .rooms import (
    BARE,
    OCTAVE_OF,
    PAIRS,
    SPEECH,
    TOLERANCE,
    UNEVEN,
    Room,
    Rooms,
    Side,
    absorption_m2,
    alphas,
    clarity_db,
    computed_m2,
    eyring,
    fitzroy,
    octaves_of,
    sabine,
    target_s,
    weighted_drop_db,
)

TURN_OVER_MM = 50.0
"""Of cloth round the back of a frame."""
CLOTH_WIDE_MM, CLOTH_MM, CLOTH_KG_M3 = 1500.0, 0.5, 500.0
BREATHES_PA_S_M = 400.0
"""A cloth no harder to breathe through than air is to be moved, ρc, takes little of what is behind it."""


class Frame(Strict):
    """One absorber: outer size, depth, gap to the wall, what fills it, its side boards, and what covers it besides cloth."""

    size_mm: tuple[Millimetres, Millimetres]
    depth_mm: Millimetres
    gap_mm: NotNegativeMm = 0.0
    fill: str
    fill_mm: Millimetres | None = None
    """None: the thickest that is sold and goes in."""
    side: Sheet = Sheet(material="plywood", thickness_mm=12.0)
    facing: Sheet | None = None
    """A limp sheet before the fill makes it an absorber of low notes."""
    cloth_pa_s_m: Annotated[float, Field(ge=0, le=100_000, strict=True, allow_inf_nan=False)] = 0.0
    """How hard its cloth is to breathe through, Pa·s/m (ISO 9053-1); 0: as good as nothing."""


class AbsorbersIn(Room):
    """A room and the absorbers it is to have; ``count`` None: as many as the use asks for."""

    kind: Literal["absorbers"]
    use: Literal["speech", "music", "practice", "office"]
    frame: Frame
    count: Annotated[int | None, Field(ge=0, le=10_000)] = None
    ceiling: bool = False
    corners: bool = False
    """Stacked where two walls meet, for low notes; else where mirrors show, then spread."""
    listener_mm: tuple[NotNegativeMm, NotNegativeMm, NotNegativeMm] | None = None
    speakers_mm: Annotated[tuple[tuple[NotNegativeMm, NotNegativeMm, NotNegativeMm], ...], Field(max_length=8)] = ()


def absorbers(given: AbsorbersIn, materials: Mapping[str, Material], rooms: Rooms) -> Built:
    """The absorbers of a room. BadInput for what cannot be: a frame larger than the walls, a T nobody can have, 300 parts."""
    frame = given.frame
    fill_mm = _fill_mm(frame, known_material(frame.fill, materials, "frame.fill"))
    known_material(frame.side.material, materials, "frame.side.material")
    if 2 * frame.side.thickness_mm >= min(frame.size_mm):
        raise BadInput("its boards leave no room between them", "frame.size_mm", "make it larger, or its boards thinner")
    for i, speaker in enumerate(given.speakers_mm):
        inside(given, speaker, "a loudspeaker", f"speakers_mm[{i}]")
    if given.listener_mm is not None:
        inside(given, given.listener_mm, "the listener", "listener_mm")
    alpha = frame_alpha(frame, fill_mm, materials)
    now = absorption_m2(given, rooms)
    # where a room was read, its walls take up as much less, or more, than the table as all of it does
    share = now / computed_m2(given, rooms)
    sides = {s: a * share for s, a in alphas(given, rooms).items()}
    hung = places(given, frame.size_mm, given.listener_mm, given.speakers_mm, given.ceiling,
                  given.corners)
    wanted = target_s(rooms.uses[given.use], given.volume_m3)
    count = given.count if given.count is not None else _enough(given, now, alpha, sides, hung, wanted)
    if count > len(hung):
        raise BadInput(f"the walls hold {len(hung)} such absorbers, not {count}", "count",
                       "take fewer, larger ones, or the ceiling too")
    each = parts_each(frame)
    if count * each >= MOST_PARTS:
        raise BadInput(f"{count} absorbers have {count * each} parts; {MOST_PARTS - 1} can be drawn", "count",
                       "make them larger, or fewer")
    hung = hung[:count]
    then = now + sum((_added(h, alpha, sides[h.side]) for h in hung), np.zeros(len(OCTAVES_HZ)))
    parts = tuple(p for i, h in enumerate(hung, start=1) for p in _parts(given, h, f"F{i}", fill_mm, materials))
    goods = _goods(frame, count, materials)
    drop = weighted_drop_db(now, then) if count else 0.0
    times = sabine(given, now), sabine(given, then)
    return Built(
        parts=parts, goods=goods, added_kg=added_kg(parts, goods, materials),
        effect_db=tuple(np.round(10 * np.log10(then / now)[OCTAVE_OF], 2).tolist()),
        change_dba=round(drop, 2) + 0.0, count=count, target_s=round(wanted, 2),
        reverberation_s=_by_octave(*times), eyring_s=_by_octave(eyring(given, now), eyring(given, then)),
        clarity_db=_by_octave(clarity_db(times[0]), clarity_db(times[1]), 1),
        notes=tuple(_notes(given, rooms, hung, fill_mm, drop, wanted, times, then - now, alpha)))


def parts_each(frame: Frame) -> int:
    """Four boards, the fill, and a sheet before it."""
    return 5 + (frame.facing is not None)


def frame_alpha(frame: Frame, fill_mm: float, materials: Mapping[str, Material]) -> Floats:
    """α per octave of an absorber before its wall: what covers it, what fills it, the air behind; diffuse sound, at most 1."""
    layers: list[LiningLayer] = []
    if frame.cloth_pa_s_m:
        layers.append(before_a_wall(Porous(kind="porous", thickness_mm=CLOTH_MM, density_kg_m3=CLOTH_KG_M3,
                                           flow_resistivity_pa_s_m2=frame.cloth_pa_s_m / (CLOTH_MM / 1e3))))
    if frame.facing is not None:
        sheet = known_material(frame.facing.material, materials, "frame.facing.material")
        layers.append(Limp(kind="limp", thickness_mm=frame.facing.thickness_mm,
                           surface_mass_kg_m2=max(kg_m3(sheet) * frame.facing.thickness_mm / 1e3, 0.01)))
    fill = to_layer(known_material(frame.fill, materials, "frame.fill"), fill_mm)
    if not isinstance(fill, Porous):
        raise BadInput(f"'{frame.fill}' is not open", "frame.fill", "fill it with an open material, as stone wool")
    layers.append(before_a_wall(fill))
    behind = frame.gap_mm + max(frame.depth_mm - fill_mm, 0.0)
    if behind:
        layers.append(Air(kind="air", thickness_mm=behind))
    return np.minimum(octaves_of(absorb(Lining(layers=tuple(layers))).alpha_diffuse), 1.0)


def _fill_mm(frame: Frame, fill: Material) -> float:
    """How thick the fill is: as said, else the thickest sold that goes in, else the whole depth."""
    if frame.fill_mm is not None:
        if frame.fill_mm > frame.depth_mm:
            raise BadInput(f"{of(frame.fill_mm, 'mm', 'g')} do not go into a frame {of(frame.depth_mm, 'mm', 'g')} deep",
                           "frame.fill_mm",
                           "make the frame deeper")
        return frame.fill_mm
    return max((t for t in fill.thicknesses_mm if t <= frame.depth_mm), default=frame.depth_mm)


def _added(hung: Hung, alpha: Floats, behind: Floats) -> Floats:
    """Absorption area one absorber adds, m²: its own less that of the wall it covers."""
    return math.prod(hung.size_mm) / 1e6 * np.maximum(alpha - behind, 0.0)


def _enough(given: AbsorbersIn, now_m2: Floats, alpha: Floats, sides: Mapping[Side, Floats], hung: list[Hung],
            wanted: float) -> int:
    """The fewest that bring the mean of T from 250 Hz to 2 kHz down to what still counts as wanted; all there is room for where
    none do."""
    area, most = now_m2.copy(), min(len(hung), (MOST_PARTS - 1) // parts_each(given.frame))
    for n in range(most):
        if float(sabine(given, area)[SPEECH].mean()) <= TOLERANCE * wanted + 1e-9:
            return n
        area = area + _added(hung[n], alpha, sides[hung[n].side])
    return most


def _by_octave(now: Floats, then: Floats, digits: int = 2) -> dict[str, tuple[float, float]]:
    return {f"{f:g}": (round(float(a), digits), round(float(b), digits))
            for f, a, b in zip(OCTAVES_HZ, now, then, strict=True)}


NORMAL: Mapping[Side, tuple[Axis, int]] = {"left": ("y", 1), "right": ("y", 1), "front": ("x", 0), "back": ("x", 0),
                                           "ceiling": ("z", 2)}


def _parts(given: AbsorbersIn, hung: Hung, name: str, fill_mm: float, materials: Mapping[str, Material]) -> list[Part]:
    """Two long and two short boards on edge, mitred at the corners, what fills them, and the sheet before that, if any."""
    frame, (w, h), t = given.frame, hung.size_mm, given.frame.side.thickness_mm
    board, fill = materials[frame.side.material], materials[frame.fill]
    rings = (("bottom", ((0, 0), (w, 0), (w - t, t), (t, t))), ("top", ((t, h - t), (w - t, h - t), (w, h), (0, h))),
             ("left", ((0, 0), (t, t), (t, h - t), (0, h))), ("right", ((w - t, t), (w, 0), (w, h), (w - t, h - t))))
    out = [_part(given, hung, f"{name}{letter}", f"{name}: {at} board, on edge", board, outline, frame.depth_mm, frame.gap_mm, 45)
           for letter, (at, outline) in zip("ABCD", rings, strict=True)]
    filled = ((t, t), (w - t, t), (w - t, h - t), (t, h - t))
    behind = frame.gap_mm + frame.depth_mm - fill_mm
    out.append(_part(given, hung, f"{name}E", f"{name}: fill", fill, filled, fill_mm, behind, 0))
    if frame.facing is not None:
        whole = ((0.0, 0.0), (w, 0.0), (w, h), (0.0, h))
        out.append(_part(given, hung, f"{name}F", f"{name}: sheet before it", materials[frame.facing.material], whole,
                         frame.facing.thickness_mm, frame.gap_mm + frame.depth_mm, 0))
    return out


def _part(given: Room, hung: Hung, name: str, words: str, material: Material, outline: tuple[tuple[float, float], ...],
          thick: float, from_wall: float, mitre: float) -> Part:
    """A flat piece that lies along a side of the room, at so much from it, where the absorber hangs."""
    axis, at = NORMAL[hung.side]
    u0, v0 = min(p[0] for p in outline), min(p[1] for p in outline)
    wide, high = max(p[0] for p in outline) - u0, max(p[1] for p in outline) - v0
    corner = [hung.at_mm[0] - hung.size_mm[0] / 2 + u0, hung.at_mm[1] - hung.size_mm[1] / 2 + v0]
    size = [wide, high]
    far = hung.side in ("right", "back", "ceiling")
    corner.insert(at, given.room_mm[at] - from_wall - thick if far else from_wall)
    size.insert(at, thick)
    shape = tuple((round(u - u0, 2), round(v - v0, 2)) for u, v in outline)
    area = abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(shape, (*shape[1:], shape[0]), strict=True))) / 2
    flat = (max(wide, high), thick, min(wide, high)) if mitre else (wide, high, thick)  # a mitred board stands on its edge
    return Part(id=name, name=words, flat_mm=flat, material=material.id, size_mm=(size[0], size[1], size[2]), axis=axis,
                mitre_deg=mitre,
                at_mm=(round(corner[0], 2), round(corner[1], 2), round(corner[2], 2)), outline_mm=shape,
                kg=round(area * thick / 1e9 * kg_m3(material), 3))


def _goods(frame: Frame, count: int, materials: Mapping[str, Material]) -> tuple[Good, ...]:
    """Cloth with what is turned over, hooks, staples; battens where there is a gap."""
    if not count:
        return ()
    w, h = (x + 2 * (frame.depth_mm + TURN_OVER_MM) for x in sorted(frame.size_mm))
    # across the roll goes what fits across it; each absorber's length is cut off in turn
    length = h if w <= CLOTH_WIDE_MM else w * math.ceil(h / CLOTH_WIDE_MM)
    beside = max(1, int(CLOTH_WIDE_MM // w))
    wanted = [("panel-cloth", round(math.ceil(count / beside) * length / 1e3, 2), "m"), ("frame-hook", 2.0 * count, "piece")]
    if frame.gap_mm:
        wanted.append(("timber-batten", round(2 * count * min(frame.size_mm) / 1e3, 2), "m"))
    return tuple(Good.model_validate({"material": m, "amount": a, "unit": u}) for m, a, u in wanted if m in materials)


def _notes(given: AbsorbersIn, rooms: Rooms, hung: list[Hung], fill_mm: float, drop: float, wanted: float,
           times: tuple[Floats, Floats], added: Floats, alpha: Floats) -> list[str]:
    """What whoever reads the figures should know."""
    use, then = rooms.uses[given.use], times[1]
    means = [float(t[SPEECH].mean()) for t in times]
    out = [f"{use.name} in {given.volume_m3:.0f} m³ wants {wanted:.2f} s, a fifth more or less, in the mean of 250 Hz to "
           f"2 kHz ({use.source}); it rings for "
           f"{means[0]:.2f} s now, {means[1]:.2f} s with {len(hung)} absorbers."]
    if means[1] > TOLERANCE * wanted + 0.005 and given.count is None:
        out.append("There is no room for more of them: make them deeper, or use the ceiling and the floor.")
    deep = given.frame.depth_mm + given.frame.gap_mm
    works = next((f for f, a in zip(OCTAVES_HZ, alpha, strict=True) if a >= 0.5), None)
    if then[0] > 1.5 * then[SPEECH].mean():
        out.append(f"Low notes stay: 125 Hz rings for {then[0]:.2f} s. {of(deep, 'mm', 'g')} to the wall take up half and more "
                   f"{f'from {works:g} Hz on' if works else 'nowhere'}; deeper ones take them, or a sheet over a deep gap in the "
                   "corners.")
    if fill_mm < given.frame.depth_mm and given.frame.fill_mm is None:
        out.append(f"The fill is {of(fill_mm, 'mm', 'g')}, as it is sold; behind it are "
                   f"{of(given.frame.depth_mm - fill_mm, 'mm', 'g')} more of air.")
    if given.frame.cloth_pa_s_m > BREATHES_PA_S_M:
        out.append(f"Its cloth is hard to breathe through ({given.frame.cloth_pa_s_m:g} Pa·s/m): hold it to your mouth; one that "
                   "lets no breath through turns high notes back into the room.")
    if given.corners and hung:
        out.append("Where two walls meet low notes press up to twice as hard as on a wall (Waterhouse 1955, recalled), so that "
                   "there they take up more than is counted here.")
    if given.measured_t_s and len(given.measured_t_s) < len(OCTAVES_HZ):
        out.append(f"Read at {', '.join(given.measured_t_s)} Hz, computed from the surfaces elsewhere.")
    out += _uneven(given, rooms, hung, added, then)
    if hung:
        out.append(f"In the room itself noise falls by {-drop:.1f} dB(A). Through walls it blocks nothing: a neighbour hears "
                   "that much less and no more. What is shaken stays as it is.")
        out.append("Mineral fibre: mask and long sleeves while cutting, cloth all round. Ask for the flame class of the cloth; "
                   "keep absorbers off lamps and out of escape routes.")
    return out


def _uneven(given: AbsorbersIn, rooms: Rooms, hung: list[Hung], added: Floats, then: Floats) -> list[str]:
    """Where absorption is not spread: Fitzroy's time, and which walls throw sound to and fro."""
    own = alphas(given, rooms)
    inside_m2 = np.maximum(given.furniture_m2 + given.people * np.array(rooms.person_m2), 0.0)
    area = {s: own[s] * given.area_m2(s) + inside_m2 * given.area_m2(s) / given.surface_m2 for pair in PAIRS for s in pair}
    each = added / max(len(hung), 1)
    for h in hung:
        area[h.side] = area[h.side] + each
    mean = {pair: sum((area[s] for s in pair), np.zeros(len(OCTAVES_HZ)))[SPEECH].mean() / sum(given.area_m2(s) for s in pair)
            for pair in PAIRS}
    out = []
    if max(mean.values()) > UNEVEN * min(mean.values()):
        time = float(fitzroy(given, area)[SPEECH].mean())
        out.append(f"What takes sound up is not spread: expect nearer {time:.2f} s (Fitzroy) than {then[SPEECH].mean():.2f} s.")
    for pair, value in mean.items():
        if value < BARE and all(not any(h.side == s for h in hung) for s in pair):
            out.append(f"{pair[0].capitalize()} and {pair[1]} are bare and face one another: a clap flutters between them. One "
                       "absorber on either ends that.")
    return out
