"""How an opened sheet is drawn and marked out: header, drawing and list in one frame of reference, which comes from here.

The long side lies along the foot. All places are from the left edge and from the foot of the sheet as it
is drawn, in whole mm.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import shapely
from shapely import Polygon

from ...cutting.parts import Matrix
from ...worded import bare
from .model import MarkLine

SAME_MM = 0.75
"""An outline that lies so near a rectangle or a circle is told as one."""
CURVE_MM = 0.7
"""A curve is told by so many points that straight lines between them leave it nowhere farther."""
MOST_CORNERS = 12
"""An outline with more corners is told by offsets from a base line."""
STATION_MM = 100
ROUND = "round, "


class Frame(NamedTuple):
    """What lies before one who cuts: how wide along the foot, how high, mm, and how a place on the stock comes to lie there."""

    across_mm: float
    up_mm: float
    matrix: Matrix
    turned: bool
    """Whether the stock's length lies along the foot."""


def frame_of(width_mm: float, length_mm: float, liner_up: bool) -> Frame:
    """The frame of a stock (x along its width, y along its length), turned a quarter so that its long side is the foot; what is
    cut with the liner up is seen from behind."""
    a, e = (-1.0, width_mm) if liner_up else (1.0, 0.0)  # across the stock, as it is seen
    if length_mm > width_mm:  # a quarter turn to the right: what was up lies to the right, what was left lies up
        return Frame(length_mm, width_mm, (0.0, 1.0, -a, 0.0, 0.0, width_mm - e), True)
    return Frame(width_mm, length_mm, (a, 0.0, 0.0, 1.0, e, 0.0), False)


class Marks(NamedTuple):
    """How a piece is marked out: its size along the foot and up, the lower left of its bounds, and what more there is to it."""

    size: str
    at: str
    lines: tuple[MarkLine, ...]


def marks_of(piece: Polygon) -> Marks:
    """How a piece that lies in a frame is marked out by numbers alone, within 2 mm."""
    x1, y1, x2, y2 = piece.bounds
    outline = told(Polygon(piece.exterior))
    lines = [] if outline is None else [outline]
    for ring in piece.interiors:
        cut_out = Polygon(ring)
        hole, (left, low, right, high) = told(cut_out), cut_out.bounds
        if hole is not None and hole.lead.startswith(ROUND):
            within = bare((left + right) / 2 - x1, (low + high) / 2 - y1)
            lines.append(MarkLine(lead=f"cut-out {hole.lead} (in the piece {within})"))
            continue
        size = f"{bare(right - left, high - low, by=' × ')} at {bare(left, low)}"
        within = f"in the piece {bare(left - x1, low - y1)}"
        lines.append(MarkLine(lead=f"cut-out {size} ({within})"))
        lines += [] if hole is None else [hole.model_copy(update={"lead": f"its edge: {hole.lead}"})]
    return Marks(bare(x2 - x1, y2 - y1, by=" × "), bare(x1, y1), tuple(lines))


def told(shape: Polygon) -> MarkLine | None:
    """An outline without a hole: a circle, its corners in order, or offsets from the foot or the left edge of the sheet; None
    of a rectangle, whose bounds say all of it."""
    x1, y1, x2, y2 = shape.bounds
    corners = _corners(shape)
    if len(corners) == 4 and set(corners) == {(round(x), round(y)) for x in (x1, x2) for y in (y1, y2)}:
        return None
    middle, across = ((x1 + x2) / 2, (y1 + y2) / 2), x2 - x1
    if len(corners) > 6 and abs(across - (y2 - y1)) <= SAME_MM and _is_circle(shape, middle, across / 2):
        return MarkLine(lead=f"{ROUND}{bare(across)} across, its middle at {bare(*middle)}")
    if len(corners) > MOST_CORNERS:
        for base, turned in (("foot", False), ("left", True)):
            stations = _stations([(y, x) for x, y in corners] if turned else corners)
            if stations:
                way = "up the left edge" if turned else "along the foot"
                return MarkLine(lead=f"at each mark {way}, from the {base}",
                                points=tuple(f"{bare(at)}: {bare(low, high, by='–')}" for at, low, high in stations))
    return MarkLine(lead="corners in order", points=tuple(bare(x, y) for x, y in corners))


def _corners(shape: Polygon) -> list[tuple[int, int]]:
    """The corners of an outline in whole mm, in order, as few as a curve needs."""
    found = [(round(x), round(y)) for x, y in shapely.get_coordinates(shape.simplify(CURVE_MM)).tolist()[:-1]]
    return [p for k, p in enumerate(found) if p != found[k - 1]]


def _is_circle(shape: Polygon, middle: tuple[float, float], radius: float) -> bool:
    points = np.array(shape.exterior.coords) - middle
    halves = (points[1:] + points[:-1]) / 2
    reach = np.hypot(*np.vstack((points, halves)).T)
    return bool(np.all(np.abs(reach - radius) <= SAME_MM))


def _stations(corners: list[tuple[int, int]]) -> list[tuple[int, float, float]]:
    """An outline as (x, lowest, highest) at every corner and every 100 mm, straight between them; one x stands twice where the
    outline jumps. Empty where a line across meets it more than twice."""
    ring = corners if Polygon(corners).exterior.is_ccw else corners[::-1]
    left, right = min(x for x, _ in ring), max(x for x, _ in ring)
    begin = min(range(len(ring)), key=lambda k: ring[k])
    ring = ring[begin:] + ring[:begin]  # from the lower end of the left side, against the clock
    turn = next(k for k, p in enumerate(ring) if p[0] == right)
    low, high = ring[: turn + 1], ring[turn:] + ring[:1]
    high = high[::-1]
    if any(a[0] > b[0] for chain in (low, high) for a, b in pairwise(chain)):
        return []
    lines = [_line(chain) for chain in (low, high)]
    at = sorted({x for x, _ in ring} | set(range(-(-left // STATION_MM) * STATION_MM, right, STATION_MM)))
    out: list[tuple[int, float, float]] = []
    for x in at:
        for side in (0, 1):  # just before it and just after
            row = x, lines[0](x, side), lines[1](x, side)
            if (side == 0 and x == left) or (side == 1 and x == right) or (out and out[-1] == row):
                continue
            out.append(row)
    return out


def _line(chain: list[tuple[int, int]]) -> Callable[[int, int], float]:
    """A chain that runs to the right as a function of x: as it comes to a place (0), as it leaves it (1)."""
    xs = [x for x, _ in chain]

    def at(x: int, side: int) -> float:
        k = bisect_left(xs, x)
        if xs[k] == x:
            return float(chain[bisect_right(xs, x) - 1 if side else k][1])
        (x1, y1), (x2, y2) = chain[k - 1], chain[k]
        return y1 + (y2 - y1) * (x - x1) / (x2 - x1)

    return at

