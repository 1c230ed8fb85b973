"""Outlines of surfaces and what must stay clear on them: areas and shapes in mm and m²."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Annotated, Any, Literal

import shapely
from pydantic import AfterValidator, BeforeValidator, Field, field_validator, model_validator
from shapely import LineString, Polygon, affinity, box
from shapely.geometry.base import BaseGeometry
from shapely.ops import linemerge, unary_union
from shapely.validation import explain_validity

from ..forms import FormLength, FormMillimetres, FormNumber
from ..quantities import LENGTHS, read_quantity
from ..schema import ItemId, Strict, Typed, numbered, told_apart
from ..worded import in_mm

ZoneKind = Literal["drain", "vent", "fixing", "moving part", "airbag seam", "hot part", "module", "cable run",
                   "sealing face", "trim line", "loudspeaker", "stiffener"]

# Widths left free round each kind, mm: house defaults, open to change on every zone.
DEFAULT_MARGIN_MM: dict[str, float] = {
    "drain": 15, "vent": 15, "fixing": 10, "moving part": 20, "airbag seam": 30, "hot part": 50, "module": 5,
    "cable run": 10, "sealing face": 5, "trim line": 5, "loudspeaker": 5, "stiffener": 0,
}

Point = tuple[float, float]
Edge = tuple[Point, ...]
LEAST_MM, MOST_MM = 20.0, 50_000.0


class KeepClear(Strict):
    """An area that must stay open: an upright rectangle from its lower left corner, a circle by its bounding square, or a band
    of ``width_mm`` along the edge."""

    id: ItemId = ""
    kind: ZoneKind
    name: str = Field(default="", max_length=80)
    shape: Literal["rectangle", "circle", "edge"] = "rectangle"
    x_mm: FormLength
    y_mm: FormLength
    width_mm: FormMillimetres
    height_mm: FormMillimetres
    margin_mm: FormLength | None = None
    pierce: bool = False
    """Covered, and pierced when the layer lies: a fixing that is a mark and takes nothing away."""
    away_mm: FormLength | None = None
    """How far it stands off the panel, as a hot pipe does: its margin is a distance in space then."""
    edges: Annotated[tuple[Annotated[int, Field(ge=1, le=10_000)], ...], Field(max_length=500)] = ()
    """Of a band: the sides of the outline it lies along, from 1, side n from corner n to the next; none: all round."""

    @model_validator(mode="before")
    @classmethod
    def _band(cls, data: Any) -> Any:
        """A band has a width and no place of its own."""
        if isinstance(data, Mapping) and data.get("shape") == "edge":
            return {**data, "x_mm": 0.0, "y_mm": 0.0, "height_mm": data.get("width_mm")}
        return data

    @model_validator(mode="before")
    @classmethod
    def _circle(cls, data: Any) -> Any:
        """A circle as a tape gives it, by its centre and diameter, into its bounding square."""
        if not isinstance(data, Mapping) or not ({"at_mm", "diameter_mm"} & data.keys()):
            return data
        rest = {k: v for k, v in data.items() if k not in ("at_mm", "diameter_mm")}
        at, size = data.get("at_mm"), read_quantity(data.get("diameter_mm"), LENGTHS)
        if not isinstance(at, list | tuple) or len(at) != 2 or not isinstance(size, int | float):
            raise ValueError("a circle is given by its centre and diameter; give at_mm as [across, up] and diameter_mm")
        x, y = (read_quantity(v, LENGTHS) for v in at)
        if not isinstance(x, int | float) or not isinstance(y, int | float):
            raise ValueError("the centre of the circle is missing; give how far it lies across and up")
        return {**rest, "shape": "circle", "x_mm": x - size / 2, "y_mm": y - size / 2, "width_mm": size, "height_mm": size}

    @property
    def margin(self) -> float:
        """Margin kept free round the zone on the panel, mm: its own or the default of its kind; less where it stands off it, by
        the distance in space."""
        whole = DEFAULT_MARGIN_MM[self.kind] if self.margin_mm is None else self.margin_mm
        return whole if self.away_mm is None else math.sqrt(max(whole**2 - self.away_mm**2, 0.0))

    @property
    def covered(self) -> bool:
        """Whether the panel under it may be covered: it is pierced, or stands far enough off."""
        return self.pierce or (self.away_mm is not None and self.margin == 0.0)

    def area(self, outline_mm: Sequence[Point], margin: float = 0.0) -> BaseGeometry:
        """The zone on an outline, grown by ``margin`` mm."""
        if self.shape == "edge":
            sides = [LineString(ends) for ends in zip(outline_mm, [*outline_mm[1:], outline_mm[0]], strict=True)]
            lines = linemerge([sides[n - 1] for n in self.edges] or sides)
            band: BaseGeometry = lines.buffer(self.width_mm + margin, cap_style="flat", join_style="mitre", mitre_limit=3)
            return band
        if self.shape == "circle":
            circle = box(-0.5, -0.5, 0.5, 0.5).centroid.buffer(0.5, quad_segs=16)
            sized = affinity.scale(circle, self.width_mm, self.height_mm)
            moved: BaseGeometry = affinity.translate(
                sized, self.x_mm + self.width_mm / 2, self.y_mm + self.height_mm / 2
            )
        else:
            moved = box(self.x_mm, self.y_mm, self.x_mm + self.width_mm, self.y_mm + self.height_mm)
        return moved.buffer(margin, join_style="mitre") if margin > 0 else moved


class ClearRow(Strict):
    """A clear place and how often it stands in a row, one after another in a direction (from the right upwards)."""

    zone: KeepClear
    count: Annotated[int, Field(ge=1, le=100), Typed] = 1
    step_mm: FormMillimetres = 1.0
    angle_deg: Annotated[FormNumber, Field(ge=-360, le=360)] = 0.0

    def zones(self) -> tuple[KeepClear, ...]:
        """All of them, each where it stands, to 0.1 mm; without ids."""
        turn, zone = math.radians(self.angle_deg), self.zone
        steps = [(n * self.step_mm * math.cos(turn), n * self.step_mm * math.sin(turn)) for n in range(self.count)]
        return tuple(zone.model_copy(update={"id": "", "x_mm": round(zone.x_mm + dx, 1), "y_mm": round(zone.y_mm + dy, 1)})
                     for dx, dy in steps)


Box = tuple[float, float, float, float]


class Shape(Strict):
    """Outline (mm) and keep-clear zones of a surface; refuses outlines that cross themselves."""

    outline_mm: tuple[tuple[FormLength, FormLength], ...] = Field(min_length=3, max_length=500)
    keep_clear: Annotated[
        tuple[KeepClear, ...], BeforeValidator(numbered), AfterValidator(told_apart), Field(max_length=100)] = ()

    @property
    def less(self) -> tuple[Box, ...]:
        """Upright rectangles (x, y, width, height, mm) that are no part of it though they lie within its outline."""
        return ()

    @property
    def edge_mm(self) -> Edge:
        """The outline its bands lie along: its own, but for a part of a surface."""
        return self.outline_mm

    @field_validator("outline_mm")
    @classmethod
    def _sound(cls, points: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
        if any(abs(v) > MOST_MM for p in points for v in p):
            raise ValueError("a corner lies more than ⟨50 m⟩ away; give its corners in their own unit")
        shape = Polygon(points)
        if not shape.is_valid or shape.area == 0:
            why = explain_validity(shape).replace("Self-intersection", "it crosses itself at ")
            raise ValueError(f"the outline is not a plain shape ({why}); list its corners in order round the edge")
        x1, y1, x2, y2 = shape.bounds
        for side, name in ((x2 - x1, "wide"), (y2 - y1, "high")):
            if not LEAST_MM <= side <= MOST_MM:
                raise ValueError(f"the outline is {in_mm(side)} {name}; a surface is ⟨20 mm⟩ to ⟨50 m⟩ in size")
        return points

    @model_validator(mode="after")
    def _zones_on_it(self) -> Shape:
        outline = Polygon(self.outline_mm)
        for i, zone in enumerate(self.keep_clear):
            if max(zone.edges, default=0) > len(self.outline_mm):
                raise ValueError(f"keep_clear[{i}] ({zone.kind}) lies along side {max(zone.edges)}, and the outline has only "
                                 f"{len(self.outline_mm)}; choose its sides anew, or none for all round")
            if not zone.area(self.outline_mm).intersects(outline):
                raise ValueError(f"keep_clear[{i}] ({zone.kind}) lies outside its surface; move it onto the outline")
            if zone.margin_mm is not None and not 0 <= zone.margin_mm <= 1000:
                raise ValueError(f"keep_clear[{i}].margin_mm is {in_mm(zone.margin_mm)}; give ⟨0 to 1000 mm⟩")
        return self


class Areas(Strict):
    """Areas of one surface, m², and its bounding size, mm."""

    gross_m2: float
    keep_clear_m2: float
    treatable_m2: float
    perimeter_m: float
    width_mm: float
    height_mm: float


def alike(a: Shape, b: Shape) -> bool:
    """Whether two outlines are the same to a millimetre wherever they lie, or one the mirror of the other (left to right)."""
    one, other = _corners(a.outline_mm, False), _corners(b.outline_mm, False)
    return one == other or one == _corners(b.outline_mm, True)


@lru_cache(maxsize=2048)
def _corners(outline_mm: tuple[tuple[float, float], ...], mirrored: bool) -> frozenset[tuple[int, int]]:
    points = [(-x if mirrored else x, y) for x, y in outline_mm]
    left, foot = min(x for x, _ in points), min(y for _, y in points)
    return frozenset((round(x - left), round(y - foot)) for x, y in points)


class Plain(Shape):
    """A shape and nothing else."""

    without: tuple[Box, ...] = ()
    around_mm: Edge = ()

    @property
    def less(self) -> tuple[Box, ...]:
        """As given."""
        return self.without

    @property
    def edge_mm(self) -> Edge:
        """As given."""
        return self.around_mm or self.outline_mm


def plain(shape: Shape) -> Plain:
    """The outline and zones alone, so that what follows from them is worked out once for all surfaces of that shape."""
    return Plain.model_construct(outline_mm=shape.outline_mm, keep_clear=shape.keep_clear, without=shape.less,
                                 around_mm=shape.edge_mm)


def region(shape: Shape) -> BaseGeometry:
    """The shape itself: its outline less what is no part of it, mm."""
    outline = Polygon(shape.outline_mm)
    if not shape.less:
        return outline
    left: BaseGeometry = outline.difference(unary_union([box(x, y, x + w, y + h) for x, y, w, h in shape.less]))
    return left


def treatable(shape: Shape) -> BaseGeometry:
    """What may be covered: the outline less every keep-clear zone with its margin (a polygon or several), mm."""
    zones: BaseGeometry = unary_union([z.area(shape.edge_mm, z.margin) for z in shape.keep_clear if not z.covered])
    rest: BaseGeometry = region(shape).difference(zones)
    return rest


@lru_cache(maxsize=1024)
def areas(shape: Shape) -> Areas:
    """Areas of a surface: gross, kept clear (with margins, overlaps once) and treatable, m²."""
    outline, rest = region(shape), treatable(shape)
    x1, y1, x2, y2 = outline.bounds
    return Areas(
        gross_m2=outline.area / 1e6,
        keep_clear_m2=(outline.area - rest.area) / 1e6,
        treatable_m2=rest.area / 1e6,
        perimeter_m=outline.length / 1e3,
        width_mm=x2 - x1,
        height_mm=y2 - y1,
    )


@lru_cache(maxsize=1024)
def gap_width_mm(shape: Shape, covered: float) -> float:
    """How wide what a lining leaves bare is, mm: of what is kept clear the largest circle that fits into each part, by its area;
    of what else is missing to a covered share of the whole, a band along the edge."""
    outline = region(shape)
    kept = outline.difference(treatable(shape))
    parts = [p for p in shapely.get_parts(kept) if p.area > 1.0]
    widths = [2 * shapely.maximum_inscribed_circle(p, tolerance=2.0).length for p in parts]
    held = [p.area for p in parts]
    missing = max((1 - covered) * outline.area - sum(held), 0.0)
    if sum(held) + missing <= 0:
        return 0.0
    band = missing / outline.length
    return float((sum(w * a for w, a in zip(widths, held, strict=True)) + band * missing) / (sum(held) + missing))
