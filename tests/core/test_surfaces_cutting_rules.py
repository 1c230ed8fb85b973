"""Surfaces, pieces and sheets are never invalid; the trade's rules speak where they should and only there."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon, box

from sphagnum.core.cutting.layout import cut
from sphagnum.core.cutting.model import CutInput, CutResult
from sphagnum.core.errors import BadInput
from sphagnum.core.materials.model import kg_per_m2
from sphagnum.core.materials.usual import doubts
from sphagnum.core.schema import parse, read_number
from sphagnum.core.surfaces.geometry import Shape, areas, treatable
from sphagnum.core.surfaces.patches import patches
from sphagnum.core.surfaces.rows import Surface, SurfaceIn
from sphagnum.core.surfaces.twins import mirrored


def rectangle(width: float, height: float) -> list[list[float]]:
    return [[0, 0], [width, 0], [width, height], [0, height]]


def laid(stock: list[dict], sizes: list[tuple[float, float]], **more: object) -> CutResult:
    pieces = [{"id": f"p{i}", "outline_mm": rectangle(*s), "rotate": more.get("rotate", "any")}
              for i, s in enumerate(sizes)]
    return cut(parse(CutInput, {"stock": stock, "pieces": pieces, "gap_mm": more.get("gap_mm", 0.0)}), restarts=8)


def check(result: CutResult, stock: list[dict], gap: float) -> None:
    """Every placement inside its stock and apart from its neighbours by the gap; every price as charged."""
    sizes = {s["id"]: s for s in stock}
    price = 0.0
    for used in result.used:
        item = sizes[used.stock]
        shapes = [Polygon(p.outline_mm) for p in used.placements]
        inside = box(0, 0, item["width_mm"], used.length_used_mm)
        for i, shape in enumerate(shapes):
            assert shape.difference(inside.buffer(0.011)).area == 0
            for other in shapes[:i]:
                assert shape.distance(other) >= gap - 0.021
                assert shape.intersection(other).area < 0.1
        part = used.length_used_mm / item["length_mm"] if item.get("roll") else 1.0
        price += item["price"] * part
    assert result.price == pytest.approx(price, abs=0.02)


SHEET = {"id": "sheet", "width_mm": 500, "length_mm": 800, "price": 11.5}
ROLL = {"id": "roll", "width_mm": 1000, "length_mm": 10000, "roll": True, "quantity": 1, "price": 60}
SCRAP = {"id": "scrap", "width_mm": 300, "length_mm": 200, "quantity": 1, "price": 0}


@settings(max_examples=25, deadline=None)
@given(sizes=st.lists(st.tuples(st.floats(20, 900), st.floats(20, 900)), min_size=1, max_size=14),
       gap=st.sampled_from([0.0, 3.0, 7.5]), rotate=st.sampled_from(["any", "none"]))
def test_layouts_are_never_invalid(sizes: list[tuple[float, float]], gap: float, rotate: str):
    stock = [SHEET, ROLL, SCRAP]
    result = laid(stock, sizes, gap_mm=gap, rotate=rotate)
    check(result, stock, gap)
    assert sum(len(u.placements) for u in result.used) + len(result.unplaced) == len(sizes)
    for used in result.used:
        for p in used.placements:
            w, h = sizes[int(p.piece[1:])]
            placed = (p.outline_mm[2][0] - p.outline_mm[0][0], p.outline_mm[2][1] - p.outline_mm[0][1])
            turned = placed == pytest.approx((h, w), abs=0.02)
            assert placed == pytest.approx((w, h), abs=0.02) or (turned and rotate == "any")
    if result.area_bound_price is not None and not result.unplaced:
        assert result.price >= result.area_bound_price - 0.01


def test_worked_layout_and_its_repeatability():
    stock, sizes = [SHEET], [(480, 390)] * 6 + [(240, 390)] * 2
    one, two = laid(stock, sizes), laid(stock, sizes)
    assert one == two
    assert (one.piece_area_m2, len(one.used), one.utilisation, one.price) == (pytest.approx(1.310, abs=5e-4), 4, 0.819, 46.0)


def test_offcuts_first_and_rolls_by_length():
    result = laid([SHEET, SCRAP], [(200, 290)])
    assert [u.stock for u in result.used] == ["scrap"]
    rolled = laid([ROLL], [(500, 300), (500, 300), (1000, 200)])
    assert rolled.used[0].length_used_mm == 500
    assert rolled.price == 3.0
    over = laid([SHEET], [(900, 900), (100, 850)])
    assert {u.why for u in over.unplaced} == {"longer than any stock"}


def door() -> Shape:
    return parse(Shape, {"outline_mm": [[0, 0], [1180, 0], [1180, 400], [1000, 540], [0, 540]], "keep_clear": [
        {"kind": "drain", "x_mm": 100, "y_mm": 0, "width_mm": 80, "height_mm": 20},
        {"kind": "module", "shape": "circle", "x_mm": 600, "y_mm": 60, "width_mm": 165, "height_mm": 165}]})


def test_areas_leave_out_zones_with_their_margins():
    found = areas(door())
    assert found.gross_m2 == pytest.approx((1180 * 540 - 180 * 140 / 2) / 1e6)
    drain = (80 + 30) * (20 + 15)  # a drain keeps 15 mm round it; what lies below the edge does not count
    speaker = 3.1416 * (165 / 2 + 5) ** 2
    assert found.keep_clear_m2 == pytest.approx((drain + speaker) / 1e6, rel=0.01)


def test_a_band_along_the_edge_stays_clear_on_either_side_and_in_every_part_of_it():
    """1000 × 600 mm: a sealing face of 20 mm all round, and the line where trim closes, 40 mm, along its foot and right side."""
    panel = {"id": 1, "version": 1, "name": "Door", "outline_mm": rectangle(1000, 600),
             "substrate": {"material": "steel", "thickness_mm": 0.8}}
    face = {"kind": "sealing face", "shape": "edge", "width_mm": "20 mm", "margin_mm": 5}
    line = {"kind": "trim line", "shape": "edge", "width_mm": 40, "margin_mm": 0, "edges": [1, 2]}
    both = parse(Surface, {**panel, "keep_clear": [face, line]})
    free = box(25, 40, 960, 575)
    assert treatable(both).symmetric_difference(free).area < 1e-6
    left = mirrored(both)  # the foot and the left side then, wherever its corners are counted from
    assert treatable(left).symmetric_difference(box(40, 40, 975, 575)).area < 1e-6
    assert treatable(mirrored(left)).equals(treatable(both))
    # in parts the band lies where it lay: along the edge, not along where they meet
    halves = parse(Surface, {**both.model_dump(), "zones": [{"id": "a", "name": "A", "x_mm": 0, "y_mm": 0, "width_mm": 500,
                                                             "height_mm": 600}]})
    assert sum(areas(p).treatable_m2 for p in patches(halves)) == pytest.approx(free.area / 1e6)
    with pytest.raises(BadInput, match="lies along side 7, and the outline has only 4"):
        parse(Surface, {**panel, "keep_clear": [{**line, "edges": [7]}]})


def test_a_hot_part_that_stands_off_the_panel_keeps_its_distance_in_space():
    hot = {"kind": "hot part", "x_mm": 400, "y_mm": 200, "width_mm": 100, "height_mm": 100}
    def kept(**more: float) -> float:
        return areas(parse(Shape, {"outline_mm": rectangle(1000, 600), "keep_clear": [{**hot, **more}]})).keep_clear_m2
    assert kept() == pytest.approx(0.2**2)  # on the panel: 50 mm all round
    assert kept(away_mm=40) == pytest.approx(0.16**2)  # 3, 4, 5: 30 mm are left
    assert kept(away_mm=50) == 0
    assert kept(away_mm=80, margin_mm=100) == pytest.approx(0.22**2)


@pytest.mark.parametrize(("change", "words"), [
    ({"outline_mm": [[0, 0], [500, 500], [500, 0], [0, 500]]}, "crosses itself"),
    ({"outline_mm": rectangle(60_000, 500)}, "50 m"),
    ({"outline_mm": rectangle(0, 500)}, "plain shape"),
    ({"outline_mm": rectangle(5, 500)}, "20 mm"),
    ({"outline_mm": [["drei", 0], [1, 0], [1, 1]]}, "not a quantity"),
    ({"outline_mm": [[float("nan"), 0], [100, 0], [100, 100]]}, "finite"),
    ({"keep_clear": [{"kind": "drain", "x_mm": 5000, "y_mm": 0, "width_mm": 80, "height_mm": 20}]}, "outside its surface"),
    ({"keep_clear": [{"kind": "drain", "x_mm": 0, "y_mm": 0, "width_mm": 80, "height_mm": 20, "margin_mm": -1}]}, "margin"),
    ({"colour": "red"}, "did you mean 'count'"),
])
def test_bad_surfaces_get_one_sentence(change: dict, words: str):
    good = {"name": "Door", "outline_mm": rectangle(1180, 540), "substrate": {"material": "steel", "thickness_mm": "0,8"}}
    parse(SurfaceIn, good)
    with pytest.raises(BadInput, match=words) as refused:
        parse(SurfaceIn, {**good, **change})
    assert "\n" not in refused.value.sentence


@pytest.mark.parametrize(("text", "value"), [("3,5", 3.5), ("1 180", 1180), ("−2", -2), ("1.180,5", 1180.5), ("", None)])
def test_numbers_as_people_type_them(text: str, value: float | None):
    assert read_number(text) == value


def test_every_shipped_material_is_whole(shelf):
    assert len(shelf.materials) >= 80
    assert {r for m in shelf.materials.values() for r in m.roles} == {
        "substrate", "damping", "decoupler", "barrier", "absorber", "seal", "isolator"}
    for material in shelf.materials.values():
        if material.lies:
            assert material.thicknesses_mm
            assert all(kg_per_m2(material, t) >= 0 for t in material.thicknesses_mm)
        assert not doubts(material)
        for hazard in material.hazards:
            assert hazard in shelf.hazards
