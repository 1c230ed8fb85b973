"""A surface and its pieces as shapes to be drawn at 1:1."""

from __future__ import annotations

from shapely import Polygon

from ...cutting.parts import rounded
from ...errors import BadInput
from ...figures.job_figures import JobFigures
from ...surfaces.drawn import DrawnShape
from ...surfaces.geometry import KeepClear
from ...surfaces.rows import Surface
from ...worded import shortened
from .view import cut_view

OUTLINE, PIERCE = "outline", "pierce"


def surface_shapes(job: JobFigures, surface_id: int, layer: int | None, outline: bool) -> tuple[DrawnShape, ...]:
    """The pieces of a surface where they go on it, of all layers or of one (by its place), and its outline if asked for.

    Layers of the drawing are the roles. Raises BadInput where there is nothing to draw.
    """
    surface = cut_view(job, surface_id).surface
    if surface is None or surface.id != surface_id:
        raise BadInput(f"there is no surface {surface_id}", "surface_id", "choose one of this job")
    out = [DrawnShape(id=OUTLINE, outline_mm=surface.outline_mm, layer=OUTLINE, label=surface.name)] if outline else []
    row = next(s for s in job.doc.surfaces if s.id == surface_id)
    if outline:
        out += [DrawnShape(id=f"{PIERCE} {n}", outline_mm=_ring_of(z, row), layer=PIERCE,
                           label=f"{z.name or z.kind}: pierce here")
                for n, z in enumerate((z for z in row.keep_clear if z.pierce), start=1)]
    for i, one in enumerate(surface.layers):
        if layer is None or i == layer:
            roles = job.shelf.material(one.material).roles
            role = roles[0] if roles else one.material
            out += [DrawnShape(id=p.label, outline_mm=p.outline_mm, holes_mm=p.holes_mm, layer=role,
                               label=shortened(f"{p.label}, {surface.name}, {one.name}", 200)) for p in one.pieces]
    if not out:
        raise BadInput("nothing is to be cut for this surface yet", "surface_id", "choose a stack in Build")
    return tuple(out)


def _ring_of(zone: KeepClear, row: Surface) -> tuple[tuple[float, float], ...]:
    shape = zone.area(row.outline_mm)
    assert isinstance(shape, Polygon)
    return rounded(shape.exterior.coords)
