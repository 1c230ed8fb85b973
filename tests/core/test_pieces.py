"""Layers to pieces: inside what may be covered, to its outline, through an opening, with their laps, seams and deductions."""

from __future__ import annotations

import math

import pytest
from shapely import MultiPolygon, Point, Polygon, box, union_all

from sphagnum.catalogue.load import shelf
from sphagnum.core.errors import BadInput
from sphagnum.core.schema import parse
from sphagnum.core.surfaces.coverage import laid_share, pieces_of
from sphagnum.core.surfaces.geometry import Shape, treatable
from sphagnum.core.surfaces.pieces import Cover, Seams, inside_pieces, whole_pieces
from sphagnum.core.surfaces.rows import StackLayerIn, Surface

SHEET = (500.0, 800.0)


def shape(outline: list, *zones: dict) -> Shape:
    return parse(Shape, {"outline_mm": outline, "keep_clear": list(zones)})


def rectangle(width: float, height: float) -> list[list[float]]:
    return [[0, 0], [width, 0], [width, height], [0, height]]


def door() -> Shape:
    return shape([[0, 0], [1180, 0], [1180, 400], [1000, 540], [0, 540]],
                 {"kind": "drain", "x_mm": 100, "y_mm": 0, "width_mm": 80, "height_mm": 20},
                 {"kind": "module", "shape": "circle", "x_mm": 600, "y_mm": 60, "width_mm": 165, "height_mm": 165})


def arch() -> Shape:
    """A wheel arch from above: a band between two half circles."""
    turn = [math.pi * k / 24 for k in range(25)]
    return shape([[520 + r * math.cos(t), r * math.sin(t)] for r, order in ((520, turn), (250, turn[::-1])) for t in order])


def check(cover: Cover, on: Shape, sheet: tuple[float, float], within: float = 0.01) -> None:
    free = treatable(on).buffer(within)
    assert all(free.covers(p) and p.is_valid for p in cover.pieces)
    for p in cover.pieces:
        x1, y1, x2, y2 = p.bounds
        assert min(x2 - x1, y2 - y1) <= min(sheet) + 1e-6
        assert max(x2 - x1, y2 - y1) <= max(sheet) + 1e-6


@pytest.mark.parametrize("coverage", [0.25, 0.4, 0.6, 0.8, 1.0])
@pytest.mark.parametrize("make", [door, arch])
def test_damping_reaches_the_coverage_asked_and_stays_inside(make, coverage: float):
    on = make()
    cover = inside_pieces(on, SHEET, coverage)
    check(cover, on, SHEET)
    assert all(a.intersection(b).area < 1e-3 for i, a in enumerate(cover.pieces) for b in cover.pieces[:i])
    assert cover.share == pytest.approx(sum(p.area for p in cover.pieces) / treatable(on).area)
    assert coverage - 0.025 <= cover.share <= coverage + 0.06


def test_damping_lies_in_the_middle_of_each_field_between_stiffeners():
    on = shape(rectangle(1500, 600), *[{"kind": "stiffener", "x_mm": x, "y_mm": 0, "width_mm": 20, "height_mm": 600}
                                       for x in (480, 990)])
    cover = inside_pieces(on, SHEET, 0.3)
    for left, right in ((0, 480), (500, 990), (1010, 1500)):
        own = union_all([p for p in cover.pieces if left - 1 <= p.centroid.x <= right + 1])
        assert own.centroid.distance(Point((left + right) / 2, 300)) < 30
        assert own.area == pytest.approx(0.3 * (right - left) * 600, rel=0.25)


def test_the_rest_is_cut_whole_to_its_outline_and_its_holes():
    on = door()
    cover = whole_pieces(on, (600, 1200))
    check(cover, on, (600, 1200))
    assert len(cover.pieces) == 1
    assert cover.pieces[0].area == pytest.approx(treatable(on).area, rel=1e-9)
    assert len(cover.pieces[0].interiors) == 1
    assert cover.seam_m == 0


def test_seams_are_few_lapped_and_staggered():
    on = shape(rectangle(2000, 900))
    plain, lapped, staggered = (whole_pieces(on, (1000, 1200), s) for s in
                                (Seams(), Seams(lap_mm=30), Seams(staggered=True)))
    assert len(plain.pieces) == len(lapped.pieces) == 2
    assert plain.seam_m == pytest.approx(0.9)
    assert sum(p.area for p in lapped.pieces) - 2000 * 900 == pytest.approx(30 * 900)
    assert len(staggered.pieces) == 3
    ends = [sorted({x for p in c.pieces for x in (p.bounds[0], p.bounds[2])})[1:-1] for c in (plain, staggered)]
    assert min(abs(a - b) for a in ends[0] for b in ends[1]) >= 499
    for cover in (plain, lapped, staggered):
        check(cover, on, (1000, 1200))
        assert union_all(cover.pieces).area == pytest.approx(2000 * 900)
    dear = whole_pieces(shape(rectangle(1000, 1900)), (1000, 1000), Seams(price_m=0.5))
    assert union_all(dear.pieces).area == pytest.approx(1.9e6)


def surface(**more: object) -> Surface:
    return parse(Surface, {"id": 1, "version": 1, "name": "Door", "outline_mm": rectangle(1100, 700),
                           "substrate": {"material": "steel", "thickness_mm": 0.8}, **more})


def layer(material: str, thickness: float, **more: object) -> StackLayerIn:
    return parse(StackLayerIn, {"material": material, "thickness_mm": thickness, **more})


def test_through_an_opening_strips_pass_and_the_farthest_goes_first():
    through = surface(opening={"width_mm": 260, "height_mm": 180, "x_mm": 800, "y_mm": 200})
    vinyl = shelf().material("vinyl-5")
    cover, whole = (pieces_of(s, layer("vinyl-5", 2.5), vinyl) for s in (through, surface()))
    assert len(whole.pieces) == 1
    assert all(min(p.bounds[2] - p.bounds[0], p.bounds[3] - p.bounds[1]) <= 250 for p in cover.pieces)
    assert union_all(cover.pieces).area == pytest.approx(1100 * 700)
    away = [p.distance(Point(930, 290)) for p in cover.pieces]
    assert away == sorted(away, reverse=True)
    damping = pieces_of(through, layer("butyl-foil", 2.0, coverage=0.4), shelf().material("butyl-foil"))
    assert all(min(p.bounds[2] - p.bounds[0], p.bounds[3] - p.bounds[1]) <= 250 for p in damping.pieces)
    assert laid_share(through, layer("butyl-foil", 2.0, coverage=0.4), shelf().material("butyl-foil")) == damping.share
    with pytest.raises(BadInput, match="nothing that is worth cutting passes"):
        surface(opening={"width_mm": 40, "height_mm": 30})


def test_boards_between_neighbours_are_cut_shorter_and_linings_clear_the_corners():
    ply, felt = shelf().material("plywood"), shelf().material("wool-felt")
    for butts, size in (("", (1100, 700)), ("across", (1082, 700)), ("up", (1100, 682)), ("both", (1082, 682))):
        found = pieces_of(surface(butts=butts), layer("plywood", 9), ply)
        x1, y1, x2, y2 = MultiPolygon(found.pieces).bounds
        assert (x2 - x1, y2 - y1) == size
    lining = pieces_of(surface(butts="across"), layer("wool-felt", 10), felt)  # between the neighbours' boards of 0.8 mm
    assert MultiPolygon(lining.pieces).bounds == (0.8, 0, 1099.2, 700)
    inner = pieces_of(surface(), layer("wool-felt", 10), felt, inset_mm=20)
    assert union_all(inner.pieces).bounds == (20, 20, 1080, 680)
    handled = pieces_of(surface(), layer("plywood", 9), ply, largest=(600, None))
    assert all(max(p.bounds[2] - p.bounds[0], p.bounds[3] - p.bounds[1]) <= 600 for p in handled.pieces)
    light = pieces_of(surface(), layer("vinyl-5", 2.5), shelf().material("vinyl-5"), largest=(None, 2.0))
    assert all(p.area / 1e6 * 5.0 <= 2.01 for p in light.pieces)


def test_a_hole_that_parts_the_field_leaves_pieces_whole():
    on = shape(rectangle(900, 400), {"kind": "cable run", "x_mm": 440, "y_mm": 0, "width_mm": 20, "height_mm": 400})
    cover = whole_pieces(on, (1000, 1200))
    assert [type(p) for p in cover.pieces] == [Polygon, Polygon]
    assert box(430, 0, 470, 400).intersection(union_all(cover.pieces)).area < 1
