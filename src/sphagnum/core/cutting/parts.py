"""Pieces and stock as polygons: read and checked, turned and turned over, laid; what is laid is checked by itself."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import ArrayLike
from shapely import Polygon, affinity, box
from shapely.geometry.base import BaseGeometry
from shapely.strtree import STRtree

from ..errors import BadInput
from ..worded import in_mm
from .model import CutInput, CutPiece, Fixed, Outline, Placement, StockItem

Matrix = tuple[float, float, float, float, float, float]
"""x' = a·x + b·y + e, y' = c·x + d·y + f, as (a, b, c, d, e, f)."""
ANGLES: dict[str, tuple[float, ...] | None] = {
    "none": (0.0,), "half": (0.0, 180.0), "quarter": (0.0, 90.0, 180.0, 270.0), "any": None}
STRICTEST = ("none", "half", "quarter", "any")
MOST_PIECES = 5000
TOLERANCE_MM = 0.01
"""Placed outlines are rounded to so much; by as much they may touch what they must not."""


class Part(NamedTuple):
    """One piece to lay, by its place among the input's pieces and its number; ``inside``: what is laid in its holes."""

    piece: int
    number: int
    shape: Polygon
    rotate: str
    mirror: bool
    inside: tuple[Laid, ...] = ()

    @property
    def angles(self) -> tuple[float, ...] | None:
        """Angles it may be turned by, degrees; None for any."""
        return ANGLES[self.rotate]


class Laid(NamedTuple):
    """A part and how it is moved from its own coordinates."""

    part: Part
    matrix: Matrix

    @property
    def shape(self) -> Polygon:
        """Where it lies."""
        return moved(self.part.shape, self.matrix)

    def all(self) -> Iterator[Laid]:
        """It and what lies in its holes."""
        yield self
        for one in self.part.inside:
            yield from Laid(one.part, after(self.matrix, one.matrix)).all()


class Bench(NamedTuple):
    """One opened stock and what is laid on it."""

    item: StockItem
    region: Polygon
    laid: tuple[Laid, ...]
    number: int = 0
    """Which one of its kind it is, where something is fixed on it; 0 for the next free one."""

    @property
    def width(self) -> float:
        """Of its bounds, mm."""
        return float(self.region.bounds[2] - self.region.bounds[0])

    @property
    def length_used(self) -> float:
        """Of a roll up to its last piece, of all else whole, mm."""
        end = max((one.shape.bounds[3] for one in self.laid), default=0.0) if self.item.roll else self.region.bounds[3]
        return float(min(end, self.region.bounds[3]))

    @property
    def used_mm2(self) -> float:
        """Area that counts as used: of a roll its width times its length used, else all of it."""
        return float(self.length_used * self.width if self.item.roll else self.region.area)

    @property
    def price(self) -> float:
        """Of the stock; of a roll that is sold by the metre its share."""
        if self.item.roll and not self.item.sold_whole:
            return float(self.item.price * self.length_used / self.region.bounds[3])
        return self.item.price


def moved(shape: Polygon, m: Matrix) -> Polygon:
    """A shape under a matrix."""
    turned: Polygon = affinity.affine_transform(shape, m)
    return turned


def moved_each(shapes: Sequence[Polygon], matrices: Sequence[Matrix]) -> list[Polygon]:
    """Each of many shapes under a matrix of its own, as ``moved`` does it with one."""
    if not shapes:
        return []
    out = np.array(shapes)
    corners, of = shapely.get_coordinates(out, return_index=True)
    (x, y), (a, b, c, d, e, f) = corners.T, np.array(matrices)[of].T
    return list(shapely.set_coordinates(out, np.column_stack((a * x + b * y + e, c * x + d * y + f))))


def turn(angle_deg: float, mirrored: bool = False) -> Matrix:
    """Turned over (x → −x) or not, then turned."""
    quarter = angle_deg / 90.0
    if quarter == round(quarter):  # exactly, so that a right angle stays one
        c, s = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[round(quarter) % 4]
    else:
        c, s = math.cos(math.radians(angle_deg)), math.sin(math.radians(angle_deg))
    sign = -1.0 if mirrored else 1.0
    return (c * sign, -s, s * sign, c, 0.0, 0.0)


def shifted(m: Matrix, dx: float, dy: float) -> Matrix:
    """A matrix, then a shift."""
    return (*m[:4], m[4] + dx, m[5] + dy)


def after(m: Matrix, first: Matrix) -> Matrix:
    """``first``, then ``m``."""
    a, b, c, d, e, f = m
    p, q, r, s, t, u = first
    return (a * p + b * r, a * q + b * s, c * p + d * r, c * q + d * s, a * t + b * u + e, c * t + d * u + f)


def angle_of(m: Matrix) -> tuple[bool, float]:
    """Whether a matrix turns over, and by how many degrees it turns then."""
    mirrored = m[0] * m[3] - m[1] * m[2] < 0
    a, c = (-m[0], -m[2]) if mirrored else (m[0], m[2])
    return mirrored, round(math.degrees(math.atan2(c, a)) % 360.0, 4) % 360.0


def upright(laid: Part, angle_deg: float, mirrored: bool, x: float, y: float) -> Laid:
    """A part turned, with the lower left of its bounds at (x, y)."""
    m = turn(angle_deg, mirrored)
    x1, y1, _, _ = moved(laid.shape, m).bounds
    return Laid(laid, shifted(m, x - x1, y - y1))


def upright_each(shapes: Sequence[Polygon], turns: Sequence[Matrix], at: Sequence[tuple[float, float]]) -> list[Polygon]:
    """Many shapes turned, the lower left of each one's bounds at its place, as ``upright`` does it with one."""
    bounds = shapely.bounds(np.array(moved_each(shapes, turns))).reshape(-1, 4)
    return moved_each(shapes, [shifted(m, x - x1, y - y1) for m, (x, y), (x1, y1, _, _)
                               in zip(turns, at, bounds.tolist(), strict=True)])


def read_parts(data: CutInput) -> list[Part]:
    """Every piece as often as it is wanted.

    Raises BadInput for outlines that are no plain shape and for too many pieces.
    """
    wanted = sum(p.quantity for p in data.pieces)
    if wanted > MOST_PIECES:
        raise BadInput(f"{wanted} pieces are more than the {MOST_PIECES} laid out at once", "pieces", "split the job")
    out = []
    for i, piece in enumerate(data.pieces):
        shape = _piece_shape(piece, f"pieces[{i}]")
        out += [Part(i, n + 1, shape, piece.rotate, piece.mirror) for n in range(piece.quantity)]
    return out


def _piece_shape(piece: CutPiece, where: str) -> Polygon:
    shape = plain_polygon(piece.outline_mm, f"{where}.outline_mm")
    for k, hole in enumerate(piece.holes_mm):
        inner, at = plain_polygon(hole, f"{where}.holes_mm[{k}]"), f"{where}.holes_mm[{k}]"
        if not shape.covers(inner):
            raise BadInput("the hole lies outside its piece or crosses another hole", at, "move it inside")
        shape = shape.difference(inner)
        if not isinstance(shape, Polygon):
            raise BadInput("the hole parts its piece in two", at, "give two pieces")
    return shape


def plain_polygon(outline: Outline, where: str) -> Polygon:
    """A closed outline as a polygon, counter-clockwise.

    Raises BadInput where it crosses itself or has no area.
    """
    shape = Polygon(outline)
    x1, y1, x2, y2 = shape.bounds
    if min(x2 - x1, y2 - y1) < 0.1 or max(x2 - x1, y2 - y1) > 100_000:
        raise BadInput(f"{in_mm(x2 - x1, y2 - y1)} is out of range", where, "give ⟨0.1 mm⟩ to ⟨100 m⟩")
    if not shape.is_valid or shape.area < 0.01:
        raise BadInput("the outline crosses itself", where, "list the corners in order round the edge")
    return shapely.orient_polygons(shape)


def region_of(item: StockItem, where: str) -> Polygon:
    """Stock as a polygon in its own coordinates."""
    if item.width_mm is not None and item.length_mm is not None:
        return box(0.0, 0.0, item.width_mm, item.length_mm)
    assert item.outline_mm is not None
    return plain_polygon(item.outline_mm, f"{where}.outline_mm")


def there_is(stock: tuple[StockItem, ...], one: Fixed) -> bool:
    """Whether there is the stock a piece is fixed on, and so many of it."""
    item = next((s for s in stock if s.id == one.stock), None)
    return item is not None and (item.quantity is None or one.stock_number <= item.quantity)


def is_box(shape: Polygon) -> bool:
    """Whether it is an upright rectangle."""
    return shape.is_valid and not shape.interiors and math.isclose(shape.area, box(*shape.bounds).area, rel_tol=1e-9)


def sound(benches: Iterable[Bench], gap_mm: float) -> bool:
    """Whether all that is laid lies on its stock, overlaps nothing and keeps the gap: by geometry alone, whoever laid it."""
    return all(wrong_with(b.region, [o.shape for one in b.laid for o in one.all()], gap_mm) is None for b in benches)


def wrong_with(region: BaseGeometry, shapes: list[Polygon], gap_mm: float) -> tuple[str, int, int] | None:
    """The first thing wrong with shapes on a region: ``("edge", k, k)`` or ``("overlap", k, j)``; None where all is sound."""
    if not shapes:
        return None
    grown = region.buffer(TOLERANCE_MM, join_style="mitre")
    shapely.prepare(grown)
    out = np.flatnonzero(~shapely.covers(grown, np.array(shapes)))
    if out.size:
        return "edge", int(out[0]), int(out[0])
    tree = STRtree(shapes)
    left, right = tree.query(shapes, predicate="dwithin", distance=gap_mm + TOLERANCE_MM)
    for a, b in zip(left.tolist(), right.tolist(), strict=True):
        if a < b and _clash(shapes[a], shapes[b], gap_mm):
            return "overlap", b, a
    return None


def _clash(a: Polygon, b: Polygon, gap_mm: float) -> bool:
    if gap_mm > 0 and a.distance(b) < gap_mm - TOLERANCE_MM:
        return True
    shared = a.intersection(b)
    return bool(shared.area > TOLERANCE_MM * max(shared.length, 1.0))


def placement(laid: Laid, names: tuple[CutPiece, ...]) -> Placement:
    """A laid part as it is told, mm rounded to 0.01."""
    shape = laid.shape
    mirrored, angle = angle_of(laid.matrix)

    return Placement(piece=names[laid.part.piece].id, number=laid.part.number, mirrored=mirrored, turned_deg=angle,
                     outline_mm=rounded(shape.exterior.coords),
                     holes_mm=tuple(rounded(h.coords) for h in shape.interiors))


def rounded(ring: ArrayLike) -> tuple[tuple[float, float], ...]:
    """The coordinates of a closed ring, shape (corners + 1, 2), as they are told: its corners once, to 0.01 mm."""
    return tuple((round(x, 2) + 0.0, round(y, 2) + 0.0) for x, y in np.asarray(ring).tolist()[:-1])
