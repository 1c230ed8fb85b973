"""How much less roll pieces of any outline take than the boxes round them take, at ten seconds each."""

from __future__ import annotations

import random
import sys
import time

from sphagnum.core.cutting.boxes import boxed
from sphagnum.core.cutting.layout import cut
from sphagnum.core.cutting.model import CutInput
from sphagnum.core.cutting.nesting import Problem, _in_boxes
from sphagnum.core.cutting.parts import read_parts, region_of
from sphagnum.core.schema import parse
from sphagnum.core.surfaces.taped import read_taped, taped_shape


def panels(count: int, rng: random.Random) -> list[dict[str, object]]:
    """Outlines as a tape gives them on vehicles and machines: trapezia, Ls, arches, wedges, curved edges."""
    made = []
    for k in range(count):
        w, h = rng.uniform(150, 600), rng.uniform(150, 500)
        form = rng.choice(("trapezium", "L", "arch", "wedge", "offsets", "triangle"))
        shapes: dict[str, dict[str, object]] = {
            "trapezium": {"bottom_mm": w, "top_mm": w * rng.uniform(0.3, 0.8), "height_mm": h,
                          "shift_mm": w * rng.uniform(0, 0.2)},
            "L": {"width_mm": w, "height_mm": h, "cut_width_mm": w * rng.uniform(0.3, 0.6),
                  "cut_height_mm": h * rng.uniform(0.3, 0.6)},
            "arch": {"width_mm": w, "height_mm": h, "straight_mm": h * rng.uniform(0, 0.5)},
            "wedge": {"radius_mm": w * 0.8, "angle_deg": rng.uniform(40, 100)},
            "offsets": {"length_mm": w, "curve": "smooth", "left": [[w * i / 4, h * rng.uniform(0.4, 1)] for i in range(5)]},
        }
        shape = shapes.get(form)
        if shape is None:
            outline: object = [[0, 0], [w, 0], [w * rng.uniform(0, 1), h]]
        else:
            outline = taped_shape(read_taped({"kind": form, **shape}, "")).outline_mm
        made.append({"id": f"{form} {k}", "outline_mm": outline})
    return made


def saved(count: int, seed: int, seconds: float = 10.0) -> tuple[float, float]:
    """Share of roll saved against boxes, and the share that would be saved if nothing were lost (by area)."""
    roll = {"id": "roll", "width_mm": 1000, "length_mm": 20_000, "roll": True, "price": 200}
    data = parse(CutInput, {"stock": [roll], "pieces": panels(count, random.Random(seed)), "seconds": seconds})
    problem = Problem(data, tuple(read_parts(data)), {"roll": region_of(data.stock[0], "")}, (), count, time.monotonic() + 60,
                      time.monotonic)
    boxes = _in_boxes(list(problem.parts), problem, list(data.stock), boxed, ())
    found = cut(data)
    assert not found.unplaced
    length, least = found.used[0].length_used_mm, found.piece_area_m2 * 1000
    return 1 - length / boxes[0].length_used, 1 - least / boxes[0].length_used


def nesting(seconds: float = 10.0) -> None:
    """Prints it for 15 to 60 pieces."""
    found = [(n, *saved(n, seed, seconds)) for n, seed in ((15, 1), (20, 2), (25, 3), (30, 4), (40, 5), (50, 6), (60, 7))]
    for n, less, bound in found:
        print(f"nesting: {n} pieces take {less:.1%} less roll than boxes (by area {bound:.1%} could be had)")
    print(f"nesting: {sum(f[1] for f in found) / len(found):.1%} less on average")


def van() -> None:
    """How soon the demo van's layouts have something to show, are done, and come from what is kept."""
    from sphagnum.catalogue.load import shelf
    from sphagnum.core.figures.job_figures import JobFigures
    from sphagnum.core.job.document import JobDocument
    from sphagnum.core.stages.cut.view import cut_view
    from sphagnum.demo import van as made
    from sphagnum.work.desk import Desk
    from sphagnum.work.layouts import JobLayouts, LastLayouts

    doc, base, desk, last = parse(JobDocument, made()), shelf(), Desk(), LastLayouts()
    began, first = time.monotonic(), None
    while True:
        view = cut_view(JobFigures(doc, base, JobLayouts(desk, last, 1)), None)
        shown = {(s.material, s.thickness_mm) for s in view.sheets}
        if first is None and len(shown) == 5:
            first = time.monotonic() - began
        if not view.work:
            break
        time.sleep(0.4)
    done = time.monotonic() - began
    again = time.monotonic()
    cut_view(JobFigures(doc, base, JobLayouts(desk, last, 1)), None)
    print(f"van: something of every material after {first or done:.1f} s; "
          f"all searched after {done:.0f} s; from what is kept {time.monotonic() - again:.2f} s; {view.detail}")
    desk.close()


if __name__ == "__main__":
    van()
    nesting(float(sys.argv[1]) if len(sys.argv) > 1 else 10.0)
