"""Pieces of any outline pressed into the shortest length of a strip, by a compiled solver in a thread of its own."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from itertools import count

import spyrrow
from shapely import Polygon

from .parts import Laid, Matrix, Part, after, moved, shifted, turn

EDGE_MM = 0.02
"""Kept off the strip's edges: the solver reckons in single precision."""
EVERY_S = 0.1
FINE_MM = 0.4
MOST_CORNERS = 48
Key = tuple[bytes, str, bool]


def press(
    parts: list[tuple[Part, bool]], width_mm: float, gap_mm: float, seconds: int, seed: int
) -> Iterator[list[Laid] | None]:
    """Parts (each with whether it is turned over) on a strip: x across its width, y along it from 0; better and better, None
    while nothing new is found. The last is the best.

    The solver keeps its gap from the strip's edge too; the strip is widened by it. It ends without any where the solver gives up,
    as it does over a piece as wide as the strip.
    """
    gap = gap_mm + EDGE_MM
    groups: dict[Key, list[Part]] = {}
    for part, over in parts:
        groups.setdefault((part.shape.wkb, part.rotate, over), []).append(part)
    items = []
    for k, ((_, _, over), members) in enumerate(groups.items()):
        outer = _outer(moved(members[0].shape, turn(0.0, over)))
        angles = members[0].angles
        items.append(spyrrow.Item(str(k), [(x, y) for x, y in outer.exterior.coords[:-1]], len(members),
                                  None if angles is None else [a - 90.0 for a in angles]))
    # a strip lies with its length along x; a quarter turn brings it along y
    height = width_mm + 2 * gap - 2 * EDGE_MM
    back: Matrix = (0.0, -1.0, 1.0, 0.0, height - gap + EDGE_MM, -gap + EDGE_MM)
    ordered = list(groups.items())

    def read(solution: spyrrow.StripPackingSolution) -> list[Laid]:
        numbers = [count() for _ in ordered]
        out = []
        for p in solution.placed_items:
            (_, _, over), members = ordered[int(p.id)]
            own = shifted(turn(p.rotation), *p.translation)
            out.append(Laid(members[next(numbers[int(p.id)])], after(back, after(own, turn(0.0, over)))))
        return out

    queue = spyrrow.ProgressQueue()
    solved: list[spyrrow.StripPackingSolution] = []

    def solve() -> None:
        config = spyrrow.StripPackingConfig(total_computation_time=max(1, seconds), min_items_separation=gap, seed=seed,
                                             num_workers=1)  # one search, one core: the others are for whoever waits
        try:
            solved.append(spyrrow.StripPackingInstance("", height, items).solve(config, queue))
        except BaseException:  # a panic of the solver is no Exception
            return

    thread = threading.Thread(target=solve, name="strip", daemon=True)
    thread.start()
    while thread.is_alive():
        thread.join(EVERY_S)
        better = [s for kind, s in queue.drain() if kind in FEASIBLE]
        yield read(better[-1]) if better else None
    if solved:
        yield read(solved[0])


FEASIBLE = (spyrrow.ReportType.ExplFeas, spyrrow.ReportType.CmprFeas, spyrrow.ReportType.Final)


def _outer(shape: Polygon) -> Polygon:
    """An outline round a shape with few corners, so that the solver stays quick; the shape itself where it has few."""
    whole = Polygon(shape.exterior)
    fine = FINE_MM
    outer = whole
    while len(outer.exterior.coords) > MOST_CORNERS and fine < 8.0:
        outer = whole.buffer(fine, join_style="mitre").simplify(fine * 0.95)
        fine *= 1.6
    return outer if outer.covers(whole) else whole.convex_hull
