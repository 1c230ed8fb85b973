"""Rectangles laid on sheets, rolls and rectangular offcuts, by a packing library under a seeded search."""

from __future__ import annotations

import itertools
import math
import random
import time
from collections.abc import Iterator
from typing import Any, NamedTuple

import numpy as np
import rectpack

from ..report import Report, silent
from ..surfaces.rectangles import largest_rectangles
from ..words import plural
from .model import CutInput, CutResult, Offcut, Outline, Placement, StockItem, Unplaced, UsedStock

LEAST_OFFCUT_MM = 100.0
USED_UP, LONGER, WIDER = "the stock is used up", "longer than any stock", "wider than any stock"
UNITS_PER_MM = 100  # the packer works in whole numbers
RESTARTS = 150
ALGORITHMS = (rectpack.MaxRectsBssf, rectpack.MaxRectsBl, rectpack.MaxRectsBaf, rectpack.GuillotineBssfSas)
SORTS = (rectpack.SORT_AREA, rectpack.SORT_LSIDE, rectpack.SORT_SSIDE, rectpack.SORT_PERI)


class Rect(NamedTuple):
    """One piece to place, mm; ``turns``: whether a quarter turn is allowed."""

    piece: str
    number: int
    width: float
    height: float
    turns: bool


class Bin(NamedTuple):
    """One stock form as a rectangle, mm."""

    item: StockItem
    width: float
    length: float


class Placed(NamedTuple):
    """A rect at (x, y) with its placed size, mm."""

    rect: Rect
    x: float
    y: float
    width: float
    height: float


class Opened(NamedTuple):
    """A bin in use."""

    bin: Bin
    content: list[Placed]

    @property
    def length_used(self) -> float:
        return max(p.y + p.height for p in self.content) if self.bin.item.roll else self.bin.length

    @property
    def price(self) -> float:
        if self.bin.item.roll and not self.bin.item.sold_whole:
            return self.bin.item.price * self.length_used / self.bin.length
        return self.bin.item.price


Layout = list[Opened]


def boxed(data: CutInput, seed: int = 1, restarts: int = RESTARTS, report: Report = silent) -> CutResult:
    """Lay rectangles out for the lowest price, then the least used area. Same input and seed, same answer.

    ``restarts``: shuffled tries beyond the library's own rules; ``data.seconds`` ends the search in any case. ``report`` is told
    after each try, with the best so far. All pieces and stock must be upright rectangles.
    """
    rects = [Rect(p.id, n + 1, *_size(p.outline_mm), p.rotate in ("any", "quarter"))
             for p in data.pieces for n in range(p.quantity)]
    bins = [_bin(item) for item in data.stock]
    fitting = [r for r in rects if any(_fits(r, b) for b in bins)]
    bound = area_bound([(b.item, b.width * b.length) for b in bins], sum(r.width * r.height for r in fitting))
    rules = Rules(data.gap_mm, (rectpack.GuillotineBssfSas, rectpack.GuillotineBafSlas) if data.across else ALGORITHMS)
    search = _search(fitting, bins, rules, bound, random.Random(seed), restarts, data.seconds)
    layout: Layout = []
    for share, layout in search:
        price = sum(o.price for o in layout)
        report(share, f"{plural(len(layout), 'piece')} of stock opened, {price:.2f}",
               lambda best=layout: _result(rects, best, bins, bound))  # type: ignore[misc]
    return _result(rects, layout, bins, bound)


class Rules(NamedTuple):
    """How is packed: the gap between pieces, mm, and the library's rules; the first of them packs a bin anew."""

    gap: float
    algorithms: tuple[Any, ...]


def _size(outline: Outline) -> tuple[float, float]:
    xs, ys = [p[0] for p in outline], [p[1] for p in outline]
    return max(xs) - min(xs), max(ys) - min(ys)


def _bin(item: StockItem) -> Bin:
    if item.width_mm is not None and item.length_mm is not None:
        return Bin(item, item.width_mm, item.length_mm)
    assert item.outline_mm is not None
    return Bin(item, *_size(item.outline_mm))


def _fits(rect: Rect, b: Bin) -> bool:
    return (rect.width <= b.width and rect.height <= b.length) or (
        rect.turns and rect.height <= b.width and rect.width <= b.length
    )


def area_bound(stock: list[tuple[StockItem, float]], area_mm2: float) -> float | None:
    """Lowest price at which opened stock (each with its area, mm²) has at least the pieces' area; None if all has less."""
    if area_mm2 <= 0:
        return 0.0
    areas = np.array([area for _, area in stock])
    parted = np.array([item.roll and not item.sold_whole for item, _ in stock])
    most = np.array([item.quantity or math.ceil(area_mm2 / area) for item, area in stock], dtype=float)
    from scipy.optimize import Bounds, LinearConstraint, milp  # takes long to load, and only cutting needs it

    found = milp(
        np.array([item.price for item, _ in stock]),
        constraints=LinearConstraint(areas[None, :] / area_mm2, lb=1 - 1e-9),
        bounds=Bounds(0, most),
        integrality=(~parted).astype(int),
    )
    return float(found.fun) if found.success else None


def _search(
    rects: list[Rect], bins: list[Bin], rules: Rules, bound: float | None, rng: random.Random, restarts: int, seconds: float,
) -> Iterator[tuple[float, Layout]]:
    """The best layout so far after each try, with the share of the tries that are done."""
    best: Layout | None = None
    began, tries = time.monotonic(), _count_of_tries(rects, bins, rules, restarts)
    for n, attempt in enumerate(_attempts(rects, bins, rules, rng, restarts), start=1):
        layout = _improved(attempt, bins, rules)
        if best is None or _cost(layout, rects) < _cost(best, rects):
            best = layout
        done = bound is not None and _cost(best, rects)[:2] <= (0, bound + 1e-9)
        took = time.monotonic() - began
        yield min(max(n / tries, took / seconds), 1.0), best
        if took > seconds or (done and not any(o.bin.item.roll for o in best)):
            break


def _cost(layout: Layout, rects: list[Rect]) -> tuple[int, float, float]:
    placed = sum(len(o.content) for o in layout)
    used = sum(o.length_used * o.bin.width for o in layout)
    return len(rects) - placed, round(sum(o.price for o in layout), 6), used


def _count_of_tries(rects: list[Rect], bins: list[Bin], rules: Rules, restarts: int) -> int:
    """How many layouts ``_attempts`` gives at most."""
    if len(rects) > 400:
        return 1
    orders = min(math.factorial(min(sum(b.item.price > 0 for b in bins), 4)), 6)
    orders += any(b.item.price > 0 for b in bins) and any(b.item.price == 0 for b in bins)
    return orders * len(rules.algorithms) * len(SORTS) + restarts * 20 // max(len(rects), 20)


def _attempts(
    rects: list[Rect], bins: list[Bin], rules: Rules, rng: random.Random, restarts: int
) -> Iterator[Layout]:
    """Layouts to choose from: every order of stock and rule of the library, then shuffled restarts."""
    free = sorted((b for b in bins if b.item.price == 0), key=lambda b: b.width * b.length)
    paid = sorted((b for b in bins if b.item.price > 0), key=lambda b: b.item.price / (b.width * b.length))
    orders = [free + list(p) for p in itertools.islice(itertools.permutations(paid), 6)]
    if len(rects) > 400:
        yield _pack(rects, orders[0], rules.gap, rules.algorithms[0], SORTS[0])
        return
    for order, algorithm, sort in itertools.product(orders, rules.algorithms, SORTS):
        yield _pack(rects, order, rules.gap, algorithm, sort)
    if free and paid:  # what costs nothing filled by itself first: the packer opens a stock only when those open are full
        for algorithm, sort in itertools.product(rules.algorithms, SORTS):
            kept = _pack(rects, free, rules.gap, algorithm, sort)
            there = {(p.rect.piece, p.rect.number) for o in kept for p in o.content}
            rest = [r for r in rects if (r.piece, r.number) not in there]
            yield kept + (_pack(rest, paid, rules.gap, algorithm, sort) if rest else [])
    for _ in range(restarts * 20 // max(len(rects), 20)):
        shuffled = [_turned(r) if r.turns and rng.random() < 0.5 else r for r in rects]
        shuffled.sort(key=lambda r: -r.width * r.height * rng.uniform(0.6, 1.4))
        yield _pack(shuffled, rng.choice(orders), rules.gap, rng.choice(rules.algorithms), rectpack.SORT_NONE, rotate=False)


def _turned(rect: Rect) -> Rect:
    return rect._replace(width=rect.height, height=rect.width)


def _pack(
    rects: list[Rect], bins: list[Bin], gap: float, algorithm: object, sort: object, rotate: bool = True
) -> Layout:
    """One run of the packer. It turns all pieces or none, so pieces that may not turn switch turning off."""
    packer = rectpack.newPacker(
        mode=rectpack.PackingMode.Offline, bin_algo=rectpack.PackingBin.BFF, pack_algo=algorithm,
        sort_algo=sort, rotation=rotate and all(r.turns for r in rects),
    )

    def up(mm: float) -> int:
        return math.ceil(round((mm + gap) * UNITS_PER_MM, 3))

    for k, rect in enumerate(rects):
        packer.add_rect(up(rect.width), up(rect.height), k)
    for k, b in enumerate(bins):
        down = [math.floor(round((side + gap) * UNITS_PER_MM, 3)) for side in (b.width, b.length)]
        packer.add_bin(*down, count=b.item.quantity or len(rects), bid=k)
    packer.pack()
    layout = []
    for packed in packer:
        content = []
        for r in packed:
            rect = rects[r.rid]
            same = (r.width, r.height) == (up(rect.width), up(rect.height))
            size = (rect.width, rect.height) if same else (rect.height, rect.width)
            content.append(Placed(rect, r.x / UNITS_PER_MM, r.y / UNITS_PER_MM, *size))
        if content:
            layout.append(Opened(bins[packed.bid], content))
    return layout


def _improved(layout: Layout, bins: list[Bin], rules: Rules) -> Layout:
    """Move the content of an opened bin to a cheaper stock that holds it; press rolls shorter."""
    taken = {b.item.id: sum(1 for o in layout if o.bin.item.id == b.item.id) for b in bins}
    out: Layout = []
    for opened in layout:
        best = opened
        rects = [p.rect for p in opened.content]
        area = sum(r.width * r.height for r in rects)
        for b in bins:
            if b.item.id != opened.bin.item.id and taken[b.item.id] >= (b.item.quantity or math.inf):
                continue
            length = min(b.length, best.length_used - 0.1) if b.item.id == opened.bin.item.id else b.length
            while b.item.roll and length * b.width >= area:
                pressed = _pack(rects, [Bin(b.item, b.width, length)], rules.gap, rules.algorithms[1], rectpack.SORT_LSIDE)
                if len(pressed) != 1 or len(pressed[0].content) < len(rects):
                    break
                candidate = Opened(b, pressed[0].content)
                best, length = min(best, candidate, key=lambda o: o.price), candidate.length_used - 0.1
            if not b.item.roll and b.item.price < best.price and b.width * b.length >= area:
                moved = _pack(rects, [b], rules.gap, rules.algorithms[0], rectpack.SORT_AREA)
                if len(moved) == 1 and len(moved[0].content) == len(rects):
                    best = moved[0]
        if best.bin.item.id != opened.bin.item.id:
            taken[best.bin.item.id] += 1
            taken[opened.bin.item.id] -= 1
        out.append(best)
    return out


def _result(rects: list[Rect], layout: Layout, bins: list[Bin], bound: float | None) -> CutResult:
    numbers: dict[str, int] = {}
    widths = {r.piece: r.width for r in rects}  # as given: the search turns some of them
    used, offcuts, seen = [], [], set()
    for opened in sorted(layout, key=lambda o: [b.item.id for b in bins].index(o.bin.item.id)):
        name = opened.bin.item.id
        numbers[name] = numbers.get(name, 0) + 1
        seen |= {(p.rect.piece, p.rect.number) for p in opened.content}
        used.append(UsedStock(
            stock=name, number=numbers[name], length_used_mm=round(opened.length_used, 2),
            placements=tuple(Placement(piece=p.rect.piece, number=p.rect.number, mirrored=False, holes_mm=(),
                                       turned_deg=0.0 if p.width == widths[p.rect.piece] else 90.0,
                                       outline_mm=corners(p.x, p.y, p.width, p.height)) for p in opened.content),
        ))
        taken = [(p.x, p.y, p.width, p.height) for p in opened.content]
        offcuts += [a_rest(name, numbers[name], r)
                    for r in largest_rectangles(opened.bin.width, opened.length_used, taken, least_side=LEAST_OFFCUT_MM)]
    return told(
        used, [Unplaced(piece=r.piece, number=r.number, why=_why(r, bins)) for r in rects if (r.piece, r.number) not in seen],
        sum(r.width * r.height for r in rects if (r.piece, r.number) in seen),
        sum(o.length_used * o.bin.width for o in layout), sum(o.price for o in layout), bound, offcuts)


def told(
    used: list[UsedStock], unplaced: list[Unplaced], pieces_mm2: float, stock_mm2: float, price: float, bound: float | None,
    offcuts: list[Offcut],
) -> CutResult:
    """A layout as it is told: areas in m², rounded, and what share of the stock goes on the job."""
    piece_area, stock_area = pieces_mm2 / 1e6, stock_mm2 / 1e6
    return CutResult(
        used=tuple(used), unplaced=tuple(unplaced), piece_area_m2=round(piece_area, 4), stock_area_m2=round(stock_area, 4),
        utilisation=round(piece_area / stock_area, 4) if stock_area else 0.0, price=round(price, 2),
        area_bound_price=None if bound is None else round(bound, 2), offcuts=tuple(offcuts))


def a_rest(stock: str, number: int, rectangle: tuple[float, float, float, float]) -> Offcut:
    """An upright rectangle (x, y, width, height, mm) that is left of an opened stock."""
    return Offcut(stock=stock, number=number, outline_mm=corners(*rectangle), area_m2=round(rectangle[2] * rectangle[3] / 1e6, 4))


def corners(x: float, y: float, w: float, h: float) -> tuple[tuple[float, float], ...]:
    """The four corners of a rectangle, mm, rounded to 0.01."""
    x2, y2 = round(x + w, 2), round(y + h, 2)
    return (round(x, 2), round(y, 2)), (x2, round(y, 2)), (x2, y2), (round(x, 2), y2)


def _why(rect: Rect, bins: list[Bin]) -> str:
    if any(_fits(rect, b) for b in bins):
        return USED_UP
    if max(rect.width, rect.height) > max(max(b.width, b.length) for b in bins):
        return LONGER
    return WIDER
