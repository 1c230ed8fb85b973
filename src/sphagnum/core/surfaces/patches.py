"""A surface as the patches it is treated in: whole, or by its zones and what is left of it."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from shapely import Polygon, box

from .geometry import Box, Edge, areas
from .rows import Alternative, Surface, ZoneIn

LEAST_SHARE = 0.005
"""Of a surface that is left beside its zones: less is none."""


class Patch(Surface):
    """Part of a surface that has one stack; in all else as the surface. ``share`` of its area, 0–1."""

    zone: str = ""
    without: tuple[Box, ...] = ()
    share: float = 1.0
    excitation_db: float = 0.0
    whole: Surface

    @property
    def less(self) -> tuple[Box, ...]:
        """Its zones, of what is left beside them."""
        return self.without

    @property
    def edge_mm(self) -> Edge:
        """That of the whole surface."""
        return self.whole.outline_mm


@lru_cache(maxsize=2048)
def patches(surface: Surface) -> tuple[Patch, ...]:
    """The patches of a surface: its zones in order, then what is left of it; itself where it is not parted."""
    if not surface.zones:
        return (_patch(surface, {}),)
    gross = areas(surface).gross_m2
    out = [_of_zone(surface, z, gross) for z in surface.zones]
    left = 1 - sum(p.share for p in out)
    if left > LEAST_SHARE:
        boxes = tuple((z.x_mm, z.y_mm, z.width_mm, z.height_mm) for z in surface.zones)
        out.append(_patch(surface, {"without": boxes, "share": left, "name": f"{surface.name}, the rest"}))
    return tuple(out)


def nothing_on(patch: Patch) -> Alternative:
    """An alternative of a patch by which nothing new is laid on it, and which nobody keeps."""
    return Alternative.model_construct(id=0, version=0, surface_id=patch.id, zone=patch.zone, name="", layers=(), takes_out=(),
                                       frame=None, chosen=False, overrides=())


def patch_of(surface: Surface, zone: str) -> Patch:
    """One patch of a surface; the first where that zone is not there (any more)."""
    found = patches(surface)
    return next((p for p in found if p.zone == zone), found[-1])


def _of_zone(surface: Surface, zone: ZoneIn, gross_m2: float) -> Patch:
    area = box(zone.x_mm, zone.y_mm, zone.x_mm + zone.width_mm, zone.y_mm + zone.height_mm)
    part = area.intersection(Polygon(surface.outline_mm))
    assert isinstance(part, Polygon)  # as its surface was validated
    outline = tuple((float(x), float(y)) for x, y in part.exterior.coords[:-1])
    kept = tuple(k for k in surface.keep_clear if k.area(surface.outline_mm, k.margin).intersects(part))
    return _patch(surface, {
        "outline_mm": outline, "keep_clear": kept, "zone": zone.id, "share": part.area / 1e6 / gross_m2,
        "excitation_db": zone.excitation_db, "name": f"{surface.name}, {zone.name}",
        "depth_limit_mm": zone.depth_limit_mm or surface.depth_limit_mm})


def _patch(surface: Surface, differs: dict[str, Any]) -> Patch:
    own = {name: getattr(surface, name) for name in Surface.model_fields}
    return Patch.model_construct(**{**own, "zone": "", "without": (), "share": 1.0, "excitation_db": 0.0, "whole": surface,
                                    **differs})
