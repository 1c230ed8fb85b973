"""How a tradesman lays boards: whole first, the last trimmed, joints off the first layer's, square to the stock, no strips."""

from __future__ import annotations

from typing import Any

import pytest
from shapely import Point, Polygon, union_all

from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting import layout
from sphagnum.core.cutting.layout import cut
from sphagnum.core.cutting.model import CutInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.loads import added_load, beside_load, job_load
from sphagnum.core.job.document import JobDocument
from sphagnum.core.paths.enclosure import HoodIn, hood
from sphagnum.core.schema import parse
from sphagnum.core.stages.cut.model import CutView
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.stages.plan.unit import measure_cost
from sphagnum.core.worded import worded
from sphagnum.demo import van

WOOL, BOARD = {"material": "stone-wool", "thickness_mm": 50.0}, {"material": "gypsum-board", "thickness_mm": 12.5}


def wall(*layers: dict[str, Any], width: int = 4000, height: int = 2500, flags: tuple[str, ...] = (), **more: Any) -> CutView:
    outline = [[0, 0], [width, 0], [width, height], [0, height]]
    doc = parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "j", "kind": "room"},
        "surfaces": [{"id": 1, "version": 1, "name": "Wall", "outline_mm": outline, "flags": flags,
                      "substrate": {"material": "steel", "thickness_mm": 0.8}}],
        "alternatives": [{"id": 1, "version": 1, "surface_id": 1, "layers": list(layers)}], **more})
    return cut_view(JobFigures(doc, shelf()), None)


def widths(view: CutView, layer: int = 0) -> list[float]:
    return [p.width_mm for p in view.surface.layers[layer].pieces]


def bought(view: CutView, material: str) -> Any:
    return next(b for b in view.buy if b.material == material)


def test_a_wall_of_four_metres_takes_six_whole_slabs_and_one_of_400():
    assert widths(wall(WOOL, height=1000)) == [600] * 6 + [400]
    assert widths(wall({**WOOL, "begins": "middle"}, height=1000)) == [500, *[600] * 5, 500]  # both ends alike
    assert widths(wall(WOOL, width=3620, height=1000)) == [600] * 5 + [520, 100]  # no sliver at the end
    # of a seen face the boards are alike, and take no more of them
    seen = wall(BOARD, flags=("seen",))
    assert widths(seen) == [1000] * 4
    assert bought(seen, "gypsum-board").needed == bought(wall(BOARD), "gypsum-board").needed == "4 sheets"


def test_two_layers_of_three_boards_and_a_third_are_seven_with_their_joints_apart():
    """½ and ⅓ from one board, ⅚ from another, five whole; of whole boards nothing is spare."""
    view = wall(BOARD, BOARD)
    assert [widths(view, n) for n in (0, 1)] == [[1200, 1200, 1200, 400], [600, 1200, 1200, 1000]]
    line = bought(view, "gypsum-board")
    assert (line.needed, line.units, line.spare) == ("7 sheets", 7, 0)
    shared = [sorted(p.size for p in s.pieces) for s in view.sheets if len(s.pieces) > 1]
    assert [[worded(x, "metric") for x in sizes] for sizes in shared] == [["2500 × 400", "2500 × 600"]]
    joints = [{round(p.outline_mm[0][0]) for p in layer.pieces} - {0} for layer in view.surface.layers]
    ends = [sorted({max(x for x, _ in p.outline_mm) for p in layer.pieces})[:-1] for layer in view.surface.layers]
    assert min(abs(a - b) for a in ends[0] for b in ends[1]) >= 400, joints


def test_strips_nobody_lays_are_said_with_what_they_cost_and_laid_where_they_are_asked_for():
    """The van's arches with their cable run 10 mm lower: under it 30 mm of flange are left, 920 long, on each of two."""
    row = van()
    lower = [{**z, "y_mm": z["y_mm"] - 10} if z["kind"] == "cable run" else z for z in row["surfaces"][0]["keep_clear"]]
    row["surfaces"] = [{**row["surfaces"][0], "keep_clear": lower}, *row["surfaces"][1:]]
    view = cut_view(JobFigures(parse(JobDocument, row), shelf()), None)
    (bare,) = view.left_bare
    assert 0 < bare.cost_db < 0.2
    assert "920 × 30 mm" in worded(bare.sentence, "metric")
    assert min(min(p.width_mm, p.height_mm) for layer in view.surface.layers for p in layer.pieces) >= 40
    asked = [{**a, "layers": [{**x, "strips": True} for x in a["layers"]]} for a in row["alternatives"]]
    with_them = parse(JobDocument, {**row, "alternatives": asked})
    laid = cut_view(JobFigures(with_them, shelf()), None)
    assert laid.left_bare == ()
    assert min(p.height_mm for layer in laid.surface.layers for p in layer.pieces) == 30
    # what is not laid weighs nothing
    without, kept = (added_load(doc, doc.surfaces[0], doc.alternatives[0], shelf()).kg
                     for doc in (parse(JobDocument, row), with_them))
    assert 0 < kept - without < 2.0
    assert cut_view(JobFigures(parse(JobDocument, van()), shelf()), None).left_bare == ()


SHEET = {"id": "sheet", "width_mm": 500, "length_mm": 800, "price": 10}


def shape(name: str, outline: list[list[float]], quantity: int = 1) -> dict[str, Any]:
    return {"id": name, "outline_mm": outline, "quantity": quantity}


def test_what_could_save_nothing_is_not_looked_for_and_the_layout_is_the_same(monkeypatch: pytest.MonkeyPatch):
    """With as few sheets as the pieces' area asks for, no turning saves one."""
    searched: list[float] = []
    nest = layout.nest
    monkeypatch.setattr(layout, "nest", lambda data, *more: (searched.append(data.seconds), nest(data, *more))[1])
    small = [[0, 0], [300, 0], [300, 120], [200, 120], [200, 260], [0, 260]]  # 0.064 m²; three to a sheet of 0.4 m²
    large = [[0, 0], [480, 0], [480, 600], [300, 600], [300, 700], [0, 700]]  # 0.318 m²; one to a sheet
    for outline, quantity, sheets, looked in ((small, 3, 1, 1), (large, 2, 2, 1), (small, 6, 2, 2)):
        data = parse(CutInput, {"stock": [SHEET], "pieces": [shape("a", outline, quantity)], "seconds": 0.4, "square": True})
        searched.clear()
        quick = cut(data)
        assert len(searched) == looked
        with monkeypatch.context() as patch:
            patch.setattr(layout, "_none_to_save", lambda *_: False)
            assert len(cut(data).used) == len(quick.used) == sheets
        assert {p.turned_deg % 90 for u in quick.used for p in u.placements} == {0}
    # what costs nothing, and what is sold by the metre, may take a piece off a sheet
    for more in ({"id": "rest", "width_mm": 400, "length_mm": 300}, {**SHEET, "id": "roll", "roll": True, "price": 5}):
        searched.clear()
        cut(parse(CutInput, {"stock": [SHEET, more], "pieces": [shape("a", large, 2)], "seconds": 0.4, "square": True}))
        assert len(searched) == 2


@pytest.mark.broad
def test_pieces_lie_square_unless_turning_saves_a_sheet_or_a_metre_of_roll():
    notched = shape("a", [[0, 0], [300, 0], [300, 120], [200, 120], [200, 260], [0, 260]], 3)
    found = cut(parse(CutInput, {"stock": [SHEET], "pieces": [notched], "seconds": 1, "square": True}))
    assert {p.turned_deg % 90 for u in found.used for p in u.placements} == {0}
    # a slanted piece goes on less of a roll when it is turned: 0.06 m each, which is a metre only for many
    roll = {"id": "roll", "width_mm": 1000, "length_mm": 30000, "roll": True, "price": 100}
    slanted = [[0, 0], [1250, 100], [1150, 420], [600, 330], [0, 300]]
    for quantity, turned in ((4, False), (30, True)):
        seconds = quantity / 5 if turned else 4.0  # a busy machine needs the time
        data = {"stock": [roll], "pieces": [shape("b", slanted, quantity)], "seconds": seconds, "square": True}
        found = cut(parse(CutInput, data))
        assert any(p.turned_deg % 90 for u in found.used for p in u.placements) == turned
        assert found.unplaced == ()


def test_a_disc_comes_from_an_offcut_that_holds_it_and_is_named():
    disc = [[round(x, 1), round(y, 1)] for x, y in Point(0, 0).buffer(95, 24).exterior.coords[:-1]]
    rest = {"id": 1, "version": 1, "material": "vinyl-5", "thickness_mm": 2.5, "width_mm": 300, "length_mm": 220, "code": "R7"}
    doc = parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "j"}, "offcuts_taken": [rest],
        "surfaces": [{"id": 1, "version": 1, "name": "Lid", "outline_mm": disc,
                      "substrate": {"material": "steel", "thickness_mm": 0.8}}],
        "alternatives": [{"id": 1, "version": 1, "surface_id": 1, "layers": [{"material": "vinyl-5", "thickness_mm": 2.5}]}]})
    view = cut_view(JobFigures(doc, shelf()), None)
    (sheet,) = view.sheets
    assert sheet.offcut == "offcut R7"
    assert [b for b in view.buy if b.material == "vinyl-5" and b.units] == []
    assert worded(sheet.pieces[0].lines[0].lead, "metric").startswith("round, 190 across")


def test_what_a_measure_needs_is_bought_weighed_and_left_out_with_it():
    box = hood(HoodIn(vent_cm2=900.0, heat_w=3000.0))
    goods = [g.model_dump() for x in (box, *box.also) for g in x.goods]
    assert {g["material"] for g in goods} == {"timber-batten", "lift-off-hinge", "toggle-latch", "lining-hanger", "vent-grille",
                                              "axial-fan"}
    measure = {"id": 1, "version": 1, "name": "Box", "effect_db": 10, "goods": goods}

    def lines(chosen: bool) -> dict[str, int]:
        view = wall(measures=[{**measure, "chosen": chosen}])
        return {b.material: b.units for b in view.buy}

    assert lines(False) == {}
    # edges of 1.1 × 0.8 × 1.3 m: 12.8 m and a tenth, from battens of 2.4 m; hangers 6 a square metre on five sides, 50 a pack
    assert lines(True) == {"timber-batten": 6, "lift-off-hinge": 2, "toggle-latch": 2, "lining-hanger": 1, "vent-grille": 2,
                           "axial-fan": 1}


def test_the_planner_counts_what_a_measure_needs_with_the_measure_and_not_beside_it():
    goods = [{"material": "axial-fan", "amount": 1.0}, {"material": "timber-batten", "amount": 4.8}]
    measure = {"id": 1, "version": 1, "name": "Fan", "effect_db": 3, "money": 10.0, "hours": 1.0}
    body = {"job": {"id": 1, "version": 1, "name": "j", "kind": "enclosure"}}
    both = measure, {**measure, "goods": goods}
    plain, full = (JobFigures(parse(JobDocument, {**body, "measures": [m]}), shelf()) for m in both)
    own, more = (measure_cost(job, job.doc.measures[0]) for job in (plain, full))
    fan, batten = (shelf().material(g["material"]).stock[0] for g in goods)
    assert more.kg - own.kg == pytest.approx(fan.kg + 2 * batten.kg)
    assert more.money - own.money == pytest.approx(fan.price + 2 * batten.price * 1.1)  # by the metre a tenth is waste
    assert more.hours == own.hours == pytest.approx(65 / 60)  # an hour, and what goes on around it
    assert beside_load(full) == beside_load(plain)
    assert job_load(full).kg - job_load(plain).kg == pytest.approx(more.kg - own.kg)


@pytest.mark.parametrize("width", [1201, 1259, 2399, 2401, 3333, 4790, 6003])
@pytest.mark.parametrize("begins", ["", "middle"])
def test_boards_fill_a_wall_of_any_width_without_gap_or_overlap(width: int, begins: str):
    for layer in wall({**BOARD, "begins": begins}, {**BOARD, "begins": begins}, width=width).surface.layers:
        shapes = [Polygon(p.outline_mm) for p in layer.pieces]
        assert union_all(shapes).area == pytest.approx(width * 2500, rel=1e-6)
        assert sum(s.area for s in shapes) == pytest.approx(width * 2500, rel=1e-6)
        for p in layer.pieces:
            short, long = sorted((p.width_mm, p.height_mm))
            assert short >= 100
            assert short <= 1200
            assert long <= 2500
