"""DXF in millimetres, out and in: a closed polyline per ring on the layer of its role; id and label as extended data."""

from __future__ import annotations

import io
import math

from ezdxf import units
from ezdxf.entities.dxfentity import DXFEntity
from ezdxf.entities.lwpolyline import LWPolyline
from ezdxf.entities.polyline import Polyline
from ezdxf.filemanagement import new, read
from ezdxf.lldxf.const import DXFError
from ezdxf.path import make_path

from ...core.errors import BadInput, refusing
from ...core.quantities import FOOT_MM
from ...core.surfaces.drawn import (
    CLOSED_MM,
    FOLLOWED,
    MOST_POINTS,
    MOST_SHAPES,
    TO_MM,
    DrawnShape,
    Ignored,
    Loop,
    ReadDrawing,
    shapes_from,
)

APP = "SPHAGNUM"
INSUNITS = {units.MM: "mm", units.CM: "cm", units.M: "m", units.IN: "in"}
CURVES = {"LWPOLYLINE", "POLYLINE", "CIRCLE", "ELLIPSE", "SPLINE"}
FORBIDDEN = str.maketrans(dict.fromkeys('<>/\\":;?*|=`', "_"))


def dxf_of(shapes: tuple[DrawnShape, ...]) -> bytes:
    """Shapes as a DXF (R2010) with $INSUNITS 4."""
    doc = new("R2010", units=units.MM)
    doc.appids.add(APP)
    space = doc.modelspace()
    for shape in shapes:
        layer = (shape.layer or "0").translate(FORBIDDEN)
        if layer not in doc.layers:
            doc.layers.add(layer)
        for k, ring in enumerate((shape.outline_mm, *shape.holes_mm)):
            line = space.add_lwpolyline(ring, close=True, dxfattribs={"layer": layer})
            line.set_xdata(APP, [(1000, shape.id), (1000, shape.label if k == 0 else ""), (1000, "hole" if k else "outline"),
                                 (1000, shape.layer)])
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode("utf-8")


def read_dxf(data: bytes, name: str, unit: str | None) -> ReadDrawing:
    """Closed outlines of a DXF's model space; blocks stay unopened. BadInput for what is no DXF or says no unit."""
    with refusing("this is no DXF that can be read", name, "save it as DXF R2000 or newer"):
        doc = read(io.StringIO(data.decode("utf-8", "replace").replace("\r\n", "\n")))
    scale = _scale(int(doc.header.get("$INSUNITS", 0)), name, unit)
    loops: list[Loop] = []
    ignored: list[Ignored] = []
    count = 0
    for entity in doc.modelspace():
        ring, why = _ring(entity)
        if why:
            ignored.append(Ignored(entity=f"{entity.dxftype()} on layer {entity.dxf.get('layer', '0')}", reason=why))
            if len(ignored) > MOST_SHAPES:
                raise BadInput(f"it holds more than {MOST_SHAPES} entities that are no outline", name, "give a smaller drawing")
            continue
        count += len(ring)
        if count > MOST_POINTS or len(loops) >= MOST_SHAPES:
            raise BadInput(f"it holds more than {MOST_SHAPES} shapes or {MOST_POINTS} points", name, "give a smaller drawing")
        points = tuple((round(x * scale, 3) + 0.0, round(y * scale, 3) + 0.0) for x, y in ring)
        said = [str(v) for _, v in entity.get_xdata(APP)] if entity.has_xdata(APP) else []
        layer = said[3] if len(said) > 3 else str(entity.dxf.get("layer", "0"))
        own = len(said) > 2
        hole = own and said[2] == "hole"
        loops.append(Loop(points_mm=points, layer="" if layer == "0" and not own else layer, id=said[0] if own else "",
                          label=said[1] if own else "", told=own, of=said[0] if hole else ""))
    return ReadDrawing(shapes=shapes_from(loops), ignored=tuple(ignored))


def _scale(insunits: int, name: str, unit: str | None) -> float:
    if unit is not None:
        return TO_MM[unit]
    if insunits == units.FT:
        return FOOT_MM
    if insunits not in INSUNITS:
        raise BadInput("it does not say in which unit it is drawn", name, "say it with --unit mm, cm, m or in")
    return TO_MM[INSUNITS[insunits]]


def _ring(entity: DXFEntity) -> tuple[list[tuple[float, float]], str]:
    """The points of a closed outline, or why an entity is none."""
    kind = entity.dxftype()
    if kind == "INSERT":
        return [], "it is a block; explode it before saving"
    if kind not in CURVES:
        return [], "it is no closed outline"
    try:
        path = make_path(entity)
        corners = list(path.control_vertices())
        if len(corners) > MOST_POINTS:
            return [], "it has too many points"
        span = [max(v[i] for v in corners) - min(v[i] for v in corners) for i in (0, 1)]
        ring = [(float(v.x), float(v.y)) for v in path.flattening(max(max(span) * FOLLOWED, 1e-6))]
    except (DXFError, TypeError, ValueError, ZeroDivisionError, AttributeError):
        return [], "it cannot be followed"
    closed = isinstance(entity, LWPolyline | Polyline) and entity.is_closed
    if not all(math.isfinite(c) for p in ring for c in p):
        return [], "it has a point that is nowhere"
    if not closed and (len(ring) < 3 or math.dist(ring[0], ring[-1]) > CLOSED_MM):
        return [], "it is open: its ends do not meet"
    if len(ring) > 1 and math.dist(ring[0], ring[-1]) <= CLOSED_MM:
        ring = ring[:-1]
    return (ring, "") if len(ring) >= 3 else ([], "it has fewer than three corners")
