"""The largest empty rectangles of a rectangle with taken parts, and of a grid of allowed cells."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Rectangle = tuple[float, float, float, float]


def largest_rectangles(
    width: float, length: float, taken: Sequence[Rectangle], least_side: float, most: int = 3
) -> list[Rectangle]:
    """Up to ``most`` disjoint free rectangles (x, y, w, h), largest first, with no side under ``least_side``."""
    xs = sorted({0.0, width, *(v for x, _, w, _ in taken for v in (x, min(x + w, width)))})
    ys = sorted({0.0, length, *(v for _, y, _, h in taken for v in (y, min(y + h, length)))})
    free = np.ones((len(ys) - 1, len(xs) - 1), dtype=bool)
    mid_x, mid_y = (np.array(v[:-1]) / 2 + np.array(v[1:]) / 2 for v in (xs, ys))
    for x, y, w, h in taken:
        free[np.ix_((mid_y > y) & (mid_y < y + h), (mid_x > x) & (mid_x < x + w))] = False
    found: list[Rectangle] = []
    while len(found) < most:
        block = largest_block(free, np.diff(ys), np.diff(xs))
        if block is None:
            break
        r0, r1, c0, c1 = block
        rectangle = (xs[c0], ys[r0], xs[c1] - xs[c0], ys[r1] - ys[r0])
        free[r0:r1, c0:c1] = False
        if min(rectangle[2:]) >= least_side:
            found.append(rectangle)
    return found


def largest_block(
    free: NDArray[np.bool_], heights: NDArray[np.float64], widths: NDArray[np.float64],
    limit: tuple[float, float] | None = None,
) -> tuple[int, int, int, int] | None:
    """Rows and columns [r0, r1) × [c0, c1) of the largest all-True block by area; None if there is none.

    ``heights`` and ``widths`` are the sizes of rows and columns; ``limit`` bounds the block's sides (in either
    orientation).
    """
    rows, cols = free.shape
    y, x = np.concatenate([[0.0], np.cumsum(heights)]), np.concatenate([[0.0], np.cumsum(widths)])
    span = x[None, 1:] - x[:-1, None]  # of a block from a column (down) up to a column (across)
    allowed = np.arange(cols)[None, :] >= np.arange(cols)[:, None]
    # the first row of the free run that ends at a row, per column; the highest met from the first column on bounds a block
    small = np.int16  # rows are few, and what is small is quickly gone through
    top = np.maximum.accumulate(np.where(free, 0, np.arange(1, rows + 1)[:, None]), axis=0).astype(small)
    tops = np.maximum.accumulate(np.where(allowed[None], top[:, None, :], small(-1)), axis=2)
    if limit is not None:
        short, long = sorted(limit)
        low, high = (np.searchsorted(y, y[1:] - most - 1e-9).astype(small)[:, None, None] for most in (long, short))
        tops = np.maximum(tops, np.where(span[None] <= short + 1e-9, low, high))
        allowed = allowed & (span <= long + 1e-9)
    below = np.arange(1, rows + 1, dtype=small)[:, None, None]
    tops = np.minimum(tops, below)
    if rows * cols < np.iinfo(small).max and np.ptp(heights) == 0 == np.ptp(widths):  # a grid of cells: those are counted
        area = (below - tops) * np.where(allowed, np.arange(1, cols + 1) - np.arange(cols)[:, None], 0).astype(small)
        at = int(np.argmax(area))
    else:
        area = (y[1:][:, None, None] - y[tops]) * np.where(allowed, span, 0.0)
        at = int(np.argmax(area >= area.max(initial=0.0) - 1e-9)) if area.size else 0
    if not area.size or area.flat[at] <= 1e-9:
        return None
    r, c0, c1 = np.unravel_index(at, area.shape)
    return int(tops[r, c0, c1]), int(r) + 1, int(c0), int(c1) + 1
