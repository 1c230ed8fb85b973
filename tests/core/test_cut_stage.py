"""What Cut says of a job: hands, rests, what the shelf has, twins and traced outlines, each against figures worked out apart."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np
import pytest
from shapely import LineString, Point, Polygon, box, union_all

from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.hand import good, place_on, why_not
from sphagnum.core.cutting.model import CutInput, Fixed
from sphagnum.core.cutting.rests import outline_of, rests_of
from sphagnum.core.cutting.rows import Habits
from sphagnum.core.errors import BadInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.shelf import Shelf
from sphagnum.core.schema import parse
from sphagnum.core.stages.build.view import build
from sphagnum.core.stages.cut.model import CutView
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.surfaces.geometry import ClearRow, areas, treatable
from sphagnum.core.surfaces.patches import patches
from sphagnum.core.surfaces.rows import SurfaceIn
from sphagnum.core.surfaces.traced import TraceForm, traced_shape
from sphagnum.core.surfaces.twins import mirrored
from sphagnum.core.worded import worded

STEEL = {"material": "steel", "thickness_mm": 0.8}
PANEL = [[0, 0], [900, 0], [900, 420], [450, 600], [0, 420]]


def job(**more: Any) -> JobDocument:
    layers = [{"material": "butyl-foil", "thickness_mm": 2.0, "coverage": 0.5}, {"material": "vinyl-5", "thickness_mm": 2.5}]
    return parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "j"},
        "surfaces": [{"id": 1, "version": 1, "name": "Panel", "outline_mm": PANEL, "substrate": STEEL, "count": 2}],
        "alternatives": [{"id": 1, "version": 1, "surface_id": 1, "layers": layers}], **more})


def seen(doc: JobDocument, own: Shelf | None = None) -> CutView:
    return cut_view(JobFigures(doc, own or shelf()), None)


def hand_of(view: CutView, material: str, **change: Any) -> dict[str, Any]:
    """The layout as it is, as a hand would keep it, with one piece changed."""
    pieces = [{"id": p.label, "stock": s.stock, "number": s.number, "mirrored": p.mirrored,
               "turned_deg": p.turned_deg, "x_mm": p.x_mm, "y_mm": p.y_mm, "area_mm2": p.area_mm2}
              for s in view.sheets if s.material == material for p in s.pieces]
    pieces[0] |= change
    thickness = next(s.thickness_mm for s in view.sheets if s.material == material)
    return {"id": 1, "version": 1, "material": material, "thickness_mm": thickness, "pieces": pieces}


def test_a_layout_by_hand_stays_and_what_lies_badly_is_laid_anew_and_said():
    first = seen(job())
    kept = seen(job(layouts=[hand_of(first, "vinyl-5", locked=True)]))
    where = {p.label: (p.x_mm, p.y_mm, p.turned_deg) for s in first.sheets for p in s.pieces}
    assert {p.label: (p.x_mm, p.y_mm, p.turned_deg) for s in kept.sheets for p in s.pieces} == where
    assert [p.locked for s in kept.sheets for p in s.pieces if s.material == "vinyl-5"].count(True) == 1
    assert kept.let_go == ()
    bad = hand_of(first, "vinyl-5", x_mm=1e4)
    again = seen(job(layouts=[bad]))
    assert again.let_go == (bad["pieces"][0]["id"],)
    assert sorted(p.label for s in again.sheets for p in s.pieces) == sorted(where)
    assert again.unplaced == ()
    # another piece of the same label is not taken for the one that was laid
    other = hand_of(first, "vinyl-5", locked=True)
    other["pieces"][0]["area_mm2"] *= 1.05
    assert seen(job(layouts=[other])).let_go == (other["pieces"][0]["id"],)
    # of a panel since changed to another size nothing that no longer lies well is kept
    smaller = job(layouts=[hand_of(first, "vinyl-5")])
    grown = smaller.model_copy(update={"surfaces": (smaller.surfaces[0].model_copy(update={
        "outline_mm": ((0, 0), (1100, 0), (1100, 700), (0, 700))}),)})
    shapes = [Polygon(p.outline_mm) for s in seen(grown).sheets if s.material == "vinyl-5" for p in s.pieces]
    assert sum(p.area for p in shapes) == pytest.approx(2 * 1100 * 700, rel=0.05)


def test_of_two_rows_of_a_material_the_last_word_on_a_piece_counts():
    """Two browsers may each begin a layout by hand before they see one another's."""
    first = seen(job())
    one, two = hand_of(first, "vinyl-5", locked=True), hand_of(first, "vinyl-5", locked=False)
    both = seen(job(layouts=[one, {**two, "id": 2}]))
    assert [p.locked for s in both.sheets for p in s.pieces].count(True) == 0
    assert both.let_go == ()


def test_build_speaks_of_the_seams_that_are_cut():
    """Stagger, what one person handles and the price of a seam count in both."""
    panel = {"outline_mm": [[0, 0], [2600, 0], [2600, 1500], [0, 1500]]}
    layers = [{"material": "vinyl-5", "thickness_mm": 2.5}, {"material": "vinyl-5", "thickness_mm": 2.5}]
    doc = job(surfaces=[{"id": 1, "version": 1, "name": "Panel", "substrate": STEEL, **panel}],
              alternatives=[{"id": 1, "version": 1, "surface_id": 1, "layers": layers}])
    for habits in (Habits(), Habits(largest_mm=900.0), Habits(seam_price_m=50.0)):
        own = shelf().model_copy(update={"habits": habits})
        cut_ = seen(doc, own).surface
        drawn = [x for x in build(JobFigures(doc, own), 1).section if x.material == "vinyl-5"]
        assert [x.seams for x in drawn] == [len(x.pieces) - 1 for x in cut_.layers]
        assert min(x.seams for x in drawn) >= 1


def test_what_is_left_of_a_sheet_is_kept_as_it_is_outlined_and_parted_round_a_piece():
    """Of 500 × 800 mm: beside a piece of 300 × 500 in its corner an L; round one of 100 × 100 in its middle two parts."""
    sheet = box(0, 0, 500, 800)
    (corner,) = rests_of(sheet, (box(0, 0, 300, 500),), 0.0, 150.0)
    assert corner.area == pytest.approx(500 * 800 - 300 * 500, rel=1e-3)
    told = Polygon(outline_of(corner))
    assert len(told.exterior.coords) == 7
    assert corner.contains(told)  # never more than there is
    assert told.area == pytest.approx(corner.area, rel=0.02)  # a millimetre less all round
    (upper,) = rests_of(sheet, (box(0, 0, 400, 500),), 4.0, 150.0)  # the strip beside it is too narrow
    assert upper.bounds == pytest.approx((0, 504, 500, 800), abs=0.05)
    assert outline_of(upper) == ()
    halves = rests_of(sheet, (box(200, 350, 300, 450),), 0.0, 150.0)
    assert len(halves) == 2
    assert sum(p.area for p in halves) == pytest.approx(500 * 800 - 100 * 100, rel=1e-3)


def test_an_offcut_of_any_outline_goes_through_the_view_to_the_shelf_and_is_cut_from():
    slim = {"id": 1, "version": 1, "material": "butyl-foil", "thickness_mm": 2.0, "name": "x", "width_mm": 340, "height_mm": 600,
            "quantity": 1}
    rest = next(r for r in seen(job(alternatives=[], pieces=[slim])).left if r.outline_mm)
    kept = {"id": 1, "version": 1, **rest.model_dump(include={"material", "thickness_mm", "width_mm", "length_mm", "outline_mm"})}
    again = seen(job(alternatives=[], pieces=[{**slim, "width_mm": 100, "height_mm": 700}], offcuts_taken=[kept]))
    (sheet,) = again.sheets
    assert sheet.offcut
    assert Polygon(sheet.outline_mm).buffer(0.1).contains(Polygon(sheet.pieces[0].outline_mm))


def test_a_rest_that_was_kept_is_not_offered_again():
    view = seen(job())
    kept = view.left[0].rest
    again = seen(job(job={"id": 1, "version": 1, "name": "j", "rests_kept": [kept]}))
    assert kept not in {x.rest for x in again.left}
    assert len(again.left) == len(view.left) - 1


def test_a_row_of_clear_places_is_typed_in_any_unit():
    fixing = {"kind": "fixing", "at_mm": ["30 cm", "42"], "diameter_mm": "8"}
    row = parse(ClearRow, {"zone": fixing, "count": "4", "step_mm": "1 in", "angle_deg": "90"})
    assert [(z.x_mm + 4, round(z.y_mm + 4, 1)) for z in row.zones()] == [(300, 42), (300, 67.4), (300, 92.8), (300, 118.2)]
    with pytest.raises(BadInput, match="quantity"):
        parse(ClearRow, {"zone": {"kind": "drain", "x_mm": 0, "y_mm": 0, "width_mm": 9, "height_mm": 9}, "step_mm": "wide"})


def test_why_a_piece_may_not_lie_so_is_said():
    square = [[0, 0], [300, 0], [300, 200], [0, 200]]
    data = parse(CutInput, {"stock": [{"id": "s", "width_mm": 500, "length_mm": 800}], "gap_mm": 3, "pieces": [
        {"id": "A", "outline_mm": square}, {"id": "B", "outline_mm": square, "rotate": "half"}]})

    def at(piece: str, x: float, y: float, **more: Any) -> Fixed:
        return parse(Fixed, {"piece": piece, "stock": "s", "x_mm": x, "y_mm": y, **more})

    others = (at("A", 0, 0),)
    assert why_not(data, others, at("B", 0, 203)) == ""
    assert why_not(data, others, at("B", 0, 202)) == "B lies on A."
    assert why_not(data, others, at("B", 201, 300)) == "B reaches over the edge."
    assert "may not be turned so" in why_not(data, others, at("B", 0, 300, turned_deg=90))
    assert "may not be turned over" in why_not(data, others, at("B", 0, 300, mirrored=True))
    assert [f.piece for f in good(data, (*others, at("B", 0, 100)))] == ["A"]
    with pytest.raises(BadInput, match="no C"):
        why_not(data, others, at("C", 0, 0))
    # what a hand laid that is wanted no longer is in nobody's way, and is not named for another
    assert why_not(data, (at("gone", 0, 0), *others), at("B", 0, 100)) == "B lies on A."
    assert why_not(data, (at("gone", 0, 0),), at("B", 0, 0)) == ""


@pytest.mark.parametrize("seed", range(12))
def test_a_place_found_on_a_sheet_is_one_a_hand_may_use_and_none_is_found_only_where_none_is(seed: int):
    """Pieces laid one by one onto a sheet of 600 × 900 mm, wherever there is room, until the last finds none."""
    rng = np.random.default_rng(seed)
    sizes = [(int(w), int(h)) for w, h in rng.integers(90, 320, (14, 2))]
    shapes = [[[0, 0], [w, 0], [w, h], [w // 2, h - 20], [0, h]] for w, h in sizes]
    turns = ["any", "quarter", "half", "none"]
    data = parse(CutInput, {"stock": [{"id": "s", "width_mm": 600, "length_mm": 900, "quantity": 1}], "gap_mm": 3, "pieces": [
        {"id": f"p{i}", "outline_mm": shape, "rotate": turns[i % 4], "mirror": i % 3 == 0} for i, shape in enumerate(shapes)]})
    lying: list[Fixed] = []
    for i in range(len(shapes)):
        one = parse(Fixed, {"piece": f"p{i}", "stock": "s", "x_mm": 0, "y_mm": 0})
        found = place_on(data, tuple(lying), one)
        if found is None:
            continue
        assert why_not(data, tuple(lying), found) == ""
        lying.append(found)
    assert [f.piece for f in good(data, tuple(lying))] == [f.piece for f in lying]
    covered = sum(Polygon(shapes[int(f.piece[1:])]).area for f in lying)
    assert len(lying) == len(shapes) or covered > 0.5 * 600 * 900
    assert place_on(data, tuple(lying[:-1]), lying[-1]) == lying[-1]  # where it lies counts for nothing
    largest = parse(CutInput, {**data.model_dump(), "pieces": [{"id": "p", "outline_mm": [[0, 0], [601, 0], [601, 601], [0, 601]],
                                                               "rotate": "any"}]})
    assert place_on(largest, (), parse(Fixed, {"piece": "p", "stock": "s", "x_mm": 0, "y_mm": 0})) is None


def test_clear_places_of_every_kind_come_back_from_a_file_and_mean_the_same():
    zones = [{"kind": "trim line", "shape": "edge", "width_mm": 25.4, "edges": [1, 3]}, {"kind": "sealing face", "shape": "edge",
             "width_mm": 12}, {"kind": "hot part", "x_mm": 400, "y_mm": 200, "width_mm": 90, "height_mm": 60, "away_mm": 30},
             {"kind": "module", "at_mm": [700, 250], "diameter_mm": 120}]
    panel = {"id": 1, "version": 1, "name": "Panel", "outline_mm": PANEL, "substrate": STEEL, "keep_clear": zones,
             "zones": [{"name": "left", "x_mm": 0, "y_mm": 0, "width_mm": 450, "height_mm": 600}]}
    doc = job(surfaces=[panel])
    again = parse(JobDocument, json.loads(doc.model_dump_json()))
    assert again == doc
    one, other = doc.surfaces[0], again.surfaces[0]
    assert treatable(one).equals(treatable(other))
    parts = sum(areas(p).treatable_m2 for p in patches(one))
    assert parts == pytest.approx(areas(one).treatable_m2)
    # worked out apart: the outline less bands drawn inwards from its sides, less the rest
    corners = [*PANEL, PANEL[0]]
    sides = [LineString([corners[n - 1], corners[n]]) for n in (1, 3)]
    taken = [Polygon(PANEL).exterior.buffer(12 + 5), *(side.buffer(25.4 + 5, cap_style="flat") for side in sides),
             box(360, 160, 530, 300), Point(700, 250).buffer(65)]
    apart = Polygon(PANEL).difference(union_all(taken)).area / 1e6
    assert areas(one).treatable_m2 == pytest.approx(apart, rel=2e-3)  # its corners are mitred, a circle has 64 sides


def test_what_the_shelf_has_is_said_and_not_bought_and_what_is_left_over_gets_a_label():
    def counted(on_hand: float) -> Shelf:
        base = shelf()
        foil = base.materials["butyl-foil"]
        stock = tuple(f.model_copy(update={"on_hand": on_hand}) if f.thickness_mm == 2.0 else f for f in foil.stock)
        return base.model_copy(update={"materials": {**base.materials, "butyl-foil": foil.model_copy(update={"stock": stock})}})

    def foil(view: CutView) -> Any:
        return next(b for b in view.buy if b.material == "butyl-foil")

    none, some, all_ = (foil(seen(job(), counted(n))) for n in (0, 1, 99))
    assert (none.shelf, some.shelf) == ("", "1 on the shelf")
    assert none.units - some.units == 1
    assert some.money == pytest.approx(none.money * some.units / none.units)
    assert (all_.units, all_.money, all_.kg) == (0, 0.0, 0.0)
    left = seen(job()).left
    assert len({x.code for x in left}) == len(left) > 0
    assert all(min(x.width_mm, x.length_mm) >= 150 for x in left)
    many = seen(job(pieces=[{"id": 1, "version": 1, "material": "vinyl-5", "name": "x", "width_mm": 500, "height_mm": 500,
                             "quantity": 12}]))
    cuts = sum(Polygon(p.outline_mm).length for s in many.sheets for p in s.pieces) / 1e3
    used = {b.material: b for b in many.used_up}
    assert used["knife-blade"].needed == f"{math.ceil(cuts / 15)} pieces"  # 15 m of cut a blade
    assert {"panel-cleaner", "seam-roller"} <= set(used)


def test_the_other_side_is_the_mirror_of_all_that_lies_on_it():
    one = parse(SurfaceIn, {
        "name": "Door", "outline_mm": PANEL, "substrate": STEEL,
        "opening": {"width_mm": 200, "height_mm": 100, "x_mm": 50, "y_mm": 80},
        "keep_clear": [{"kind": "drain", "x_mm": 100, "y_mm": 0, "width_mm": 60, "height_mm": 20}],
        "zones": [{"name": "left", "x_mm": 0, "y_mm": 0, "width_mm": 300, "height_mm": 420}]})
    twin = mirrored(one)
    assert mirrored(twin) == one
    assert treatable(twin).area == pytest.approx(treatable(one).area)
    assert (twin.keep_clear[0].x_mm, twin.zones[0].x_mm, twin.opening.x_mm) == (740, 600, 650)
    assert areas(twin).gross_m2 == areas(one).gross_m2


def slanted(points: list[list[float]]) -> list[list[float]]:
    """Where a camera at a slant sees points of a plane in mm: a projective map, y down."""
    m = np.array([[0.61, 0.15, 300], [0.11, -0.52, 900], [0.00031, 0.00012, 1]])
    q = np.column_stack([points, np.ones(len(points))]) @ m.T
    return (q[:, :2] / q[:, 2:]).round(2).tolist()


def test_a_slanted_photograph_is_squared_up():
    panel = [[0, 0], [1180, 0], [1180, 400], [1000, 540], [0, 540]]
    paper = [[300, 120], [510, 120], [510, 417], [300, 417]]
    for corners in (paper, [paper[0], *paper[:0:-1]]):  # marked either way round
        form = {"outline": slanted(panel), "rectangle": {"corners": slanted(corners), "width_mm": 210, "height_mm": 297},
                "length": {"ends": slanted([[0, 0], [1180, 0]]), "length_mm": 1180}}
        found = traced_shape(parse(TraceForm, form))
        assert found.squared
        assert found.area_m2 == pytest.approx(Polygon(panel).area / 1e6, rel=0.01)
        assert abs(found.check_off) < 0.01
        assert Polygon(found.outline_mm).hausdorff_distance(Polygon(panel)) < 1
    flat = traced_shape(parse(TraceForm, {"outline": [[10, 10], [110, 10], [110, 60], [10, 60]],
                                          "length": {"ends": [[10, 10], [110, 10]], "length_mm": 500}}))
    assert (flat.area_m2, flat.squared) == (0.125, False)
    assert "looked straight at it" in flat.note
    wrong = [({"outline": [[0, 0], [1, 1], [2, 2]]}, "nothing says how large"),
             ({"outline": slanted(panel), "rectangle": {"corners": [[0, 0], [10, 0], [20, 0], [30, 0]], "width_mm": 210,
                                                        "height_mm": 297}}, "in a line"),
             ({"outline": [[0, 0], [9, 9], [9, 0], [0, 9]], "length": {"ends": [[0, 0], [9, 0]], "length_mm": 90}},
              "crosses itself")]
    for form, why in wrong:
        with pytest.raises(BadInput, match=why):
            traced_shape(parse(TraceForm, form))


def test_of_two_sizes_sold_the_one_that_wastes_less_is_bought_and_named():
    """Two pieces of 480 × 480 mm: two sheets of 500 × 800 at 13.80, or one of 500 × 1000 at 17; of one alone the small one."""
    base = shelf()
    foil = base.materials["butyl-foil"]
    small = next(f for f in foil.stock if f.thickness_mm == 2.0)
    larger = small.model_copy(update={"id": "larger", "length_mm": 1000.0, "price": 17.0})
    sold = foil.model_copy(update={"stock": (small.model_copy(update={"price": 13.8}), larger)})
    own = base.model_copy(update={"materials": {**base.materials, "butyl-foil": sold}})
    for quantity, size, money in ((2, "500 × 1000 mm", 17.0), (1, "500 × 800 mm", 13.8)):
        piece = {"id": 1, "version": 1, "material": "butyl-foil", "thickness_mm": 2.0, "name": "x", "width_mm": 480,
                 "height_mm": 480, "quantity": quantity}
        (line,) = (b for b in seen(job(alternatives=[], pieces=[piece]), own).buy if b.material == "butyl-foil")
        assert worded(line.name, "metric").endswith(size)
        assert line.money == pytest.approx(money)
