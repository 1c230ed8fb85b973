"""Which pieces a job wants: of every layer on every surface, numbered, and those wanted beside them."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import shapely
from shapely import Polygon, box

from ...cutting.buying import Cut, Wanted
from ...cutting.parts import rounded
from ...cutting.stock import first_thickness_mm
from ...figures.builds import chosen_builds, label_of, parts_of
from ...figures.cuts import cuts_of, is_boxed
from ...figures.job_figures import JobFigures, once, once_of_surface
from ...figures.lays import new_layers
from ...job.document import JobDocument
from ...job.shelf import Shelf
from ...materials.model import Material, kg_per_m2, sold_mm
from ...same import Same
from ...surfaces.coverage import laid_share
from ...surfaces.geometry import areas, treatable
from ...surfaces.patches import Patch, patches
from ...surfaces.pieces import Cover
from ...surfaces.rows import StackLayerIn, Surface
from ...worded import in_mm
from .labels import copy_label, free_label, prefixes
from .model import LayerPieces, PieceOnSurface, Points, SurfaceView


class Named(NamedTuple):
    """A piece wanted, and the surface it is for (None of one wanted beside them)."""

    wanted: Wanted
    surface_id: int | None


@once
def drawn_surfaces(job: JobFigures) -> dict[int, SurfaceView]:
    """Every surface with its pieces, by its number."""
    names = prefixes(job.doc)
    return {s.id: surface_drawn(job, s, names[s.id]) for s in job.doc.surfaces}


@once
def pieces_wanted(job: JobFigures) -> dict[Cut, list[Named]]:
    """All pieces of the job by what they are cut from."""
    shapes = drawn_surfaces(job)
    out: dict[Cut, list[Named]] = {}
    for surface in job.doc.surfaces:
        for layer in shapes[surface.id].layers:
            material = job.shelf.material(layer.material)
            turns, over = turning(material, _grain(job.doc, surface, layer))
            out.setdefault((layer.material, layer.thickness_mm), []).extend(
                _named(Same(layer), surface.count, turns, over, surface.id))
    taken = {n.wanted.label for found in out.values() for n in found}
    for row in job.doc.pieces:
        thickness = row.thickness_mm or first_thickness_mm(job.shelf.material(row.material))
        for n in range(row.quantity):
            label = free_label(f"{row.name} {n + 1}" if row.quantity > 1 else row.name, taken)
            wanted = Wanted(label, box(0, 0, row.width_mm, row.height_mm), row.rotate)
            out.setdefault((row.material, thickness), []).append(Named(wanted, None))
    for one in chosen_builds(job):
        for part in parts_of(one):
            material = job.shelf.material(part.material)
            width, height, thickness = part.flat_mm
            # a mitred board lies on its edge when it is cut; all else as it is drawn, holes and all
            shape = box(0, 0, width, height) if part.mitre_deg else Polygon(part.outline_mm, part.holes_mm)
            turns, over = turning(material, False)
            out.setdefault((part.material, sold_mm(material, thickness)), []).append(
                Named(Wanted(free_label(label_of(one, part), taken), shape, turns, over), None))
    return {key: found for key, found in out.items() if found}


@lru_cache(maxsize=512)
def _named(layer: Same[LayerPieces], count: int, turns: str, over: bool, surface_id: int) -> tuple[Named, ...]:
    """The pieces of a layer as they are wanted, on all copies of its surface: once while nothing about them changes."""
    return tuple(Named(Wanted(copy_label(p.label, n), Polygon(p.outline_mm, p.holes_mm), turns, over), surface_id)
                 for n in range(count) for p in layer.value.pieces)


def turning(material: Material, grain: bool) -> tuple[str, bool]:
    """How pieces of a material may be turned on a sheet, and whether they may be turned over: only what has no face."""
    return "half" if grain else "any", not has_face(material)


def has_face(material: Material) -> bool:
    """Whether one side of a material is not like the other."""
    return (material.facing_on_listener_side or material.properties.facing_thickness_mm is not None
            or material.hold.startswith("self-adhesive") or bool(material.made_of))


def _grain(doc: JobDocument, surface: Surface, layer: LayerPieces) -> bool:
    return any(x.grain for patch in patches(surface) for x in new_layers(doc, patch)
               if (x.material, x.thickness_mm) == (layer.material, layer.thickness_mm))


def to_lay(doc: JobDocument) -> list[tuple[Patch, tuple[StackLayerIn, ...]]]:
    """Every patch that something is laid on, with what that is."""
    pairs = [(patch, new_layers(doc, patch)) for surface in doc.surfaces for patch in patches(surface)]
    return [(patch, layers) for patch, layers in pairs if layers]


@once_of_surface
def surface_drawn(job: JobFigures, surface: Surface, prefix: str) -> SurfaceView:
    """A surface with the pieces of its layers."""
    planned = tuple(new_layers(job.doc, patch) for patch in patches(surface))
    return _drawn(surface, planned, prefix, job.shelf, is_boxed(job.doc))


@lru_cache(maxsize=1024)
def _drawn(
    surface: Surface, planned: tuple[tuple[StackLayerIn, ...], ...], prefix: str, shelf: Shelf, boxed: bool
) -> SurfaceView:
    """Of no other surface, so that a change of one draws only that one anew. ``boxed``: its neighbours meet it at corners."""
    rings = tuple(
        tuple(rounded(ring.coords) for ring in (p.exterior, *p.interiors))
        for p in shapely.get_parts(treatable(surface)) if isinstance(p, Polygon) and not p.is_empty)
    layers, number = [], 0
    for patch, own in zip(patches(surface), planned, strict=True):
        for layer, cover in zip(own, cuts_of(patch, own, shelf, boxed), strict=True):
            if cover is not None:
                layers.append(_pieces(patch, layer, cover, prefix, number, shelf))
                number += len(cover.pieces)
    return SurfaceView(id=surface.id, name=surface.name, count=surface.count, areas=areas(surface), outline_mm=surface.outline_mm,
                       treatable_mm=rings, layers=tuple(layers), opening_mm=_opening(surface))


def _opening(surface: Surface) -> Points:
    if surface.opening is None:
        return ()
    at, w, h = surface.opening.middle(surface), surface.opening.width_mm / 2, surface.opening.height_mm / 2
    return ((at.x - w, at.y - h), (at.x + w, at.y - h), (at.x + w, at.y + h), (at.x - w, at.y + h))


def _pieces(patch: Patch, layer: StackLayerIn, cover: Cover, prefix: str, number: int, shelf: Shelf) -> LayerPieces:
    """The pieces of one layer, numbered on from ``number``."""
    material = shelf.material(layer.material)
    size, each = areas(patch), kg_per_m2(material, layer.thickness_mm)
    pieces = tuple(_piece(f"{prefix}{number + i}", piece, each) for i, piece in enumerate(cover.pieces, start=1))
    reached = laid_share(patch, layer, material)
    where = f" ({patch.name.removeprefix(patch.whole.name).lstrip(', ')})" if patch.whole.zones else ""
    return LayerPieces(
        zone=patch.zone, layer=layer.id,
        material=material.id, thickness_mm=layer.thickness_mm, name=f"{material.name}, {in_mm(layer.thickness_mm)}{where}",
        letter=material.letter, wanted=layer.coverage, reached=round(reached, 3),
        kg=round(each * size.treatable_m2 * reached * patch.count, 2), pieces=pieces,
        strips=patch.opening is not None and len(pieces) > 1, lap_mm=cover.lap_mm, seam_m=round(cover.seam_m, 2))


def _piece(label: str, piece: Polygon, kg_m2: float) -> PieceOnSurface:
    x1, y1, x2, y2 = piece.bounds
    return PieceOnSurface(label=label, outline_mm=rounded(piece.exterior.coords),
                          holes_mm=tuple(rounded(h.coords) for h in piece.interiors), width_mm=round(x2 - x1, 1),
                          height_mm=round(y2 - y1, 1), kg=round(piece.area / 1e6 * kg_m2, 2))
