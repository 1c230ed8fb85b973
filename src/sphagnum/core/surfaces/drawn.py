"""Shapes as drawings carry them: outlines with holes, a layer, a label; what of a file was no outline; rings into shapes."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field
from shapely import Polygon

from ..quantities import LENGTHS
from ..schema import Strict, told_apart

Place = Annotated[float, Field(ge=-100_000, le=100_000, strict=True, allow_inf_nan=False)]
Ring = Annotated[tuple[tuple[Place, Place], ...], Field(min_length=3, max_length=50_000)]
Text = Annotated[str, Field(max_length=200, pattern=r"^[^\x00-\x1f]*$")]
MOST_SHAPES = 5000
MOST_POINTS = 200_000
TO_MM = {name: LENGTHS.by_name[name] for name in ("mm", "cm", "m", "in")}
"""Millimetres in the units a drawing may be in."""
CLOSED_MM = 0.05
"""Ends of a line nearer than this are one."""
FOLLOWED = 1 / 8000
"""How far a curve may be from its points, as a share of its size: under 0.05 % of its area."""


class DrawnShape(Strict):
    """One shape at 1:1, mm."""

    id: Annotated[str, Field(min_length=1, max_length=100, pattern=r"^[^\x00-\x1f]+$")]
    outline_mm: Ring
    holes_mm: Annotated[tuple[Ring, ...], Field(max_length=500)] = ()
    layer: Text = ""
    label: Text = ""


class Drawing(Strict):
    """What ``draw`` reads."""

    shapes: Annotated[tuple[DrawnShape, ...], AfterValidator(told_apart), Field(min_length=1, max_length=MOST_SHAPES)]


class Ignored(Strict):
    """An entity of a file that is no closed outline, and why."""

    entity: str
    reason: str


class ReadDrawing(Strict):
    """What ``read`` prints: the same document, and what was no outline."""

    shapes: tuple[DrawnShape, ...]
    ignored: tuple[Ignored, ...] = ()


class Loop(Strict):
    """A closed ring of a file before it is told whether it is an outline or a hole."""

    points_mm: Ring
    layer: str = ""
    id: str = ""
    label: str = ""
    told: bool = False
    """Whether the file says itself what is an outline and what a hole; a hole then has ``of``, the id of its outline."""
    of: str = ""


def shapes_from(loops: list[Loop]) -> tuple[DrawnShape, ...]:
    """Rings into shapes: a ring inside a ring of its layer is a hole of it, and one inside that an outline again."""
    said = [x for x in loops if not x.of]
    areas = [Polygon(x.points_mm) for x in said]
    order = sorted(range(len(said)), key=lambda i: -areas[i].area)
    depth: dict[int, int] = {}
    holes: dict[int, list[Ring]] = {i: [] for i in range(len(said))}
    for n, i in enumerate(order):
        around = [] if said[i].told else [
            k for k in order[:n] if said[k].layer == said[i].layer and areas[k].contains(areas[i].representative_point())]
        depth[i] = depth[around[-1]] + 1 if around else 0
        if depth[i] % 2:
            holes[around[-1]].append(said[i].points_mm)
    outlines = [i for i in range(len(said)) if depth[i] % 2 == 0]
    for i in outlines:
        holes[i] += [x.points_mm for x in loops if x.of and said[i].told and x.of == said[i].id]
    names = _named([said[i].id for i in outlines])
    return tuple(DrawnShape(id=name, outline_mm=said[i].points_mm, holes_mm=tuple(holes[i]), layer=said[i].layer,
                            label=said[i].label) for i, name in zip(outlines, names, strict=True))


def _named(ids: list[str]) -> list[str]:
    """Ids told apart: those that are missing or stand twice get a number."""
    out: list[str] = []
    for i, name in enumerate(ids, start=1):
        wanted = name or f"S{i}"
        n, free = 1, wanted
        while free in out:
            n += 1
            free = f"{wanted}-{n}"
        out.append(free)
    return out
