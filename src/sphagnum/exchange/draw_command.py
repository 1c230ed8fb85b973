"""``draw`` and ``read``: shapes to a drawing at 1:1, and from one."""

from __future__ import annotations

from pathlib import Path

from shapely import Polygon

from ..core.errors import BadInput, refusing
from ..core.schema import Strict, parse
from ..core.surfaces.drawn import Drawing, DrawnShape, ReadDrawing
from ..core.worded import System
from .files import read_bytes, read_json, write_whole

MOST_BYTES = 20 * 2**20


class Drawn(Strict):
    """What ``draw`` prints: the file, and how many shapes it holds."""

    file: str
    shapes: int


def run_draw(name: str, file: Path, page: str) -> Drawn:
    """``draw SHAPES.json FILE.pdf|FILE.svg|FILE.dxf``. The file is whole or not there."""
    drawing = parse(Drawing, read_json(read_bytes(name), name), name)
    for i, shape in enumerate(drawing.shapes):
        if not Polygon(shape.outline_mm, shape.holes_mm).is_valid:
            raise BadInput(f"the outline of '{shape.id}' crosses itself or its holes", f"{name}: shapes[{i}]",
                           "list its corners in order round the edge")
    kind = file.suffix.lower().removeprefix(".")
    if kind not in ("svg", "dxf", "pdf"):
        raise BadInput("a drawing is a .pdf, .svg or .dxf file", str(file), "name it so")
    write_whole({file: drawn(drawing.shapes, kind, page)})
    return Drawn(file=str(file), shapes=len(drawing.shapes))


def drawn(shapes: tuple[DrawnShape, ...], kind: str, page: str, system: System = "metric") -> bytes:
    """Shapes as a drawing of a kind: svg, dxf or pdf (on pages of a size, with a check for a rule of a system)."""
    if kind == "svg":
        from .drawings.svg import svg_of

        return svg_of(shapes)
    if kind == "dxf":
        from .drawings.dxf import dxf_of

        return dxf_of(shapes)
    from .drawings.tiles import tiles_of

    return tiles_of(shapes, page, system)


def run_read(name: str, unit: str | None) -> ReadDrawing:
    """``read FILE.svg|FILE.dxf [--unit mm|cm|m|in]``."""
    return read_drawing(read_bytes(name, MOST_BYTES), name, unit)


def read_drawing(data: bytes, name: str, unit: str | None) -> ReadDrawing:
    """The closed outlines of an SVG or DXF. BadInput for what is neither, says no unit, or is hostile."""
    start = data[:4096].lstrip(b"\xef\xbb\xbf \r\n\t")
    with refusing("this drawing cannot be read", name, "save it again as plain SVG, or as DXF R2000 or newer"):
        if name.lower().endswith(".dxf") or (start[:1].isdigit() and not start.startswith(b"<")):
            from .drawings.dxf import read_dxf

            return read_dxf(data, name, unit)
        if start.startswith(b"<"):
            from .drawings.svg import read_svg

            return read_svg(data, name, unit)
        raise BadInput("this is neither SVG nor DXF", name, "save the drawing as one of them")
