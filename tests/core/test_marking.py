"""A sheet marked out from its list alone: every printed number lies on the sheet as it is drawn, and gives its piece back."""

from __future__ import annotations

import math
import random
import re

import pytest
from shapely import Point, Polygon, affinity, box
from shapely.geometry.base import BaseGeometry

from cases import rest_broad
from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.buying import Wanted, flat_forms
from sphagnum.core.cutting.model import CutInput, CutResult, Placement, UsedStock
from sphagnum.core.cutting.parts import Part, turn, upright, upright_each
from sphagnum.core.cutting.rows import Offcut
from sphagnum.core.schema import parse
from sphagnum.core.stages.cut.model import SheetPiece, SheetView
from sphagnum.core.stages.cut.sheets import Asked, alike, sheets_of
from sphagnum.core.stages.cut.wanted import Named
from sphagnum.core.worded import System, worded

LAYOUTS = 300
MATERIALS = {"butyl-foil": 2.0, "stone-wool": 50.0, "gypsum-board": 12.5, "vinyl-5": 2.5}
INCH = 25.4


def drawn_from_words(piece: SheetPiece, system: System) -> Polygon:
    """The piece as somebody would draw it who has nothing but the words."""
    def number(text: str) -> float:
        parts = text.replace(",", "").split()
        value = sum(float(p.split("/")[0]) / float(p.split("/")[1]) if "/" in p else float(p) for p in parts)
        return value * (INCH if system == "imperial" else 1.0)

    def pair(text: str, by: str) -> tuple[float, float]:
        first, second = text.split(by)
        return number(first), number(second)

    def shape(text: str, points: list[str]) -> Polygon:
        if found := re.fullmatch(r"round, (.+) across, its middle at (.+)", text):
            return Point(pair(found[2], " · ")).buffer(number(found[1]) / 2, 64)
        if text == "corners in order":
            return Polygon([pair(x, " · ") for x in points])
        found = re.fullmatch(r"at each mark (along the foot|up the left edge), from the (?:foot|left)", text)
        assert found, text
        rows = [(number(x.split(": ")[0]), *pair(x.split(": ")[1], "–")) for x in points]
        ring = [(at, low) for at, low, _ in rows] + [(at, high) for at, _, high in rows[::-1]]
        return Polygon(ring if found[1] == "along the foot" else [(y, x) for x, y in ring])

    def bounds(size: str, at: str) -> Polygon:
        (w, h), (x, y) = pair(size, " × "), pair(at, " · ")
        return box(x, y, x + w, y + h)

    lines = [(worded(x.lead, system), [worded(p, system) for p in x.points]) for x in piece.lines]
    out: BaseGeometry = bounds(worded(piece.size, system), worded(piece.at, system))
    for k, (lead, points) in enumerate(lines):
        if found := re.fullmatch(r"cut-out (round, .+) \(in the piece (.+?)\)", lead):
            hole, (x1, y1, _, _) = shape(found[1], []), bounds(worded(piece.size, system), worded(piece.at, system)).bounds
            assert math.dist(hole.centroid.coords[0], [a + b for a, b in zip(pair(found[2], " · "), (x1, y1), strict=True)]) < 2
            out = out.difference(hole)
        elif found := re.fullmatch(r"cut-out (.+?) at (.+?) \(in the piece (.+?)\)", lead):
            then, its = lines[k + 1] if k + 1 < len(lines) else ("", [])
            edge = then.startswith("its edge: ")
            out = out.difference(shape(then.removeprefix("its edge: "), its) if edge else bounds(found[1], found[2]))
            assert min(pair(found[3], " · ")) >= 0
        elif not lead.startswith("its edge: "):
            out = shape(lead, points)
    assert isinstance(out, Polygon)
    return out


def some_piece(rng: random.Random) -> Polygon:
    """A rectangle, a polygon, a notched board, an arch, a disc or a wheel arch, some with openings in them."""
    w, h = rng.uniform(80, 900), rng.uniform(60, 500)
    kind = rng.choice(("board", "cut off", "notched", "arch", "disc", "curved", "holed", "comb"))
    if kind == "board":
        return box(0, 0, w, h)
    if kind == "cut off":
        return Polygon([(0, 0), (w, 0), (w, h * 0.6), (w * 0.7, h), (0, h * 0.9)])
    if kind == "notched":
        return box(0, 0, w, h).difference(box(w * 0.3, h * 0.6, w * 0.5, h + 1)).difference(box(w * 0.8, -1, w + 1, h * 0.2))
    if kind == "arch":
        return box(0, 0, w, h).difference(Point(w / 2, 0).buffer(min(w * 0.35, h * 0.8), 32))
    if kind == "disc":
        return Point(0, 0).buffer(w / 2, 32)
    if kind == "holed":
        board = box(0, 0, w + 200, h + 200)
        hole = rng.choice((box(60, 50, 60 + w / 3, 50 + h / 2), Point(w / 2 + 60, h / 2 + 60).buffer(50, 32)))
        return board.difference(hole)
    if kind == "comb":  # a line across meets it more than twice, either way, and it has many corners
        ring = [(0, 0), (w, 0), (w, h)]
        ring += [p for k in range(4) for x in [w * (1 - (k + 0.2) / 4)] for p in ((x, h), (x - w / 10, h / 2), (x - w / 8, h))]
        return Polygon([*ring, (0, h), (w / 20, h * 0.8), (0, h * 0.6), (w / 15, h * 0.4), (0, h * 0.2)])
    points = [(math.cos(a / 20 * math.pi), math.sin(a / 20 * math.pi)) for a in range(40)]
    return Polygon([(w / 2 * x * (1 + 0.15 * x * y), h / 2 * y) for x, y in points])


def a_layout(rng: random.Random) -> tuple[Asked, CutResult, dict[str, Polygon]]:
    """Pieces somewhere on a stock of some size, and where they truly are on it."""
    name = rng.choice(list(MATERIALS))
    material = shelf().material(name)
    form = flat_forms(material, MATERIALS[name])[0]
    size = (rng.uniform(500, 2000), rng.uniform(400, 3000))
    offcut = rng.random() < 0.5
    rest = parse(Offcut, {"id": 3, "version": 1, "material": name, "thickness_mm": MATERIALS[name],
                          "width_mm": round(size[0], 1), "length_mm": round(size[1], 1)})
    width, length = (rest.width_mm, rest.length_mm) if offcut else (form.width_mm or 0.0, form.length_mm or 0.0)
    length = min(length, 3000.0)
    named, placements, there = [], [], {}
    for n in range(rng.randint(1, 4)):
        own = some_piece(rng)
        own = affinity.scale(own, *[min(1.0, 0.6 * min(width, length) / max(own.bounds[2] - own.bounds[0],
                                                                           own.bounds[3] - own.bounds[1]))] * 2)
        angle, over = rng.choice((0.0, 90.0, 180.0, 270.0, rng.uniform(0, 360))), rng.random() < 0.3
        lies = affinity.rotate(affinity.scale(own, -1.0 if over else 1.0, 1.0, origin=(0, 0)), angle, origin=(0, 0))
        x1, y1, x2, y2 = lies.bounds
        lies = affinity.translate(lies, rng.uniform(0, width - (x2 - x1)) - x1, rng.uniform(0, length - (y2 - y1)) - y1)
        label = f"P{n}"
        there[label] = lies
        named.append(Named(Wanted(label, own, "any", True), 1))
        placements.append(Placement(piece=label, number=1, mirrored=over, turned_deg=angle, holes_mm=(),
                                    outline_mm=tuple(lies.exterior.coords[:-1])))
    used = UsedStock(stock="offcut 3" if offcut else form.id, number=1, length_used_mm=length, placements=tuple(placements))
    result = CutResult(used=(used,), unplaced=(), piece_area_m2=1, stock_area_m2=1, utilisation=1, price=0, area_bound_price=None,
                       offcuts=())
    data = parse(CutInput, {"stock": [{"id": "x", "width_mm": 1, "length_mm": 1}],
                            "pieces": [{"id": "x", "outline_mm": [[0, 0], [1, 0], [1, 1]]}]})
    return Asked(material, MATERIALS[name], named, (rest,) if offcut else (), data, frozenset(), ()), result, there


@pytest.mark.parametrize("system", rest_broad(["metric", "imperial"], ["metric"]))
def test_the_numbers_alone_give_every_piece_back_where_it_is_drawn(system: System):
    rng = random.Random(24)
    kinds = set()
    for _ in range(LAYOUTS):
        asked, result, there = a_layout(rng)
        (opened,) = sheets_of(asked, result)
        sheet = opened.view
        whole = Polygon(sheet.outline_mm)
        assert whole.bounds == pytest.approx((0, 0, sheet.across_mm, sheet.up_mm), abs=0.02)
        assert sheet.across_mm >= sheet.up_mm  # the long side is the foot
        # as a sheet lies before one: turned, and seen from behind where its liner is up, but never else
        a, b, c, d = sheet.to_stock
        assert a * d - b * c == (-1 if sheet.face == "liner up" else 1)
        for piece in sheet.pieces:
            drawn = Polygon(piece.outline_mm, piece.holes_mm)
            told = drawn_from_words(piece, system)
            assert told.hausdorff_distance(drawn) <= 2.0
            assert told.symmetric_difference(drawn).area <= 2.0 * drawn.length
            assert whole.buffer(2.0).covers(told)
            back = affinity.affine_transform(drawn, [a, b, c, d, 0, 0])
            true = there[piece.label]
            moved = affinity.translate(back, true.bounds[0] - back.bounds[0], true.bounds[1] - back.bounds[1])
            assert moved.symmetric_difference(true).area <= 0.05 * true.length
            kinds |= {re.split(r"[ ,]", x.lead)[0] for x in piece.lines} or {"box"}
    assert kinds == {"box", "corners", "at", "round", "cut-out", "its"}


def test_a_lying_sheet_is_listed_as_it_is_drawn():
    """1000 wide and 1200 long: 1200 is the foot, so a piece in the lower right of the stock is drawn upper right of it."""
    material = shelf().material("gypsum-board")
    rest = parse(Offcut, {"id": 1, "version": 1, "material": "gypsum-board", "thickness_mm": 12.5, "width_mm": 1000,
                          "length_mm": 1200})
    corner = box(700, 0, 1000, 400)
    laid = Placement(piece="A", number=1, mirrored=False, turned_deg=0, holes_mm=(),
                     outline_mm=tuple(corner.exterior.coords[:-1]))
    result = CutResult(used=(UsedStock(stock="offcut 1", number=1, length_used_mm=1200, placements=(laid,)),), unplaced=(),
                       piece_area_m2=1, stock_area_m2=1, utilisation=1, price=0, area_bound_price=None, offcuts=())
    data = parse(CutInput, {"stock": [{"id": "x", "width_mm": 1, "length_mm": 1}],
                            "pieces": [{"id": "x", "outline_mm": [[0, 0], [1, 0], [1, 1]]}]})
    (opened,) = sheets_of(Asked(material, 12.5, [Named(Wanted("A", corner, "any"), 1)], (rest,), data, frozenset(), ()), result)
    (piece,) = opened.view.pieces
    assert (opened.view.across_mm, opened.view.up_mm) == (1200, 1000)
    # a quarter turn to the right: what lay at the foot stands at the left edge, what lay right lies below
    assert [worded(x, "metric") for x in (piece.size, piece.at)] == ["400 × 300", "0 · 0"]
    assert [worded(x, "imperial") for x in (piece.size, piece.at)] == ["15 3/4 × 11 13/16", "0 · 0"]


def test_sheets_alike_name_all_the_pieces_they_stand_for():
    views = [_sheet(n, labels) for n, labels in enumerate((("A1", "A2"), ("B1", "B2"), ("C1",), ("D1", "D2")), start=1)]
    first, second, odd, last = alike(views)
    assert [s.same_as for s in (first, second, odd, last)] == [None, 0, None, 0]
    assert (first.alike, odd.alike) == (3, 1)
    assert [(p.label, p.also) for p in first.pieces] == [("A1", ("B1", "D1")), ("A2", ("B2", "D2"))]
    assert [(p.label, p.also) for p in last.pieces] == [("D1", ("A1", "B1")), ("D2", ("A2", "B2"))]
    assert odd.pieces[0].also == ()


def _sheet(number: int, labels: tuple[str, ...]) -> SheetView:
    pieces = tuple(
        SheetPiece(label=label, surface_id=1, outline_mm=((x, 0), (x + 90, 0), (x + 90, 50)), holes_mm=(), x_mm=x, y_mm=0,
                   mirrored=False, turned_deg=0, locked=False, turns=(), mirrors=False, area_mm2=1, size="", at="", lines=())
        for x, label in zip((0, 100), labels, strict=False))
    return SheetView(material="m", thickness_mm=1, name="m", letter="D", roll=False, stock="s", number=number, across_mm=500,
                     up_mm=400, size="", to_stock=(1, 0, 0, 1), outline_mm=((0, 0), (500, 0), (500, 400), (0, 400)),
                     pieces=pieces, used=0.5, face="")


def test_many_pieces_moved_at_once_lie_where_each_one_lies_that_is_moved_alone():
    rng = random.Random(11)
    shapes, turns, at = [], [], []
    for _ in range(60):
        w, h = rng.uniform(30, 900), rng.uniform(30, 900)
        corners = [(x + rng.uniform(0, 9), y + rng.uniform(0, 9)) for x, y in ((0, 0), (w, 0), (w, h), (w / 3, h), (0, h / 2))]
        holes = [[(w / 3 + dx, h / 5 + dy) for dx, dy in ((0, 0), (7, 0), (0, 7))]] * rng.randrange(2)
        shapes.append(Polygon(corners, holes))
        turns.append((rng.choice((0.0, 90.0, 180.0, 270.0, rng.uniform(0, 360))), rng.random() < 0.5))
        at.append((rng.uniform(0, 2000), rng.uniform(0, 2000)))
    alone = [upright(Part(0, 1, shape, "any", True), *turned, *where).shape
             for shape, turned, where in zip(shapes, turns, at, strict=True)]
    together = upright_each(shapes, [turn(*turned) for turned in turns], at)
    assert [p.wkb for p in together] == [p.wkb for p in alone]
    assert len({len(p.interiors) for p in together}) == 2
    assert upright_each([], [], []) == []
