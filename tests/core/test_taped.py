"""Outlines from what a tape gives, against sums done apart; lengths that contradict one another named."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sphagnum.core.errors import BadInput
from sphagnum.core.surfaces.taped import TapedShape, read_taped, taped_shape
from sphagnum.core.worded import worded


def shape(**body: Any) -> TapedShape:
    return taped_shape(read_taped(body, "shape.json"))


def refused(**body: Any) -> str:
    with pytest.raises(BadInput) as error:
        shape(**body)
    return worded(error.value.sentence, "metric")


@pytest.mark.parametrize(("body", "area_m2", "perimeter_m"), [
    ({"kind": "rectangle", "width_mm": 780, "height_mm": 1260}, 0.9828, 4.08),
    ({"kind": "circle", "diameter_mm": 1650}, math.pi * 1.65**2 / 4, math.pi * 1.65),
    ({"kind": "arch", "width_mm": 900, "height_mm": 520, "straight_mm": 300}, 0.27 + math.pi * 0.45 * 0.22 / 2, None),
    ({"kind": "wedge", "radius_mm": 400, "angle_deg": 60}, math.pi * 0.16 / 6, 0.8 + 0.4 * math.pi / 3),
    ({"kind": "wedge", "radius_mm": 400, "angle_deg": 300}, math.pi * 0.16 * 300 / 360, 0.8 + 0.4 * math.pi * 300 / 180),
    ({"kind": "trapezium", "bottom_mm": 900, "top_mm": 600, "height_mm": 520, "shift_mm": 150}, 0.39,
     1.5 + 2 * math.hypot(0.15, 0.52)),
    ({"kind": "L", "width_mm": 900, "height_mm": 700, "cut_width_mm": 400, "cut_height_mm": 300}, 0.51, 3.2),
    ({"kind": "offsets", "length_mm": 1200, "left": [[0, 310], [300, 355], [1200, 290]], "right": [[0, 100], [1200, 60]]},
     (0.3325 * 0.3 + 0.3225 * 0.9) + 0.08 * 1.2, None),
    ({"kind": "points", "outline_mm": [[0, 0], [1000, 0], [1000, 800], [0, 800]],
      "holes_mm": [[[100, 100], [300, 100], [300, 200], [100, 200]]]}, 0.78, 3.6),
    # a right triangle of 3:4:5, and its twin beyond the long side
    ({"kind": "triangles", "lengths_mm": {"AB": 800, "AC": 600, "BC": 1000, "BD": 600, "CD": 800}, "outline": "ABDC"}, 0.48, 2.8),
])
def test_areas_are_those_worked_out_by_hand_and_a_mirror_keeps_them(
    body: dict[str, Any], area_m2: float, perimeter_m: float | None
) -> None:
    for mirror in (False, True):
        got = shape(**body, mirror=mirror)
        assert got.area_m2 == pytest.approx(area_m2, rel=5e-4, abs=6e-5)
        if perimeter_m is not None:
            assert got.perimeter_m == pytest.approx(perimeter_m, rel=5e-4, abs=6e-4)
    plain, other = shape(**body), shape(**body, mirror=True)
    spans = [np.ptp(np.array(s.outline_mm), axis=0) for s in (plain, other)]
    assert spans[0] == pytest.approx(spans[1], abs=0.02)


def test_a_smooth_edge_goes_through_its_stations_and_never_swings_beyond_them() -> None:
    stations = [[0, 310], [300, 355], [700, 340], [1200, 290]]
    got = shape(kind="offsets", length_mm=1200, left=stations, curve="smooth")
    edge = {round(x): y for x, y in got.outline_mm if y > 1}
    assert all(edge[x] == pytest.approx(y, abs=0.01) for x, y in stations)
    assert max(y for _, y in got.outline_mm) <= 355.01
    assert got.area_m2 > shape(kind="offsets", length_mm=1200, left=stations).area_m2


def test_what_is_kept_clear_is_taken_off_with_its_margin_clipped_repeated_or_only_pierced() -> None:
    plate = {"kind": "rectangle", "width_mm": 1000, "height_mm": 500}
    row = {"count": 3, "step_mm": 200, "angle_deg": 0}
    zones = [
        ({"kind": "drain", "at_mm": [500, 250], "width_mm": 40, "height_mm": 15, "margin_mm": 0}, 40 * 15),
        ({"kind": "drain", "at_mm": [500, 250], "width_mm": 40, "height_mm": 15}, 70 * 45),
        ({"kind": "drain", "at_mm": [1000, 250], "width_mm": 40, "height_mm": 20, "margin_mm": 0}, 20 * 20),
        ({"kind": "fixing", "at_mm": [200, 250], "width_mm": 20, "height_mm": 20, "margin_mm": 0, "row": row}, 3 * 400),
        ({"kind": "fixing", "at_mm": [200, 250], "diameter_mm": 8, "pierce": True}, 0),
        ({"kind": "vent", "outline_mm": [[100, 100], [200, 100], [100, 200]], "margin_mm": 0}, 5000),
    ]
    for zone, off_mm2 in zones:
        got = shape(**plate, keep_clear=[zone])
        assert got.area_m2 == 0.5
        assert got.treatable_m2 == pytest.approx(0.5 - off_mm2 / 1e6, abs=6e-5), zone
    assert "lies outside the outline" in refused(**plate, keep_clear=[
        {"kind": "airbag seam", "at_mm": [1020, 250], "width_mm": 20, "height_mm": 20}])


POINT = st.tuples(st.integers(-900, 900), st.integers(-900, 900))


@given(st.lists(POINT, min_size=3, max_size=5, unique=True))
@settings(max_examples=60, deadline=None)
def test_points_that_all_lengths_are_taped_between_are_found_again(points: list[tuple[int, int]]) -> None:
    names = "ABCDE"[: len(points)]
    taped = {a + b: math.dist(p, q) for (a, p), (b, q) in itertools.combinations(zip(names, points, strict=True), 2)}
    area = abs(sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in itertools.pairwise([*points[:3], points[0]]))) / 2
    if min(taped.values()) < 60 or area < 5000:
        return
    got = shape(kind="triangles", lengths_mm=taped, outline="ABC")
    assert got.worst_residual_mm == pytest.approx(0, abs=0.02)
    found = got.points_mm
    assert found["A"] == (0, 0)
    assert found["B"][1] == pytest.approx(0, abs=0.02)
    assert found["C"][1] > 0
    for pair, length in taped.items():
        assert math.dist(found[pair[0]], found[pair[1]]) == pytest.approx(length, abs=0.5)


def test_a_point_lies_outside_what_is_laid_unless_it_is_said_to_lie_inside() -> None:
    lengths = {"AB": 1000, "AC": 1000, "BC": 1000, "AD": 600, "BD": 600}
    outside = shape(kind="triangles", lengths_mm=lengths, outline="ADBC").points_mm["D"]
    inside = shape(kind="triangles", lengths_mm=lengths, outline="ABC", inside=["D"]).points_mm["D"]
    assert outside[1] < 0 < inside[1]


BRACED = {"AB": 800, "AC": 600, "BC": 1000, "BD": 600, "CD": 800, "AD": 1000}


def test_lengths_that_contradict_are_named_with_what_each_would_have_to_be() -> None:
    fits = shape(kind="triangles", lengths_mm=BRACED | {"AD": 1004}, outline="ABDC")
    assert 0 < (fits.worst_residual_mm or 0) < 5
    said = refused(kind="triangles", lengths_mm=BRACED | {"AD": 1040}, outline="ABDC")
    assert "none can be blamed" in said
    assert "AD 1040 → 1000" in said
    assert "BC 1000 → 958" in said
    assert all(pair in said for pair in BRACED)
    # with two more than needed, the one whose removal mends it comes first
    said = refused(kind="triangles", outline="ABDC", inside=["E"], lengths_mm=BRACED | {
        "AE": 500, "BE": 500, "CE": 500, "DE": 560})
    assert "tape this one first: DE 560 → 500" in said


@pytest.mark.parametrize(("body", "words"), [
    ({"kind": "heart"}, "no kind of shape; use rectangle"),
    ({"kind": "rectangle", "width_mm": -5, "height_mm": 10}, "width_mm"),
    ({"kind": "points", "outline_mm": [[0, 0], [100, 100], [100, 0], [0, 100]]}, "crosses itself"),
    ({"kind": "triangles", "lengths_mm": {"AB": 800, "AC": 200, "BC": 300}, "outline": "ABC"}, "do not close to a triangle"),
    ({"kind": "triangles", "lengths_mm": {"AB": 800, "AC": 640, "BC": 590, "BD": 480}, "outline": "ABDC"}, "hangs on too few"),
    ({"kind": "triangles", "lengths_mm": {"AB": 800, "AC": 640, "BC": 590}, "outline": "ABZ"}, "no length leads to the point Z"),
    ({"kind": "arch", "width_mm": 900, "height_mm": 200, "straight_mm": 300}, "leave no arch"),
    ({"kind": "offsets", "length_mm": 900, "left": [[0, 5], [950, 5]]}, "do not run from 0 to 900 mm"),
    ({"kind": "L", "width_mm": 900, "height_mm": 700, "cut_width_mm": 900, "cut_height_mm": 300}, "as large as the piece"),
    ({"kind": "circle", "diameter_mm": 500, "keep_clear": [{"kind": "drain", "at_mm": [5, 5]}]}, "give one of them"),
])
def test_what_makes_no_shape_is_said(body: dict[str, Any], words: str) -> None:
    assert words in refused(**body)


def test_a_bulge_is_stretched_to_its_arc_and_a_dome_gets_its_wedges():
    flat = shape(kind="rectangle", width_mm=1000, height_mm=600, bulge_across_mm=100)
    # a chord of 1000 that rises 100: radius 1300, arc 2 · 1300 · asin(500 / 1300) = 1026.34
    assert flat.area_m2 == pytest.approx(1.02634 * 0.6, abs=2e-4)
    dome = shape(kind="circle", diameter_mm=400, bulge_across_mm=60, bulge_up_mm=60, relief=8)
    disc = shape(kind="circle", diameter_mm=400, bulge_across_mm=60, bulge_up_mm=60)
    across = 2 * (400**2 / 4 + 60**2) / 120 * math.asin(200 / ((400**2 / 4 + 60**2) / 120))
    assert disc.area_m2 == pytest.approx(math.pi * across**2 / 4 / 1e6, rel=1e-3)
    # the wedges take off the rim's excess, half way in: 8 triangles of (excess / 8) by a quarter of the arc
    excess = math.pi * (across - 400)
    assert disc.area_m2 - dome.area_m2 == pytest.approx(excess * across / 4 / 2 / 1e6, rel=0.05)
    tub = shape(kind="tub", width_mm=500, length_mm=300, depth_mm=120)
    assert tub.area_m2 == pytest.approx((500 * 300 + 2 * 120 * (500 + 300)) / 1e6)
    for change, why in (({"bulge_up_mm": 400}, "more than half a circle"), ({"relief": 6}, "lies flat without wedges")):
        with pytest.raises(BadInput, match=why):
            shape(kind="rectangle", width_mm=1000, height_mm=600, **change)
