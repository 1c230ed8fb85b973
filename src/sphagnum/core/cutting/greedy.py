"""One piece after another where it lies lowest: on stock of any shape, round what is laid already, in its holes too."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np
import scipy  # loads its parts where they are used: it takes a second
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from .parts import TOLERANCE_MM, Laid, Part, moved, shifted, turn

CELLS = 30_000
LEAST_CELL_MM = 2.0
MOST_ANGLES = 8
FIRST_TRIED = 24
"""Places per way of turning that are tried exactly, the lowest first."""
LEFT = 1e-3
"""Of two places as low, the one more to the left by so much a millimetre."""


def lay_part(part: Part, free: BaseGeometry) -> Laid | None:
    """The lowest place for a part within a free region (mm), then the leftmost, tried corner to corner and over a grid; None
    where none is found."""
    best: tuple[float, Laid] | None = None
    grown = free.buffer(TOLERANCE_MM / 2, join_style="mitre")
    shapely.prepare(grown)
    grid = _grid(free)
    for mirrored in (False, True) if part.mirror else (False,):
        for angle in ways(part):
            m = turn(angle, mirrored)
            shape = moved(part.shape, m)
            found = _place(shape, grid, grown, best[0] if best else np.inf)
            if found is not None:
                best = found[0], Laid(part, shifted(m, *found[1]))
    return None if best is None else best[1]


def ways(part: Part) -> tuple[float, ...]:
    """Angles worth trying: those allowed; where any is, quarter turns and those that lay a long edge along the stock."""
    return part.angles or _edge_angles(shapely.to_wkb(part.shape))


@lru_cache(maxsize=4096)
def _edge_angles(wkb: bytes) -> tuple[float, ...]:
    hull = shapely.convex_hull(shapely.from_wkb(wkb))
    points = np.array(hull.exterior.coords)
    steps = np.diff(points, axis=0)
    order = np.argsort(-np.hypot(*steps.T))
    along = np.round(-np.degrees(np.arctan2(steps[order, 1], steps[order, 0])), 4)
    found = dict.fromkeys([0.0, 90.0, 180.0, 270.0])
    for angle in along[:2]:
        found.update(dict.fromkeys(float((angle + quarter) % 360.0) for quarter in (0.0, 180.0, 90.0, 270.0)))
    return tuple(found)[:MOST_ANGLES]


def _place(
    shape: Polygon, grid: Grid, grown: BaseGeometry, beat: float
) -> tuple[float, tuple[float, float]] | None:
    """The best shift of a shape into a region whose score is less than ``beat``, with that: how far up its end lies, and a
    little of how far to the right."""
    x1, y1, x2, y2 = shape.bounds
    fx1, fy1, fx2, fy2 = grid.bounds
    if x2 - x1 > fx2 - fx1 + TOLERANCE_MM or y2 - y1 > fy2 - fy1 + TOLERANCE_MM or shape.area > grid.area + 1.0:
        return None
    best: tuple[float, tuple[float, float]] | None = None
    for tries in (_corner_shifts(shape, grid), _grid_shifts(shape, grid)):
        dx, dy = tries.T
        scores = y2 + dy + LEFT * (x2 + dx)
        for k in np.argsort(scores)[:FIRST_TRIED]:
            if scores[k] >= (best[0] if best else beat):
                break
            at = float(dx[k]), float(dy[k])
            if grown.covers(_by(shape, *at)):
                at = _slid(shape, grown, *at)
                best = y2 + at[1] + LEFT * (x2 + at[0]), at
                break
    return best


def _by(shape: Polygon, dx: float, dy: float) -> Polygon:
    return moved(shape, (1.0, 0.0, 0.0, 1.0, dx, dy))


class Grid(NamedTuple):
    """A region as the places are looked for: its corners, and which cells of a grid over it are taken, as they are and as their
    transform over a grid of ``size``."""

    bounds: tuple[float, float, float, float]
    area: float
    corners: NDArray[np.float64]
    cell: float
    taken: NDArray[np.bool_]
    size: tuple[int, int]
    spectrum: NDArray[np.complex128]


def _grid(free: BaseGeometry) -> Grid:
    if free.is_empty:
        return Grid((0.0, 0.0, 0.0, 0.0), 0.0, np.empty((0, 2)), 1.0, np.ones((1, 1), bool), (1, 1), np.ones((1, 1), complex))
    x1, y1, x2, y2 = free.bounds
    cell = max(LEAST_CELL_MM, float(np.sqrt((x2 - x1) * (y2 - y1) / CELLS)))
    columns, rows = (max(1, int((high - low) / cell)) for low, high in ((x1, x2), (y1, y2)))
    px, py = x1 + (np.arange(columns) + 0.5) * cell, y1 + (np.arange(rows) + 0.5) * cell
    shapely.prepare(free)
    taken = np.pad(~shapely.contains_xy(free, *np.meshgrid(px, py)), 1)
    size = scipy.fft.next_fast_len(taken.shape[0], True), scipy.fft.next_fast_len(taken.shape[1], True)
    corners = _few(np.unique(np.round(shapely.get_coordinates(free), 6), axis=0), 160)
    return Grid((x1, y1, x2, y2), float(free.area), corners, cell, taken, size, scipy.fft.rfft2(taken, s=size))


def _corner_shifts(shape: Polygon, grid: Grid) -> NDArray[np.float64]:
    """Shifts that bring the corners of a shape's bounds, and its own corners, onto corners of the region."""
    x1, y1, x2, y2 = shape.bounds
    own = np.vstack([[[x1, y1], [x2, y1], [x1, y2], [x2, y2]], _few(shapely.get_coordinates(shape), 12)])
    shifts = (grid.corners[:, None, :] - own[None, :, :]).reshape(-1, 2)
    fx1, fy1, fx2, fy2 = grid.bounds
    slack = TOLERANCE_MM
    keep = ((shifts[:, 0] + x1 >= fx1 - slack) & (shifts[:, 0] + x2 <= fx2 + slack)
            & (shifts[:, 1] + y1 >= fy1 - slack) & (shifts[:, 1] + y2 <= fy2 + slack))
    return np.asarray(shifts[keep])


def _few(points: NDArray[np.float64], most: int) -> NDArray[np.float64]:
    return points if len(points) <= most else points[np.linspace(0, len(points) - 1, most).astype(int)]


def _grid_shifts(shape: Polygon, grid: Grid) -> NDArray[np.float64]:
    """Shifts at which a shape nearly or surely lies within the region, over the grid of its cells."""
    x1, y1, x2, y2 = shape.bounds
    cell = grid.cell
    across, up = int(np.ceil((x2 - x1) / cell)) + 2, int(np.ceil((y2 - y1) / cell)) + 2
    if grid.taken.shape[0] < up or grid.taken.shape[1] < across:
        return np.empty((0, 2))
    wide = shape.buffer(cell * 0.75, join_style="mitre")
    mask = shapely.contains_xy(wide, *np.meshgrid(x1 + (np.arange(across) - 0.5) * cell, y1 + (np.arange(up) - 0.5) * cell))
    # how many taken cells lie under the shape wherever it is put: their correlation, where nothing wraps round
    under = scipy.fft.irfft2(grid.spectrum * np.conj(scipy.fft.rfft2(mask, s=grid.size)), s=grid.size)
    j, i = np.nonzero(under[: grid.taken.shape[0] - mask.shape[0] + 1, : grid.taken.shape[1] - mask.shape[1] + 1] < 0.5)
    return np.column_stack([grid.bounds[0] + i * cell - x1, grid.bounds[1] + j * cell - y1])


def _slid(shape: Polygon, grown: BaseGeometry, dx: float, dy: float) -> tuple[float, float]:
    """As far down, then to the left, as it stays within the region, twice."""
    for _ in range(2):
        for along in ((0.0, -1.0), (-1.0, 0.0)):
            step = 64.0
            while step > 0.02:
                near = dx + along[0] * step, dy + along[1] * step
                if grown.covers(_by(shape, *near)):
                    dx, dy = near
                else:
                    step /= 2
    return dx, dy


def less(free: BaseGeometry, laid: Laid, gap_mm: float) -> BaseGeometry:
    """A free region less a part laid on it, with the gap round it; the holes of a piece stay free but for what lies in them."""
    rest = free
    for one in laid.all():
        shape = one.shape
        rest = rest.difference(shape.buffer(gap_mm, join_style="mitre", mitre_limit=3.0) if gap_mm else shape)
    return _areas(rest)


def _areas(shape: BaseGeometry) -> BaseGeometry:
    """Only what has an area."""
    parts = [p for p in shapely.get_parts(shape) if isinstance(p, Polygon) and p.area > 1.0]
    return parts[0] if len(parts) == 1 else MultiPolygon(parts)
