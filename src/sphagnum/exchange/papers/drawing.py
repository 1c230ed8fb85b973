"""A drawing as plain shapes in millimetres, y downwards, and its two writers: onto a PDF page, and as SVG."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from typing import Any, Literal, NamedTuple

from reportlab.lib.colors import Color
from reportlab.lib.units import mm as MM
from reportlab.platypus import Flowable

from ..report_style import BOLD, INK, REGULAR
from .fonts import fitted, width_mm
from .texts import shown


class Box(NamedTuple):
    x: float
    y: float
    width: float
    height: float
    fill: Color


class Way(NamedTuple):
    """A run of points; closed and filled where it has a fill."""

    points: Sequence[tuple[float, float]]
    stroke: Color | None = None
    width: float = 0.3
    fill: Color | None = None
    dashed: bool = False


class Words(NamedTuple):
    """A line of text; y is its baseline, size in points."""

    x: float
    y: float
    text: str
    size: float = 8.0
    bold: bool = False
    anchor: Literal["start", "middle", "end"] = "start"
    fill: Color = INK


class Drawing(NamedTuple):
    width: float
    height: float
    shapes: tuple[Box | Way | Words, ...]
    says: str
    """What it shows, for one who does not see it."""


def said_width(words: Words) -> float:
    """How wide a line of text is, mm."""
    return width_mm(shown(words.text), words.size, words.bold)


class Drawn(Flowable):  # type: ignore[misc]
    """A drawing on a page."""

    def __init__(self, drawing: Drawing) -> None:
        super().__init__()
        self.drawing, self.width, self.height = drawing, drawing.width * MM, drawing.height * MM

    def draw(self) -> None:
        """Shape by shape; the page's y goes up."""
        c: Any = self.canv
        for shape in self.drawing.shapes:
            if isinstance(shape, Box):
                c.setFillColor(shape.fill)
                c.rect(
                    shape.x * MM,
                    self.height - (shape.y + shape.height) * MM,
                    shape.width * MM,
                    shape.height * MM,
                    stroke=0,
                    fill=1,
                )
            elif isinstance(shape, Words):
                self._words(c, shape)
            else:
                self._way(c, shape)

    def _words(self, c: Any, shape: Words) -> None:
        c.setFillColor(shape.fill)
        left = {"start": 0.0, "middle": said_width(shape) / 2, "end": said_width(shape)}[shape.anchor]
        at = (shape.x - left) * MM
        for font, text, width in fitted(shown(shape.text), BOLD if shape.bold else REGULAR, shape.size):
            c.setFont(font, shape.size)
            c.drawString(at, self.height - shape.y * MM, text)
            at += width

    def _way(self, c: Any, shape: Way) -> None:
        path = c.beginPath()
        for k, (x, y) in enumerate(shape.points):
            (path.moveTo if k == 0 else path.lineTo)(x * MM, self.height - y * MM)
        if shape.fill:
            path.close()
            c.setFillColor(shape.fill)
        if shape.stroke:
            c.setStrokeColor(shape.stroke)
            c.setLineWidth(shape.width * MM)
            c.setDash([2, 2] if shape.dashed else [])
        c.drawPath(path, stroke=int(bool(shape.stroke)), fill=int(bool(shape.fill)))
        c.setDash([])


def _hex(colour: Color | None) -> str:
    return "none" if colour is None else f"#{colour.hexval()[2:]}"


def svg(drawing: Drawing) -> str:
    """The same as SVG to stand within a page."""
    out = [f'<svg viewBox="0 0 {drawing.width:g} {drawing.height:g}" role="img" aria-label="{escape(drawing.says, True)}">']
    for shape in drawing.shapes:
        if isinstance(shape, Box):
            out.append(
                f'<rect x="{shape.x:.2f}" y="{shape.y:.2f}" width="{max(shape.width, 0):.2f}" '
                f'height="{max(shape.height, 0):.2f}" fill="{_hex(shape.fill)}"/>'
            )
        elif isinstance(shape, Words):
            weight = ' font-weight="700"' if shape.bold else ""
            out.append(
                f'<text x="{shape.x:.2f}" y="{shape.y:.2f}" font-size="{shape.size * 0.3528:.2f}" text-anchor="{shape.anchor}"'
                f'{weight} fill="{_hex(shape.fill)}">{escape(shape.text)}</text>'
            )
        else:
            points = " ".join(f"{x:.2f},{y:.2f}" for x, y in shape.points)
            stroke = f' stroke="{_hex(shape.stroke)}" stroke-width="{shape.width:g}"' if shape.stroke else ""
            dashed = ' stroke-dasharray="0.8 0.8"' if shape.dashed else ""
            tag = "polygon" if shape.fill else "polyline"
            out.append(f'<{tag} points="{points}" fill="{_hex(shape.fill)}"{stroke}{dashed}/>')
    return "".join(out) + "</svg>"
