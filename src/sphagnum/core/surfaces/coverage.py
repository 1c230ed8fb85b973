"""How a layer is cut for a panel, and how much of it that covers: what is kept clear stays bare, and pieces reach only so far."""

from __future__ import annotations

from functools import lru_cache

from shapely import Polygon, box

from ..materials.model import Material, StockForm, kg_per_m2
from .geometry import Plain, areas, plain
from .openings import pass_through
from .pieces import USUAL_SEAM, Cover, Seams, inside_pieces, whole_pieces, wide_share
from .rows import StackLayerIn, Surface

LAP_MM = 30.0
"""Parts of a limp barrier lie on one another by so much; boards and open materials butt."""
DAMPING_SEAM = 0.02
"""A metre of seam between damping sheets costs no more than the cut, in square metres of it."""
WHOLE_FROM = 0.95
"""A lining asked for on so much of what may be covered is cut to all of it; less is a part of it that is meant."""
LEAST_LENGTH_MM = 200.0
"""However heavy, no piece is cut shorter than this for its weight."""


@lru_cache(maxsize=4096)
def laid_share(surface: Surface, layer: StackLayerIn, material: Material) -> float:
    """Share of the treatable area a layer covers as it is cut, 0–1; as asked where it is not cut."""
    asked = asked_share(layer, material)
    if asked == 1.0 and material.acts != "damping":
        return 1.0 if layer.strips else wide_share(plain(surface))  # whatever it is cut from
    cover = pieces_of(surface, layer, material)
    return layer.coverage if cover is None else cover.share


def asked_share(layer: StackLayerIn, material: Material) -> float:
    """Share of the treatable area a layer is meant to cover, 0–1: what is cut for a lining covers all of it but where less is
    meant."""
    cut = material.acts != "damping" and layer.coverage >= WHOLE_FROM and form_of(material, layer.thickness_mm) is not None
    return 1.0 if cut else layer.coverage


def pieces_of(
    surface: Surface, layer: StackLayerIn, material: Material, *, staggered: bool = False, price_m: float | None = None,
    inset_mm: float = 0.0, largest: tuple[float | None, float | None] = (None, None),
) -> Cover | None:
    """The pieces a layer is cut into, those that pass its access opening, in the order they are fitted; None of what is not cut.

    ``staggered``: its seams against those of the layer under it; ``price_m`` a metre of seam in the price of a square metre;
    ``largest``: the longest (mm) and heaviest (kg) piece one person handles.
    """
    form = form_of(material, layer.thickness_mm)
    if form is None or not material.lies:
        return None
    stock = form.width_mm or 0.0, form.length_mm or 0.0
    shape, sheet = plain(surface), pass_through(surface.opening, stock)
    if material.acts == "damping":
        seams = Seams(0.0, False, DAMPING_SEAM, stock, form.form == "roll", surface.count)
        found = inside_pieces(shape, sheet, layer.coverage, seams)
    else:
        lap = LAP_MM if "barrier" in material.roles and material.acts != "plate" else 0.0
        sheet = _handled(sheet, kg_per_m2(material, layer.thickness_mm), *largest)
        shape = _between(surface, shape, layer.thickness_mm if material.acts == "plate" else surface.substrate.thickness_mm)
        seams = Seams(lap, staggered, USUAL_SEAM if price_m is None else price_m, stock, form.form == "roll", surface.count,
                      material.acts == "plate", "seen" in surface.flags and material.acts == "plate", layer.begins == "middle")
        found = whole_pieces(shape, sheet, seams, inset_mm, layer.coverage if layer.coverage < WHOLE_FROM else 1.0, layer.strips)
    return in_order(surface, found)


def _handled(sheet: tuple[float, float], kg_m2: float, most_mm: float | None, most_kg: float | None) -> tuple[float, float]:
    """A sheet no larger than one person handles."""
    width, length = sheet
    if most_mm is not None:
        width, length = min(width, most_mm), min(length, most_mm)
    if most_kg is not None and kg_m2 > 0:
        length = min(length, max(most_kg / kg_m2 / width * 1e6, LEAST_LENGTH_MM))
    return width, length


def _between(surface: Surface, shape: Plain, thickness_mm: float) -> Plain:
    """What stands between its neighbours, shorter at both ends by their boards, taken as thick as its own."""
    if not surface.butts:
        return shape
    left, low, right, high = Polygon(shape.outline_mm).bounds
    off = [thickness_mm if surface.butts in (way, "both") else 0.0 for way in ("across", "up")]
    inner = Polygon(shape.outline_mm).intersection(box(left + off[0], low + off[1], right - off[0], high - off[1]))
    if not isinstance(inner, Polygon) or inner.is_empty:
        return shape
    return shape.model_copy(update={"outline_mm": tuple((float(x), float(y)) for x, y in inner.exterior.coords[:-1])})


def in_order(surface: Surface, found: Cover) -> Cover:
    """Pieces as they go in: through an opening the farthest from it first, so that none lies in the way of the next."""
    if surface.opening is None:
        return found
    at = surface.opening.middle(surface)
    return found._replace(pieces=tuple(sorted(found.pieces, key=lambda p: -p.distance(at) - p.centroid.distance(at) / 1e3)))


def form_of(material: Material, thickness_mm: float) -> StockForm | None:
    """The sheet or roll a thickness is first sold in; None where it is sold in none."""
    for form in material.stock:
        fits = form.thickness_mm is None or abs(form.thickness_mm - thickness_mm) < 0.01
        if fits and form.form in ("sheet", "roll") and form.width_mm and form.length_mm:
            return form
    return None


def panel_share(surface: Surface, laid: float) -> float:
    """Share of the whole panel under a layer that covers ``laid`` of what may be covered, 0–1."""
    size = areas(surface)
    return laid * size.treatable_m2 / size.gross_m2
