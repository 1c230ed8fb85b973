"""Pieces of any outline on stock of any outline: boxes first, then one by one, then pressed and emptied while the clock runs."""

from __future__ import annotations

import math
import random
import time
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from typing import NamedTuple

import shapely
from shapely import Polygon, box
from shapely.geometry.base import BaseGeometry

from ..errors import BadInput
from .greedy import lay_part, less, ways
from .holes import filled
from .model import CutInput, CutPiece, CutResult, StockItem
from .parts import (
    Bench,
    Laid,
    Part,
    after,
    is_box,
    moved,
    shifted,
    sound,
    there_is,
    turn,
    upright,
    wrong_with,
)
from .strips import press

Boxed = Callable[[CutInput], CutResult]
"""Lays rectangles."""
Layout = tuple[Bench, ...]
MOST_IN_VAIN = 12
"""After so many other orders of the pieces that gave nothing better the search ends."""


class Problem(NamedTuple):
    """What is to be laid and on what; ``fixed``: benches with what stays where it is."""

    data: CutInput
    parts: tuple[Part, ...]
    regions: dict[str, Polygon]
    fixed: Layout
    wanted: int
    """How many pieces are free to be laid."""
    ends: float
    """When the search ends, by the clock."""
    clock: Callable[[], float]

    def item(self, name: str) -> StockItem:
        return next(s for s in self.data.stock if s.id == name)

    def cost(self, layout: Layout) -> tuple[int, float, float]:
        """Pieces left over, then price, then used area (mm²)."""
        laid = sum(1 for b in layout for one in b.laid for _ in one.all())
        price, used = sum(b.price for b in layout), sum(b.used_mm2 for b in layout)
        return self.wanted + len(self.data.fixed) - laid, round(price, 6), round(used, 3)

    def left(self) -> float:
        """Seconds left."""
        return self.ends - self.clock()


def nest(
    data: CutInput, wanted: list[Part], regions: dict[str, Polygon], boxed: Boxed, seed: int, enough: float | None = None,
    clock: Callable[[], float] = time.monotonic,
) -> Iterator[tuple[float, Layout]]:
    """Better and better layouts of parts on the stock's regions (by id), each sound, with the share of the time that is gone.
    Pieces on no bench are left over. It goes on until the time is gone, nothing can be better, or all is laid at the price that
    is ``enough``.

    Raises BadInput for fixed pieces that are not there or do not lie well.
    """
    began = clock()
    parts, fixed = _fixed(data, wanted, regions)
    problem = Problem(data, tuple(filled(parts, data.gap_mm)), regions, fixed, len(parts), began + data.seconds, clock)
    best: Layout | None = None
    for layout in _attempts(problem, boxed, random.Random(seed)):
        if (best is None or problem.cost(layout) < problem.cost(best)) and sound(layout, data.gap_mm):
            best = layout
        yield min(1.0, (clock() - began) / data.seconds), best or fixed
        if problem.left() <= 0 or (best is not None and _cannot_be_beaten(best, problem, enough)):
            break


def _cannot_be_beaten(layout: Layout, problem: Problem, enough: float | None) -> bool:
    """Whether all stays where it is, lies on what costs nothing, or on one sheet of the cheapest kind."""
    if problem.wanted == 0:
        return True
    left, price, _ = problem.cost(layout)
    if enough is not None and left == 0 and price <= enough + 1e-9:
        return True
    if left > 0 or any(b.item.roll for b in layout):
        return False
    return price <= 0 or (len(layout) == 1 and price <= min(s.price for s in problem.data.stock))


def _fixed(data: CutInput, parts: list[Part], regions: dict[str, Polygon]) -> tuple[list[Part], Layout]:
    """The parts that are free, and benches with those that stay where they are."""
    by_name = {(data.pieces[p.piece].id, p.number): p for p in parts}
    benches: dict[tuple[str, int], list[Laid]] = {}
    for i, f in enumerate(data.fixed):
        part = by_name.pop((f.piece, f.number), None)
        if part is None or not there_is(data.stock, f):
            raise BadInput(f"{f.piece} no. {f.number} on {f.stock} is not among the pieces and the stock", f"fixed[{i}]",
                           "let it go")
        benches.setdefault((f.stock, f.stock_number), []).append(upright(part, f.turned_deg, f.mirrored, f.x_mm, f.y_mm))
    items = {s.id: s for s in data.stock}
    fixed = tuple(Bench(items[name], regions[name], tuple(laid), number) for (name, number), laid in sorted(benches.items()))
    for bench in fixed:
        wrong = wrong_with(bench.region, [one.shape for one in bench.laid], data.gap_mm)
        if wrong is not None:
            what, k, j = wrong
            name, other = (data.pieces[bench.laid[n].part.piece].id for n in (k, j))
            raise BadInput(f"{name} reaches over the edge of {bench.item.id}" if what == "edge" else f"{name} overlaps {other}",
                           "fixed", "move it")
    return list(by_name.values()), fixed


def _attempts(problem: Problem, boxed: Boxed, rng: random.Random) -> Iterator[Layout]:
    order = sorted(problem.parts, key=lambda p: -p.shape.area)
    plain = [s for s in problem.data.stock if is_box(problem.regions[s.id])]
    stock = _by_price(problem.data.stock, problem.regions)
    first = [s for s in stock if s.price == 0 or not is_box(problem.regions[s.id])]
    found: list[Layout] = []
    starts = [_one_by_one(order, problem, first, problem.fixed)] if first or problem.fixed else []
    if not problem.fixed:
        starts.append(((), order))
    for benches, rest in starts:
        in_boxes = benches + _in_boxes(rest, problem, plain, boxed, benches)
        found.append(in_boxes)
        yield in_boxes
    if problem.data.across:
        return
    on_rolls = all(b.item.roll for f in found for b in f)  # there the solver's time is better spent
    if len(order) <= 120 and not (found and on_rolls):
        layout, _ = _one_by_one(order, problem, stock, problem.fixed)
        found.append(layout)
        yield layout
    best = min(found, key=problem.cost)
    for better in _pressed(best, problem, rng):
        best = min(best, better, key=problem.cost)
        yield best
    in_vain = 0
    while problem.left() > 0 and len(order) <= 60 and in_vain < MOST_IN_VAIN:
        shaken = sorted(order, key=lambda p: -p.shape.area * rng.uniform(0.5, 1.5))
        layout, _ = _one_by_one(shaken, problem, stock, problem.fixed)
        in_vain = 0 if problem.cost(layout) < problem.cost(best) else in_vain + 1
        best = min(best, layout, key=problem.cost)
        yield layout


def _by_price(stock: Iterable[StockItem], regions: dict[str, Polygon]) -> list[StockItem]:
    """What costs nothing first, the smallest of it; then by price per area."""
    def area(s: StockItem) -> float:
        return float(regions[s.id].area)
    return sorted(stock, key=lambda s: (s.price > 0, s.price / area(s) if s.price > 0 else area(s)))


def _one_by_one(
    order: list[Part], problem: Problem, stock: list[StockItem], begun: Layout
) -> tuple[Layout, list[Part]]:
    """Each part on the first bench that has room for it, else on one opened for it; and the parts that found no place."""
    gap = problem.data.gap_mm
    benches = list(begun)
    free = [_free(b, gap) for b in benches]
    left: list[Part] = []
    hopeless: set[tuple[bytes, str]] = set()
    for part in order:
        if (part.shape.wkb, part.rotate) in hopeless or problem.left() <= 0:
            left.append(part)
            continue
        for k, bench in enumerate(benches):
            laid = lay_part(part, _near(free[k], bench, part))
            if laid is not None:
                benches[k] = bench._replace(laid=(*bench.laid, laid))
                free[k] = less(free[k], laid, gap)
                break
        else:
            for item in stock:
                opened = sum(1 for b in benches if b.item.id == item.id)
                region = problem.regions[item.id]
                if opened >= (item.quantity or math.inf):
                    continue
                laid = lay_part(part, _near(region, Bench(item, region, ()), part))
                if laid is not None:
                    benches.append(Bench(item, region, (laid,)))
                    free.append(less(region, laid, gap))
                    break
            else:
                left.append(part)
                hopeless.add((part.shape.wkb, part.rotate))
    return tuple(benches), left


def _free(bench: Bench, gap: float) -> BaseGeometry:
    """What is free on a bench."""
    rest: BaseGeometry = bench.region
    for one in bench.laid:
        rest = less(rest, one, gap)
    return rest


def _near(free: BaseGeometry, bench: Bench, part: Part) -> BaseGeometry:
    """Of a roll only what a piece could need: up to its size beyond the last piece."""
    if not bench.item.roll:
        return free
    x1, y1, x2, y2 = part.shape.bounds
    reach = bench.length_used + math.hypot(x2 - x1, y2 - y1) + 1.0
    return free.intersection(box(0.0, 0.0, bench.region.bounds[2], reach)) if reach < bench.region.bounds[3] else free


def _in_boxes(order: list[Part], problem: Problem, stock: list[StockItem], boxed: Boxed, begun: Layout) -> Layout:
    """Each part as the rectangle round it, on what is not opened yet of stock that is rectangles."""
    opened = Counter(b.item.id for b in begun)
    left = {s.id: None if s.quantity is None else s.quantity - opened[s.id] for s in stock}
    stock = [s for s in stock if left[s.id] != 0]
    if not order or not stock:
        return ()
    moves = {id(p): _boxing(p) for p in order}
    pieces = []
    for k, part in enumerate(order):
        x1, y1, x2, y2 = moved(part.shape, moves[id(part)]).bounds
        w, h = _up(x2 - x1), _up(y2 - y1)
        pieces.append(CutPiece(id=str(k), outline_mm=((0, 0), (w, 0), (w, h), (0, h)), rotate=part.rotate))
    sized = [StockItem(id=s.id, width_mm=r.bounds[2] - r.bounds[0], length_mm=r.bounds[3] - r.bounds[1], roll=s.roll,
                       sold_whole=s.sold_whole, quantity=left[s.id], price=s.price)
             for s in stock for r in (problem.regions[s.id],)]
    result = boxed(CutInput(gap_mm=problem.data.gap_mm, seconds=max(0.3, min(1.5, problem.data.seconds / 6)), stock=tuple(sized),
                            pieces=tuple(pieces), across=problem.data.across))
    out = []
    for used in result.used:
        region = problem.regions[used.stock]
        ox, oy = region.bounds[:2]
        laid = []
        for placed in used.placements:
            part = order[int(placed.piece)]
            m = after(turn(placed.turned_deg), moves[id(part)])
            x1, y1, _, _ = moved(part.shape, m).bounds
            x, y = (min(v) for v in zip(*placed.outline_mm, strict=True))
            laid.append(Laid(part, shifted(m, x + ox - x1, y + oy - y1)))
        out.append(Bench(problem.item(used.stock), region, tuple(laid)))
    return tuple(out)


def _up(mm: float) -> float:
    return math.ceil(round(mm * 100, 4)) / 100


def _boxing(part: Part) -> tuple[float, float, float, float, float, float]:
    """The allowed turn with the least rectangle round the part."""
    def area(angle: float) -> float:
        x1, y1, x2, y2 = moved(part.shape, turn(angle)).bounds
        return round(float((x2 - x1) * (y2 - y1)), 3)
    return turn(min(ways(part), key=area))


def _pressed(best: Layout, problem: Problem, rng: random.Random) -> Iterator[Layout]:
    """Better layouts: rolls pressed shorter, everything tried on one roll, the emptiest sheet emptied into the others."""
    if problem.fixed:
        return
    rolls = [b for b in best if b.item.roll]
    if rolls:
        others = tuple(b for b in best if not b.item.roll)
        for item in {b.item.id: b.item for b in rolls}.values():
            mine = [one.part for b in rolls if b.item.id == item.id for one in b.laid]
            others_too = others + tuple(b for b in rolls if b.item.id != item.id)
            for benches in _on_roll(mine, item, problem, rng):
                yield others_too + benches if benches else best
    yield from _emptied(best, problem, rng)


def _on_roll(parts: list[Part], item: StockItem, problem: Problem, rng: random.Random) -> Iterator[Layout]:
    """The parts pressed onto rolls of one kind, as they come shorter; those that do not go on one go on the next."""
    region = problem.regions[item.id]
    width, length = region.bounds[2], region.bounds[3]
    across = [p for p in parts if _is_wide(p, width)]
    narrow = [p for p in parts if not _is_wide(p, width)]
    head, at = [], 0.0
    for part in across:
        laid = upright(part, 0.0, False, 0.0, at)
        head.append(laid)
        at = laid.shape.bounds[3] + problem.data.gap_mm
    for flips in _flips(narrow, rng):
        if problem.left() < 1.0 or not narrow:
            return
        seconds = max(1, int(problem.left() * (1.0 if not any(p.mirror for p in narrow) else 0.5)))
        for strip in press(list(zip(narrow, flips, strict=True)), width, problem.data.gap_mm, seconds, rng.randrange(1 << 30)):
            lifted = [Laid(one.part, shifted(one.matrix, 0.0, at)) for one in strip or ()]
            yield _parted([*head, *lifted], item, region, length, problem) if strip else ()


def _parted(laid: list[Laid], item: StockItem, region: Polygon, length: float, problem: Problem) -> Layout:
    """A strip longer than a roll, cut where a roll ends: what reaches over it goes on the next roll."""
    benches: list[Bench] = []
    rest = sorted(laid, key=lambda one: one.shape.bounds[3])
    while rest and len(benches) < (item.quantity or math.inf):
        start = min(one.shape.bounds[1] for one in rest) if benches else 0.0
        here = [one for one in rest if one.shape.bounds[3] - start <= length + 1e-6]
        if not here:
            break
        benches.append(Bench(item, region, tuple(Laid(one.part, shifted(one.matrix, 0.0, -start)) for one in here)))
        rest = [one for one in rest if not any(one.part is h.part for h in here)]
    return tuple(benches)


def _is_wide(part: Part, width: float) -> bool:
    """Whether a part is as wide as the strip, as it lies: such a one the solver does not take."""
    x1, y1, x2, y2 = part.shape.bounds
    least = min(x2 - x1, y2 - y1) if part.rotate in ("any", "quarter") else x2 - x1
    return bool(least > width - 0.5 and x2 - x1 <= width + 0.005)


def _flips(parts: list[Part], rng: random.Random) -> Iterator[list[bool]]:
    """Which parts are turned over: none; then, where some may be, every other one of those."""
    yield [False] * len(parts)
    if any(p.mirror for p in parts):
        yield [p.mirror and rng.random() < 0.5 for p in parts]


def _emptied(best: Layout, problem: Problem, rng: random.Random) -> Iterator[Layout]:
    """The least filled paid sheet emptied into the others, again and again, as long as there is time."""
    benches = list(best)
    gap = problem.data.gap_mm
    while problem.left() > 0.5:
        paid = [b for b in benches if not b.item.roll and b.item.price > 0]
        if len(benches) < 2 or not paid:
            return
        victim = min(paid, key=lambda b: sum(one.part.shape.area for one in b.laid) / b.region.area)
        others = [b for b in benches if b is not victim]
        for one in sorted(victim.laid, key=lambda o: -o.part.shape.area):
            took = _taken_in(one.part, others, gap, problem, rng)
            if took is None:
                return
            others[took[0]] = took[1]
        benches = others
        yield tuple(benches)


def _taken_in(
    part: Part, benches: list[Bench], gap: float, problem: Problem, rng: random.Random
) -> tuple[int, Bench] | None:
    """A bench that takes one part more: as it is, or with all of its parts pressed together anew."""
    def room(k: int) -> float:
        return float(benches[k].region.area - sum(one.part.shape.area for one in benches[k].laid))
    order = sorted((k for k in range(len(benches)) if room(k) >= part.shape.area), key=lambda k: -room(k))
    for k in order:
        laid = lay_part(part, _near(_free(benches[k], gap), benches[k], part))
        if laid is not None:
            return k, benches[k]._replace(laid=(*benches[k].laid, laid))
    for k in order:
        bench = benches[k]
        if problem.left() < 1.0 or not is_box(bench.region) or bench.item.roll:
            continue
        parts = [*(one.part for one in bench.laid), part]
        if any(_is_wide(p, bench.width) for p in parts):
            continue
        found = [s for s in press([(p, False) for p in parts], bench.width, gap, 1, rng.randrange(1 << 30)) if s]
        strip = found[-1] if found else None
        if strip is not None and max(one.shape.bounds[3] for one in strip) <= bench.region.bounds[3]:
            return k, bench._replace(laid=tuple(strip))
    return None


def rest_of(bench: Bench) -> BaseGeometry:
    """What is left of a bench up to where it is used, mm."""
    end = bench.length_used if bench.item.roll else bench.region.bounds[3]
    x1, y1, x2, _ = bench.region.bounds
    return bench.region.intersection(box(x1, y1, x2, end)).difference(
        shapely.union_all([one.shape for b in bench.laid for one in b.all()]))
