"""Codes on paper that a phone opens."""

from __future__ import annotations

from reportlab.graphics.barcode.qr import QrCodeWidget
from reportlab.graphics.shapes import Drawing


def code_of(text: str, side: float) -> Drawing:
    """A QR code as a square drawing, its side in points."""
    widget = QrCodeWidget(text, barLevel="M")
    x1, y1, x2, y2 = widget.getBounds()
    drawing = Drawing(side, side, transform=[side / (x2 - x1), 0, 0, side / (y2 - y1), 0, 0])
    drawing.add(widget)
    return drawing
