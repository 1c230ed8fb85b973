"""What does not lie flat: a bulge stretched to its arc, wedges cut at the rim of a dome, a tub unfolded by its faces."""

from __future__ import annotations

import math
from typing import NamedTuple

import shapely
from shapely import Polygon, affinity

from ..errors import BadInput
from ..worded import in_mm

MOST_WEDGES = 48


def arc_mm(chord_mm: float, rise_mm: float) -> float:
    """Length of a circle's arc over a chord that rises so far in its middle, mm.

    Raises BadInput where it rises higher than half the chord: then it is no bulge but a tub.

    >>> round(arc_mm(1000, 100), 1)
    1026.3
    """
    if rise_mm <= 0:
        return chord_mm
    if rise_mm > chord_mm / 2:
        raise BadInput(f"it rises {in_mm(rise_mm)} in {in_mm(chord_mm)}, more than half a circle", "bulge",
                       "give how far it rises, not the tape laid over it; of a wheel arch choose that form, of a well the tub")
    radius = (chord_mm**2 / 4 + rise_mm**2) / (2 * rise_mm)
    return 2 * radius * math.asin(min(1.0, chord_mm / 2 / radius))


class Bulge(NamedTuple):
    """How far a panel bulges in its middle across and up, mm, where its sizes were taken straight over it; and how many wedges
    are cut at its rim, so that flat goods lie on a dome."""

    across_mm: float = 0.0
    up_mm: float = 0.0
    wedges: int = 0


def flattened(shape: Polygon, bulge: Bulge) -> Polygon:
    """The flat piece for a bulged panel: stretched to its arcs about its lower left, and with its relief wedges.

    Raises BadInput for a bulge that is none, and wedges without a dome or too many of them.
    """
    x1, y1, x2, y2 = shape.bounds
    wide, high = arc_mm(x2 - x1, bulge.across_mm), arc_mm(y2 - y1, bulge.up_mm)
    flat: Polygon = affinity.scale(shape, wide / (x2 - x1), high / (y2 - y1), origin=(x1, y1))
    if not bulge.wedges:
        return flat
    if not (bulge.across_mm and bulge.up_mm):
        raise BadInput("what bulges one way only lies flat without wedges", "relief", "leave them out, or give both bulges")
    if bulge.wedges > MOST_WEDGES:
        raise BadInput(f"{bulge.wedges} wedges are more than {MOST_WEDGES}", "relief", "give fewer")
    # round the rim the flat piece is longer than the dome by this; the wedges take it up together
    excess = flat.exterior.length - shape.exterior.length
    return _cut_wedges(flat, bulge.wedges, excess / bulge.wedges)


def _cut_wedges(flat: Polygon, count: int, width_mm: float) -> Polygon:
    """Triangles off the rim, evenly along it, half way to the middle: beyond that flat goods give enough."""
    middle = flat.centroid
    rim = flat.exterior
    cuts = []
    for k in range(count):
        at = rim.length * (k + 0.5) / count
        a, b, foot = (rim.interpolate((at + d) % rim.length) for d in (-width_mm / 2, width_mm / 2, 0.0))
        out = [(p.x + (p.x - middle.x) * 0.02, p.y + (p.y - middle.y) * 0.02) for p in (a, b)]
        cuts.append(Polygon([*out, ((foot.x + middle.x) / 2, (foot.y + middle.y) / 2)]))
    left = flat.difference(shapely.union_all(cuts))
    if not isinstance(left, Polygon):
        raise BadInput("the wedges cut the piece apart", "relief", "give fewer of them")
    return left


def tub_outline(width_mm: float, length_mm: float, depth_mm: float) -> list[tuple[float, float]]:
    """A tub's floor with its four sides folded down round it: one piece, its corners cut out."""
    w, h, d = width_mm, length_mm, depth_mm
    return [(d, 0), (d + w, 0), (d + w, d), (2 * d + w, d), (2 * d + w, d + h), (d + w, d + h), (d + w, 2 * d + h),
            (d, 2 * d + h), (d, d + h), (0, d + h), (0, d), (d, d)]
