"""Shapes for surfaces: from what a tape gives, and from a drawing."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import FileStorage
from pydantic import BaseModel, Field
from shapely import Polygon

from ..core.errors import BadInput
from ..core.surfaces.drawn import DrawnShape, ReadDrawing
from ..core.surfaces.taped import TapedShape, read_taped, taped_shape
from ..core.surfaces.taped_forms import ShapeForm, typed_shape
from ..core.surfaces.traced import TracedShape, TraceForm, traced_shape
from ..exchange.draw_command import MOST_BYTES, read_drawing
from .shared import answer, api

MOST_CORNERS = 400
"""Of a surface's outline; a drawing's finer ones are thinned to so many."""


class DrawingForm(BaseModel):
    """A drawing, and what it is drawn in where it does not say."""

    file: FileStorage
    unit: str = Field(default="", pattern=r"^(mm|cm|m|in)?$")


@api.post("/shape", responses={200: TapedShape})
def make_shape(body: ShapeForm) -> Response:
    """An outline from what a tape gave, as it is typed."""
    return answer(taped_shape(read_taped(typed_shape(body), "")))


@api.post("/traced", responses={200: TracedShape})
def trace_shape(body: TraceForm) -> Response:
    """An outline from points marked on a photograph; the photograph itself stays in the browser."""
    return answer(traced_shape(body))


@api.post("/drawings", responses={200: ReadDrawing})
def read_shapes(form: DrawingForm) -> Response:
    """The closed outlines of an SVG or DXF, each with as many corners as a surface may have."""
    name = form.file.filename or "drawing"
    data = form.file.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise BadInput(f"it is larger than {MOST_BYTES >> 20} MB", name, "give a smaller drawing")
    found = read_drawing(data, name, form.unit or None)
    return answer(found.model_copy(update={"shapes": tuple(_thinned(s) for s in found.shapes)}))


def _thinned(shape: DrawnShape) -> DrawnShape:
    """With at most so many corners: the least bulges are left out first."""
    outline = Polygon(shape.outline_mm)
    off = 0.05
    while len(outline.exterior.coords) > MOST_CORNERS + 1:
        outline = Polygon(shape.outline_mm).simplify(off)
        off *= 1.5
    ring = tuple((round(x, 2), round(y, 2)) for x, y in outline.exterior.coords[:-1])
    return shape.model_copy(update={"outline_mm": ring})
