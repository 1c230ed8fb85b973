"""Codes that a phone opens, on paper and on the page."""

from __future__ import annotations

import segno
from reportlab.graphics.shapes import Drawing, Rect
from reportlab.lib.colors import black

BORDER = 2
"""Empty squares round a code."""


def _made(text: str) -> segno.QRCode:
    return segno.make(text, error="m", micro=False)


def code_of(text: str, side: float) -> Drawing:
    """A QR code as a square drawing, its side in points."""
    rows = list(_made(text).matrix_iter(border=BORDER))
    each = side / len(rows)
    drawing = Drawing(side, side)
    for y, row in enumerate(rows):
        for x, dark in enumerate(row):
            if dark:  # a hair wider than its square, so that no line shows between two
                drawing.add(Rect(x * each, side - (y + 1) * each, each * 1.02, each * 1.02, fillColor=black, strokeColor=None))
    return drawing


def code_picture(text: str) -> str:
    """A QR code as a picture in a data address."""
    return str(_made(text).svg_data_uri(scale=5, border=BORDER))
