"""The frame all papers share: margins, a foot with pages counted, texts and lines in fonts that have their signs."""

from __future__ import annotations

import io
from collections.abc import Iterator
from functools import partial
from typing import Any

from pydantic import BaseModel
from reportlab.lib.colors import Color
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm as MM
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate

from ..report_style import BARK, BOLD, LINE, REGULAR, SMALL
from .fonts import fitted, unknown, width_mm
from .texts import marked_up, shown

SIDE, TOP, BOTTOM = 18 * MM, 16 * MM, 18 * MM
WIDE = A4[0] - 2 * SIDE
FOOT = 7.5
"""Size of what stands at a page's foot, points."""


class Counted(Canvas):  # type: ignore[misc]
    """Pages that say how many there are: kept until the last is drawn."""

    def __init__(self, *args: Any, foot: str = "", **more: Any) -> None:
        super().__init__(*args, **more)
        self.foot, self.pages = foot, list[dict[str, Any]]()

    def showPage(self) -> None:
        """Keep the page."""
        self.pages.append(dict(self.__dict__))
        self._startPage()

    def save(self) -> None:
        """Draw the foot of every page, then all of them."""
        wide = self._pagesize[0]
        for number, page in enumerate(self.pages, start=1):
            self.__dict__.update(page)
            self.setStrokeColor(LINE)
            self.setLineWidth(1)
            self.line(SIDE, 13 * MM, wide - SIDE, 13 * MM)
            write(self, SIDE, 9 * MM, self.foot, FOOT, fill=BARK, room=wide - 2 * SIDE - 24 * MM)
            write(self, wide - SIDE, 9 * MM, f"{number} of {len(self.pages)}", FOOT, fill=BARK, anchor=1.0)
            super().showPage()
        super().save()


def canvas_of(out: io.BytesIO, title: str, foot: str) -> Counted:
    """An empty A4 paper that is drawn page by page."""
    canvas = Counted(out, pagesize=A4, invariant=1, foot=foot)
    canvas.setTitle(title)
    return canvas


def printed(
    title: str, foot: str, story: list[Flowable], of: BaseModel, language: str = "en", author: str = "Sphagnum"
) -> bytes:
    """A paper that flows over A4 pages; what no font here can print of what it is ``of`` is named at its end."""
    out = io.BytesIO()
    doc = SimpleDocTemplate(out, pagesize=A4, leftMargin=SIDE, rightMargin=SIDE, topMargin=TOP, bottomMargin=BOTTOM, title=title,
                            author=author, lang=language, invariant=1)
    lacks = not_printed(of, title)
    doc.build([*story, *([paragraph(lacks, SMALL)] if lacks else [])], canvasmaker=partial(Counted, foot=foot))
    return out.getvalue()


def not_printed(of: BaseModel, *more: str) -> str:
    """The sentence that names scripts no font here has, empty where there are none."""
    missing = unknown([*_texts(of.model_dump()), *more])
    return f"Not printed, since no font here has its signs: {', '.join(missing)}. The screen shows it." if missing else ""


def _texts(value: Any) -> Iterator[str]:
    """Every text in it."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict | list | tuple):
        for x in value.values() if isinstance(value, dict) else value:
            yield from _texts(x)


def paragraph(words: str, style: ParagraphStyle, width: float = WIDE, lead: str = "") -> Paragraph:
    """A paragraph in fonts that have its signs, after a ``lead`` in bold; ``width`` in points is what lines
    from right to left are broken to."""
    bullet = {"bulletText": "·"} if style.name == "point" else {}
    bold, size, room = style.fontName == BOLD, style.fontSize, (width - style.leftIndent) / MM
    first = f'<font name="{BOLD}">{marked_up(lead, BOLD, size, room, True)}</font> ' if lead else ""
    return Paragraph(first + marked_up(words, style.fontName, size, room, bold), style, **bullet)


def write(
    canvas: Canvas, x: float, y: float, words: str, size: float, *, bold: bool = False, anchor: float = 0.0,
    fill: Color | None = None, room: float | None = None,
) -> None:
    """One line at its baseline, points; ``anchor`` 0 starts at x, 0.5 is centred on it, 1 ends there; too long for its
    ``room`` it ends in …"""
    words = words if room is None else shortened(words, size, room, bold)
    if fill is not None:
        canvas.setFillColor(fill)
    at = x - anchor * width_of(words, size, bold)
    for font, run, wide in fitted(shown(words), BOLD if bold else REGULAR, size):
        canvas.setFont(font, size)
        canvas.drawString(at, y, run)
        at += wide


def width_of(words: str, size: float, bold: bool = False) -> float:
    """How wide a line is, points."""
    return float(width_mm(shown(words), size, bold) * MM)


def shortened(words: str, size: float, room: float, bold: bool = False) -> str:
    """What of a line has room, points, ending in … where some of it has not."""
    while len(words) > 1 and width_of(words, size, bold) > room:
        words = words[:-2].rstrip(" ,.") + "…"
    return words
