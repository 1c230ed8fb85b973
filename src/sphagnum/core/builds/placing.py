"""Where absorbers hang: first where a loudspeaker's sound is thrown to the listener, then evenly over opposite walls."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, NamedTuple

import numpy as np

from ..errors import BadInput
from ..worded import of
from .rooms import Room, Side

Point = tuple[float, float, float]
WALLS: Final[tuple[Side, ...]] = ("left", "right", "front", "back")
EAR_MM = 1200.0
CLEAR_MM = 50.0
"""Between two absorbers, and to a corner."""


class Hung(NamedTuple):
    """An absorber on a side: its centre along the side and up it (across it, for a ceiling), mm, and its size there."""

    side: Side
    at_mm: tuple[float, float]
    size_mm: tuple[float, float]


def span_mm(room: Room, side: Side) -> tuple[float, float]:
    """How long and how high a side is."""
    x, y, z = room.room_mm
    return (x, y) if side in ("ceiling", "floor") else (x, z) if side in ("left", "right") else (y, z)


def reflections(room: Room, listener: Point, speakers: tuple[Point, ...]) -> Iterator[tuple[Side, tuple[float, float]]]:
    """Where on walls and ceiling a mirror would show each loudspeaker to the listener (image sources of first order)."""
    planes: tuple[tuple[Side, int, float], ...] = (
        ("left", 1, 0.0), ("right", 1, room.room_mm[1]), ("ceiling", 2, room.room_mm[2]), ("back", 0, room.room_mm[0]),
        ("front", 0, 0.0))
    for side, axis, where in planes:
        for speaker in speakers:
            a, b = abs(speaker[axis] - where), abs(listener[axis] - where)
            if a + b <= 0:
                continue
            hit = tuple(s + (e - s) * a / (a + b) for s, e in zip(speaker, listener, strict=True))
            yield side, (hit[0] if axis != 0 else hit[1], hit[1] if axis == 2 else hit[2])


def inside(room: Room, point: Point, what: str, where: str) -> None:
    """BadInput where a point is not within the room."""
    if any(not 0 < v < most for v, most in zip(point, room.room_mm, strict=True)):
        raise BadInput(f"{what} stands in a wall or beyond it", where, "measure from the left front corner, in mm")


def places(room: Room, size_mm: tuple[float, float], listener: Point | None, speakers: tuple[Point, ...],
           ceiling: bool, corners: bool = False) -> list[Hung]:
    """All places for absorbers of one size, the most useful first: where a mirror shows a loudspeaker, then spread over the
    walls, or stacked in their ``corners``. BadInput where not one fits."""
    upright = (min(size_mm), max(size_mm))
    sides = [*WALLS, *(("ceiling",) if ceiling else ())]
    sizes: dict[Side, tuple[float, float]] = {}
    for side in sides:
        long, high = span_mm(room, side)
        fits = [s for s in (upright, upright[::-1]) if s[0] + 2 * CLEAR_MM <= long and s[1] + 2 * CLEAR_MM <= high]
        if fits:
            sizes[side] = fits[0]
    if not sizes:
        raise BadInput(f"an absorber of {of(f'{size_mm[0]:g} × {size_mm[1]:g}', 'mm')} is larger than the walls", "frame.size_mm",
                       "make it smaller")
    taken: dict[Side, list[tuple[float, float]]] = {side: [] for side in sizes}
    out: list[Hung] = []

    def hang(side: Side, along: float, up: float) -> None:
        (w, h), (long, high) = sizes[side], span_mm(room, side)
        at = min(max(along, w / 2 + CLEAR_MM), long - w / 2 - CLEAR_MM)
        if any(abs(at - x) < w + CLEAR_MM and abs(up - y) < h + CLEAR_MM for x, y in taken[side]):
            return
        taken[side].append((at, up))
        out.append(Hung(side, (round(at), round(min(max(up, h / 2 + CLEAR_MM), high - h / 2 - CLEAR_MM))), (w, h)))

    if listener is not None:
        hits: dict[Side, list[tuple[float, float]]] = {}
        for side, at in reflections(room, listener, speakers):
            hits.setdefault(side, []).append(at)
        for side in (s for s in hits if s in sizes):
            near = max(x for x, _ in hits[side]) - min(x for x, _ in hits[side]) < sizes[side][0]
            for along, up in [tuple(np.mean(hits[side], axis=0).tolist())] if near else hits[side]:  # one between them holds both
                hang(side, along, up if side == "ceiling" else EAR_MM)
    rows = {side: list(_slots(sizes[side], span_mm(room, side), side == "ceiling", corners)) for side in sizes}
    # where fewest hang in turn, so that of each pair of opposite sides one at least takes sound up; the ceiling last
    while any(rows.values()):
        side = min((s for s in sizes if rows[s]), key=lambda s: len(taken[s]))
        along, up = rows[side].pop(0)
        hang(side, along, up)
    return out


def _slots(size: tuple[float, float], span: tuple[float, float], both_ways: bool, corners: bool) -> Iterator[tuple[float, float]]:
    """Centres side by side, from the middle out; at the height of ears, or over a whole ceiling. In corners both ends of a wall,
    from the floor up, then what is between."""
    along = list(_row(size[0], span[0]))
    if corners and not both_ways:
        ends = (size[0] / 2 + CLEAR_MM, span[0] - size[0] / 2 - CLEAR_MM)
        for up in sorted(_row(size[1], span[1])):
            yield from ((at, up) for at in ends)
    for up in _row(size[1], span[1]) if both_ways else [EAR_MM]:
        for at in along:
            yield at, up


def _row(size: float, span: float) -> Iterator[float]:
    n = int((span - CLEAR_MM) // (size + CLEAR_MM))
    step = span / n if n else span
    yield from sorted(((k + 0.5) * step for k in range(n)), key=lambda x: (abs(x - span / 2), x))
