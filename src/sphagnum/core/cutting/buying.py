"""From rectangles wanted to a line of the buying list: packs, spare, rolls, price and weight."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any, NamedTuple, Protocol

import shapely
from shapely import Polygon, box

from ..materials.model import Material, StockForm, kg_per_m2
from ..quantities import LAPS
from ..same import Same
from ..schema import Strict
from ..worded import in_mm, of
from ..words import plural
from .layout import cut
from .model import CutInput, CutPiece, CutResult, StockItem, UsedStock
from .parts import rounded
from .rows import USUAL, Habits
from .stock import FLAT, area_m2, form_at, forms_at, goes_for, measure

SPARE_SHARE = 0.05  # one spare in twenty units opened, at least one from five units on
RESTARTS = 12  # the interface answers within a second; the command searches longer


class Buy(Strict):
    """One line of the buying list, of one material at one thickness (None where it has none)."""

    material: str
    thickness_mm: float | None
    name: str
    needed: str
    units: int
    spare: int
    unit: str
    kg: float
    money: float | None
    """None where no price is known."""
    stock_money: float = 0.0
    """What comes from the shelf, at its list price."""
    supplier: str = ""
    order_number: str = ""
    shelf: str = ""
    """What of it the shelf has already, that is not bought."""
    older: bool = False
    """Whether it is of a layout from before the last change; the new one is under way."""
    estimated: bool = False
    """Whether it is an estimate by area, since its layout is under way."""
    enough: bool = False
    """Whether what is on hand is enough for it, spare aside."""


class Wanted(NamedTuple):
    """A piece wanted of a material."""

    label: str
    shape: Polygon
    rotate: str
    mirror: bool = False


class Rest(Protocol):
    """An offcut that is kept: its number, its rectangle, mm, and its outline where it is none."""

    @property
    def id(self) -> int: ...
    @property
    def width_mm(self) -> float: ...
    @property
    def length_mm(self) -> float: ...
    @property
    def outline_mm(self) -> tuple[tuple[float, float], ...]: ...


class Found(NamedTuple):
    """A layout that was asked for: the best there is, what is still under way (by its key), else an older one."""

    result: CutResult | None
    work: str = ""
    older: CutResult | None = None


Cut = tuple[str, float]
"""What a layout is of: a material, by its id, and its thickness, mm."""


class Layouts(Protocol):
    """Where layouts come from: worked out at once, or behind the page."""

    def __call__(self, material: str, thickness_mm: float, data: CutInput, /) -> Found:
        """The layout of what is wanted of a material at a thickness."""

    def moved(self) -> frozenset[Cut]:
        """Of what the layouts have come further since they were asked for; told once."""


AT_ONCE_S = 0.5
"""So long is nested where somebody waits for it; behind the page it takes the time it needs."""


@lru_cache(maxsize=256)
def laid_out(data: CutInput) -> CutResult:
    """A layout worked out here and now."""
    return cut(data.model_copy(update={"seconds": min(data.seconds, AT_ONCE_S)}), seed=1, restarts=RESTARTS)


class AtOnce:
    """Layouts worked out at once."""

    def __call__(self, _material: str, _thickness_mm: float, data: CutInput, /) -> Found:
        return Found(laid_out(data))

    def moved(self) -> frozenset[Cut]:
        """None: nothing is under way."""
        return frozenset()


def flat_forms(material: Material, thickness_mm: float) -> tuple[StockForm, ...]:
    """The sheets and rolls a thickness is sold in."""
    return tuple(f for f in forms_at(material, thickness_mm) if f.form in FLAT and f.width_mm and f.length_mm)


OFFCUT = "offcut "
"""What the id of a rest begins with among stock; its number follows."""


NEARLY_A_BOX = 0.96
"""A piece that fills so much of the rectangle round it is laid as that rectangle: a notch is not worth a search."""
LEAST_HOLE_MM2 = 20_000.0
"""A hole smaller than this holds no other piece."""


def cut_input(
    material: Material, thickness_mm: float, wanted: list[Wanted], rests: tuple[Rest, ...] = (), habits: Habits = USUAL,
    across: bool = False,
) -> CutInput:
    """Pieces to lay on what a thickness is sold in; a stock's id is its form's, or a rest's number. ``across``: this material
    with knife and rule, whatever the workshop's habit is."""
    items = tuple(StockItem(id=f.id, width_mm=f.width_mm, length_mm=f.length_mm, roll=f.form == "roll",
                            sold_whole=f.sold_whole, price=f.price or 0.0) for f in flat_forms(material, thickness_mm))
    pieces = tuple(_cut_piece(Same(w)) for w in wanted)
    kept = tuple(StockItem(id=f"{OFFCUT}{r.id}", quantity=1, **_size_of(r)) for r in rests)
    return CutInput(stock=(*kept, *items), pieces=pieces, seconds=min(LONGEST_S, 3.0 + 0.2 * len(pieces)),
                    gap_mm=habits.gap_mm, across=across or habits.across, square=True)


LONGEST_S = 10.0


def _size_of(rest: Rest) -> dict[str, Any]:
    if rest.outline_mm:
        return {"outline_mm": rest.outline_mm}
    return {"width_mm": rest.width_mm, "length_mm": rest.length_mm}


@lru_cache(maxsize=2048)
def _cut_piece(of: Same[Wanted]) -> CutPiece:
    wanted = of.value
    x1, y1, x2, y2 = wanted.shape.bounds
    around = box(0.0, 0.0, round(x2 - x1, 2), round(y2 - y1, 2))
    if wanted.shape.area >= NEARLY_A_BOX * around.area:
        return CutPiece(id=wanted.label, outline_mm=rounded(around.exterior.coords), rotate=wanted.rotate)
    holes = tuple(rounded(h.coords) for h in wanted.shape.interiors if Polygon(h).area >= LEAST_HOLE_MM2)
    return CutPiece(id=wanted.label, outline_mm=rounded(wanted.shape.exterior.coords), holes_mm=holes, rotate=wanted.rotate,
                    mirror=wanted.mirror)


def _spare(units: int, share: float) -> int:
    return math.ceil(units * share - 1e-9) if units >= 5 else 0


OnHand = Callable[[StockForm], float | None]
"""How many units of a form the shelf has; None where nobody counted."""


def uncounted(_form: StockForm) -> None:
    """A shelf nobody counted."""


def buy_stock(
    material: Material, thickness: float, result: CutResult, older: bool = False, spare_share: float = SPARE_SHARE,
    on_hand: OnHand = uncounted,
) -> list[Buy]:
    """Per size sold: sheets in whole packs with their spare, or metres of a roll, less what the shelf has; what is bought is in
    the price and the weight."""
    forms = flat_forms(material, thickness)
    return [_buy_flat(material, thickness, form, used, older, spare_share, on_hand(form)) for form in forms
            if (used := [u for u in result.used if u.stock == form.id])]


def _buy_flat(
    material: Material, thickness: float, stock: StockForm, used: list[UsedStock], older: bool, spare_share: float,
    on_hand: float | None,
) -> Buy:
    kg_m2 = kg_per_m2(material, thickness)
    width, length = (stock.width_mm or 0.0) / 1e3, (stock.length_mm or 1.0) / 1e3
    several = len(flat_forms(material, thickness)) > 1
    size = f", {in_mm(stock.width_mm or 0.0, stock.length_mm or 0.0)}" if several and stock.form == "sheet" else (
        f", {in_mm(stock.width_mm or 0.0)} wide" if several else "")
    common = {"material": material.id, "thickness_mm": thickness, "name": f"{material.name}, {in_mm(thickness)}{size}",
              "supplier": stock.supplier, "order_number": stock.order_number, "older": older}
    if stock.form == "roll":
        metres = sum(u.length_used_mm for u in used) / 1e3
        there = min((on_hand or 0.0) * length, metres)
        step = math.ceil((metres - there) * 10 - 1e-6) / 10
        rolls = max(0, math.ceil(len(used) - (on_hand or 0.0) - 1e-9))
        bought = rolls * length if stock.sold_whole else step
        shelf = f"{of(there, 'm', '.1f')} on the shelf" if there > 0 else ""
        return Buy(**common, needed=f"{of(math.ceil(metres * 10 - 1e-6) / 10, 'm', '.1f')} of roll", spare=0, shelf=shelf,
                   units=rolls if stock.sold_whole else int(step > 0),
                   enough=(on_hand or 0.0) * length >= metres - 1e-9,
                   unit="roll" if stock.sold_whole else f"{of(step, 'm', '.1f')} of roll", kg=round(kg_m2 * bought * width, 1),
                   money=_money(stock.price, bought / length), stock_money=_money(stock.price, there / length) or 0.0)
    sheets, spare = len(used), _spare(sum(not _laid_whole(u, width * length) for u in used), spare_share)
    there = min(math.floor(on_hand or 0.0), sheets + spare)
    packs = math.ceil((sheets + spare - there) / stock.per_pack)
    return Buy(**common, needed=plural(sheets, "sheet"), units=packs, spare=packs * stock.per_pack + there - sheets,
               enough=(on_hand or 0.0) >= sheets,
               unit=_packed("sheet", stock), kg=round(kg_m2 * width * length * packs * stock.per_pack, 1),
               shelf=f"{there} on the shelf" if there else "", money=_money(stock.price, packs * stock.per_pack),
               stock_money=_money(stock.price, there) or 0.0)


def _laid_whole(used: UsedStock, stock_m2: float) -> bool:
    """Whether a sheet goes on as it is bought: nothing of it can be cut wrong."""
    return len(used.placements) == 1 and bool(
        shapely.polygons(used.placements[0].outline_mm).area / 1e6 >= NEARLY_WHOLE * stock_m2)


NEARLY_WHOLE = 0.995
OPENED = 1.2
"""Stock opened for each square metre of pieces, until it is laid out: a judgement."""


def buy_estimated(material: Material, thickness: float, pieces_m2: float, on_hand: OnHand = uncounted) -> Buy | None:
    """What pieces will take, by their area, until they are laid out; None of what is sold in no sheet or roll."""
    forms = [f for f in flat_forms(material, thickness) if area_m2(f)]
    if not forms:
        return None
    form = min(forms, key=lambda f: (f.price if f.price is not None else math.inf) / (area_m2(f) or 1.0))
    each = area_m2(form) or 1.0
    units = max(pieces_m2 * OPENED / each - (on_hand(form) or 0.0), 0.0)
    if form.form == "sheet" or form.sold_whole:
        units = math.ceil(units / form.per_pack - 1e-9) * form.per_pack
    return Buy(material=material.id, thickness_mm=thickness, name=f"{material.name}, {in_mm(thickness)}",
               needed=f"{of(pieces_m2, 'm²', '.1f')} of pieces", units=math.ceil(units), spare=0, unit=form.form,
               supplier=form.supplier,
               order_number=form.order_number, kg=round(kg_per_m2(material, thickness) * units * each, 1),
               money=_money(form.price, units), estimated=True, enough=(on_hand(form) or 0.0) * each >= pieces_m2 * OPENED)


def _money(price: float | None, units: float) -> float | None:
    return None if price is None else round(price * units, 2)


def _packed(one: str, stock: StockForm) -> str:
    return one if stock.per_pack == 1 else f"pack of {stock.per_pack}"


def buy_tins(material: Material, thickness: float, area_m2: float, on_hand: OnHand = uncounted) -> Buy | None:
    """Brushed and sprayed goods by the area a tin covers; a tin weighs what it covers. None where no tin is sold."""
    stock = form_at(material, thickness)
    if stock is None or stock.form != "piece" or not stock.covers_m:
        return None
    there = min(math.floor(on_hand(stock) or 0.0), math.ceil(area_m2 / stock.covers_m - 1e-9))
    packs = math.ceil((area_m2 / stock.covers_m - there) / stock.per_pack - 1e-9)
    tins = packs * stock.per_pack
    return Buy(material=material.id, thickness_mm=thickness, name=f"{material.name}, {in_mm(thickness)}",
               needed=of(area_m2, "m²", ".1f"), units=packs, spare=0, unit=_packed("tin", stock),
               kg=round(tins * kg_per_m2(material, thickness) * stock.covers_m, 1), money=_money(stock.price, tins),
               supplier=stock.supplier, order_number=stock.order_number, shelf=f"{there} on the shelf" if there else "",
               enough=packs <= 0, stock_money=_money(stock.price, there) or 0.0)


def buy_unsold(material: Material, thickness: float, area_m2: float) -> Buy:
    """What is laid and nobody is known to sell so thick: its area and weight stand, its price is unknown."""
    return Buy(material=material.id, thickness_mm=thickness, name=f"{material.name}, {in_mm(thickness)}",
               needed=of(area_m2, "m²", ".1f"), units=1, spare=0, unit="as found",
               kg=round(kg_per_m2(material, thickness) * area_m2, 1), money=None)




def buy_amount(material: Material, amount: float, on_hand: OnHand = uncounted) -> Buy:
    """Tape, seals, studs by the metre; glue and foam by the litre; screws, grilles, fans by the piece; in whole units and
    packs."""
    stock, unit = form_at(material, None) or StockForm(form="piece"), measure(material)
    each = goes_for(material, stock)
    wanted = amount * (LAPS if unit == "m" else 1.0)
    there = min(on_hand(stock) or 0.0, math.ceil(wanted / each - 1e-9))
    packs = math.ceil((wanted - there * each) / (each * stock.per_pack) - 1e-9)
    one = ("roll" if (stock.covers_m or 0) > 6 else "length") if stock.form == "length" else "unit" if unit else "piece"
    return Buy(material=material.id, thickness_mm=None, name=material.name,
               needed=of(amount, unit, ".1f") if unit else plural(math.ceil(amount), "piece"), units=packs, spare=0,
               unit=_packed(one, stock), kg=round(packs * stock.per_pack * (stock.kg or 0.0), 1),
               money=_money(stock.price, packs * stock.per_pack), supplier=stock.supplier, order_number=stock.order_number,
               shelf=f"{there:g} on the shelf" if there else "", stock_money=_money(stock.price, there) or 0.0)
