"""From rectangles wanted to a line of the buying list: packs, spare, rolls, price and weight."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple, Protocol

from ..materials.model import Material, to_layer
from ..materials.table import layer_mass
from ..schema import Strict
from ..words import plural
from .layout import cut
from .model import CutInput, CutPiece, CutResult, StockItem

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
    money: float
    older: bool = False
    """Whether it is of a layout from before the last change; the new one is under way."""


class Wanted(NamedTuple):
    """A rectangle wanted of a material."""

    label: str
    width: float
    height: float
    rotate: str


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


def cut_input(material: Material, rects: list[Wanted]) -> CutInput:
    stock = material.stock
    item = StockItem(id=material.id, width_mm=stock.width_mm, length_mm=stock.length_mm, roll=stock.form == "roll",
                     sold_whole=stock.sold_whole, price=stock.price)
    pieces = tuple(
        CutPiece(id=str(i), outline_mm=((0, 0), (r.width, 0), (r.width, r.height), (0, r.height)), rotate=r.rotate)
        for i, r in enumerate(rects)
    )
    return CutInput(stock=(item,), pieces=pieces, seconds=5.0)


def _spare(units: int) -> int:
    return math.ceil(units * SPARE_SHARE) if units >= 5 else 0


def buy_stock(material: Material, thickness: float, result: CutResult, older: bool = False) -> Buy:
    """Sheets in whole packs with their spare, or metres of a roll; all of it in the price and the weight."""
    stock = material.stock
    kg_m2 = layer_mass(to_layer(material, thickness))
    name = f"{material.name}, {thickness:g} mm"
    if stock.form == "roll":
        metres = sum(u.length_used_mm for u in result.used) / 1e3
        step = math.ceil(metres * 10 - 1e-6) / 10
        rolls = len(result.used)
        width, length = (stock.width_mm or 0.0) / 1e3, (stock.length_mm or 1.0) / 1e3
        bought = rolls * length if stock.sold_whole else step
        words = plural(rolls, "roll") if stock.sold_whole else f"{step:.1f} m of roll"
        return Buy(material=material.id, thickness_mm=thickness, name=name, needed=f"{step:.1f} m of roll",
                   units=rolls if stock.sold_whole else 1, spare=0, unit="roll" if stock.sold_whole else words,
                   kg=round(kg_m2 * bought * width, 1), money=round(stock.price * bought / length, 2), older=older)
    sheets = len(result.used)
    spare = _spare(sheets)
    packs = math.ceil((sheets + spare) / stock.per_pack)
    area = (stock.width_mm or 0.0) * (stock.length_mm or 0.0) / 1e6
    unit = "sheet" if stock.per_pack == 1 else f"pack of {stock.per_pack}"
    return Buy(material=material.id, thickness_mm=thickness, name=name, needed=plural(sheets, "sheet"),
               units=packs, spare=packs * stock.per_pack - sheets, unit=unit,
               kg=round(kg_m2 * area * packs * stock.per_pack, 1),
               money=round(stock.price * packs * stock.per_pack, 2), older=older)


def buy_length(material: Material, metres: float) -> Buy:
    each = (material.stock.covers_m or 1.0) * material.stock.per_pack
    units = math.ceil(metres * 1.1 / each - 1e-9)  # a tenth for laps and waste
    word = {"length": "roll", "piece": "unit"}.get(material.stock.form, "unit")
    return Buy(material=material.id, thickness_mm=None, name=material.name, needed=f"{metres:.1f} m", units=units, spare=0,
               unit=word if material.stock.per_pack == 1 else f"pack of {material.stock.per_pack}", kg=0.0,
               money=round(units * material.stock.per_pack * material.stock.price, 2))
