"""Cut: pieces that follow from the chosen stacks, laid on stock per material, and the list of what to buy."""

from __future__ import annotations

from functools import lru_cache

from ...cutting.buying import (
    OFFCUT,
    Buy,
    Wanted,
    buy_amount,
    buy_stock,
    buy_tins,
    buy_unsold,
    cut_input,
    flat_forms,
)
from ...cutting.layout import corners
from ...cutting.model import CutResult
from ...cutting.rows import Offcut
from ...cutting.stock import first_thickness_mm, forms_at, line_metres
from ...figures.job_figures import JobFigures, once
from ...figures.lays import new_layers
from ...figures.loads import goods_for
from ...job.document import JobDocument
from ...job.shelf import Shelf
from ...materials.model import Material, kg_per_m2
from ...materials.table import family
from ...schema import Strict
from ...surfaces.coverage import sheet_of
from ...surfaces.geometry import Areas, areas, plain, treatable
from ...surfaces.patches import Patch, patches
from ...surfaces.pieces import blanks, inside_pieces
from ...surfaces.rows import StackLayerIn, Surface
from ...words import listed, percent, plural
from ...working import Working, inputs
from .labels import copy_label, free_label, prefixes

Points = tuple[tuple[float, float], ...]


class PieceOnSurface(Strict):
    """A numbered piece where it goes on its surface, mm; ``trim``: cut oversize and trimmed in place."""

    label: str
    outline_mm: Points
    trim: bool


class LayerPieces(Strict):
    """The pieces of one layer of a surface."""

    material: str
    thickness_mm: float
    name: str
    letter: str
    wanted: float
    reached: float
    kg: float
    pieces: tuple[PieceOnSurface, ...]


class SurfaceView(Strict):
    """A surface drawn to scale: outline, what stays clear, what may be covered (rings, mm), its pieces."""

    id: int
    name: str
    count: int
    areas: Areas
    outline_mm: Points
    treatable_mm: tuple[tuple[Points, ...], ...]
    layers: tuple[LayerPieces, ...]


class SheetPiece(Strict):
    """A piece on its sheet, with the label it carries on the surface."""

    label: str
    outline_mm: Points


class SheetView(Strict):
    """One opened sheet or length of roll."""

    material: str
    thickness_mm: float
    name: str
    letter: str
    roll: bool
    number: int
    width_mm: float
    length_mm: float
    pieces: tuple[SheetPiece, ...]
    offcut: str = ""
    """Of a rest that is kept: which, and where it lies."""


class CutView(Strict):
    """The whole stage."""

    sentence: str
    detail: str
    surface: SurfaceView | None
    sheets: tuple[SheetView, ...]
    buy: tuple[Buy, ...]
    kg: float
    money: float
    currency: str
    utilisation: float | None
    unplaced: tuple[str, ...]
    working: tuple[Working, ...]
    work: tuple[str, ...] = ()
    """Layouts still under way, by their keys."""
    older: bool = False
    """Whether part of the buying list is of layouts from before the last change."""
    offcuts: tuple[Offcut, ...] = ()
    """Rests the workshop keeps of what this job cuts, that it could take."""


@once
def cut_view(job: JobFigures, surface_id: int | None) -> CutView:
    """The stage: the surface drawn (the first when None) and the whole job's sheets and buying list."""
    names = prefixes(job.doc)
    shapes = {s.id: _surface(job, s, names[s.id]) for s in job.doc.surfaces}
    wanted: dict[tuple[str, float], list[Wanted]] = {}
    amounts: dict[str, float] = {}
    for surface in job.doc.surfaces:
        for layer in shapes[surface.id].layers:
            rotate = "quarter"
            wanted.setdefault((layer.material, layer.thickness_mm), []).extend(
                Wanted(copy_label(p.label, n), *_size(p.outline_mm), rotate)
                for n in range(surface.count) for p in layer.pieces)
    for patch, layers in _to_lay(job.doc):
        for line in layers:
            if job.shelf.material(line.material).acts == "line":
                amounts[line.material] = amounts.get(line.material, 0.0) + line_metres(areas(patch)) * patch.count
        one = job.doc.chosen(patch.id, patch.zone)
        for good in goods_for(job.doc, patch, one, job.shelf) if one is not None else ():
            amounts[good.material] = amounts.get(good.material, 0.0) + good.amount * patch.count
    for extra in job.doc.goods:
        amounts[extra.material] = amounts.get(extra.material, 0.0) + extra.amount
    for rattle in job.doc.rattles:
        cure = None if rattle.done else job.shelf.offers.cure(rattle.kind, rattle.cure)
        if cure is not None:
            amounts[cure.material] = amounts.get(cure.material, 0.0) + cure.metres
    taken = {w.label for rects in wanted.values() for w in rects}
    for row in job.doc.pieces:
        thickness = row.thickness_mm or first_thickness_mm(job.shelf.material(row.material))
        for n in range(row.quantity):
            label = free_label(f"{row.name} {n + 1}" if row.quantity > 1 else row.name, taken)
            wanted.setdefault((row.material, thickness), []).append(Wanted(label, row.width_mm, row.height_mm, row.rotate))
    sheets: list[SheetView] = []
    buy: list[Buy] = []
    unplaced: list[str] = []
    results: list[CutResult] = []
    work: list[str] = []
    for (name, thickness), rects in wanted.items():
        material = job.shelf.material(name)
        if not rects or not flat_forms(material, thickness):
            continue
        rests = _of(job.doc.offcuts_taken, name, thickness)
        result, under_way, older = job.layouts(name, thickness, cut_input(material, thickness, rects, rests))
        work += [under_way] * bool(under_way)
        if result is None:
            buy += buy_stock(material, thickness, older, True, job.shelf.spare_share) if older is not None else []
            continue
        results.append(result)
        sheets += _sheets(material, thickness, result, rects, rests)
        unplaced += [f"{rects[int(u.piece)].label}: {u.why}" for u in result.unplaced]
        buy += buy_stock(material, thickness, result, spare_share=job.shelf.spare_share)
    buy += [buy_amount(job.shelf.material(name), amount) for name, amount in amounts.items()]
    buy += _not_flat(job)
    shown = shapes.get(surface_id or -1) or (next(iter(shapes.values())) if shapes else None)
    used, bought = sum(r.piece_area_m2 for r in results), sum(r.stock_area_m2 for r in results)
    return CutView(
        sentence=_sentence(shown, sheets, job.doc, bool(work) and not results),
        detail=f"{percent(used / bought)} of the opened stock goes on the job." if bought else "",
        surface=shown, sheets=tuple(sheets), buy=tuple(buy),
        kg=round(sum(b.kg for b in buy), 1), money=round(sum(b.money or 0.0 for b in buy), 2), currency=job.doc.job.currency,
        utilisation=round(used / bought, 3) if bought else None, unplaced=tuple(unplaced),
        working=tuple(_working(r) for r in results), work=tuple(work), older=any(b.older for b in buy),
        offcuts=tuple(o for name, thickness in wanted for o in _of(job.shelf.offcuts, name, thickness)),
    )


def _of(offcuts: tuple[Offcut, ...], material: str, thickness_mm: float) -> tuple[Offcut, ...]:
    return tuple(o for o in offcuts if o.material == material and abs(o.thickness_mm - thickness_mm) < 0.01)


def _to_lay(doc: JobDocument) -> list[tuple[Patch, tuple[StackLayerIn, ...]]]:
    """Every patch that something is laid on, with what that is."""
    pairs = [(patch, new_layers(doc, patch)) for surface in doc.surfaces for patch in patches(surface)]
    return [(patch, layers) for patch, layers in pairs if layers]


def _surface(job: JobFigures, surface: Surface, prefix: str) -> SurfaceView:
    planned = tuple(new_layers(job.doc, patch) for patch in patches(surface))
    return _drawn(surface, planned, prefix, job.shelf)


@lru_cache(maxsize=1024)
def _drawn(surface: Surface, planned: tuple[tuple[StackLayerIn, ...], ...], prefix: str, shelf: Shelf) -> SurfaceView:
    """A surface with the pieces of its layers; of no other surface, so that a change of one draws only that one anew."""
    free = treatable(surface)
    polygons = list(getattr(free, "geoms", [free]))
    rings = tuple(
        tuple(tuple((round(x, 1), round(y, 1)) for x, y in ring.coords) for ring in (p.exterior, *p.interiors))
        for p in polygons if not p.is_empty
    )
    layers, number = [], 0
    for patch, own in zip(patches(surface), planned, strict=True):
        for layer in own:
            found = _pieces(patch, layer, prefix, number, shelf)
            if found is not None:
                layers.append(found)
                number += len(found.pieces)
    return SurfaceView(id=surface.id, name=surface.name, count=surface.count, areas=areas(surface),
                       outline_mm=surface.outline_mm, treatable_mm=rings, layers=tuple(layers))


def _pieces(patch: Patch, layer: StackLayerIn, prefix: str, number: int, shelf: Shelf) -> LayerPieces | None:
    """The pieces of one layer, numbered on from ``number``; None of what is not cut."""
    material = shelf.material(layer.material)
    sheet = sheet_of(material, layer.thickness_mm)
    if sheet is None or not material.lies:
        return None
    inside, shape, size = material.acts == "damping", plain(patch), areas(patch)
    cover = inside_pieces(shape, sheet, layer.coverage) if inside else blanks(shape, sheet)
    pieces = tuple(PieceOnSurface(label=f"{prefix}{number + i}", outline_mm=corners(*piece), trim=not inside)
                   for i, piece in enumerate(cover.pieces, start=1))
    reached = cover.share if inside else layer.coverage
    where = f" ({patch.name.removeprefix(patch.whole.name).lstrip(', ')})" if patch.whole.zones else ""
    return LayerPieces(
        material=material.id, thickness_mm=layer.thickness_mm, name=f"{material.name}, {layer.thickness_mm:g} mm{where}",
        letter=material.letter, wanted=layer.coverage, reached=round(reached, 3),
        kg=round(kg_per_m2(material, layer.thickness_mm) * size.treatable_m2 * reached * patch.count, 2), pieces=pieces)


def _size(outline: Points) -> tuple[float, float]:
    return outline[2][0] - outline[0][0], outline[2][1] - outline[0][1]


def _sheets(
    material: Material, thickness_mm: float, result: CutResult, rects: list[Wanted], rests: tuple[Offcut, ...]
) -> list[SheetView]:
    sold = {str(i): (f.form == "roll", f.width_mm or 0.0, "") for i, f in enumerate(flat_forms(material, thickness_mm))}
    kept = {f"{OFFCUT}{r.id}": (False, r.width_mm, f"offcut kept{f', {r.place}' if r.place else ''}") for r in rests}
    out = []
    for used in result.used:
        roll, width, offcut = (sold | kept)[used.stock]
        out.append(SheetView(
            material=material.id, thickness_mm=thickness_mm, name=f"{material.name}, {thickness_mm:g} mm", letter=material.letter,
            roll=roll, number=used.number, width_mm=width, length_mm=used.length_used_mm, offcut=offcut,
            pieces=tuple(SheetPiece(label=rects[int(p.piece)].label, outline_mm=p.outline_mm) for p in used.placements)))
    return out


def _not_flat(job: JobFigures) -> list[Buy]:
    """What is laid and not cut from sheets or rolls: by the tin, or of a thickness nobody is known to sell."""
    area: dict[tuple[str, float], float] = {}
    for patch, layers in _to_lay(job.doc):
        for layer in layers:
            material = job.shelf.material(layer.material)
            bought = material.lies and family(material.family).bought
            if bought and not flat_forms(material, layer.thickness_mm):
                key = material.id, layer.thickness_mm
                area[key] = area.get(key, 0.0) + layer.coverage * areas(patch).treatable_m2 * patch.count
    out = []
    for (name, thickness), covered in area.items():
        material = job.shelf.material(name)
        tins = buy_tins(material, thickness, covered) if forms_at(material, thickness) else None
        out.append(tins or buy_unsold(material, thickness, covered))
    return out


def _sentence(shown: SurfaceView | None, sheets: list[SheetView], doc: JobDocument, under_way: bool) -> str:
    if shown is None and not sheets:
        return "No surface yet: draw the first one."
    if under_way:
        return "The pieces are being laid out."
    rests = sum(1 for s in sheets if s.offcut)
    count = sum(1 for s in sheets if not s.roll) - rests
    rolls = len({s.material for s in sheets if s.roll})
    stock = listed([plural(n, name) for n, name in ((rests, "offcut"), (count, "sheet"), (rolls, "roll")) if n])
    pieces = sum(len(s.pieces) for s in sheets)
    if not pieces:
        name = shown.name if shown else "The job"
        return f"{name}: {shown.areas.treatable_m2:.2f} m² to treat, no stack chosen yet." if shown else name
    return f"{plural(pieces, 'piece')} from {stock}."


def _working(result: CutResult) -> Working:
    name = result.used[0].stock if result.used else "nothing"
    return Working(
        figure=f"{name}: {len(result.used)} opened, {result.piece_area_m2:.3f} m² of pieces",
        formula="rectangles packed by maximal-rectangle rules, every order tried, then seeded restarts",
        inputs=inputs(stock_area=f"{result.stock_area_m2:.3f} m²", utilisation=percent(result.utilisation),
                      price=f"{result.price:.2f}", not_possible_below=f"{result.area_bound_price or 0:.2f}"),
        source="own search over a packing library",
        accuracy="exact areas; the bound is by area alone",
    )
