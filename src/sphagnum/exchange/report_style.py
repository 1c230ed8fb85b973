"""Fonts, colours and paragraph styles of papers; whoever prints with them has them alone."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from pathlib import Path
from threading import Lock
from typing import ParamSpec

from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

REGULAR, BOLD = "AtkinsonHyperlegibleNext-Regular", "AtkinsonHyperlegibleNext-Bold"
for font in (REGULAR, BOLD):
    pdfmetrics.registerFont(TTFont(font, str(Path(__file__).parent / "fonts" / f"{font}.ttf")))
pdfmetrics.registerFontFamily(REGULAR, normal=REGULAR, bold=BOLD, italic=REGULAR, boldItalic=BOLD)

INK, BARK, LINE, MOSS = HexColor("#2b211a"), HexColor("#6d5c4a"), HexColor("#d9cfb9"), HexColor("#55732a")
WATER, PAPER, HEATHER, MOSS_WASH = HexColor("#1f6666"), HexColor("#efe7d2"), HexColor("#7c4f80"), HexColor("#cdd8b6")

TITLE = ParagraphStyle("title", fontName=BOLD, fontSize=20, leading=24, textColor=INK)
HEAD = ParagraphStyle("head", fontName=BOLD, fontSize=11.5, leading=15, textColor=INK, spaceBefore=9)
TEXT = ParagraphStyle("text", fontName=REGULAR, fontSize=9.5, leading=13, textColor=INK)
SMALL = ParagraphStyle("small", fontName=REGULAR, fontSize=8, leading=10.5, textColor=BARK)

P = ParamSpec("P")
PRESS = Lock()
"""Held by whoever prints."""


def printing(draw: Callable[P, bytes]) -> Callable[P, bytes]:
    """One paper at a time: the fonts are read by seeking in them, so that two papers drawn at once would spoil each other."""

    @wraps(draw)
    def alone(*args: P.args, **named: P.kwargs) -> bytes:
        with PRESS:
            return draw(*args, **named)

    return alone
