"""Pieces of any outline pressed into the shortest length of a strip, by a compiled solver in a process of its own."""

from __future__ import annotations

import contextlib
import json
import os
import select
import subprocess
import sys
from collections.abc import Iterator
from itertools import count
from pathlib import Path

from shapely import Polygon

from .parts import Laid, Matrix, Part, after, moved, shifted, turn

EDGE_MM = 0.02
"""Kept off the strip's edges: the solver reckons in single precision."""
EVERY_S = 0.1
FINE_MM = 0.4
MOST_CORNERS = 48
SOLVER = str(Path(__file__).with_name("strip_solver.py"))
Key = tuple[bytes, str, bool]


def press(
    parts: list[tuple[Part, bool]], width_mm: float, gap_mm: float, seconds: int, seed: int
) -> Iterator[list[Laid] | None]:
    """Parts (each with whether it is turned over) on a strip: x across its width, y along it from 0; better and better, None
    while nothing new is found. The last is the best.

    The solver keeps its gap from the strip's edge too; the strip is widened by it. It ends without any where the solver gives up,
    as it does over a piece as wide as the strip. Closed early, as when somebody stops it, the solver ends at once.
    """
    gap = gap_mm + EDGE_MM
    groups: dict[Key, list[Part]] = {}
    for part, over in parts:
        groups.setdefault((part.shape.wkb, part.rotate, over), []).append(part)
    items = []
    for (_, _, over), members in groups.items():
        outer = _outer(moved(members[0].shape, turn(0.0, over)))
        angles = members[0].angles
        items.append((outer.exterior.coords[:-1], len(members), None if angles is None else [a - 90.0 for a in angles]))
    # a strip lies with its length along x; a quarter turn brings it along y
    height = width_mm + 2 * gap - 2 * EDGE_MM
    back: Matrix = (0.0, -1.0, 1.0, 0.0, height - gap + EDGE_MM, -gap + EDGE_MM)
    ordered = list(groups.items())

    def read(line: bytes) -> list[Laid]:
        numbers = [count() for _ in ordered]
        out = []
        for item, rotation, dx, dy in json.loads(line):
            (_, _, over), members = ordered[item]
            own = shifted(turn(rotation), dx, dy)
            out.append(Laid(members[next(numbers[item])], after(back, after(own, turn(0.0, over)))))
        return out

    asked = {"height_mm": height, "gap_mm": gap, "seconds": seconds, "seed": seed, "items": items}
    for line in _solved(json.dumps(asked).encode()):
        yield None if line is None else read(line)


def _solved(asked: bytes) -> Iterator[bytes | None]:
    """The newest line of the solver as lines come, None while nothing new does; its process never outlives the reading."""
    with subprocess.Popen([sys.executable, "-I", SOLVER], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
                          stderr=subprocess.DEVNULL) as solver:
        assert solver.stdin is not None
        assert solver.stdout is not None
        try:
            with contextlib.suppress(BrokenPipeError):
                solver.stdin.write(asked)
                solver.stdin.close()
            left = b""
            while True:
                ready, _, _ = select.select([solver.stdout], [], [], EVERY_S)
                if not ready:
                    yield None
                    continue
                more = os.read(solver.stdout.fileno(), 1 << 20)
                *lines, left = (left + more).split(b"\n")
                if lines:
                    yield lines[-1]
                if not more:
                    return
        finally:
            solver.kill()


def _outer(shape: Polygon) -> Polygon:
    """An outline round a shape with few corners, so that the solver stays quick; the shape itself where it has few."""
    whole = Polygon(shape.exterior)
    fine = FINE_MM
    outer = whole
    while len(outer.exterior.coords) > MOST_CORNERS and fine < 8.0:
        outer = whole.buffer(fine, join_style="mitre").simplify(fine * 0.95)
        fine *= 1.6
    return outer if outer.covers(whole) else whole.convex_hull
