"""Pieces laid out on sheets, rolls and offcuts: rectangles by the packer, all else nested; the result as it is told."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..errors import BadInput
from ..report import Report, silent
from ..surfaces.rectangles import largest_block
from ..words import plural
from .boxes import RESTARTS, area_bound, boxed, corners, is_rectangle
from .model import CutInput, CutResult, Offcut, StockItem, Unplaced, UsedStock
from .nesting import Layout, nest, rest_of
from .parts import Part, placement, read_parts, region_of

LEAST_OFFCUT_MM = 100.0
OFFCUT_CELLS = 60
TRIES = 12


def cut(data: CutInput, seed: int = 1, restarts: int = RESTARTS, report: Report = silent) -> CutResult:
    """Lay the pieces out for the lowest price, then the least used area.

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
    for i, item in enumerate(data.stock):
        region_of(item, f"stock[{i}]")
    if only_boxes(data):
        return boxed(data, seed, restarts, report)
    layout: Layout = ()
    for share, layout in nest(data, lambda boxes: boxed(boxes, seed, restarts), seed):
        price = sum(b.price for b in layout)
        report(share, f"{plural(len(layout), 'piece')} of stock opened, {price:.2f}",
               lambda best=layout: _result(data, parts, best))  # type: ignore[misc]
    return _result(data, parts, layout)


def only_boxes(data: CutInput) -> bool:
    """Whether all pieces and all stock are upright rectangles, and none is fixed: then the packer does it."""
    return not data.fixed and all(is_rectangle(p.outline_mm) and not p.holes_mm for p in data.pieces) and all(
        s.outline_mm is None or is_rectangle(s.outline_mm) for s in data.stock)


def _result(data: CutInput, parts: list[Part], layout: Layout) -> CutResult:
    order = {s.id: k for k, s in enumerate(data.stock)}
    numbers: dict[str, int] = {}
    used, offcuts, seen = [], [], set()
    for bench in sorted(layout, key=lambda b: order[b.item.id]):
        number = numbers[bench.item.id] = numbers.get(bench.item.id, 0) + 1
        laid = [one for outer in bench.laid for one in outer.all()]
        seen |= {(one.part.piece, one.part.number) for one in laid}
        used.append(UsedStock(stock=bench.item.id, number=number, length_used_mm=round(bench.length_used, 2),
                              placements=tuple(placement(one, data.pieces) for one in laid)))
        offcuts += [Offcut(stock=bench.item.id, number=number, outline_mm=corners(*r), area_m2=round(r[2] * r[3] / 1e6, 4))
                    for r in free_rectangles(rest_of(bench))]
    piece_area = sum(p.shape.area for p in parts if (p.piece, p.number) in seen) / 1e6
    stock_area = sum(b.used_mm2 for b in layout) / 1e6
    stock = [(s, float(region_of(s, "").area)) for s in data.stock]
    reachable = sum(p.shape.area for p in parts if _why(p, data.stock) == USED_UP)
    bound = area_bound(stock, reachable)
    return CutResult(
        used=tuple(used),
        unplaced=tuple(Unplaced(piece=data.pieces[p.piece].id, number=p.number, why=_why(p, data.stock))
                       for p in parts if (p.piece, p.number) not in seen),
        piece_area_m2=round(piece_area, 4), stock_area_m2=round(stock_area, 4),
        utilisation=round(piece_area / stock_area, 4) if stock_area else 0.0,
        price=round(sum(b.price for b in layout), 2),
        area_bound_price=None if bound is None else round(bound, 2), offcuts=tuple(offcuts),
    )


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


USED_UP = "the stock is used up"


def _why(part: Part, stock: tuple[StockItem, ...]) -> str:
    sides = sorted(_sides(part))
    bounds = [sorted((r.bounds[2] - r.bounds[0], r.bounds[3] - r.bounds[1])) for s in stock for r in (region_of(s, ""),)]
    if any(sides[0] <= b[0] + 0.01 and sides[1] <= b[1] + 0.01 for b in bounds):
        return USED_UP
    return "longer than any stock" if sides[1] > max(b[1] for b in bounds) else "wider than any stock"


def _sides(part: Part) -> tuple[float, float]:
    x1, y1, x2, y2 = part.shape.bounds
    return x2 - x1, y2 - y1


