"""The parts of a box: walls that meet without overlap or gap, lining between them, doors that lie on, holes for air."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from typing import Final, NamedTuple

import numpy as np
from shapely import Polygon, box, unary_union
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient

from ..errors import BadInput
from ..materials.model import Material, known_material, sold_mm
from ..worded import of
from .box_given import AXES, SIDES, BoxIn, BoxSide, Door, Opening, Shell
from .model import MOST_PARTS, Part, Sheet, kg_m3

LAP_MM: Final = 25.0
"""How far a door's leaf lies over its opening, all round."""
ROUND_MM: Final = 5.0
"""Between a door's own lining and the lining of its wall."""
HIGH, LOW = 0.85, 0.15
"""Where an opening sits along its side's height, where nobody says."""
Corner = tuple[float, float, float]
Rect = tuple[float, float, float, float]
"""Left, low, width and height in the plane of a side, mm from the box's least corner along its two axes."""


class Slab(NamedTuple):
    """A flat part before it is named: least corner, size, the axis of its thickness."""

    at: Corner
    size: Corner
    axis: int


def slabs(at: Corner, size: Corner, thick: float, bottom: bool) -> dict[BoxSide, Slab]:
    """The sides of a box of an outer ``size`` of one thickness: top and bottom over all, left and right between them, front and
    back between those. Every point of the shell is in one of them and in no two."""
    (x, y, z), (w, d, h), t = at, size, thick
    low = t if bottom else 0.0
    tall = h - t - low
    out: dict[BoxSide, Slab] = {"top": Slab((x, y, z + h - t), (w, d, t), 2)}
    if bottom:
        out["bottom"] = Slab((x, y, z), (w, d, t), 2)
    out["left"] = Slab((x, y, z + low), (t, d, tall), 0)
    out["right"] = Slab((x + w - t, y, z + low), (t, d, tall), 0)
    out["front"] = Slab((x + t, y, z + low), (w - 2 * t, t, tall), 1)
    out["back"] = Slab((x + t, y + d - t, z + low), (w - 2 * t, t, tall), 1)
    return out


def plane(axis: int) -> tuple[int, int]:
    """The two axes of a side that stands across one."""
    return (1, 2) if axis == 0 else (0, 2) if axis == 1 else (0, 1)


def side_m2(found: Shell, side: BoxSide) -> float:
    """Area of a side within the walls."""
    u, v = plane(SIDES[side][0])
    return found.within_mm[u] * found.within_mm[v] / 1e6


def face(given: BoxIn, found: Shell, side: BoxSide) -> tuple[float, float, float, float]:
    """What of a side looks in, to the innermost faces: left, low, width, height in its plane, mm from the box's least corner."""
    low = [(a - b) / 2 for a, b in zip(found.outside_mm, found.clear_mm, strict=True)]
    low[2] = found.wall_mm if given.base else 0.0
    u, v = plane(SIDES[side][0])
    return low[u], low[v], found.clear_mm[u], found.clear_mm[v]


def hole_of(given: BoxIn, found: Shell, side: BoxSide, size: tuple[float, float], at: tuple[float, float] | None, high: float,
            where: str, lap: float = 0.0) -> Rect:
    """Where a hole of a size sits in a side; what closes it laps over it by ``lap``. BadInput where it does not fit between the
    innermost faces."""
    left, low, wide, tall = face(given, found, side)
    u, v = plane(SIDES[side][0])
    right, upper = min(left + wide, found.outside_mm[u] - lap), min(low + tall, found.outside_mm[v] - lap)
    left, low = max(left, lap), max(low, lap)
    wide, tall = right - left, upper - low
    if size[0] > wide or size[1] > tall:
        raise BadInput(f"{of(f'{size[0]:.0f} × {size[1]:.0f}', 'mm')} do not go into the {side} of "
                       f"{of(f'{wide:.0f} × {tall:.0f}', 'mm')}", where, "make it smaller, or the box larger")
    centre = (left + at[0], low + at[1]) if at is not None else (left + wide / 2, low + tall * (0.5 if side == "top" else high))
    return (min(max(centre[0] - size[0] / 2, left), right - size[0]), min(max(centre[1] - size[1] / 2, low), upper - size[1]),
            size[0], size[1])


class Holes(NamedTuple):
    """Holes of each side as they were placed: of openings and doors, in their order."""

    openings: tuple[Rect, ...]
    doors: tuple[Rect, ...]


def holes(given: BoxIn, found: Shell) -> Holes:
    """All of them. BadInput where one does not fit, or lies on another, or on a side that is missing."""
    doors = [hole_of(given, found, d.side, (d.leaf_mm[0] - 2 * LAP_MM, d.leaf_mm[1] - 2 * LAP_MM), d.at_mm, 0.5, f"doors[{i}]",
                     LAP_MM)
             for i, d in enumerate(given.doors) if _large_enough(d, i)]
    taken: dict[BoxSide, list[Rect]] = {}
    for i, (d, rect) in enumerate(zip(given.doors, doors, strict=True)):
        leaf, there = _lapped(rect), taken.setdefault(d.side, [])
        if any(_meet(leaf, other) for other in there):
            raise BadInput(f"two doors of the {d.side} lie on one another", f"doors[{i}].at_mm", "say where each of them sits")
        there.append(leaf)
    placed = []
    for i, o in enumerate(given.openings):
        if o.side == "bottom" and not given.base:
            raise BadInput("it has no bottom to put an opening in", f"openings[{i}].side", "choose another side")
        free = taken.setdefault(o.side, [])
        high = HIGH if o.role == "out" else LOW
        rect = hole_of(given, found, o.side, (o.width_mm, o.height_mm), o.at_mm, high, f"openings[{i}]")
        if o.at_mm is None:
            rect = _beside(rect, free, face(given, found, o.side))
        if any(_meet(rect, other) for other in free):
            raise BadInput(f"the {o.role} opening in the {o.side} lies on another, or on a door", f"openings[{i}].at_mm",
                           "say where it sits, in mm from the side's left lower corner")
        free.append(rect)
        placed.append(rect)
    if given.open_side in ({o.side for o in given.openings} | {d.side for d in given.doors}):
        raise BadInput(f"the {given.open_side} is missing: nothing can be in it", "open_side", "choose another side")
    return Holes(tuple(placed), tuple(doors))


def _large_enough(door: Door, i: int) -> bool:
    if min(door.leaf_mm) <= 2 * LAP_MM + 20:
        raise BadInput(f"a leaf of {of(f'{door.leaf_mm[0]:.0f} × {door.leaf_mm[1]:.0f}', 'mm')} leaves no way in, "
                       f"lying over its opening by {of(LAP_MM, 'mm', 'g')} all round", f"doors[{i}].leaf_mm", "make it larger")
    return True


def _lapped(hole: Rect) -> Rect:
    """What closes a hole, lying over it all round."""
    return hole[0] - LAP_MM, hole[1] - LAP_MM, hole[2] + 2 * LAP_MM, hole[3] + 2 * LAP_MM


def _meet(a: Rect, b: Rect) -> bool:
    return all(a[k] < b[k] + b[k + 2] - 1e-6 and b[k] < a[k] + a[k + 2] - 1e-6 for k in (0, 1))


def _beside(rect: Rect, taken: list[Rect], room: Rect) -> Rect:
    """The place nearest its own, in steps of a twentieth of the side, where nothing else lies."""
    u, v, w, h = rect
    span_u, span_v = room[2] - w, room[3] - h
    steps = np.arange(21) / 20
    at_u, at_v = (x.ravel() for x in np.meshgrid(room[0] + steps * span_u, room[1] + steps * span_v, indexing="ij"))
    far = np.abs(at_u - u) + np.abs(at_v - v)
    for a, b, wide, high in taken:
        meets = (at_u < a + wide - 1e-6) & (a < at_u + w - 1e-6) & (at_v < b + high - 1e-6) & (b < at_v + h - 1e-6)
        far[meets] = np.inf
    best = int(np.argmin(far))
    return (float(at_u[best]), float(at_v[best]), w, h) if np.isfinite(far[best]) else rect


def box_parts(given: BoxIn, found: Shell, cut: Holes, materials: Mapping[str, Material]) -> tuple[Part, ...]:
    """All sheets of a box: leaves from outside in, layers of lining, and the doors with theirs. BadInput for 300 parts."""
    parts = list(_shells(given, found, cut, materials))
    for i, (door, hole) in enumerate(zip(given.doors, cut.doors, strict=True), start=1):
        parts += _door(given, found, door, hole, i, materials)
    if len(parts) >= MOST_PARTS:
        raise BadInput(f"it has {len(parts)} parts; {MOST_PARTS - 1} can be drawn", "lining", "make it of fewer")
    return tuple(p.model_copy(update={"id": f"B{n}"}) for n, p in enumerate(parts, start=1))


def _shells(given: BoxIn, found: Shell, cut: Holes, materials: Mapping[str, Material]) -> Iterator[Part]:
    at, size = (0.0, 0.0, 0.0), found.outside_mm
    for k, leaf in enumerate(given.walls):
        name = "{}" if len(given.walls) == 1 else "outer {}" if k == 0 else "inner {}"
        yield from _layer(given, slabs(at, size, leaf.thickness_mm, given.base), leaf, name, cut, materials, f"walls[{k}]")
        step = leaf.thickness_mm + (given.leaf_gap_mm if k + 1 < len(given.walls) else 0.0)
        at, size = _inwards(at, size, step, given.base)
    for k, layer in enumerate(given.lining):
        name = "lining of {}" if len(given.lining) == 1 else f"lining {k + 1} of {{}}"
        yield from _layer(given, slabs(at, size, layer.thickness_mm, False), layer, name, cut, materials, f"lining[{k}]")
        at, size = _inwards(at, size, layer.thickness_mm, False)


def _inwards(at: Corner, size: Corner, step: float, bottom: bool) -> tuple[Corner, Corner]:
    low = step if bottom else 0.0
    return (at[0] + step, at[1] + step, at[2] + low), (size[0] - 2 * step, size[1] - 2 * step, size[2] - step - low)


def _layer(given: BoxIn, sides: Mapping[BoxSide, Slab], sheet: Sheet, name: str, cut: Holes, materials: Mapping[str, Material],
           where: str) -> Iterator[Part]:
    material = known_material(sheet.material, materials, f"{where}.material")
    for side, slab in sides.items():
        if side == given.open_side:
            continue
        if min(slab.size) <= 0:
            raise BadInput(f"its {side} would have no room", where, "make the box larger, or its walls thinner")
        through = [r for o, r in zip(given.openings, cut.openings, strict=True) if o.side == side]
        through += [r for d, r in zip(given.doors, cut.doors, strict=True) if d.side == side]
        what = f"{side} wall" if side not in ("top", "bottom") else side
        yield from flat_parts(name.format(what), material, slab, through)


def flat_parts(name: str, material: Material, slab: Slab, holes_: Sequence[Rect] = ()) -> list[Part]:
    """What of a slab is left round holes, given in its plane from the box's least corner; in as many pieces as the sheets it is
    sold in make of it, side by side."""
    u, v = plane(slab.axis)
    u0, v0, wide, tall, thick = slab.at[u], slab.at[v], slab.size[u], slab.size[v], slab.size[slab.axis]
    cut = unary_union([box(a, b, a + w, b + h) for a, b, w, h in holes_])
    across, up = tiles(material, thick, wide, tall)
    pieces = [piece for i in range(across) for k in range(up) for piece in _whole(box(
        u0 + wide * i / across, v0 + tall * k / up, u0 + wide * (i + 1) / across, v0 + tall * (k + 1) / up).difference(cut))]
    many = len(pieces) > 1
    return [_cut(f"{name}, piece {n}" if many else name, material, slab, piece) for n, piece in enumerate(pieces, start=1)]


def _whole(shape: BaseGeometry) -> list[Polygon]:
    """Its polygons, slivers left out."""
    return [p for p in getattr(shape, "geoms", [shape]) if isinstance(p, Polygon) and p.area > SLIVER_MM2]


def _cut(name: str, material: Material, slab: Slab, piece: Polygon) -> Part:
    u, v = plane(slab.axis)
    low_u, low_v, high_u, high_v = piece.bounds
    at, size, thick = list(slab.at), list(slab.size), slab.size[slab.axis]
    at[u], at[v], size[u], size[v] = low_u, low_v, high_u - low_u, high_v - low_v

    def ring(points: Sequence[tuple[float, ...]]) -> tuple[tuple[float, float], ...]:
        return tuple((round(p[0] - low_u, 3), round(p[1] - low_v, 3)) for p in points[:-1])

    turned = orient(piece)
    return Part(id="", name=name, material=material.id, size_mm=(size[0], size[1], size[2]), at_mm=(at[0], at[1], at[2]),
                axis=AXES[slab.axis], outline_mm=ring(list(turned.exterior.coords)),
                holes_mm=tuple(ring(list(r.coords)) for r in turned.interiors), flat_mm=(high_u - low_u, high_v - low_v, thick),
                kg=round(piece.area * thick / 1e9 * kg_m3(material), 4))


def tiles(material: Material, thick: float, wide: float, tall: float) -> tuple[int, int]:
    """In how many pieces, across and up, a face has to be cut from the sheets or rolls a material is sold in: the fewest."""
    sold = [(f.width_mm or 0.0, f.length_mm or 0.0) for f in material.stock
            if f.width_mm and f.length_mm and f.thickness_mm in (None, sold_mm(material, thick))]
    ways = [(math.ceil(wide / a - 1e-9), math.ceil(tall / b - 1e-9)) for one in sold for a, b in (one, one[::-1])]
    return min(ways, key=lambda n: n[0] * n[1], default=(1, 1))


SLIVER_MM2 = 1.0
"""What a hole leaves of less is no piece."""


def _door(given: BoxIn, found: Shell, door: Door, hole: Rect, number: int, materials: Mapping[str, Material]) -> Iterator[Part]:
    """Its leaf on the outer wall and its own lining; where it has a window, a pane behind the leaf."""
    axis, far = SIDES[door.side]
    u, v = plane(axis)
    outer = found.outside_mm[axis] if far else 0.0
    sheet = given.walls[0]
    leaf = known_material(sheet.material, materials, "walls[0].material")

    def slab(rect: Rect, begin: float, thick: float) -> Slab:
        """Of a rectangle, from ``begin`` mm inwards of the outer face."""
        at, size = [0.0, 0.0, 0.0], [0.0, 0.0, 0.0]
        at[u], at[v], size[u], size[v], size[axis] = rect[0], rect[1], rect[2], rect[3], thick
        at[axis] = outer - begin - thick if far else outer + begin
        return Slab((at[0], at[1], at[2]), (size[0], size[1], size[2]), axis)

    window = None
    if door.window_mm is not None:
        w, h = door.window_mm
        if w + 2 * LAP_MM > hole[2] or h + 2 * LAP_MM > hole[3]:
            raise BadInput(f"a window of {of(f'{w:.0f} × {h:.0f}', 'mm')} does not go into its door",
                           f"doors[{number - 1}].window_mm", "make it smaller")
        window = (hole[0] + (hole[2] - w) / 2, hole[1] + (hole[3] - h) / 2, w, h)
    through = [window] if window is not None else []
    yield from flat_parts(f"door {number}: leaf", leaf, slab(_lapped(hole), -sheet.thickness_mm, sheet.thickness_mm), through)
    if window is not None:
        pane = _lapped(window)
        yield from flat_parts(f"door {number}: pane", known_material(PANE.material, materials, "doors"),
                              slab(pane, 0.0, PANE.thickness_mm))
        through = [pane]
    begin, inner = 0.0, (hole[0] + ROUND_MM, hole[1] + ROUND_MM, hole[2] - 2 * ROUND_MM, hole[3] - 2 * ROUND_MM)
    for k, layer in enumerate(given.lining):
        material = known_material(layer.material, materials, f"lining[{k}].material")
        yield from flat_parts(f"door {number}: lining", material, slab(inner, begin, layer.thickness_mm), through)
        begin += layer.thickness_mm


PANE: Final = Sheet(material="acrylic", thickness_mm=6.0)
"""What a window in a door is of."""


def opening_m2(opening: Opening) -> float:
    """What of an opening is open, m²: packed round a cable or shaft an eighth."""
    return opening.width_mm * opening.height_mm / 1e6 * (0.125 if opening.closed else 1.0)
