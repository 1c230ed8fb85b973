"""SVG in millimetres, out and in: a path per shape with its id and title, a group per layer."""

from __future__ import annotations

import io
import math
import re
from xml.etree import ElementTree as Tree

import svgelements
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from ...core.errors import BadInput
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
    Ring,
    shapes_from,
)

NAMESPACE = "http://www.w3.org/2000/svg"
BOTTOM = "data-bottom-mm"
"""Where y = 0 lies in our own files, which keep the numbers they were given."""
SIZES = ("x", "y", "width", "height", "rx", "ry", "cx", "cy", "r")
FORMS = {"rect": svgelements.Rect, "circle": svgelements.Circle, "ellipse": svgelements.Ellipse}
KINDS = {"path", "rect", "circle", "ellipse", "polygon"}
HARMLESS = {"svg", "g", "title", "desc", "defs", "metadata", "style"}


def svg_of(shapes: tuple[DrawnShape, ...]) -> bytes:
    """Shapes as an SVG whose width and viewBox are in millimetres; y points up, as everywhere else."""
    xs = [x for s in shapes for x, _ in s.outline_mm]
    ys = [y for s in shapes for _, y in s.outline_mm]
    left, right, low, high = min(xs), max(xs), min(ys), max(ys)
    root = Tree.Element("svg", {
        "xmlns": NAMESPACE, "width": f"{right - left:.3f}mm", "height": f"{high - low:.3f}mm",
        "viewBox": f"{left:.3f} {-high:.3f} {right - left:.3f} {high - low:.3f}", BOTTOM: "0"})
    for layer in dict.fromkeys(s.layer for s in shapes):
        group = Tree.SubElement(root, "g", {"data-layer": layer, "fill": "none", "stroke": "black", "stroke-width": "0.3"})
        for shape in (s for s in shapes if s.layer == layer):
            path = Tree.SubElement(group, "path", {
                "id": shape.id, "fill-rule": "evenodd", "d": " ".join(_path(r) for r in (shape.outline_mm, *shape.holes_mm))})
            Tree.SubElement(path, "title").text = shape.label
    out = io.BytesIO()
    Tree.ElementTree(root).write(out, "utf-8", xml_declaration=True)
    return out.getvalue()


def _path(ring: Ring) -> str:
    return "M" + "L".join(f"{x + 0.0:.4f} {0.0 - y:.4f}" for x, y in ring) + "Z"


NUMBERS = re.compile(r"[\d.]+")


def read_svg(data: bytes, name: str, unit: str | None) -> ReadDrawing:
    """Closed outlines of an SVG. BadInput for what is no SVG, has no physical size and no ``unit``, or would run something."""
    root = _safe(data, name)
    scale, bottom = _scale(root, name, unit)
    loops: list[Loop] = []
    ignored: list[Ignored] = []
    count = 0
    for element, layer, matrix in _walk(root):
        kind = element.tag.rpartition("}")[2]
        named = element.get("id") or ""
        if kind not in KINDS:
            if kind not in HARMLESS:
                ignored.append(Ignored(entity=_called(kind, named), reason="it is no closed outline"))
            continue
        title = next((c.text or "" for c in element if c.tag.rpartition("}")[2] == "title"), "")
        told = sum(1 for _ in NUMBERS.finditer(f"{element.get('d') or ''} {element.get('points') or ''}"))
        much = BadInput(f"it holds more than {MOST_SHAPES} shapes or {MOST_POINTS} points", name, "give a smaller drawing")
        if count + told / 2 > MOST_POINTS:  # no point is told by more than two numbers: known before it is followed
            raise much
        rings, why = _rings(element, kind, matrix)
        count += sum(len(r) for r in rings)
        if count > MOST_POINTS or len(loops) > MOST_SHAPES:
            raise much
        if why:
            ignored.append(Ignored(entity=_called(kind, named), reason=why))
        for k, ring in enumerate(rings):
            points = tuple((round(x * scale, 3) + 0.0, round(bottom - y * scale, 3) + 0.0) for x, y in ring)
            first = k == 0
            own = bool(root.get(BOTTOM)) and bool(named)
            loops.append(Loop(points_mm=points, layer=layer, label=title.strip() if first else "",
                              id=named if first else "", told=own, of=named if own and not first else ""))
    return ReadDrawing(shapes=shapes_from(loops), ignored=tuple(ignored))


def _called(kind: str, named: str) -> str:
    return f"{kind} {named}" if named else kind


def _safe(data: bytes, name: str) -> Tree.Element:
    """The document, or a refusal of what is hostile."""
    try:
        root: Tree.Element = fromstring(data, forbid_dtd=True, forbid_entities=True, forbid_external=True)
    except DefusedXmlException:
        raise BadInput("it declares entities or a document type, as no drawing needs", name, "save it as plain SVG") from None
    except (Tree.ParseError, ValueError, RecursionError):
        raise BadInput("this is no SVG that can be read", name, "save it as plain SVG") from None
    if root.tag.rpartition("}")[2] != "svg":
        raise BadInput("this is no SVG", name, "give an .svg file")
    for element in root.iter():
        kind = str(element.tag).rpartition("}")[2].lower()
        if kind in ("script", "foreignobject", "iframe", "handler") or any(a.lower().startswith("on") for a in element.attrib):
            raise BadInput("it carries a script, which a drawing does not need", name, "save it as plain SVG")
    return root


def _scale(root: Tree.Element, name: str, unit: str | None) -> tuple[float, float]:
    """Millimetres per unit of the drawing, and where its y = 0 lies below, mm."""
    size = re.fullmatch(r"\s*([\d.eE+-]+)\s*(mm|cm|m|in|px|pt)?\s*", root.get("width") or "")
    tall = re.fullmatch(r"\s*([\d.eE+-]+)\s*(mm|cm|m|in|px|pt)?\s*", root.get("height") or "")
    box = [float(x) for x in re.split(r"[\s,]+", (root.get("viewBox") or "").strip()) if x] if root.get("viewBox") else []
    if box and (len(box) != 4 or not all(map(math.isfinite, box)) or box[2] <= 0 or box[3] <= 0):
        raise BadInput("its viewBox is none", name, "save it again")
    if unit is not None:
        scale = TO_MM[unit]
    elif size is None or size[2] not in TO_MM:
        raise BadInput("it does not say in which unit it is drawn", name, "say it with --unit mm, cm, m or in")
    else:
        scale = float(size[1]) * TO_MM[size[2]] / box[2] if box else TO_MM[size[2]]
    if root.get(BOTTOM) is not None:
        return scale, 0.0
    below = box[1] + box[3] if box else float(tall[1]) if tall is not None else 0.0
    return scale, below * scale


def _walk(root: Tree.Element) -> list[tuple[Tree.Element, str, svgelements.Matrix]]:
    """Every element that draws, with its layer (the nearest group's) and its transformation; what is only defined is left out."""
    out: list[tuple[Tree.Element, str, svgelements.Matrix]] = []
    waiting: list[tuple[Tree.Element, str, svgelements.Matrix, int]] = [(root, "", svgelements.Matrix(), 0)]
    while waiting:
        element, layer, matrix, depth = waiting.pop()
        kind = str(element.tag).rpartition("}")[2]
        if kind == "defs" or depth > 200:
            continue
        own = element.get("transform")
        matrix = svgelements.Matrix(own) * matrix if own else matrix
        if kind == "g":
            layer = element.get("data-layer") or element.get("id") or layer if element.get("data-layer") != "" else ""
        if kind not in ("title", "desc", "metadata", "style"):
            out.append((element, layer, matrix))
            waiting += [(child, layer, matrix, depth + 1) for child in reversed(list(element))]
    return out


def _rings(element: Tree.Element, kind: str, matrix: svgelements.Matrix) -> tuple[list[list[tuple[float, float]]], str]:
    """Closed rings of an element, and why others of it are none."""
    try:
        if kind == "path":
            path = svgelements.Path(element.get("d") or "")
        elif kind == "polygon":
            path = svgelements.Path(svgelements.Polygon(element.get("points") or ""))
        else:
            values = {k: float(element.get(k) or 0) for k in SIZES if element.get(k)}
            path = svgelements.Path(FORMS[kind](**values))
        path = abs(path * matrix)
    except (ValueError, TypeError, ZeroDivisionError, IndexError):
        return [], "it cannot be read"
    rings, why = [], ""
    for part in path.as_subpaths():
        ring = _followed(svgelements.Path(part))
        closed = isinstance(part[-1], svgelements.Close) or (len(ring) > 2 and math.dist(ring[0], ring[-1]) < CLOSED_MM)
        if len(ring) > 1 and math.dist(ring[0], ring[-1]) < 1e-9:
            ring = ring[:-1]
        if not closed or len(ring) < 3:
            why = "it is open: its ends do not meet"
        else:
            rings.append(ring)
    return rings, why


def _followed(path: svgelements.Path) -> list[tuple[float, float]]:
    """Points along a path: the corners of straight parts, curves closely enough."""
    box = path.bbox()
    size = max(box[2] - box[0], box[3] - box[1], 1e-6) if box else 1.0
    out: list[tuple[float, float]] = []
    for part in path:
        if isinstance(part, svgelements.Move):
            out.append((part.end.x, part.end.y))
        elif isinstance(part, svgelements.Line | svgelements.Close):
            if part.end is not None:
                out.append((part.end.x, part.end.y))
        else:
            steps = 8
            while steps < 1024:
                points = [part.point(i / steps) for i in range(steps + 1)]
                bulge = max(_off(points[i], part.point((i + 0.5) / steps), points[i + 1]) for i in range(steps))
                if bulge < FOLLOWED * size:
                    break
                steps *= 2
            out += [(p.x, p.y) for p in (part.point(i / steps) for i in range(1, steps + 1))]
        if len(out) > MOST_POINTS:
            break
    return out


def _off(a: svgelements.Point, middle: svgelements.Point, b: svgelements.Point) -> float:
    return math.hypot(middle.x - (a.x + b.x) / 2, middle.y - (a.y + b.y) / 2)
