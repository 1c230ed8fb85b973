"""Weight, money and hours worked out by hand: of what is laid, of what comes off, and of every way goods are sold."""

from __future__ import annotations

from typing import Any

import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.buying import buy_amount, buy_stock, buy_tins, buy_unsold, flat_forms
from sphagnum.core.cutting.model import CutResult, UsedStock
from sphagnum.core.cutting.stock import first_thickness_mm, price_m, price_m2
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.loads import added_load, beside_load, goods_for, load_of
from sphagnum.core.job.document import Job, JobDocument
from sphagnum.core.materials.model import Material
from sphagnum.core.schema import parse
from sphagnum.core.stages.build.layers import lines_of
from sphagnum.core.stages.cut.bought import amounts_bought
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.stages.fit.view import order
from sphagnum.core.stages.plan.costs import layer_cost
from sphagnum.core.surfaces.patches import patches
from sphagnum.core.surfaces.rows import Alternative, Surface
from sphagnum.core.worded import worded


def material(**stock: Any) -> Material:
    """A mat of 1200 kg/m³, sold as said."""
    return parse(Material, {"id": "mat", "name": "Mat", "family": "limp", "roles": ("barrier",), "thicknesses_mm": (2.5, 5.0),
                            "properties": {"density_kg_m3": 1200.0},
                            "stock": {"form": "none", **stock}})


def opened(sold: Material, thickness_mm: float, *lengths_mm: float) -> CutResult:
    stock = flat_forms(sold, thickness_mm)[0].id
    used = tuple(UsedStock(stock=stock, number=i, length_used_mm=mm, placements=()) for i, mm in enumerate(lengths_mm, start=1))
    return CutResult(used=used, unplaced=(), piece_area_m2=0, stock_area_m2=0, utilisation=0, price=0, area_bound_price=None,
                     offcuts=())


# sheets of 0.5 × 0.8 m at 12, 5 mm: 6 kg/m², 2.4 kg each; one spare in twenty, from five on
@pytest.mark.parametrize(("sheets", "per_pack", "units", "spare", "unit", "kg", "money"), [
    (4, 1, 4, 0, "sheet", 9.6, 48.0), (5, 1, 6, 1, "sheet", 14.4, 72.0), (20, 1, 21, 1, "sheet", 50.4, 252.0),
    (21, 1, 23, 2, "sheet", 55.2, 276.0), (5, 4, 2, 3, "pack of 4", 19.2, 96.0), (8, 4, 3, 4, "pack of 4", 28.8, 144.0),
])
def test_sheets_are_bought_in_whole_packs_with_their_spare(sheets, per_pack, units, spare, unit, kg, money):
    sold = material(form="sheet", width_mm=500.0, length_mm=800.0, per_pack=per_pack, price=12.0)
    (line,) = buy_stock(sold, 5.0, opened(sold, 5.0, *[800.0] * sheets))
    assert (line.units, line.spare, worded(line.unit, "metric"), line.kg, line.money) == (units, spare, unit, kg, money)
    assert (line.needed, worded(line.name, "metric"), line.older) == (f"{sheets} sheets", "Mat, 5 mm", False)


# a roll of 1.2 × 6 m at 168: 28 a metre; 2.5 mm weighs 3 kg/m², 3.6 kg a metre
@pytest.mark.parametrize(("whole", "lengths", "units", "unit", "kg", "money"), [
    (False, (2500.0,), 1, "2.5 m of roll", 9.0, 70.0), (False, (2510.0,), 1, "2.6 m of roll", 9.4, 72.8),
    (False, (6000.0, 310.0), 1, "6.4 m of roll", 23.0, 179.2), (True, (2500.0,), 1, "roll", 21.6, 168.0),
    (True, (6000.0, 310.0), 2, "roll", 43.2, 336.0),
])
def test_rolls_are_bought_by_tenths_of_a_metre_or_whole(whole, lengths, units, unit, kg, money):
    sold = material(form="roll", width_mm=1200.0, length_mm=6000.0, price=168.0, sold_whole=whole)
    (line,) = buy_stock(sold, 2.5, opened(sold, 2.5, *lengths), older=True)
    told = worded(line.unit, "metric")
    assert (line.units, line.spare, told, line.kg, line.money, line.older) == (units, 0, unit, kg, money, True)


# tape of 25 m at 9.80 a roll; a tenth goes on laps and waste
@pytest.mark.parametrize(("metres", "per_pack", "units", "money", "unit"), [
    (22.7, 1, 1, 9.8, "roll"), (22.8, 1, 2, 19.6, "roll"), (46.0, 2, 2, 39.2, "pack of 2"),
])
def test_lines_are_bought_with_a_tenth_for_laps(metres, per_pack, units, money, unit):
    line = buy_amount(material(form="length", covers_m=25.0, per_pack=per_pack, price=9.8), metres)
    assert (line.units, line.money, line.unit, worded(line.needed, "metric")) == (units, money, unit, f"{metres:.1f} m")


def test_price_per_area_and_what_a_tin_covers():
    assert price_m2(material(form="sheet", width_mm=500.0, length_mm=800.0, price=12.0), 2.5) == 30.0
    tin = material(form="piece", covers_m=2.0, price=34.0)  # two square metres at 2.5 mm, so one at 5
    assert (price_m2(tin, 2.5), price_m2(tin, 5.0)) == (17.0, 34.0)
    line = buy_tins(tin, 5.0, 3.2)
    assert line is not None
    assert (line.units, line.kg, line.money, worded(line.needed, "metric")) == (4, 24.0, 136.0, "3.2 m²")
    assert price_m2(material(form="sheet", width_mm=500.0, length_mm=800.0, price=12.0), 4.0) is None
    unsold = buy_unsold(material(), 4.0, 2.0)
    assert (unsold.kg, unsold.money, worded(unsold.needed, "metric")) == (9.6, None, "2.0 m²")
    assert first_thickness_mm(material()) == 2.5


def test_what_a_stack_weighs_costs_and_takes_less_what_comes_off():
    """A panel of 1 × 0.5 m, two of them, 0.1 × 0.1 m of it kept clear: 0.49 m² each, 3 m round."""
    surface = parse(Surface, {
        "id": 1, "version": 1, "name": "Lid", "count": 2, "outline_mm": [[0, 0], [1000, 0], [1000, 500], [0, 500]],
        "substrate": {"material": "steel", "thickness_mm": 0.8}, "present": [{"material": "wool-felt", "thickness_mm": 10.0}],
        "keep_clear": [{"kind": "drain", "x_mm": 300, "y_mm": 200, "width_mm": 100, "height_mm": 100, "margin_mm": 0}]})
    planned = [("brushed-damping", 2.0, 0.5), ("vinyl-5", 2.5, 1.0), ("seam-tape", 1.0, 1.0)]
    layers = tuple(surface.substrate.model_copy(update={"id": m, "material": m, "thickness_mm": t, "coverage": c})
                   for m, t, c in planned)
    goods = shelf().materials
    area = {"brushed-damping": 0.245, "vinyl-5": 0.49}
    kg = sum(area[m] * t / 1e3 * goods[m].properties.density_kg_m3 for m, t, _ in planned[:2]) + 0.9 * 3 / 25
    # a tin covers 2 m² at 1 mm, so 1 m² at 2 mm; vinyl 168 for 1.22 × 6 m; tape 9.80 for 25 m
    money = 34 * 0.245 / 1 + 168 / (1.22 * 6) * 0.49 + 9.8 * 3 / 25
    minutes = 30 * 0.245 + 30 * 0.49 + 6 * 3 / 4
    found = load_of(surface, layers, shelf())
    assert (found.kg, found.money, found.hours) == pytest.approx((2 * kg, 2 * money, 2 * minutes / 60))
    # what stands lies on the whole panel; taken out, its weight goes off
    off = 0.5 * 0.01 * goods["wool-felt"].properties.density_kg_m3

    def added(takes_out: tuple[str, ...], panel: Surface = surface) -> Any:
        doc = JobDocument(job=parse(Job, {"id": 1, "version": 1, "name": "Lid"}), surfaces=(panel,))
        one = Alternative(id=1, version=1, surface_id=1, layers=layers, takes_out=takes_out)
        return added_load(doc, patches(panel)[0], one, shelf())

    glue = 2 * 0.15 * 0.49  # litres that hold the vinyl, two coats; 0.9 kg and 14 each, a quarter of it stays
    assert added(()).kg == pytest.approx(2 * (kg + 0.9 / 4 * glue))
    assert added(("1",)) == (pytest.approx(2 * (kg + 0.9 / 4 * glue - off)), pytest.approx(found.money + 2 * 14 * glue),
                             found.hours, frozenset())
    scant = surface.model_copy(update={"present": tuple(x.model_copy(update={"coverage": 0.4}) for x in surface.present)})
    assert added(("1",), scant).kg == pytest.approx(2 * (kg + 0.9 / 4 * glue - 0.4 * off))


def test_a_wall_that_is_planned_is_priced_with_its_boards_studs_and_screws():
    """3 × 2.5 m of gypsum boards on light steel studs 600 mm apart, wool between, a second board on compound."""
    wall = parse(Surface, {
        "id": 1, "version": 1, "name": "Wall", "outline_mm": [[0, 0], [3000, 0], [3000, 2500], [0, 2500]], "planned": True,
        "substrate": {"material": "gypsum-board", "thickness_mm": 12.5}})
    one = parse(Alternative, {"id": 1, "version": 1, "surface_id": 1, "layers": [
        {"id": "1", "material": "air-gap", "thickness_mm": 25.0, "tie": {"kind": "light-steel-studs", "spacing_mm": 600.0}},
        {"id": "2", "material": "stone-wool", "thickness_mm": 50.0},
        {"id": "3", "material": "gypsum-board", "thickness_mm": 12.5},
        {"id": "4", "material": "gypsum-board", "thickness_mm": 12.5, "joined": "compound"}]})
    itself = parse(Job, {"id": 1, "version": 1, "name": "Wall", "kind": "room"})
    doc = JobDocument(job=itself, surfaces=(wall,), alternatives=(one,))
    goods = {g.material: g.amount for g in goods_for(patches(wall)[0], one, shelf())}
    # studs at 0, 600 … 3000: six of 2.5 m; rails at foot and head; 25 screws a square metre of each of three boards
    assert goods == {"steel-stud": pytest.approx(15.0), "steel-track": pytest.approx(6.0),
                     "drywall-screw": pytest.approx(3 * 25 * 7.5), "damping-compound": pytest.approx(0.55 * 7.5)}
    load = added_load(doc, patches(wall)[0], one, shelf())
    boards, wool = 3 * 7.5 * 0.0125 * 690, 7.5 * 0.05 * 45
    metal = 15 * 1.7 / 2.6 + 6 * 1.8 / 3 + 562.5 * 0.0021 + 4.125 * 1.3
    assert load.kg == pytest.approx(boards + wool + metal)
    bought = {b.material: b for b in cut_view(JobFigures(doc, shelf()), None).buy}
    assert (bought["gypsum-board"].units, bought["gypsum-board"].money) == (8, 84.8)  # three layers of two boards and a half
    assert (bought["steel-stud"].units, bought["steel-stud"].unit) == (7, "length")  # 16.5 m with a tenth for waste
    assert (bought["drywall-screw"].unit, bought["drywall-screw"].money) == ("pack of 500", 21.0)
    assert not load.unpriced


def test_tape_goes_by_the_seam_glue_by_area_and_coats_and_foam_by_the_void_it_fills():
    """2 × 1.5 m: vinyl of a roll 1.22 m wide is joined once, across; glued on both faces, the felt in three coats."""
    panel = parse(Surface, {"id": 1, "version": 1, "name": "Side", "outline_mm": [[0, 0], [2000, 0], [2000, 1500], [0, 1500]],
                            "substrate": {"material": "steel", "thickness_mm": 0.8}})
    one = parse(Alternative, {"id": 1, "version": 1, "surface_id": 1, "layers": [
        {"id": "v", "material": "vinyl-5", "thickness_mm": 2.5}, {"id": "t", "material": "seam-tape", "thickness_mm": 1.0},
        {"id": "f", "material": "wool-felt", "thickness_mm": 10.0, "held": "spray glue"},
        {"id": "b", "material": "bulb-seal", "thickness_mm": 1.0},
        {"id": "s", "material": "soft-void-foam", "thickness_mm": 40.0, "coverage": 0.1}]})
    job = JobFigures(JobDocument(job=parse(Job, {"id": 1, "version": 1, "name": "Van"}), surfaces=(panel,), alternatives=(one,)),
                     shelf())
    bought = {b.material: (worded(b.needed, "metric"), b.units) for b in amounts_bought(job)}
    # 7 m round it, and 1.5 m of seam; 0.15 l/m² on two faces; 0.08 l/m² in three coats, from cans of half a litre;
    # 40 mm under a tenth of 3 m² are 12 l, of which a can of 0.75 l gives 7.5
    assert bought == {"seam-tape": ("8.5 m", 1), "bulb-seal": ("7.0 m", 1), "contact-glue": ("0.9 l", 1),
                      "spray-glue": ("0.7 l", 2), "soft-void-foam": ("12.0 l", 2)}
    patch = patches(panel)[0]
    assert {n: worded(said, "metric") for n, said in lines_of(patch, one.layers, job.shelf, False).items()} == {
        "t": "8.5 m, seams and all round", "b": "7.0 m all round", "s": "12.0 l of foam"}
    steps = {s.ref.layer: s for s in order(job).steps if s.phase in ("apply", "seal")}
    assert "along the seams and round the side: 8.5 m" in worded(steps["t"].text, "metric")
    assert steps["t"].minutes == pytest.approx(1.5 * 8.5)
    assert list(steps) == ["v", "t", "f", "b", "s"]  # the tape goes on before what covers it
    assert any("respirator" in h for h in steps["v"].hazards)  # what it is glued with
    # Build, Fit and the plan speak of the same hours and money
    costs = [layer_cost(job, patch, one.layers, k) for k in range(5)]
    assert costs[1].money == pytest.approx(9.8 * 8.5 * 1.1 / 25)
    assert costs[1].hours == pytest.approx(1.5 * 8.5 / 60 * 65 / 60)  # five minutes of every hour go on around it
    assert costs[4].money == pytest.approx(11.5 * 12 / 7.5)


def test_a_rattles_cure_costs_by_the_metre_until_it_is_done():
    known = shelf()
    cure = next(c for c in known.offers.cures if c.metres != 1.0 and price_m(known.materials[c.material]))
    open_one = {"id": 1, "version": 1, "kind": cure.kinds[0], "place": "Shelf behind the seat", "cure": cure.id}
    body = {"job": {"id": 1, "version": 1, "name": "Rattles"}, "rattles": [open_one, {**open_one, "id": 2, "done": True}]}
    found = beside_load(JobFigures(parse(JobDocument, body), known))
    assert found.money == pytest.approx(price_m(known.materials[cure.material]) * cure.metres)
    assert (found.kg, found.hours) == (0.0, 0.0)
