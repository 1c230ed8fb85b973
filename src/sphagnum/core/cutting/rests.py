"""What is left of an opened sheet, as it is outlined, where it is large enough to be worth keeping."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely
from shapely import Polygon, box
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from .model import Outline
from .parts import rounded

TRIMMED_MM = 1.0
"""A rest is drawn so much smaller all round than it is, so that its outline may be told in few corners."""


@lru_cache(maxsize=512)
def rests_of(stock: Polygon, laid: tuple[Polygon, ...], gap_mm: float, least_mm: float) -> tuple[Polygon, ...]:
    """The parts of a stock (mm) that no piece takes and that are nowhere narrower than ``least_mm``, the largest first.

    Each is one outline without a hole: what lies round a piece is parted beside it.
    """
    taken = unary_union([p.buffer(gap_mm, join_style="mitre") if gap_mm else p for p in laid])
    found = [part for whole in _opened(stock.difference(taken), least_mm) for part in _parted(whole, least_mm)]
    return tuple(sorted(found, key=lambda p: -p.area))


def outline_of(rest: Polygon) -> Outline:
    """A rest's corners from its own lower left; none of an upright rectangle, which its width and length tell."""
    x, y, x2, y2 = rest.bounds
    if rest.area > (x2 - x) * (y2 - y) - 1.0:
        return ()
    smaller = rest.buffer(-TRIMMED_MM, join_style="mitre").simplify(TRIMMED_MM)
    told = smaller if isinstance(smaller, Polygon) and not smaller.is_empty else rest
    return rounded(np.asarray(told.exterior.coords) - (x, y))


def _opened(area: BaseGeometry, least_mm: float) -> list[Polygon]:
    """The parts of an area a square or disc of ``least_mm`` reaches everywhere."""
    half = least_mm / 2 - 0.01
    wide = area.buffer(-half, join_style="mitre").buffer(half, join_style="mitre").intersection(area)
    return [p for p in shapely.get_parts(wide) if isinstance(p, Polygon) and p.area >= least_mm**2 * 0.99]


def _parted(whole: Polygon, least_mm: float) -> list[Polygon]:
    if not whole.interiors:
        return [whole]
    x1, y1, x2, y2 = whole.bounds
    at = whole.interiors[0].centroid.x
    halves = (box(x1, y1, at, y2), box(at, y1, x2, y2))
    return [p for half in halves for part in _opened(whole.intersection(half), least_mm) for p in _parted(part, least_mm)]
