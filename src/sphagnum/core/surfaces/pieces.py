"""Pieces that cover a surface: damping inside what may be covered, all else whole or in few parts, to its outline."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely
from shapely import LineString, Polygon, affinity, box
from shapely.geometry.base import BaseGeometry

from .geometry import Shape, region, treatable
from .rectangles import largest_block

LEAST_SIDE_MM = 60.0  # smaller pieces cost more hands than they give
LEAST_LAID_MM = 40.0
"""A piece that nowhere holds a square of this side costs more to lay than it gives: it is laid where somebody asks for it."""
LEAST_WHOLE_MM = 6.0  # of what is to be covered without a gap
LEAST_END_MM = 100.0
"""Of the last board or slab of a row: narrower, and it is taken out of its neighbour's width."""
MOST_PIECES = 40
CELLS = 64
USUAL_SEAM = 0.15
"""A metre of seam is worth so many square metres of the layer, where nobody says what it costs: hands, tape and a weak place."""
Window = Callable[[float], BaseGeometry]


class Cover(NamedTuple):
    """Pieces in mm on their surface, the share of the treatable area under them, 0–1, the metres of seam between them, and by how
    much they lap there."""

    pieces: tuple[Polygon, ...]
    share: float
    seam_m: float = 0.0
    lap_mm: float = 0.0


class Seams(NamedTuple):
    """How parts of a layer meet: lapped by so much, mm; staggered against those of the layer under them; what a metre costs, in
    the price of a square metre of the layer; what they are cut from: sheets or a roll, for so many copies of the surface;
    whether there is a seam only where there must be one, as in boards; and whether parts of one size are wanted, else whole
    ones are laid, from a corner or from the middle, and the last is trimmed."""

    lap_mm: float = 0.0
    staggered: bool = False
    price_m: float = USUAL_SEAM
    stock_mm: tuple[float, float] | None = None
    roll: bool = False
    copies: int = 1
    rigid: bool = False
    equal: bool = False
    middle: bool = False


BUTTED = Seams()


@lru_cache(maxsize=512)
def inside_pieces(shape: Shape, sheet_mm: tuple[float, float], coverage: float, seams: Seams = BUTTED) -> Cover:
    """Pieces no larger than a sheet wholly inside the treatable area, up to ``coverage`` of it: about the middle of each free
    field, round a loudspeaker where there is one, since that is what bends. Rectangles where they reach it, else cut to the
    outline."""
    free = treatable(shape)
    best = Cover((), 0.0)
    for slack in SLACKS:  # rectangles cannot fill the ragged rim of a region: where they fall short, a wider one is searched
        filled = [_fill(part, wanted, sheet_mm) for part, wanted in _centred(free, shape, coverage, slack)]
        pieces = tuple(p for field in filled for p in field)
        found = Cover(pieces, sum(p.area for p in pieces) / free.area if free.area else 0.0)
        best = found if found.share > best.share else best
        if best.share >= coverage - NEAR or coverage >= WHOLE:
            break
    if best.share >= coverage - NEAR:
        return best
    for slack in (1.0, 1.015, 1.03, 1.05):  # slivers are left out: a little more round them makes up for it
        trimmed = _trimmed(free, shapely.union_all([part for part, _ in _centred(free, shape, coverage, slack)]), sheet_mm, seams)
        best = trimmed if trimmed.share > best.share else best
        if best.share >= coverage - NEARLY:
            break
    return best


SLACKS = (1.12, 1.3, 2.0)
NEAR, NEARLY, WHOLE = 0.02, 0.004, 0.999
MUCH_MORE = 1.1
"""The last rectangle is cut shorter where it would cover so many times what is still wanted."""


def _fill(part: BaseGeometry, wanted: float, sheet_mm: tuple[float, float]) -> list[Polygon]:
    """The largest rectangles of a grid over a region, one after another, until the wanted area (mm²) is covered."""
    if part.is_empty:
        return []
    x1, y1, x2, y2 = part.bounds
    cell = max(10.0, math.ceil(max(x2 - x1, y2 - y1) / CELLS))
    xs, ys = np.arange(x1, x2 - cell + 0.01, cell), np.arange(y1, y2 - cell + 0.01, cell)
    if not xs.size or not ys.size:
        return []
    gx, gy = np.meshgrid(xs, ys)
    shapely.prepare(part)
    grid = shapely.covers(part, shapely.box(gx, gy, gx + cell, gy + cell))
    rows, cols = np.full(ys.size, cell), np.full(xs.size, cell)
    pieces: list[Polygon] = []
    covered = 0.0
    while len(pieces) < MOST_PIECES and covered < wanted * 0.995:
        block = largest_block(grid, rows, cols, sheet_mm)
        if block is None:
            break
        r0, r1, c0, c1 = block
        width, height = (c1 - c0) * cell, (r1 - r0) * cell
        if min(width, height) < LEAST_SIDE_MM:
            break
        grid[r0:r1, c0:c1] = False
        w, h = _no_more(width, height, (wanted - covered) * MUCH_MORE)
        x, y = xs[c0] + (width - w) / 2, ys[r0] + (height - h) / 2
        pieces.append(box(x, y, x + w, y + h))
        covered += w * h
    return pieces


def _no_more(width: float, height: float, area: float) -> tuple[float, float]:
    """A rectangle cut shorter along its longer side, to a whole centimetre, where it is larger than an area."""
    if width * height <= area:
        return width, height
    short, long = sorted((width, height))
    long = max(LEAST_SIDE_MM, min(long, math.ceil(area / short / 10) * 10))
    return (short, long) if width <= height else (long, short)


def _trimmed(free: BaseGeometry, part: BaseGeometry, sheet_mm: tuple[float, float], seams: Seams) -> Cover:
    """A region in as few parts as a sheet gives, each cut to its outline; what is too narrow to handle is left out."""
    found = _parts(part, sheet_mm, seams, LEAST_LAID_MM)
    area = sum(p.area for p in found.pieces)
    return found._replace(share=area / free.area if free.area else 0.0)


def shaker(shape: Shape) -> tuple[float, float] | None:
    """Where a loudspeaker sits in a panel, mm; None where there is none."""
    found = next((z for z in shape.keep_clear if z.kind == "loudspeaker"), None)
    return None if found is None else (found.x_mm + found.width_mm / 2, found.y_mm + found.height_mm / 2)


def _centred(free: BaseGeometry, shape: Shape, coverage: float, slack: float) -> list[tuple[BaseGeometry, float]]:
    """Of the treatable area what lies nearest the middle of each field between stiffeners, or nearest a loudspeaker, until just
    ``coverage`` of it is left, and a little more; each with the area wanted of it, mm²."""
    if coverage >= WHOLE:
        return [(free, free.area)]
    about, outline = shaker(shape), region(shape)
    if about is not None:
        reach = 2 * max(outline.bounds[2] - outline.bounds[0], outline.bounds[3] - outline.bounds[1])
        near = _shrunk(free, coverage, slack, lambda size: shapely.Point(about).buffer(reach * size / 2, cap_style="square"))
        return [(near, coverage * free.area)]
    out = []
    for field in _fields(shape, outline):
        part = free.intersection(field)
        if not part.is_empty:
            near = _shrunk(part, coverage, slack, lambda size, f=field: affinity.scale(f, size, size, origin="centroid"))  # type: ignore[misc]
            out.append((near, coverage * part.area))
    return out


def _fields(shape: Shape, outline: BaseGeometry) -> list[BaseGeometry]:
    """The fields of a panel: what its stiffeners part it into."""
    ribs = [z.area(shape.edge_mm) for z in shape.keep_clear if z.kind == "stiffener"]
    return list(shapely.get_parts(outline.difference(shapely.union_all(ribs)))) if ribs else [outline]


def _shrunk(free: BaseGeometry, coverage: float, slack: float, window: Window) -> BaseGeometry:
    """A region within a window of a size between 0 and 1, the size so that ``coverage`` of it is left, times ``slack``."""
    low, high = 0.0, 1.0
    for _ in range(24):
        middle = (low + high) / 2
        low, high = (middle, high) if free.intersection(window(middle)).area < coverage * free.area else (low, middle)
    return free.intersection(window(min(1.0, high * slack)))


@lru_cache(maxsize=512)
def whole_pieces(
    shape: Shape, stock_mm: tuple[float, float], seams: Seams = BUTTED, inset_mm: float = 0.0, coverage: float = 1.0,
    strips: bool = False,
) -> Cover:
    """The treatable area in as few parts as the stock gives, each cut to its outline and its holes; smaller all round by an
    inset. ``coverage``: only so much of it, about the middle; ``strips``: with fields too narrow to be worth it."""
    free = treatable(shape)
    if free.is_empty:
        return Cover((), 0.0)
    laid = free if strips else _wide_fields(free)
    if inset_mm:
        laid = laid.intersection(region(shape).buffer(-inset_mm, join_style="mitre"))
    if coverage >= WHOLE:
        share = 1.0 if strips else wide_share(shape)
        return _parts(laid, stock_mm, seams, LEAST_WHOLE_MM)._replace(share=share)
    part = shapely.union_all([p for p, _ in _centred(laid, shape, coverage, 1.0)])
    found = _parts(part, stock_mm, seams, LEAST_WHOLE_MM)
    return found._replace(share=min(sum(p.area for p in found.pieces) / free.area, 1.0))


@lru_cache(maxsize=2048)
def wide_share(shape: Shape) -> float:
    """Share of what may be covered that lies in fields wide enough to be worth a piece, 0–1."""
    free = treatable(shape)
    return float(_wide_fields(free).area / free.area) if free.area else 1.0


def narrow_fields(shape: Shape) -> tuple[Polygon, ...]:
    """The fields of what may be covered that are too narrow to be worth a piece."""
    return tuple(p for p in shapely.get_parts(treatable(shape)) if isinstance(p, Polygon) and not _holds(p, LEAST_LAID_MM))


def _wide_fields(free: BaseGeometry) -> BaseGeometry:
    parts = shapely.get_parts(free)
    wide = [p for p in parts if isinstance(p, Polygon) and _holds(p, LEAST_LAID_MM)]
    return free if len(wide) == len(parts) else shapely.union_all(wide)


def _parts(area: BaseGeometry, most_mm: tuple[float, float], seams: Seams, least_mm: float) -> Cover:
    """A region in parts no larger than ``most_mm``, laid either way: whole ones and a rest, unless equal ones take less stock or
    are asked for; what costs least in stock and seams, then in parts too narrow to handle, then in pieces."""
    def dear(found: Cover) -> tuple[bool, float]:
        price = found.seam_m * seams.price_m + _taken_m2(found, seams) / seams.copies
        return seams.rigid and found.seam_m > 0, round(price, 4)

    fields, tiled = shapely.get_parts(area), dict[tuple[Tiling, ...], Cover]()

    def of(whole: tuple[bool, bool], size: tuple[float, float]) -> Cover:
        way = tuple(_tiling(field, *size, seams, whole) for field in fields)
        if way not in tiled:  # on what is small several come to the same
            tiled[way] = _tiled(fields, way, seams, least_mm)
        return tiled[way]

    def best(*ways: tuple[bool, bool]) -> Cover:
        found = [of(whole, size) for whole in ways for size in (most_mm, most_mm[::-1])]
        least = min(map(dear, found))
        alike = [f for f in found if dear(f) == least]
        return alike[0] if len(alike) == 1 else min(
            alike, key=lambda f: (sum(not _holds(p, LEAST_LAID_MM) for p in f.pieces), len(f.pieces)))

    if seams.equal:
        return best((False, False))
    whole, equal = best((True, True)), best((True, False), (False, True), (False, False))
    saves = _taken_m2(equal, seams) < _taken_m2(whole, seams) - 1e-6
    return equal if saves and dear(equal) < dear(whole) else whole


def _taken_m2(found: Cover, seams: Seams) -> float:
    """Stock the copies of a cover take when their boxes are laid in rows, the deepest first, m²: an estimate to choose by."""
    if seams.stock_mm is None:
        return float(seams.copies * sum(p.area for p in found.pieces) / 1e6)
    width, length = sorted(seams.stock_mm) if not seams.roll else seams.stock_mm
    rows: list[list[float]] = []  # what is left of a row's width, and how deep it is
    sizes = sorted((sorted((x2 - x1, y2 - y1)) for x1, y1, x2, y2 in (p.bounds for p in found.pieces)), reverse=True)
    for short, long in sizes * seams.copies:
        deep, wide = (short, long) if long <= width else (long, short)
        row = next((r for r in rows if r[0] >= wide - 1e-6 and r[1] >= deep - 1e-6), None)
        if row is None:
            rows.append(row := [width, deep])
        row[0] -= wide
    if seams.roll:
        return float(sum(r[1] for r in rows) * width / 1e6)
    sheets: list[float] = []
    for _, deep in sorted(rows, key=lambda r: -r[1]):
        k = next((k for k, left in enumerate(sheets) if left >= deep - 1e-6), None)
        if k is None:
            sheets.append(length)
            k = len(sheets) - 1
        sheets[k] -= deep
    return len(sheets) * width * length / 1e6


Steps = tuple[tuple[float, float], ...]
Tiling = tuple[Steps, Steps]
"""From where to where the parts of a field go across and up."""


def _tiling(field: BaseGeometry, width: float, height: float, seams: Seams, whole: tuple[bool, bool]) -> Tiling:
    x1, y1, x2, y2 = field.bounds
    return _steps(x1, x2, width, seams, whole[0]), _steps(y1, y2, height, seams, whole[1])


def _tiled(fields: Sequence[BaseGeometry], way: Sequence[Tiling], seams: Seams, least_mm: float) -> Cover:
    pieces: list[Polygon] = []
    seam = 0.0
    for field, (across, up) in zip(fields, way, strict=True):
        x1, y1, x2, y2 = field.bounds
        for low, high in up:
            for left, right in across:
                part = field.intersection(box(left, low, right, high))
                pieces += [p for p in shapely.get_parts(part) if isinstance(p, Polygon) and _holds(p, least_mm)]
        lines = [LineString([(left, y1), (left, y2)]) for left, _ in across[1:]]
        lines += [LineString([(x1, low), (x2, low)]) for low, _ in up[1:]]
        seam += sum(field.intersection(line).length for line in lines)
    return Cover(tuple(pieces), 1.0, seam / 1e3, seams.lap_mm if seam else 0.0)


def _steps(low: float, high: float, most: float, seams: Seams, whole: bool) -> Steps:
    """From where to where parts no longer than ``most`` go with their laps: equal ones, or whole ones and a rest; staggered, the
    first is half; from the middle, both ends are trimmed alike."""
    lap = min(seams.lap_mm, most / 4)
    count = max(1, math.ceil((high - low - lap) / (most - lap) - 1e-9))
    if count == 1:
        return ((low, high),)
    step = most - lap if whole else (high - low - lap) / count
    rest = high - low - lap - (count - 1) * step
    begin = low - step / 2 if seams.staggered else low
    if seams.middle and whole:  # a part in the middle, or a seam: what leaves the ends wide
        begin = low - (step - rest) / 2 - (step / 2 if seams.staggered else 0.0)
    found = [(begin + k * step, begin + (k + 1) * step + lap) for k in range(count + 2)]
    found = [(max(a, low), min(b, high)) for a, b in found if a < high - lap - 1e-9 and b > low + lap + 1e-9]
    return _no_slivers(found)


def _no_slivers(steps: list[tuple[float, float]]) -> Steps:
    """The steps with those at the ends that are too narrow to handle taken out of their neighbours' width."""
    out = list(steps)
    for end, by in ((-1, -2), (0, 1)):
        a, b = out[end]
        missing = LEAST_END_MM - (b - a)
        if missing > 0 and len(out) > 1:
            near, far = out[by]
            out[end], out[by] = ((a - missing, b), (near, far - missing)) if end else ((a, b + missing), (near + missing, far))
    return tuple(out)


def _holds(piece: Polygon, least_mm: float) -> bool:
    """Whether a piece is wide enough somewhere to be handled."""
    return not piece.buffer(0.01 - least_mm / 2).is_empty

