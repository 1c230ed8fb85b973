"""Pieces laid out on sheets, rolls and offcuts: rectangles by the packer, all else nested; the result as it is told."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from itertools import count

import numpy as np
import shapely
from shapely import Polygon
from shapely.geometry.base import BaseGeometry

from ..errors import BadInput
from ..report import Report, silent
from ..surfaces.rectangles import largest_block
from ..words import plural
from .boxes import LEAST_OFFCUT_MM, LONGER, RESTARTS, USED_UP, WIDER, a_rest, area_bound, boxed, told
from .model import CutInput, CutResult, Unplaced, UsedStock
from .nesting import Layout, nest, rest_of
from .parts import TOLERANCE_MM, Bench, Part, is_box, placement, read_parts, region_of

OFFCUT_CELLS = 60
TRIES = 12


def cut(
    data: CutInput, seed: int = 1, restarts: int = RESTARTS, report: Report = silent, draft: bool = False
) -> CutResult:
    """Lay the pieces out for the lowest price, then the least used area; a ``draft`` for the lowest price alone, its seconds
    those of the processor, so that it is as good on a busy machine.

    Rectangles on rectangles: same input and seed, same answer; ``restarts`` are shuffled tries beyond the packer's own rules.
    Other outlines, holes and fixed pieces are nested until ``data.seconds`` are gone. ``report`` is told now and then, with the
    best so far.

    Raises BadInput for outlines that are no plain shapes, ids that come twice, and fixed pieces that cannot lie where they are.

    >>> square = {"id": "a", "outline_mm": [[0, 0], [300, 0], [300, 300], [0, 300]]}
    >>> sheet = {"id": "sheet", "width_mm": 500, "length_mm": 750, "price": 12}
    >>> cut(parse(CutInput, {"stock": [sheet], "pieces": [square]})).price
    12.0
    """
    ids = [p.id for p in data.pieces], [s.id for s in data.stock]
    for names, word in zip(ids, ("pieces", "stock"), strict=True):
        if len(set(names)) < len(names):
            raise BadInput("two entries have the same id", word, "give each its own id")
    parts = read_parts(data)
    regions = {s.id: region_of(s, f"stock[{i}]") for i, s in enumerate(data.stock)}
    if not data.fixed and all(is_box(p.shape) for p in parts) and all(is_box(r) for r in regions.values()):
        return boxed(data, seed, restarts, report)
    if data.square and any(p.rotate == "any" for p in data.pieces) and not any(f.turned_deg % 90 for f in data.fixed):
        return _square_first(data, seed, restarts, report, draft)
    layout: Layout = ()
    area = sum(p.shape.area for p in parts)
    enough = area_bound([(s, float(regions[s.id].area)) for s in data.stock], area) if draft else None
    for share, layout in nest(data, parts, regions, lambda boxes: boxed(boxes, seed, restarts), seed, enough,
                               time.thread_time if draft else time.monotonic):
        price = sum(b.price for b in layout)
        report(share, f"{plural(len(layout), 'piece')} of stock opened, {price:.2f}",
               lambda best=layout: _result(data, parts, regions, best))  # type: ignore[misc]
    return _result(data, parts, regions, layout)


WORTH_TURNING_M = 1.0
"""Pieces lie square to their stock unless lying otherwise saves a sheet (they are bought whole), or so many metres of a roll."""


def _square_first(data: CutInput, seed: int, restarts: int, report: Report, draft: bool) -> CutResult:
    """Laid square to the stock, and laid any way; the latter where it is worth marking out."""
    half = {"square": False, "seconds": data.seconds / 2}
    upright = tuple(p.model_copy(update={"rotate": "quarter"}) if p.rotate == "any" else p for p in data.pieces)

    def told_of(begun: float) -> Report:
        return lambda share, words, so_far=None: report(begun + share / 2, words, so_far)

    square = cut(data.model_copy(update={**half, "pieces": upright}), seed, restarts, told_of(0.0), draft)
    if _none_to_save(data, square):
        return square

    def better(so_far: Callable[[], CutResult]) -> CutResult:
        turned = so_far()
        return turned if _worth_turning(data, square, turned) else square

    def second(share: float, words: str, so_far: Callable[[], CutResult] | None = None) -> None:
        told_of(0.5)(share, words, None if so_far is None else lambda: better(so_far))

    turned = cut(data.model_copy(update=half), seed, restarts, second, draft)
    return better(lambda: turned)


def _worth_turning(data: CutInput, square: CutResult, turned: CutResult) -> bool:
    if len(turned.unplaced) != len(square.unplaced):
        return len(turned.unplaced) < len(square.unplaced)
    saved = [a - b for a, b in zip(_taken(data, square), _taken(data, turned), strict=True)]
    return saved[0] > 0 or (saved[0] == 0 and saved[1] >= WORTH_TURNING_M)


def _taken(data: CutInput, found: CutResult) -> tuple[int, float]:
    """How many sheets that cost something a layout opens, and how many metres of rolls it takes."""
    stock = {s.id: s for s in data.stock}
    sheets = [u.stock for u in found.used if not stock[u.stock].roll]
    return (sum(stock[s].price > 0 for s in sheets),
            sum(u.length_used_mm for u in found.used if stock[u.stock].roll) / 1e3)


def _none_to_save(data: CutInput, square: CutResult) -> bool:
    """Whether no layout of the pieces, turned in whatever way, could open fewer sheets or save enough of a roll."""
    sheets, rolls_m = _taken(data, square)
    if square.unplaced or rolls_m >= WORTH_TURNING_M or (sheets and any(s.roll or s.price == 0 for s in data.stock)):
        return False
    largest = max(Polygon(s.outline_mm).area if s.outline_mm else (s.width_mm or 0.0) * (s.length_mm or 0.0) for s in data.stock)
    area = float(sum(p.quantity * Polygon(p.outline_mm, p.holes_mm).area for p in data.pieces))
    return sheets <= math.ceil(area / float(largest) - 1e-9)


def only_boxes(data: CutInput) -> bool:
    """Whether all pieces and all stock are upright rectangles, and none is fixed: then the packer does it, at once."""
    outlines = (*(p.outline_mm for p in data.pieces), *(s.outline_mm for s in data.stock if s.outline_mm is not None))
    return not data.fixed and not any(p.holes_mm for p in data.pieces) and all(is_box(shapely.polygons(o)) for o in outlines)


def _result(data: CutInput, parts: list[Part], regions: dict[str, Polygon], layout: Layout) -> CutResult:
    order = {s.id: k for k, s in enumerate(data.stock)}
    used, offcuts, seen = [], [], set()
    for bench, number in sorted(_numbered(layout), key=lambda b: (order[b[0].item.id], b[1])):
        laid = [one for outer in bench.laid for one in outer.all()]
        seen |= {(one.part.piece, one.part.number) for one in laid}
        used.append(UsedStock(stock=bench.item.id, number=number, length_used_mm=round(bench.length_used, 2),
                              placements=tuple(placement(one, data.pieces) for one in laid)))
        offcuts += [a_rest(bench.item.id, number, r) for r in free_rectangles(rest_of(bench))]
    why = {id(p): _why(p, regions) for p in parts}
    bound = area_bound([(s, float(regions[s.id].area)) for s in data.stock],
                       sum(p.shape.area for p in parts if why[id(p)] == USED_UP))
    left = [p for p in parts if (p.piece, p.number) not in seen]
    return told(
        used, [Unplaced(piece=data.pieces[p.piece].id, number=p.number, why=why[id(p)]) for p in left],
        sum(p.shape.area for p in parts) - sum(p.shape.area for p in left),
        sum(b.used_mm2 for b in layout), sum(b.price for b in layout), bound, offcuts)


def _numbered(layout: Layout) -> list[tuple[Bench, int]]:
    """Every opened stock with its number: what a hand has fixed something on keeps its own, the rest take those that are free."""
    taken = {(b.item.id, b.number) for b in layout if b.number}
    out = []
    for bench in layout:
        number = bench.number or next(n for n in count(1) if (bench.item.id, n) not in taken)
        taken.add((bench.item.id, number))
        out.append((bench, number))
    return out


def free_rectangles(rest: BaseGeometry, most: int = 3) -> list[tuple[float, float, float, float]]:
    """Up to ``most`` upright rectangles (x, y, width, height, mm) within a region, the largest first, found over a grid."""
    if rest.is_empty:
        return []
    x1, y1, x2, y2 = rest.bounds
    cell = max(5.0, max(x2 - x1, y2 - y1) / OFFCUT_CELLS)
    xs, ys = np.arange(x1, x2 - cell + 0.01, cell), np.arange(y1, y2 - cell + 0.01, cell)
    if not xs.size or not ys.size:
        return []
    shapely.prepare(rest)
    gx, gy = np.meshgrid(xs, ys)
    grid = shapely.covers(rest, shapely.box(gx, gy, gx + cell, gy + cell))
    found: list[tuple[float, float, float, float]] = []
    for _ in range(TRIES):
        block = largest_block(grid, np.full(ys.size, cell), np.full(xs.size, cell))
        if block is None or len(found) == most:
            break
        r0, r1, c0, c1 = block
        if (r1 - r0) * (c1 - c0) * cell * cell < LEAST_OFFCUT_MM**2:
            break
        grid[r0:r1, c0:c1] = False
        if min(r1 - r0, c1 - c0) * cell >= LEAST_OFFCUT_MM:
            found.append((float(xs[c0]), float(ys[r0]), float((c1 - c0) * cell), float((r1 - r0) * cell)))
    return found


def _why(part: Part, regions: dict[str, Polygon]) -> str:
    short, long = _sides(part.shape)
    bounds = [_sides(r) for r in regions.values()]
    if any(short <= s + TOLERANCE_MM and long <= t + TOLERANCE_MM for s, t in bounds):
        return USED_UP
    return LONGER if long > max(t for _, t in bounds) else WIDER


def _sides(shape: Polygon) -> tuple[float, float]:
    """The shorter and the longer side of its bounds, mm."""
    x1, y1, x2, y2 = shape.bounds
    return min(x2 - x1, y2 - y1), max(x2 - x1, y2 - y1)
