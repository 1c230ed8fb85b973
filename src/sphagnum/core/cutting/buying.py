"""From rectangles wanted to a line of the buying list: packs, spare, rolls, price and weight."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple, Protocol

from ..materials.model import Material, StockForm, kg_per_m2
from ..schema import Strict
from ..words import plural
from .layout import cut
from .model import CutInput, CutPiece, CutResult, StockItem, UsedStock
from .stock import FLAT, form_at, forms_at

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
    supplier: str = ""
    order_number: str = ""
    older: bool = False
    """Whether it is of a layout from before the last change; the new one is under way."""


class Wanted(NamedTuple):
    """A rectangle wanted of a material."""

    label: str
    width: float
    height: float
    rotate: str


class Rest(Protocol):
    """An offcut that is kept: its number and its rectangle, mm."""

    @property
    def id(self) -> int: ...
    @property
    def width_mm(self) -> float: ...
    @property
    def length_mm(self) -> float: ...


class Found(NamedTuple):
    """A layout that was asked for: the best there is, what is still under way (by its key), else an older one."""

    result: CutResult | None
    work: str = ""
    older: CutResult | None = None


class Layouts(Protocol):
    """Where layouts come from: worked out at once, or behind the page."""

    def __call__(self, material: str, thickness_mm: float, data: CutInput, /) -> Found:
        """The layout of what is wanted of a material at a thickness."""

    def moved(self) -> bool:
        """Whether anything that was under way has come further since it was asked for."""


@lru_cache(maxsize=256)
def laid_out(data: CutInput) -> CutResult:
    """A layout worked out here and now."""
    return cut(data, seed=1, restarts=RESTARTS)


class AtOnce:
    """Layouts worked out at once."""

    def __call__(self, _material: str, _thickness_mm: float, data: CutInput, /) -> Found:
        return Found(laid_out(data))

    def moved(self) -> bool:
        """Never: nothing is under way."""
        return False


def flat_forms(material: Material, thickness_mm: float) -> tuple[StockForm, ...]:
    """The sheets and rolls a thickness is sold in."""
    return tuple(f for f in forms_at(material, thickness_mm) if f.form in FLAT and f.width_mm and f.length_mm)


OFFCUT = "offcut "
"""What the id of a rest begins with among stock; its number follows."""


def cut_input(material: Material, thickness_mm: float, rects: list[Wanted], rests: tuple[Rest, ...] = ()) -> CutInput:
    """Rectangles to lay on what a thickness is sold in; a stock's id is its place among ``flat_forms``, or a rest's number."""
    items = tuple(StockItem(id=str(i), width_mm=f.width_mm, length_mm=f.length_mm, roll=f.form == "roll",
                            sold_whole=f.sold_whole, price=f.price or 0.0)
                  for i, f in enumerate(flat_forms(material, thickness_mm)))
    pieces = tuple(
        CutPiece(id=str(i), outline_mm=((0, 0), (r.width, 0), (r.width, r.height), (0, r.height)), rotate=r.rotate)
        for i, r in enumerate(rects)
    )
    kept = tuple(StockItem(id=f"{OFFCUT}{r.id}", width_mm=r.width_mm, length_mm=r.length_mm, quantity=1)
                 for r in rests)
    return CutInput(stock=(*kept, *items), pieces=pieces, seconds=5.0)


def _spare(units: int, share: float) -> int:
    return math.ceil(units * share - 1e-9) if units >= 5 else 0


def buy_stock(
    material: Material, thickness: float, result: CutResult, older: bool = False, spare_share: float = SPARE_SHARE
) -> list[Buy]:
    """Per size sold: sheets in whole packs with their spare, or metres of a roll; all of it in the price and the weight."""
    forms = flat_forms(material, thickness)
    return [_buy_flat(material, thickness, form, used, older, spare_share) for i, form in enumerate(forms)
            if (used := [u for u in result.used if u.stock == str(i)])]


def _buy_flat(
    material: Material, thickness: float, stock: StockForm, used: list[UsedStock], older: bool, spare_share: float
) -> Buy:
    kg_m2 = kg_per_m2(material, thickness)
    width, length = (stock.width_mm or 0.0) / 1e3, (stock.length_mm or 1.0) / 1e3
    several = len(flat_forms(material, thickness)) > 1
    size = f", {stock.width_mm:g} × {stock.length_mm:g} mm" if several and stock.form == "sheet" else (
        f", {stock.width_mm:g} mm wide" if several else "")
    common = {"material": material.id, "thickness_mm": thickness, "name": f"{material.name}, {thickness:g} mm{size}",
              "supplier": stock.supplier, "order_number": stock.order_number, "older": older}
    if stock.form == "roll":
        metres = sum(u.length_used_mm for u in used) / 1e3
        step = math.ceil(metres * 10 - 1e-6) / 10
        rolls = len(used)
        bought = rolls * length if stock.sold_whole else step
        return Buy(**common, needed=f"{step:.1f} m of roll", units=rolls if stock.sold_whole else 1, spare=0,
                   unit="roll" if stock.sold_whole else f"{step:.1f} m of roll", kg=round(kg_m2 * bought * width, 1),
                   money=_money(stock.price, bought / length))
    sheets = len(used)
    packs = math.ceil((sheets + _spare(sheets, spare_share)) / stock.per_pack)
    return Buy(**common, needed=plural(sheets, "sheet"), units=packs, spare=packs * stock.per_pack - sheets,
               unit=_packed("sheet", stock), kg=round(kg_m2 * width * length * packs * stock.per_pack, 1),
               money=_money(stock.price, packs * stock.per_pack))


def _money(price: float | None, units: float) -> float | None:
    return None if price is None else round(price * units, 2)


def _packed(one: str, stock: StockForm) -> str:
    return one if stock.per_pack == 1 else f"pack of {stock.per_pack}"


def buy_tins(material: Material, thickness: float, area_m2: float) -> Buy | None:
    """Brushed and sprayed goods by the area a tin covers; a tin weighs what it covers. None where no tin is sold."""
    stock = form_at(material, thickness)
    if stock is None or stock.form != "piece" or not stock.covers_m:
        return None
    packs = math.ceil(area_m2 / stock.covers_m / stock.per_pack - 1e-9)
    tins = packs * stock.per_pack
    return Buy(material=material.id, thickness_mm=thickness, name=f"{material.name}, {thickness:g} mm",
               needed=f"{area_m2:.1f} m²", units=packs, spare=0, unit=_packed("tin", stock),
               kg=round(tins * kg_per_m2(material, thickness) * stock.covers_m, 1), money=_money(stock.price, tins),
               supplier=stock.supplier, order_number=stock.order_number)


def buy_unsold(material: Material, thickness: float, area_m2: float) -> Buy:
    """What is laid and nobody is known to sell so thick: its area and weight stand, its price is unknown."""
    return Buy(material=material.id, thickness_mm=thickness, name=f"{material.name}, {thickness:g} mm",
               needed=f"{area_m2:.1f} m²", units=1, spare=0, unit="as found",
               kg=round(kg_per_m2(material, thickness) * area_m2, 1), money=None)


LAPS = 1.1
"""A tenth more for laps and waste of what is laid by the metre."""


def buy_amount(material: Material, amount: float) -> Buy:
    """Tape, seals, studs by the metre; screws, grilles, fans by the piece (``amount`` of them), in whole units and packs."""
    stock = form_at(material, None) or StockForm(form="piece")
    by_metre = stock.form == "length" or stock.covers_m is not None
    each = (stock.covers_m or 1.0) * stock.per_pack
    packs = math.ceil(amount * (LAPS if by_metre else 1.0) / each - 1e-9)
    one = ("roll" if (stock.covers_m or 0) > 6 else "length") if stock.form == "length" else "unit" if by_metre else "piece"
    return Buy(material=material.id, thickness_mm=None, name=material.name,
               needed=f"{amount:.1f} m" if by_metre else plural(math.ceil(amount), "piece"), units=packs, spare=0,
               unit=_packed(one, stock), kg=round(packs * stock.per_pack * (stock.kg or 0.0), 1),
               money=_money(stock.price, packs * stock.per_pack), supplier=stock.supplier, order_number=stock.order_number)
