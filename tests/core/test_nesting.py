"""Pieces of any outline on stock of any outline: checked by geometry of the test's own, whatever the search found."""

from __future__ import annotations

import math
import os
import random

import pytest
from shapely import Polygon, affinity, box

from sphagnum.core.cutting.layout import cut
from sphagnum.core.cutting.model import CutInput, CutResult
from sphagnum.core.errors import BadInput
from sphagnum.core.schema import parse

SETS = int(os.environ.get("SWEEP", "10"))
NEAR = 0.03
ALLOWED = {"none": (0,), "half": (0, 180), "quarter": (0, 90, 180, 270)}


def ring(shape: Polygon) -> list[list[float]]:
    return [[round(x, 2), round(y, 2)] for x, y in shape.exterior.coords[:-1]]


def check(data: dict, found: CutResult) -> None:
    """Everything laid is one of the wanted pieces, moved as it may be, inside its stock, clear of the rest; nothing is lost."""
    pieces, stock = ({x["id"]: x for x in data[key]} for key in ("pieces", "stock"))
    gap, seen, price = data.get("gap_mm", 0.0), [], 0.0
    for used in found.used:
        item = stock[used.stock]
        whole = Polygon(item["outline_mm"]) if "outline_mm" in item else box(0, 0, item["width_mm"], item["length_mm"])
        inside = whole.intersection(box(-1e6, -1e6, 1e6, used.length_used_mm)) if item.get("roll") else whole
        shapes = []
        for p in used.placements:
            wanted = pieces[p.piece]
            own = Polygon(wanted["outline_mm"], wanted.get("holes_mm", ()))
            there = Polygon(p.outline_mm, p.holes_mm)
            assert not p.mirrored or wanted.get("mirror", False)
            turns = ALLOWED.get(wanted.get("rotate", "any"))
            assert turns is None or min(abs(p.turned_deg - t) for t in turns) < 1e-6
            moved = affinity.rotate(affinity.scale(own, -1 if p.mirrored else 1, 1, origin=(0, 0)), p.turned_deg, origin=(0, 0))
            dx, dy = (there.bounds[k] - moved.bounds[k] for k in (0, 1))
            assert affinity.translate(moved, dx, dy).symmetric_difference(there).area < 0.03 * there.length
            assert inside.buffer(NEAR).covers(there)
            for other in shapes:
                assert there.intersection(other).area < NEAR * 100
                assert there.distance(other) >= gap - NEAR
            shapes.append(there)
            seen.append((p.piece, p.number))
        part = used.length_used_mm / item["length_mm"] if item.get("roll") and not item.get("sold_whole") else 1.0
        price += item["price"] * part
    seen += [(u.piece, u.number) for u in found.unplaced]
    assert sorted(seen) == sorted((p["id"], n + 1) for p in data["pieces"] for n in range(p.get("quantity", 1)))
    for name, item in stock.items():
        assert sum(u.stock == name for u in found.used) <= (item.get("quantity") or math.inf)
    assert found.price == pytest.approx(price, abs=0.02)
    if found.area_bound_price is not None and not found.unplaced:
        assert found.price >= found.area_bound_price - 0.01
    for offcut in found.offcuts:
        used = next(u for u in found.used if (u.stock, u.number) == (offcut.stock, offcut.number))
        assert all(Polygon(offcut.outline_mm).intersection(Polygon(p.outline_mm, p.holes_mm)).area < 1 for p in used.placements)


def a_piece(rng: random.Random, k: int) -> dict:
    """A star-shaped outline, convex or not, perhaps with a hole."""
    r, n = rng.uniform(40, 260), rng.randint(3, 9)
    turns = sorted(rng.uniform(0, 2 * math.pi) for _ in range(n))
    shape = Polygon([(r * rng.uniform(0.5, 1) * math.cos(t), r * rng.uniform(0.5, 1) * math.sin(t)) for t in turns])
    shape = shape.buffer(0).convex_hull if not shape.is_valid or shape.area < 500 else shape
    if rng.random() < 0.25:
        shape = box(0, 0, r, rng.uniform(40, 260))
    holes = []
    inner = shape.buffer(-r * 0.2)
    if rng.random() < 0.4 and isinstance(inner, Polygon) and inner.area > 2000:
        holes = [ring(inner)]
    return {"id": f"p{k}", "outline_mm": ring(shape), "holes_mm": holes, "quantity": rng.choice((1, 1, 1, 2)),
            "rotate": rng.choice(("any", "quarter", "half", "none")), "mirror": rng.random() < 0.4}


STOCK = [
    {"id": "sheet", "width_mm": 500, "length_mm": 800, "price": 11.5},
    {"id": "roll", "width_mm": 600, "length_mm": 3000, "roll": True, "quantity": 2, "price": 60},
    {"id": "whole", "width_mm": 700, "length_mm": 1500, "roll": True, "sold_whole": True, "price": 25},
    {"id": "wedge", "outline_mm": [[0, 0], [700, 0], [300, 500], [0, 400]], "quantity": 1, "price": 0},
    {"id": "elbow", "outline_mm": [[0, 0], [600, 0], [600, 250], [250, 250], [250, 700], [0, 700]], "quantity": 1, "price": 0},
]


@pytest.mark.parametrize("seed", range(SETS))
def test_no_layout_is_ever_invalid(seed: int):
    rng = random.Random(seed)
    data = {"gap_mm": rng.choice((0, 0, 2.5, 8)), "seconds": rng.choice((0.2, 0.4, 1.6 if seed % 6 == 0 else 0.3)),
            "stock": rng.sample(STOCK, rng.randint(1, 4)), "pieces": [a_piece(rng, k) for k in range(rng.randint(2, 14))],
            "across": rng.random() < 0.15}
    check(data, cut(parse(CutInput, data), restarts=4))


def sheet_of(*sizes: tuple[float, float], **more: object) -> dict:
    return {"stock": [STOCK[0]], "seconds": 2, **more,
            "pieces": [{"id": f"r{k}", "outline_mm": ring(box(0, 0, *s)), "holes_mm": []} for k, s in enumerate(sizes)]}


def test_exact_fits_beside_irregular_ones_are_found():
    data = sheet_of(*[(250, 400)] * 4)
    data["pieces"].append({"id": "off the sheet", "outline_mm": [[0, 0], [480, 0], [0, 780]], "holes_mm": []})
    found = cut(parse(CutInput, data))
    check(data, found)
    assert len(found.used) == 2


def test_how_a_rectangle_was_turned_is_told_right():
    rng = random.Random(3)
    data = sheet_of(*[(rng.uniform(60, 480), rng.uniform(60, 480)) for _ in range(24)])
    check(data, cut(parse(CutInput, data), restarts=40))


def test_a_hole_holds_what_fits_in_it():
    ring_piece = {"id": "ring", "outline_mm": ring(box(0, 0, 490, 790)), "holes_mm": [ring(box(100, 100, 390, 690))]}
    data = {"stock": [STOCK[0]], "seconds": 1, "gap_mm": 5, "pieces": [
        ring_piece, {"id": "inner", "outline_mm": [[0, 0], [270, 0], [270, 560], [0, 570]], "rotate": "none"}]}
    found = cut(parse(CutInput, data))
    check(data, found)
    assert (len(found.used), found.unplaced) == (1, ())


def test_offcuts_of_any_outline_come_first():
    data = {"stock": STOCK[:1] + STOCK[3:], "seconds": 1, "pieces": [
        {"id": "L", "outline_mm": [[0, 0], [590, 0], [590, 240], [240, 240], [240, 690], [0, 690]], "mirror": True},
        {"id": "T", "outline_mm": [[0, 0], [600, 0], [300, 380]], "rotate": "any"}]}
    found = cut(parse(CutInput, data))
    check(data, found)
    assert ({u.stock for u in found.used}, found.price) == ({"wedge", "elbow"}, 0)


def test_turned_over_only_where_the_face_allows():
    left = [[0, 0], [400, 0], [400, 90], [90, 90], [90, 600], [0, 600]]
    right = [[-x, y] for x, y in left[::-1]]
    data = {"stock": [{"id": "off", "outline_mm": [[p[0] + 400, p[1]] for p in right], "quantity": 1, "price": 0}],
            "seconds": 1, "pieces": [{"id": "arm", "outline_mm": left, "mirror": False}]}
    assert cut(parse(CutInput, data)).unplaced
    data["pieces"][0]["mirror"] = True
    found = cut(parse(CutInput, data))
    check(data, found)
    assert found.used[0].placements[0].mirrored


def test_less_roll_than_boxes_take_and_pieces_as_wide_as_the_roll():
    wedges = [{"id": f"w{k}", "outline_mm": [[0, 0], [480, 0], [20, 300]]} for k in range(8)]
    wide = {"id": "wide", "outline_mm": [[0, 0], [1000, 0], [1000, 300], [500, 340], [0, 300]], "rotate": "half"}
    roll = {"id": "roll", "width_mm": 1000, "length_mm": 10_000, "roll": True, "price": 60}
    data = {"stock": [roll], "seconds": 3, "pieces": [*wedges, wide]}
    found = cut(parse(CutInput, data))
    check(data, found)
    assert found.used[0].length_used_mm < 340 + 4 * 300 * 0.8


def test_what_is_fixed_stays_and_the_rest_is_laid_round_it():
    data = sheet_of((200, 300), (200, 300), (290, 790), gap_mm=4, fixed=[
        {"piece": "r0", "number": 1, "stock": "sheet", "x_mm": 296, "y_mm": 250, "turned_deg": 0.0}])
    found = cut(parse(CutInput, data))
    check(data, found)
    stays = next(p for u in found.used for p in u.placements if p.piece == "r0")
    assert Polygon(stays.outline_mm).bounds == (296, 250, 496, 550)
    assert len(found.used) == 2  # the other small one no longer fits beside it
    for where, why in (({"x_mm": 301}, "r0 reaches over the edge of sheet"), ({"x_mm": 296, "stock": "none such"}, "not among")):
        with pytest.raises(BadInput, match=why):
            cut(parse(CutInput, {**data, "fixed": [{**data["fixed"][0], **where}]}))
    offcut = {**data, "stock": [{**STOCK[0], "quantity": 1}], "fixed": [{**data["fixed"][0], "stock_number": 2}]}
    with pytest.raises(BadInput, match="not among"):  # of that there is one only
        cut(parse(CutInput, offcut))
    second = cut(parse(CutInput, {**data, "fixed": [{**data["fixed"][0], "stock_number": 2}]}))
    check(data, second)
    assert {u.number for u in second.used if any(p.piece == "r0" for p in u.placements)} == {2}
    assert {u.number for u in second.used} == {1, 2}
    with pytest.raises(BadInput, match="r1 overlaps r0"):
        cut(parse(CutInput, {**data, "fixed": [*data["fixed"], {**data["fixed"][0], "piece": "r1", "y_mm": 400}]}))


def test_limited_stock_is_used_up_before_more_is_left_over():
    wedge = {"outline_mm": [[0, 0], [480, 0], [480, 700], [240, 780]], "rotate": "half"}
    data = {"stock": [{**STOCK[0], "quantity": 3}], "seconds": 1.5, "pieces": [{"id": n, **wedge} for n in "abcd"],
            "fixed": [{"piece": "a", "stock": "sheet", "x_mm": 10, "y_mm": 10}]}
    found = cut(parse(CutInput, data))
    check(data, found)
    assert [(u.piece, u.why) for u in found.unplaced] == [("d", "the stock is used up")]


def test_knife_and_rule_cuts_go_right_across():
    rng = random.Random(5)
    data = sheet_of(*[(rng.uniform(80, 300), rng.uniform(80, 300)) for _ in range(14)], across=True)
    found = cut(parse(CutInput, data))
    check(data, found)

    def parted(boxes: list[tuple[float, ...]]) -> bool:
        """Whether cuts right across part the boxes one from another."""
        if len(boxes) < 2:
            return True
        for axis in (0, 1):
            for at in {b[axis] for b in boxes}:
                low, high = [b for b in boxes if b[axis + 2] <= at + 0.02], [b for b in boxes if b[axis] >= at - 0.02]
                if low and high and len(low) + len(high) == len(boxes):
                    return parted(low) and parted(high)
        return False

    assert all(parted([Polygon(p.outline_mm).bounds for p in u.placements]) for u in found.used)


@pytest.mark.parametrize(("piece", "why"), [
    ({"outline_mm": [[0, 0], [100, 100], [100, 0], [0, 100]]}, "crosses itself"),
    ({"outline_mm": [[0, 0], [100, 0], [100, 100]], "holes_mm": [[[200, 200], [210, 200], [210, 210]]]}, "outside its piece"),
    ({"outline_mm": [[0, 0], [100, 0], [200, 0]]}, "out of range"),
])
def test_what_is_no_plain_shape_is_refused(piece: dict, why: str):
    with pytest.raises(BadInput, match=why):
        cut(parse(CutInput, {"stock": [STOCK[0]], "pieces": [{"id": "a", **piece}]}))


def test_what_is_larger_than_any_stock_is_said():
    data = {"stock": [STOCK[0]], "seconds": 0.5, "pieces": [{"id": "a", "outline_mm": [[0, 0], [900, 0], [900, 300], [0, 200]]}]}
    found = cut(parse(CutInput, data))
    assert [(u.piece, u.why) for u in found.unplaced] == [("a", "longer than any stock")]
