"""Fonts, colours and paragraph styles of papers."""

from __future__ import annotations

from pathlib import Path

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
