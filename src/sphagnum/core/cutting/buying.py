"""From rectangles wanted to a line of the buying list: packs, spare, rolls, price and weight."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

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


class Wanted(NamedTuple):
    """A rectangle wanted of a material."""

    label: str
    width: float
    height: float
    rotate: str


@lru_cache(maxsize=256)
def laid_out(data: CutInput) -> CutResult:
    return cut(data, seed=1, restarts=RESTARTS)


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


def buy_stock(material: Material, thickness: float, result: CutResult) -> Buy:
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
                   kg=round(kg_m2 * bought * width, 1), money=round(stock.price * bought / length, 2))
    sheets = len(result.used)
    spare = _spare(sheets)
    packs = math.ceil((sheets + spare) / stock.per_pack)
    area = (stock.width_mm or 0.0) * (stock.length_mm or 0.0) / 1e6
    unit = "sheet" if stock.per_pack == 1 else f"pack of {stock.per_pack}"
    return Buy(material=material.id, thickness_mm=thickness, name=name, needed=plural(sheets, "sheet"),
               units=packs, spare=packs * stock.per_pack - sheets, unit=unit,
               kg=round(kg_m2 * area * packs * stock.per_pack, 1),
               money=round(stock.price * packs * stock.per_pack, 2))


def buy_length(material: Material, metres: float) -> Buy:
    each = (material.stock.covers_m or 1.0) * material.stock.per_pack
    units = math.ceil(metres * 1.1 / each - 1e-9)  # a tenth for laps and waste
    word = {"length": "roll", "piece": "unit"}.get(material.stock.form, "unit")
    return Buy(material=material.id, thickness_mm=None, name=material.name, needed=f"{metres:.1f} m", units=units, spare=0,
               unit=word if material.stock.per_pack == 1 else f"pack of {material.stock.per_pack}", kg=0.0,
               money=round(units * material.stock.per_pack * material.stock.price, 2))
