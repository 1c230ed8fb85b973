"""Rectangular pieces that cover a surface: inside the treatable area for damping, trimmed blanks for the rest."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely
from shapely import affinity, box
from shapely.geometry.base import BaseGeometry

from .geometry import Shape, region, treatable
from .rectangles import largest_block

LEAST_SIDE_MM = 60.0  # smaller pieces cost more hands than they give
MOST_PIECES = 40
CELLS = 64


class Cover(NamedTuple):
    """Pieces (x, y, width, height) in mm, and the share of the treatable area under them, 0–1."""

    pieces: tuple[tuple[float, float, float, float], ...]
    share: float


@lru_cache(maxsize=512)
def inside_pieces(shape: Shape, sheet_mm: tuple[float, float], coverage: float) -> Cover:
    """Rectangles no larger than a sheet wholly inside the treatable area, up to ``coverage`` of it: about its middle, round a
    loudspeaker where it has one, since that is what shakes it."""
    free = treatable(shape)
    best = Cover((), 0.0)
    for slack in SLACKS:  # rectangles cannot fill the ragged rim of a region: where they fall short, a wider one is searched
        found = _fill(free, _centred(free, region(shape), coverage, slack, shaker(shape)), sheet_mm, coverage)
        best = found if found.share > best.share else best
        if best.share >= coverage - NEAR or coverage >= WHOLE:
            break
    return best


SLACKS = (1.12, 1.3, 2.0)
NEAR, WHOLE = 0.02, 0.999


def _fill(free: BaseGeometry, part: BaseGeometry, sheet_mm: tuple[float, float], coverage: float) -> Cover:
    """The largest rectangles of a grid over a region, one after another, until the wanted share is covered."""
    if part.is_empty:
        return Cover((), 0.0)
    x1, y1, x2, y2 = part.bounds
    cell = max(10.0, math.ceil(max(x2 - x1, y2 - y1) / CELLS))
    xs, ys = np.arange(x1, x2 - cell + 0.01, cell), np.arange(y1, y2 - cell + 0.01, cell)
    if not xs.size or not ys.size:
        return Cover((), 0.0)
    gx, gy = np.meshgrid(xs, ys)
    shapely.prepare(part)
    grid = shapely.covers(part, shapely.box(gx, gy, gx + cell, gy + cell))
    rows, cols = np.full(ys.size, cell), np.full(xs.size, cell)
    pieces: list[tuple[float, float, float, float]] = []
    covered, wanted = 0.0, coverage * free.area
    while len(pieces) < MOST_PIECES and covered < wanted * 0.995:
        block = largest_block(grid, rows, cols, sheet_mm)
        if block is None:
            break
        r0, r1, c0, c1 = block
        width, height = (c1 - c0) * cell, (r1 - r0) * cell
        if min(width, height) < LEAST_SIDE_MM:
            break
        grid[r0:r1, c0:c1] = False
        pieces.append((float(xs[c0]), float(ys[r0]), float(width), float(height)))
        covered += width * height
    return Cover(tuple(pieces), covered / free.area if free.area else 0.0)


def shaker(shape: Shape) -> tuple[float, float] | None:
    """Where a loudspeaker sits in a panel, mm; None where there is none."""
    found = next((z for z in shape.keep_clear if z.kind == "loudspeaker"), None)
    return None if found is None else (found.x_mm + found.width_mm / 2, found.y_mm + found.height_mm / 2)


def _centred(
    free: BaseGeometry, outline: BaseGeometry, coverage: float, slack: float, about: tuple[float, float] | None
) -> BaseGeometry:
    """The treatable area within the outline shrunk about its middle, or within a square about a point, until just ``coverage`` of
    it is left, and a little more."""
    if coverage >= WHOLE:
        return free
    x1, y1, x2, y2 = outline.bounds
    reach = 2 * max(x2 - x1, y2 - y1)

    def within(size: float) -> BaseGeometry:
        if about is None:
            return free.intersection(affinity.scale(outline, size, size, origin="centroid"))
        return free.intersection(shapely.Point(about).buffer(reach * size / 2, cap_style="square"))

    low, high = 0.0, 1.0
    for _ in range(24):
        middle = (low + high) / 2
        low, high = (middle, high) if within(middle).area < coverage * free.area else (low, middle)
    return within(min(1.0, high * slack))


@lru_cache(maxsize=512)
def blanks(shape: Shape, stock_mm: tuple[float, float]) -> Cover:
    """Rectangles that together cover the whole treatable area, cut oversize and trimmed in place."""
    free = treatable(shape)
    if free.is_empty:
        return Cover((), 0.0)
    best = min((_tiles(free, *size) for size in (stock_mm, stock_mm[::-1])), key=len)
    return Cover(tuple(best), 1.0)


def _tiles(free: BaseGeometry, width: float, height: float) -> list[tuple[float, float, float, float]]:
    x1, y1, x2, y2 = free.bounds
    across, down = max(1, math.ceil((x2 - x1) / width)), max(1, math.ceil((y2 - y1) / height))
    step_x, step_y = (x2 - x1) / across, (y2 - y1) / down
    out = []
    for j in range(down):
        for i in range(across):
            tile = box(x1 + i * step_x, y1 + j * step_y, x1 + (i + 1) * step_x, y1 + (j + 1) * step_y)
            part = free.intersection(tile)
            if part.area > 100.0:
                bx1, by1, bx2, by2 = part.bounds
                out.append((round(bx1, 1), round(by1, 1), round(bx2 - bx1, 1), round(by2 - by1, 1)))
    return out
