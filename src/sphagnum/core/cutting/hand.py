"""Pieces laid by hand: which of them still lie well, whether one may lie where it is put, and where on a sheet it could."""

from __future__ import annotations

from shapely import Polygon
from shapely.geometry.base import BaseGeometry

from ..errors import BadInput
from .greedy import lay_part, less
from .model import CutInput, Fixed
from .parts import Laid, Part, angle_of, read_parts, region_of, there_is, upright, wrong_with
from .rows import LaidByHand


def fixed_of(laid: LaidByHand) -> Fixed:
    """A piece a hand has laid, as the layout takes it."""
    return Fixed(piece=laid.id, stock=laid.stock, stock_number=laid.number, mirrored=laid.mirrored, turned_deg=laid.turned_deg,
                 x_mm=laid.x_mm, y_mm=laid.y_mm)


def good(data: CutInput, wanted: tuple[Fixed, ...]) -> tuple[Fixed, ...]:
    """Those that lie on stock there is, on nothing else and within the edge, in their order; who comes first stays."""
    parts, regions = _known(data)
    kept: list[Fixed] = []
    there: dict[tuple[str, int], list[Polygon]] = {}
    for one in wanted:
        part = parts.get((one.piece, one.number))
        region = regions.get(one.stock)
        if part is None or region is None or not there_is(data.stock, one) or not _may_turn(part, one):
            continue
        shape = upright(part, one.turned_deg, one.mirrored, one.x_mm, one.y_mm).shape
        on_it = there.setdefault((one.stock, one.stock_number), [])
        if wrong_with(region, [*on_it, shape], data.gap_mm) is None:
            on_it.append(shape)
            kept.append(one)
            del parts[one.piece, one.number]
    return tuple(kept)


def why_not(data: CutInput, others: tuple[Fixed, ...], one: Fixed) -> str:
    """Why a piece may not lie where it is put among others on the same stock, in words; empty where it may.

    Raises BadInput where there is no such piece or stock.
    """
    part, region, beside = _among(data, others, one)
    if not _may_turn(part, one):
        how = "over" if one.mirrored and not part.mirror else "so"
        return f"{one.piece} may not be turned {how}: its face or grain forbids it."
    lies = upright(part, one.turned_deg, one.mirrored, one.x_mm, one.y_mm)
    wrong = wrong_with(region, [*(x.shape for x in beside.values()), lies.shape], data.gap_mm)
    if wrong is None:
        return ""
    what, _, other = wrong
    return f"{one.piece} reaches over the edge." if what == "edge" else f"{one.piece} lies on {[*beside][other]}."


def place_on(data: CutInput, others: tuple[Fixed, ...], one: Fixed) -> Fixed | None:
    """The lowest place for a piece on a stock among what lies there, turned as it fits; None where it has none.

    Raises BadInput where there is no such piece or stock.
    """
    part, free, beside = _among(data, others, one)
    for lies in beside.values():
        free = less(free, lies, data.gap_mm)
    found = None if free.is_empty else lay_part(part, free)
    if found is None:
        return None
    mirrored, angle = angle_of(found.matrix)
    x, y, _, _ = found.shape.bounds
    at = {"x_mm": round(x, 2) + 0.0, "y_mm": round(y, 2) + 0.0}
    return one.model_copy(update={"mirrored": mirrored, "turned_deg": angle, **at})


def _among(
    data: CutInput, others: tuple[Fixed, ...], one: Fixed
) -> tuple[Part, BaseGeometry, dict[str, Laid]]:
    """A piece, the stock it is put on, and what else lies there, by its name."""
    parts, regions = _known(data)
    part, region = parts.get((one.piece, one.number)), regions.get(one.stock)
    if part is None or region is None or not there_is(data.stock, one):
        raise BadInput(f"there is no {one.piece}, or no {one.stock} number {one.stock_number}", "piece",
                       "look at the sheets anew")
    near = (o for o in others if (o.stock, o.stock_number) == (one.stock, one.stock_number) and o.piece != one.piece)
    return part, region, {o.piece: upright(parts[o.piece, o.number], o.turned_deg, o.mirrored, o.x_mm, o.y_mm)
                          for o in near if (o.piece, o.number) in parts}


def _known(data: CutInput) -> tuple[dict[tuple[str, int], Part], dict[str, Polygon]]:
    parts = {(data.pieces[p.piece].id, p.number): p for p in read_parts(data)}
    return parts, {s.id: region_of(s, f"stock[{i}]") for i, s in enumerate(data.stock)}


def _may_turn(part: Part, one: Fixed) -> bool:
    turns = part.angles is None or any(abs(one.turned_deg - a) < 1e-6 for a in part.angles)
    return turns and (part.mirror or not one.mirrored)
