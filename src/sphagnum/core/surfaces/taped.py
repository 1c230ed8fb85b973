"""Outlines from what a tape gives: plain forms, offsets from a chalk line, triangles; and what is kept clear on them."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from itertools import pairwise
from typing import Annotated, Any, Literal

import numpy as np
import scipy  # loads its parts where they are used: it takes a second
from pydantic import Field, RootModel, model_validator
from shapely import Polygon, affinity, box
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union
from shapely.validation import explain_validity

from ..errors import BadInput
from ..schema import Strict, parse
from ..worded import in_mm
from ..words import listed
from .bulged import Bulge, arc_mm, flattened, tub_outline
from .geometry import DEFAULT_MARGIN_MM, ZoneKind
from .triangles import points_of

Mm = Annotated[float, Field(ge=1, le=50_000, strict=True, allow_inf_nan=False)]
Place = Annotated[float, Field(ge=-50_000, le=50_000, strict=True, allow_inf_nan=False)]
Angle = Annotated[float, Field(gt=0, lt=360, strict=True, allow_inf_nan=False)]
At = tuple[Place, Place]
Ring = Annotated[tuple[At, ...], Field(min_length=3, max_length=5000)]
Station = tuple[Place, Annotated[float, Field(ge=0, le=50_000, strict=True, allow_inf_nan=False)]]
ROUND = 240
"""Corners of a full circle: 0.02 % of its area is cut off."""
PER_SPAN = 24
"""Points between two stations of a smooth edge."""


class RowOf(Strict):
    """A zone repeated in a row."""

    count: Annotated[int, Field(ge=1, le=200, strict=True)]
    step_mm: Mm
    angle_deg: Annotated[float, Field(ge=-360, le=360, strict=True, allow_inf_nan=False)] = 0.0


class TapedZone(Strict):
    """What stays clear: a rectangle or circle by its centre, or an outline; ``pierce`` only marks it."""

    kind: ZoneKind
    at_mm: At | None = None
    width_mm: Mm | None = None
    height_mm: Mm | None = None
    diameter_mm: Mm | None = None
    outline_mm: Ring | None = None
    margin_mm: Annotated[float, Field(ge=0, le=1000, strict=True, allow_inf_nan=False)] | None = None
    pierce: bool = False
    row: RowOf | None = None

    @model_validator(mode="after")
    def _one_form(self) -> TapedZone:
        sized = self.width_mm is not None and self.height_mm is not None
        if sum([sized, self.diameter_mm is not None, self.outline_mm is not None]) != 1 or (
                (self.width_mm is None) != (self.height_mm is None)):
            raise ValueError("a zone has width_mm and height_mm, or diameter_mm, or outline_mm; give one of them")
        if (self.at_mm is None) != (self.outline_mm is not None):
            raise ValueError("a zone by its size needs its centre, one by its outline has none; give at_mm with a size")
        return self

    @property
    def margin(self) -> float:
        """Margin kept free round it, mm: its own or the default of its kind."""
        return DEFAULT_MARGIN_MM[self.kind] if self.margin_mm is None else self.margin_mm

    def areas(self) -> list[BaseGeometry]:
        """The zone as often as it stands in its row."""
        if self.outline_mm is not None:
            one: BaseGeometry = Polygon(self.outline_mm)
            if not one.is_valid:
                raise BadInput("the outline of a zone crosses itself", "keep_clear", "list its corners round the edge")
        else:
            x, y = self.at_mm or (0.0, 0.0)
            if self.diameter_mm is not None:
                one = Polygon(_circle(self.diameter_mm, x - self.diameter_mm / 2, y - self.diameter_mm / 2))
            else:
                w, h = self.width_mm or 0.0, self.height_mm or 0.0
                one = box(x - w / 2, y - h / 2, x + w / 2, y + h / 2)
        if self.row is None:
            return [one]
        turn = math.radians(self.row.angle_deg)
        step = self.row.step_mm
        return [affinity.translate(one, i * step * math.cos(turn), i * step * math.sin(turn)) for i in range(self.row.count)]


Rise = Annotated[float, Field(ge=0, le=50_000, strict=True, allow_inf_nan=False)]


class _Taped(Strict):
    mirror: bool = False
    bulge_across_mm: Rise = 0.0
    bulge_up_mm: Rise = 0.0
    """How far it bulges in its middle, where its sizes were taken straight over it."""
    relief: Annotated[int, Field(ge=0, le=1000, strict=True)] = 0
    """Wedges cut at the rim of a dome."""
    keep_clear: Annotated[tuple[TapedZone, ...], Field(max_length=200)] = ()


class RectangleTaped(_Taped):
    """A rectangle."""

    kind: Literal["rectangle"]
    width_mm: Mm
    height_mm: Mm


class PointsTaped(_Taped):
    """Corners, with holes."""

    kind: Literal["points"]
    outline_mm: Ring
    holes_mm: Annotated[tuple[Ring, ...], Field(max_length=200)] = ()


class OffsetsTaped(_Taped):
    """Distances from a chalk line at stations along it, to its left (y > 0) and right (y < 0)."""

    kind: Literal["offsets"]
    length_mm: Mm
    left: Annotated[tuple[Station, ...], Field(max_length=500)] = ()
    right: Annotated[tuple[Station, ...], Field(max_length=500)] = ()
    curve: Literal["straight", "smooth"] = "straight"


class TrianglesTaped(_Taped):
    """Lengths between points, named by their letters, and the outline through some of them."""

    kind: Literal["triangles"]
    lengths_mm: Annotated[dict[Annotated[str, Field(pattern=r"^[A-Z]{2}$")], Mm], Field(min_length=3, max_length=300)]
    outline: Annotated[str, Field(pattern=r"^[A-Z]{3,26}$")]
    inside: tuple[Annotated[str, Field(pattern=r"^[A-Z]$")], ...] = ()


class CircleTaped(_Taped):
    """A circle."""

    kind: Literal["circle"]
    diameter_mm: Mm


class ArchTaped(_Taped):
    """Straight sides, then half an ellipse."""

    kind: Literal["arch"]
    width_mm: Mm
    height_mm: Mm
    straight_mm: Annotated[float, Field(ge=0, le=50_000, strict=True, allow_inf_nan=False)] = 0.0


class WedgeTaped(_Taped):
    """A sector of a circle, its point at 0, 0 and its first edge along x."""

    kind: Literal["wedge"]
    radius_mm: Mm
    angle_deg: Angle


class TrapeziumTaped(_Taped):
    """Bottom and top parallel; the top begins ``shift_mm`` in from the left."""

    kind: Literal["trapezium"]
    bottom_mm: Mm
    top_mm: Mm
    height_mm: Mm
    shift_mm: Place = 0.0


class TubTaped(_Taped):
    """A wheel well or a battery tray by its floor and its depth, unfolded."""

    kind: Literal["tub"]
    width_mm: Mm
    length_mm: Mm
    depth_mm: Mm


class WheelArchTaped(_Taped):
    """What lies over a wheel, unrolled: foot to foot, how far it rises in its middle or the tape laid over it, and how deep it
    is."""

    kind: Literal["wheel-arch"]
    width_mm: Mm
    rise_mm: Mm | None = None
    over_mm: Mm | None = None
    depth_mm: Mm

    @model_validator(mode="after")
    def _one_way(self) -> WheelArchTaped:
        if (self.rise_mm is None) == (self.over_mm is None):
            raise ValueError("an arch has its rise, or the tape laid over it; give one of them")
        if self.over_mm is not None and self.over_mm < self.width_mm:
            raise ValueError(f"a tape of {in_mm(self.over_mm)} over it is shorter than {in_mm(self.width_mm)} from foot to foot; "
                             "lay it over the arch")
        return self


class LTaped(_Taped):
    """A rectangle less one at its upper right."""

    kind: Literal["L"]
    width_mm: Mm
    height_mm: Mm
    cut_width_mm: Mm
    cut_height_mm: Mm


AnyTaped = Annotated[
    RectangleTaped | PointsTaped | OffsetsTaped | TrianglesTaped | CircleTaped | ArchTaped | WedgeTaped | TrapeziumTaped
    | LTaped | TubTaped | WheelArchTaped,
    Field(discriminator="kind")]


class ShapeInput(RootModel[AnyTaped]):
    """What ``shape`` reads: one of the kinds."""


TAPED: dict[str, type[_Taped]] = {
    "rectangle": RectangleTaped, "points": PointsTaped, "offsets": OffsetsTaped, "triangles": TrianglesTaped,
    "circle": CircleTaped, "arch": ArchTaped, "wedge": WedgeTaped, "trapezium": TrapeziumTaped, "L": LTaped,
    "tub": TubTaped, "wheel-arch": WheelArchTaped}


class TapedShape(Strict):
    """What ``shape`` prints: the outline, its areas, and where taped points came to lie."""

    outline_mm: tuple[tuple[float, float], ...]
    holes_mm: tuple[tuple[tuple[float, float], ...], ...]
    area_m2: float
    treatable_m2: float
    perimeter_m: float
    points_mm: dict[str, tuple[float, float]] = {}
    worst_residual_mm: float | None = None


Corners = list[tuple[float, float]]


def _circle(diameter: float, x: float = 0.0, y: float = 0.0) -> Corners:
    r = diameter / 2
    turns = 2 * np.pi * np.arange(ROUND) / ROUND
    return [(float(a), float(b)) for a, b in zip(x + r + r * np.cos(turns), y + r + r * np.sin(turns), strict=True)]


def _arch(t: ArchTaped) -> Corners:
    rise, half = t.height_mm - t.straight_mm, t.width_mm / 2
    if rise <= 0:
        raise BadInput(f"the straight sides of {in_mm(t.straight_mm)} leave no arch in {in_mm(t.height_mm)}", "straight_mm",
                       "give less than the height")
    turns = np.pi * np.arange(ROUND // 2 + 1) / (ROUND // 2)
    top = [(float(half + half * np.cos(a)), float(t.straight_mm + rise * np.sin(a))) for a in turns]
    return [(0.0, 0.0), (t.width_mm, 0.0), *top] if t.straight_mm > 0 else top


def _wheel_arch(t: WheelArchTaped) -> Corners:
    """Its length over the arch by its depth: a circle's arc up to half a circle, above it straight legs."""
    half = t.width_mm / 2
    rise = t.rise_mm or 0.0
    over = t.over_mm or (arc_mm(t.width_mm, rise) if rise <= half else math.pi * half + 2 * (rise - half))
    return [(0, 0), (over, 0), (over, t.depth_mm), (0, t.depth_mm)]


def _wedge(t: WedgeTaped) -> Corners:
    angle = math.radians(t.angle_deg)
    turns = np.linspace(0, angle, max(math.ceil(ROUND * t.angle_deg / 360), 8) + 1)
    return [(0.0, 0.0), *((float(t.radius_mm * np.cos(a)), float(t.radius_mm * np.sin(a))) for a in turns)]


def _l(t: LTaped) -> Corners:
    if t.cut_width_mm >= t.width_mm or t.cut_height_mm >= t.height_mm:
        raise BadInput("the cut is as large as the piece", "cut_width_mm, cut_height_mm", "give less than its sides")
    x, y = t.width_mm - t.cut_width_mm, t.height_mm - t.cut_height_mm
    return [(0, 0), (t.width_mm, 0), (t.width_mm, y), (x, y), (x, t.height_mm), (0, t.height_mm)]


def _offsets(t: OffsetsTaped) -> Corners:
    if not t.left and not t.right:
        raise BadInput("there are no offsets", "left, right", "give distances from the chalk line at stations along it")
    right, left = _edge(t, t.right, "right"), _edge(t, t.left, "left")
    return [*((x, -y) for x, y in right), *reversed(left)]


def _edge(t: OffsetsTaped, stations: tuple[Station, ...], side: str) -> Corners:
    """One edge from the chalk line's beginning to its end; the line itself where nothing was taped."""
    if not stations:
        return [(0.0, 0.0), (t.length_mm, 0.0)]
    at = sorted(stations)
    along, out = np.array([s for s, _ in at]), np.array([o for _, o in at])
    if along[0] < 0 or along[-1] > t.length_mm + 1e-6 or (np.diff(along) < 1e-6).any():
        raise BadInput(f"the stations of the {side} do not run from 0 to {in_mm(t.length_mm)}, each once", side,
                       "give each station once, on the chalk line")
    # beyond its last station an edge goes on as it is there
    if along[0] > 0:
        along, out = np.insert(along, 0, 0.0), np.insert(out, 0, out[0])
    if along[-1] < t.length_mm:
        along, out = np.append(along, t.length_mm), np.append(out, out[-1])
    if t.curve == "straight" or len(along) < 3:
        return [(float(x), float(y)) for x, y in zip(along, out, strict=True)]
    fine = np.unique(np.concatenate([np.linspace(a, b, PER_SPAN + 1) for a, b in pairwise(along)]))
    smooth = scipy.interpolate.PchipInterpolator(along, out)(fine)
    return [(float(x), float(y)) for x, y in zip(fine, smooth, strict=True)]


def _trapezium(t: TrapeziumTaped) -> Corners:
    return [(0, 0), (t.bottom_mm, 0), (t.shift_mm + t.top_mm, t.height_mm), (t.shift_mm, t.height_mm)]


OUTLINES: dict[str, Callable[[Any], Corners]] = {
    "rectangle": lambda t: [(0, 0), (t.width_mm, 0), (t.width_mm, t.height_mm), (0, t.height_mm)],
    "points": lambda t: [*t.outline_mm], "offsets": _offsets, "circle": lambda t: _circle(t.diameter_mm), "arch": _arch,
    "wheel-arch": _wheel_arch,
    "wedge": _wedge, "trapezium": _trapezium, "L": _l,
    "tub": lambda t: tub_outline(t.width_mm, t.length_mm, t.depth_mm),
}


def read_taped(data: object, where: str = "") -> Any:
    """A shape by its kind. Raises BadInput for an unknown kind and for what does not fit it."""
    kind = data.get("kind") if isinstance(data, Mapping) else None
    if not isinstance(kind, str) or kind not in TAPED:
        what = f"{kind!r} is no kind of shape" if kind else "the kind of shape is missing"
        raise BadInput(what, f"{where}: kind", f"use {listed([*TAPED])}")
    return parse(TAPED[kind], data, where)


def taped_shape(taped: AnyTaped) -> TapedShape:
    """An outline from what a tape gave, with its areas. Raises BadInput for what makes no plain shape, zones off it, and
    lengths that contradict one another."""
    points: dict[str, tuple[float, float]] = {}
    worst = None
    if isinstance(taped, TrianglesTaped):
        points, worst = _triangles(taped)
        corners = [points[n] for n in taped.outline]
    else:
        corners = OUTLINES[taped.kind](taped)
    shape = _sound(corners, [list(h) for h in taped.holes_mm] if isinstance(taped, PointsTaped) else [])
    if taped.bulge_across_mm or taped.bulge_up_mm or taped.relief:
        shape = flattened(shape, Bulge(taped.bulge_across_mm, taped.bulge_up_mm, taped.relief))
    clear: list[BaseGeometry] = []
    for i, zone in enumerate(taped.keep_clear):
        for area in zone.areas():
            if area.intersection(shape).area <= 0:
                raise BadInput(f"keep_clear[{i}] ({zone.kind}) lies outside the outline", "keep_clear", "move it onto the shape")
            if not zone.pierce:
                clear.append(area.buffer(zone.margin, join_style="mitre"))
    left: BaseGeometry = shape.difference(unary_union(clear)) if clear else shape
    drawn = shape
    if taped.mirror:
        x1, _, x2, _ = shape.bounds
        middle = (x1 + x2) / 2
        drawn = affinity.scale(shape, -1, 1, origin=(middle, 0))
        points = {n: (2 * middle - x, y) for n, (x, y) in points.items()}
    return TapedShape(
        outline_mm=_ring(drawn.exterior.coords), holes_mm=tuple(_ring(h.coords) for h in drawn.interiors),
        area_m2=round(shape.area / 1e6, 4), treatable_m2=round(left.area / 1e6, 4),
        perimeter_m=round(shape.exterior.length / 1e3, 3),
        points_mm={n: (round(x, 2) + 0.0, round(y, 2) + 0.0) for n, (x, y) in points.items()},
        worst_residual_mm=None if worst is None else round(worst, 2))


def _triangles(t: TrianglesTaped) -> tuple[dict[str, tuple[float, float]], float]:
    lengths: dict[tuple[str, str], float] = {}
    for name, length in t.lengths_mm.items():
        a, b = sorted(name)
        if a == b:
            raise BadInput(f"'{name}' is a length from a point to itself", "lengths_mm", "name two points")
        if (a, b) in lengths:
            raise BadInput(f"the length {a}{b} is given twice", "lengths_mm", "give it once")
        lengths[a, b] = length
    known = {n for pair in lengths for n in pair}
    missing = next((n for n in (*t.outline, *t.inside) if n not in known), None)
    if missing is not None:
        raise BadInput(f"no length leads to the point {missing}", "outline", f"use {', '.join(sorted(known))}")
    if len(set(t.outline)) < len(t.outline):
        raise BadInput("a point stands twice in the outline", "outline", "name each corner once, round the edge")
    found = points_of(lengths, frozenset(t.inside))
    return found.at, found.worst_mm


def _sound(corners: Corners, holes: list[list[tuple[float, float]]]) -> Polygon:
    shape = Polygon([p for i, p in enumerate(corners) if i == 0 or math.dist(p, corners[i - 1]) > 1e-6], holes)
    if not shape.is_valid or shape.area < 1:
        why = explain_validity(shape).replace("Self-intersection", "it crosses itself at ") if not shape.is_valid else "no area"
        raise BadInput(f"the outline is no plain shape ({why})", "outline_mm", "list its corners in order round the edge")
    return shape


def _ring(coords: Any) -> tuple[tuple[float, float], ...]:
    """A ring as it is printed: its corners once, counter-clockwise for an outline, to 0.01 mm."""
    points = [(round(float(x), 2) + 0.0, round(float(y), 2) + 0.0) for x, y in coords]
    return tuple(points[:-1] if len(points) > 1 and points[0] == points[-1] else points)
