"""An outline traced over a photograph: to scale by a known length, squared up by a rectangle of known size."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator
from shapely import Polygon

from ..errors import BadInput
from ..forms import FormMillimetres
from ..schema import Number, Strict

Pixel = tuple[Number, Number]
Square = tuple[Pixel, Pixel, Pixel, Pixel]
MOST_OFF = 0.02
"""A check length may be off by so much before it is said."""


class KnownLength(Strict):
    """Two points of the picture whose distance is known."""

    ends: tuple[Pixel, Pixel]
    length_mm: FormMillimetres


class KnownRectangle(Strict):
    """The corners of a rectangle in the plane of the outline, in order from its lower left round the edge, and its size."""

    corners: Square
    width_mm: FormMillimetres
    height_mm: FormMillimetres


class TraceForm(Strict):
    """Points of a picture, in pixels, x to the right and y down: the outline, and what makes them millimetres."""

    outline: Annotated[tuple[Pixel, ...], Field(min_length=3, max_length=400)]
    rectangle: KnownRectangle | None = None
    length: KnownLength | None = None
    """The scale, where there is no rectangle; a check, where there is one."""

    @model_validator(mode="after")
    def _scaled(self) -> TraceForm:
        if self.rectangle is None and self.length is None:
            raise ValueError("nothing says how large it is; mark a known length, or a rectangle of known size")
        return self


class TracedShape(Strict):
    """The outline in mm, lower left at 0,0. ``squared``: whether the tilt of the camera is taken out; ``check_off`` how much the
    check length came out too long (a share; None without one)."""

    outline_mm: tuple[tuple[float, float], ...]
    area_m2: float
    squared: bool
    check_off: float | None
    note: str


def traced_shape(form: TraceForm) -> TracedShape:
    """An outline from a photograph. The plane of the rectangle is the plane of the outline (a projective map of the picture's
    plane onto it; Hartley and Zisserman 2004, section 2.3, recalled and not seen).

    Raises BadInput for corners in a line, points beyond the horizon and outlines that cross themselves.
    """
    points = np.array(form.outline) * [1.0, -1.0]
    check_off = None
    if form.rectangle is not None:
        square = _homography(form.rectangle)
        found = _through(square, points)
        if form.length is not None:
            ends = _through(square, np.array(form.length.ends) * [1.0, -1.0])
            check_off = float(np.hypot(*(ends[1] - ends[0])) / form.length.length_mm - 1)
    else:
        assert form.length is not None
        a, b = np.array(form.length.ends) * [1.0, -1.0]
        pixels = float(np.hypot(*(b - a)))
        if pixels < 2:
            raise BadInput("the ends of the known length lie on one another", "length.ends", "mark them apart")
        found = points * (form.length.length_mm / pixels)
    outline = np.round(found - found.min(axis=0), 1)
    shape = Polygon(outline)
    if not shape.is_valid or shape.area < 1:
        raise BadInput("the outline crosses itself", "outline", "mark its corners in order round the edge")
    ring = outline if shape.exterior.is_ccw else outline[::-1]
    return TracedShape(outline_mm=tuple((float(x), float(y)) for x, y in ring), area_m2=round(shape.area / 1e6, 4),
                       squared=form.rectangle is not None, check_off=None if check_off is None else round(check_off, 4),
                       note=_note(form, check_off))


def _note(form: TraceForm, check_off: float | None) -> str:
    if form.rectangle is None:
        return "True only where the camera looked straight at it; mark a rectangle of known size to take out its tilt."
    if check_off is not None and abs(check_off) > MOST_OFF:
        way = "long" if check_off > 0 else "short"
        return f"The check length comes out {abs(check_off):.1%} too {way}: mark the corners anew."
    return "Squared up by the rectangle; true for what lies in its plane."


def _homography(known: KnownRectangle) -> NDArray[np.float64]:
    """The 3 × 3 map that takes the rectangle's corners in the picture to its corners in mm."""
    seen = np.array(known.corners) * [1.0, -1.0]
    if not Polygon(seen).exterior.is_ccw:  # marked the other way round: the first corner stays the first
        seen = seen[[0, 3, 2, 1]]
    if Polygon(seen).area < 25 or not Polygon(seen).is_valid:
        raise BadInput("the rectangle's corners lie in a line or cross", "rectangle.corners", "mark them in order round its edge")
    w, h = known.width_mm, known.height_mm
    there = np.array([[0, 0], [w, 0], [w, h], [0, h]])
    rows, right = [], []
    for (x, y), (u, v) in zip(seen, there, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    try:
        solved = np.linalg.solve(np.array(rows), np.array(right, dtype=float))
    except np.linalg.LinAlgError:
        raise BadInput("three of the rectangle's corners lie in a line", "rectangle.corners", "mark its four corners") from None
    return np.append(solved, 1.0).reshape(3, 3)


def _through(square: NDArray[np.float64], points: NDArray[np.float64]) -> NDArray[np.float64]:
    mapped = np.column_stack([points, np.ones(len(points))]) @ square.T
    scale = mapped[:, 2]
    if np.any(scale * scale[0] <= 1e-12):
        raise BadInput("a point lies beyond the horizon of that rectangle", "outline", "mark points near it")
    return np.asarray(mapped[:, :2] / scale[:, None])
