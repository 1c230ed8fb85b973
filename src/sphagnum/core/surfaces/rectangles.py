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
    top = np.zeros(cols, dtype=int)  # first row of the free run that ends at the current row, per column
    best, found = 0.0, None
    for r in range(rows):
        top = np.where(free[r], top, r + 1)
        if not free[r].any():
            continue
        for c0 in range(cols):
            if top[c0] > r or (c0 and top[c0 - 1] <= top[c0] and limit is None):
                continue
            tops = np.maximum.accumulate(top[c0:])
            span = x[c0 + 1 :] - x[c0]
            rise = y[r + 1] - y[np.minimum(tops, r + 1)]
            if limit is not None:
                tops, rise, span, allowed = _limited(tops, rise, span, y, r, limit)
            else:
                allowed = np.ones(span.shape, dtype=bool)
            area = np.where(allowed, rise * span, 0.0)
            k = int(np.argmax(area))
            if area[k] > best + 1e-9:
                best, found = float(area[k]), (int(tops[k]), r + 1, c0, c0 + k + 1)
    return found


def _limited(
    tops: NDArray[np.int_], rise: NDArray[np.float64], span: NDArray[np.float64], y: NDArray[np.float64], r: int,
    limit: tuple[float, float],
) -> tuple[NDArray[np.int_], NDArray[np.float64], NDArray[np.float64], NDArray[np.bool_]]:
    """Blocks lowered until they keep within the limit, and which spans can keep it at all."""
    short, long = sorted(limit)
    most = np.where(span <= short + 1e-9, long, short)
    highest = np.searchsorted(y, y[r + 1] - most - 1e-9)
    tops = np.maximum(tops, highest)
    return tops, y[r + 1] - y[np.minimum(tops, r + 1)], span, span <= long + 1e-9
