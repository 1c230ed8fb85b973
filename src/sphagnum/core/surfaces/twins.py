"""The other side: a surface mirrored left to right, with all that lies on it."""

from __future__ import annotations

from typing import Any

from .geometry import KeepClear
from .rows import SurfaceIn


def mirrored(surface: SurfaceIn) -> SurfaceIn:
    """The surface as it is on the other side, within the same bounds: outline, what stays clear, zones and opening."""
    xs = [x for x, _ in surface.outline_mm]
    both = min(xs) + max(xs)

    def flip(item: Any) -> Any:
        return item.model_copy(update={"x_mm": both - item.x_mm - item.width_mm})

    def clear(zone: KeepClear) -> KeepClear:  # the corners are told the other way round, so the sides are too
        sides = len(surface.outline_mm)
        turned = tuple(sorted(sides - n if n < sides else n for n in zone.edges))
        return zone.model_copy(update={"edges": turned}) if zone.shape == "edge" else flip(zone)

    opening = surface.opening
    if opening is not None and opening.x_mm is not None:
        opening = opening.model_copy(update={"x_mm": both - opening.x_mm - opening.width_mm})
    return surface.model_copy(update={
        "outline_mm": tuple((both - x, y) for x, y in reversed(surface.outline_mm)), "opening": opening,
        "keep_clear": tuple(clear(z) for z in surface.keep_clear), "zones": tuple(flip(z) for z in surface.zones)})
