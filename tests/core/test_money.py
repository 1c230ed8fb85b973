"""Weight, money and hours worked out by hand: of what is laid, of what comes off, and of every way goods are sold."""

from __future__ import annotations

from typing import Any

import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.buying import buy_length, buy_stock
from sphagnum.core.cutting.model import CutResult, UsedStock
from sphagnum.core.cutting.stock import first_thickness_mm, stock_price_m2, tin_m2
from sphagnum.core.figures.loads import added_load, load_of
from sphagnum.core.materials.model import Material
from sphagnum.core.schema import parse
from sphagnum.core.surfaces.rows import Surface


def material(**stock: Any) -> Material:
    """A mat of 1200 kg/m³, sold as said."""
    return parse(Material, {"id": "mat", "name": "Mat", "family": "limp", "roles": ("barrier",), "thicknesses_mm": (2.5, 5.0),
                            "properties": {"density_kg_m3": 1200.0}, "stock": stock})


def opened(*lengths_mm: float) -> CutResult:
    used = tuple(UsedStock(stock="mat", number=i, length_used_mm=mm, placements=()) for i, mm in enumerate(lengths_mm, start=1))
    return CutResult(used=used, unplaced=(), piece_area_m2=0, stock_area_m2=0, utilisation=0, price=0, area_bound_price=None,
                     offcuts=())


# sheets of 0.5 × 0.8 m at 12, 5 mm: 6 kg/m², 2.4 kg each; one spare in twenty, from five on
@pytest.mark.parametrize(("sheets", "per_pack", "units", "spare", "unit", "kg", "money"), [
    (4, 1, 4, 0, "sheet", 9.6, 48.0), (5, 1, 6, 1, "sheet", 14.4, 72.0), (20, 1, 21, 1, "sheet", 50.4, 252.0),
    (21, 1, 23, 2, "sheet", 55.2, 276.0), (5, 4, 2, 3, "pack of 4", 19.2, 96.0), (8, 4, 3, 4, "pack of 4", 28.8, 144.0),
])
def test_sheets_are_bought_in_whole_packs_with_their_spare(sheets, per_pack, units, spare, unit, kg, money):
    sold = material(form="sheet", width_mm=500.0, length_mm=800.0, per_pack=per_pack, price=12.0)
    line = buy_stock(sold, 5.0, opened(*[800.0] * sheets))
    assert (line.units, line.spare, line.unit, line.kg, line.money) == (units, spare, unit, kg, money)
    assert (line.needed, line.name, line.older) == (f"{sheets} sheets", "Mat, 5 mm", False)


# a roll of 1.2 × 6 m at 168: 28 a metre; 2.5 mm weighs 3 kg/m², 3.6 kg a metre
@pytest.mark.parametrize(("whole", "lengths", "units", "unit", "kg", "money"), [
    (False, (2500.0,), 1, "2.5 m of roll", 9.0, 70.0), (False, (2510.0,), 1, "2.6 m of roll", 9.4, 72.8),
    (False, (6000.0, 310.0), 1, "6.4 m of roll", 23.0, 179.2), (True, (2500.0,), 1, "roll", 21.6, 168.0),
    (True, (6000.0, 310.0), 2, "roll", 43.2, 336.0),
])
def test_rolls_are_bought_by_tenths_of_a_metre_or_whole(whole, lengths, units, unit, kg, money):
    sold = material(form="roll", width_mm=1200.0, length_mm=6000.0, price=168.0, sold_whole=whole)
    line = buy_stock(sold, 2.5, opened(*lengths), older=True)
    assert (line.units, line.spare, line.unit, line.kg, line.money, line.older) == (units, 0, unit, kg, money, True)


# tape of 25 m at 9.80 a roll; a tenth goes on laps and waste
@pytest.mark.parametrize(("metres", "per_pack", "units", "money", "unit"), [
    (22.7, 1, 1, 9.8, "roll"), (22.8, 1, 2, 19.6, "roll"), (46.0, 2, 2, 39.2, "pack of 2"),
])
def test_lines_are_bought_with_a_tenth_for_laps(metres, per_pack, units, money, unit):
    line = buy_length(material(form="length", covers_m=25.0, per_pack=per_pack, price=9.8), metres)
    assert (line.units, line.money, line.unit, line.needed) == (units, money, unit, f"{metres:.1f} m")


def test_price_per_area_and_what_a_tin_covers():
    assert stock_price_m2(material(form="sheet", width_mm=500.0, length_mm=800.0, price=12.0)) == 30.0
    assert stock_price_m2(material(form="piece", covers_m=2.0, price=34.0)) == 0.0
    assert tin_m2(material(form="piece", covers_m=2.0, price=34.0), 5.0) == 1.0  # two square metres at 2.5 mm
    assert first_thickness_mm(material(form="none")) == 2.5


def test_what_a_stack_weighs_costs_and_takes_less_what_comes_off():
    """A panel of 1 × 0.5 m, two of them, 0.1 × 0.1 m of it kept clear: 0.49 m² each, 3 m round."""
    surface = parse(Surface, {
        "id": 1, "version": 1, "name": "Lid", "count": 2, "outline_mm": [[0, 0], [1000, 0], [1000, 500], [0, 500]],
        "substrate": {"material": "steel", "thickness_mm": 0.8}, "present": [{"material": "wool-felt", "thickness_mm": 10.0}],
        "keep_clear": [{"kind": "drain", "x_mm": 300, "y_mm": 200, "width_mm": 100, "height_mm": 100, "margin_mm": 0}]})
    planned = [("brushed-damping", 2.0, 0.5), ("vinyl-5", 2.5, 1.0), ("seam-tape", 1.0, 1.0)]
    layers = tuple(surface.substrate.model_copy(update={"material": m, "thickness_mm": t, "coverage": c}) for m, t, c in planned)
    goods = shelf().materials
    area = {"brushed-damping": 0.245, "vinyl-5": 0.49}
    kg = sum(area[m] * t / 1e3 * goods[m].properties.density_kg_m3 for m, t, _ in planned[:2])
    # a tin covers 2 m² at 1 mm, so 1 m² at 2 mm; vinyl 168 for 1.22 × 6 m; tape 9.80 for 25 m
    money = 34 * 0.245 / 1 + 168 / (1.22 * 6) * 0.49 + 9.8 * 3 / 25
    minutes = 30 * 0.245 + 30 * 0.49 + 6 * 3 / 4
    found = load_of(surface, layers, shelf())
    assert (found.kg, found.money, found.hours) == pytest.approx((2 * kg, 2 * money, 2 * minutes / 60))
    off = 0.49 * 0.01 * goods["wool-felt"].properties.density_kg_m3
    less = added_load(surface, layers, shelf())
    assert (less.kg, less.money, less.hours) == pytest.approx((2 * (kg - off), found.money, found.hours))
    scant = surface.model_copy(update={"present": tuple(x.model_copy(update={"coverage": 0.4}) for x in surface.present)})
    assert added_load(scant, layers, shelf()).kg == pytest.approx(2 * (kg - 0.4 * off))
