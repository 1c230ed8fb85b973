"""``build``: a thing that is built, from a file; its parts drawn in three views, or flat to be cut."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from xml.etree import ElementTree as Tree

from ..core.builds.drawing import Ring, Sheet
from ..core.builds.kinds import KINDS, views_of
from ..core.builds.model import Part
from ..core.errors import BadInput
from ..core.job.shelf import Shelf
from ..core.schema import parse
from ..core.surfaces.drawn import DrawnShape
from ..core.worded import view_in
from .draw_command import drawn
from .files import read_bytes, read_json, write_whole


def run_build(name: str, materials: Shelf, svg: Path | None, dxf: Path | None) -> str:
    """``build BUILD.json [--svg FILE.svg] [--dxf FILE.dxf]``. Files are whole or not there; keys of other kinds are absent."""
    raw = read_json(read_bytes(name), name)
    asked = raw.get("kind") if isinstance(raw, dict) else None
    kind = KINDS.get(asked) if isinstance(asked, str) else None
    if kind is None:
        raise BadInput(f"no build of kind {str(asked)[:40]!r} is known", f"{name}: kind", f"give one of: {', '.join(KINDS)}")
    given = parse(kind.given, raw, name)
    built = kind.choices(given, kind.work(given, materials.materials, materials.rooms), materials.materials)
    wanted: dict[Path, bytes] = {}
    for file, form in ((svg, "svg"), (dxf, "dxf")):
        if file is None:
            continue
        if file.suffix.lower() != f".{form}":
            raise BadInput(f"this drawing is a .{form} file", str(file), "name it so")
        if not built.parts:
            raise BadInput("it has no parts to draw", f"--{form}", "leave it out")
        wanted[file] = (_svg(views_of(given, built.parts)) if form == "svg"
                        else drawn(_flat(built.parts), "dxf", "A4"))
    if wanted:
        write_whole(wanted)
    printed = {k: v for k, v in view_in(built, "metric").model_dump(mode="json").items() if v is not None}
    return json.dumps(printed, ensure_ascii=False, allow_nan=False)


def _flat(parts: tuple[Part, ...]) -> tuple[DrawnShape, ...]:
    """Every part by its own outline, beside one another, on a layer of its material."""
    out, x = list[DrawnShape](), 0.0
    for p in parts:
        wide = max(u for u, _ in p.outline_mm)
        out.append(DrawnShape(id=p.id, label=p.name, layer=p.material, outline_mm=tuple((x + u, v) for u, v in p.outline_mm),
                              holes_mm=tuple(tuple((x + u, v) for u, v in h) for h in p.holes_mm)))
        x += wide + 20
    return tuple(out)


def path_of(rings: Sequence[Ring]) -> str:
    """Rings as one path, y downwards."""
    return " ".join("M" + " L".join(f"{u:.1f},{-v:.1f}" for u, v in ring) + " Z" for ring in rings)


def _svg(sheet: Sheet) -> bytes:
    """Three views as an SVG to scale, in millimetres as built; y points down there."""
    (wide, tall), letter = sheet.size_mm, sheet.letter_mm
    edge = 5 * letter
    root = Tree.Element("svg", {
        "xmlns": "http://www.w3.org/2000/svg", "width": f"{wide + 2 * edge:.1f}mm", "height": f"{tall + 2 * edge:.1f}mm",
        "viewBox": f"{-edge:.1f} {-tall - edge:.1f} {wide + 2 * edge:.1f} {tall + 2 * edge:.1f}",
        "font-family": "sans-serif", "font-size": f"{letter:.1f}"})
    Tree.SubElement(root, "rect", {"x": f"{-edge}", "y": f"{-tall - edge}", "width": "100%", "height": "100%", "fill": "white"})
    for ring in sheet.around:
        Tree.SubElement(root, "polygon", {"points": " ".join(f"{u:.1f},{-v:.1f}" for u, v in ring), "fill": "none",
                                          "stroke": "#3b2f24", "stroke-width": f"{letter / 10:.1f}"})
    for p in sheet.parts:
        shape = Tree.SubElement(root, "path", {
            "d": path_of((p.outline_mm, *p.holes_mm)), "fill": "#e7e2d3", "fill-opacity": "0.85", "fill-rule": "evenodd",
            "stroke": "#3b2f24", "stroke-width": f"{letter / 14:.1f}", "data-part": p.id})
        Tree.SubElement(shape, "title").text = p.name
    for ring in sheet.ghosts:
        Tree.SubElement(root, "path", {"d": path_of((ring,)), "fill": "none", "stroke": "#6d5c4a",
                                       "stroke-width": f"{letter / 14:.1f}", "stroke-dasharray": f"{letter / 2:.1f}"})
    for words, (x, y) in sheet.names:
        Tree.SubElement(root, "text", {"x": f"{x:.1f}", "y": f"{0.3 * letter - y:.1f}", "text-anchor": "middle"}).text = words
    for m in sheet.measures:
        (ax, ay), (bx, by) = m.from_mm, m.to_mm
        Tree.SubElement(root, "line", {"x1": f"{ax:.1f}", "y1": f"{-ay:.1f}", "x2": f"{bx:.1f}", "y2": f"{-by:.1f}",
                                       "stroke": "#3b2f24", "stroke-width": f"{letter / 20:.1f}"})
        upright = ax == bx
        at = {"x": f"{(ax + bx) / 2 - (0.3 * letter if upright else 0):.1f}",
              "y": f"{-(ay + by) / 2 + (0 if upright else 1.1 * letter):.1f}",
              "text-anchor": "middle"}
        if upright:
            at["transform"] = f"rotate(-90 {at['x']} {at['y']})"
        Tree.SubElement(root, "text", at).text = f"{m.words} mm"
    for words, (x, y) in sheet.titles:
        Tree.SubElement(root, "text", {"x": f"{x:.1f}", "y": f"{-y:.1f}", "fill": "#3b2f24"}).text = words
    return bytes(Tree.tostring(root, "utf-8", xml_declaration=True))
