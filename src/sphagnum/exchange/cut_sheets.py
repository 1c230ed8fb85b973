"""What goes to the bench on paper: cut sheets with every corner from two edges, and labels with a code that opens the piece."""

from __future__ import annotations

import io
from collections.abc import Callable
from urllib.parse import urlencode

from reportlab.graphics import renderPDF
from reportlab.graphics.barcode.qr import QrCodeWidget
from reportlab.graphics.shapes import Drawing
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from ..core.errors import BadInput
from ..core.stages.cut.model import CutView, Points, SheetPiece, SheetView
from ..core.words import percent, plural
from .report_style import BARK, BOLD, INK, LINE, PAPER, REGULAR

MARGIN = 14 * mm
DRAWN_HIGH = 150 * mm
FILL = {"D": 0.62, "C": 0.9, "B": 0.45, "A": 0.82, "S": 0.93, "I": 0.88, "": 0.95}
LABEL_W, LABEL_H, ACROSS, DOWN = 70 * mm, 37 * mm, 3, 8


def cut_sheets(view: CutView, names: dict[int, str], job_name: str) -> bytes:
    """A page a sheet, roll or offcut, in the order of the list; what is cut with the liner up is drawn mirrored, as it lies."""
    _something(view)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4, invariant=1)
    canvas.setTitle(f"{job_name}: cut sheets")
    for number, sheet in enumerate(view.sheets, start=1):
        _page(canvas, sheet, names, f"{job_name}, sheet {number} of {len(view.sheets)}")
        if view.work:
            canvas.drawString(MARGIN, MARGIN - 14, "Not the last layout: pieces were still being laid out.")
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _something(view: CutView) -> None:
    if not view.sheets:
        raise BadInput("nothing is laid out yet", "sheets", "choose a stack in Build, and wait until its pieces are laid out")


def _page(canvas: Canvas, sheet: SheetView, names: dict[int, str], head: str) -> None:
    width, height = A4
    turned = sheet.length_mm > sheet.width_mm  # the long side runs along the paper's short one only where it is the shorter
    scale = min((width - 2 * MARGIN) / (sheet.width_mm * mm), DRAWN_HIGH / (sheet.length_mm * mm)) * mm
    if turned:
        scale = max(scale, min((width - 2 * MARGIN) / (sheet.length_mm * mm), DRAWN_HIGH / (sheet.width_mm * mm)) * mm)
    lying = turned and sheet.length_mm * scale > DRAWN_HIGH + 1
    top = height - MARGIN
    canvas.setFillColor(INK)
    canvas.setFont(BOLD, 15)
    canvas.drawString(MARGIN, top - 12, f"{_kind(sheet)}: {sheet.name}"[:74])
    canvas.setFont(REGULAR, 9.5)
    canvas.drawString(MARGIN, top - 27, f"{sheet.width_mm:g} × {sheet.length_mm:g} mm, {plural(len(sheet.pieces), 'piece')}, "
                      f"{percent(sheet.used)} of it used.  {FACE[sheet.liner_up]}")
    canvas.setFillColor(BARK)
    canvas.drawRightString(width - MARGIN, top - 27, head[:60])
    long, high = (sheet.length_mm, sheet.width_mm) if lying else (sheet.width_mm, sheet.length_mm)
    x0, y0 = MARGIN, top - 40 - high * scale

    def at(p: tuple[float, float]) -> tuple[float, float]:
        x = sheet.width_mm - p[0] if sheet.liner_up else p[0]
        a, b = (p[1], sheet.width_mm - x) if lying else (x, p[1])
        return x0 + a * scale, y0 + b * scale

    canvas.setFillColor(PAPER)
    canvas.setStrokeColor(INK)
    edge: Points = sheet.outline_mm or ((0, 0), (sheet.width_mm, 0), (sheet.width_mm, sheet.length_mm), (0, sheet.length_mm))
    _ring(canvas, [edge], at, 1.2)
    for piece in sheet.pieces:
        canvas.setFillGray(FILL.get(sheet.letter, 0.9))
        _ring(canvas, [piece.outline_mm, *piece.holes_mm], at, 0.8)
    for piece in sheet.pieces:
        _name(canvas, piece, at)
    canvas.setFillColor(BARK)
    canvas.setFont(REGULAR, 8)
    canvas.drawString(x0, y0 - 11, f"{long:g} mm")
    _corners(canvas, sheet, names, y0 - 26)


FACE = {True: "Cut with the liner up: drawn as you see it then.", False: "Drawn with its face up."}


def _kind(sheet: SheetView) -> str:
    return sheet.offcut.capitalize() if sheet.offcut else f"{'Roll' if sheet.roll else 'Sheet'} {sheet.number}"


def _ring(canvas: Canvas, rings: list[Points], at: Callable[[tuple[float, float]], tuple[float, float]], line: float) -> None:
    path = canvas.beginPath()
    for ring in rings:
        for k, p in enumerate(ring):
            (path.moveTo if k == 0 else path.lineTo)(*at(p))
        path.close()
    canvas.setLineWidth(line)
    canvas.drawPath(path, stroke=1, fill=1, fillMode=0)


def _name(canvas: Canvas, piece: SheetPiece, at: Callable[[tuple[float, float]], tuple[float, float]]) -> None:
    """Its label in the middle of its bounds, on white."""
    points = [at(p) for p in piece.outline_mm]
    x, y = ((min(p[k] for p in points) + max(p[k] for p in points)) / 2 for k in (0, 1))
    wide = canvas.stringWidth(piece.label, BOLD, 9) + 6
    canvas.setFillGray(1)
    canvas.roundRect(x - wide / 2, y - 6, wide, 12, 3, stroke=0, fill=1)
    canvas.setFillColor(INK)
    canvas.setFont(BOLD, 9)
    canvas.drawCentredString(x, y - 3.2, piece.label)


def _corners(canvas: Canvas, sheet: SheetView, names: dict[int, str], y: float) -> None:
    """Each piece with its corners, from the left edge and from the foot of its sheet."""
    canvas.setFillColor(INK)
    canvas.setFont(BOLD, 9)
    canvas.drawString(MARGIN, y, "Corners: from the left edge · from the foot, mm")
    canvas.setFont(REGULAR, 8.5)
    for piece in sheet.pieces:
        y -= 12.5
        if y < MARGIN:
            canvas.drawString(MARGIN, y + 2, "… more pieces on this sheet: see their 1:1 templates")
            return
        canvas.setStrokeColor(LINE)
        canvas.line(MARGIN, y - 3, A4[0] - MARGIN, y - 3)
        canvas.setFillColor(INK)
        canvas.drawString(MARGIN, y, f"{piece.label}")
        canvas.drawString(MARGIN + 46, y, names.get(piece.surface_id or 0, "")[:24])
        canvas.drawString(MARGIN + 160, y, piece.marks[:86])


def labels(view: CutView, names: dict[int, str], job_name: str, address: str) -> bytes:
    """A label a piece, 24 to a page (70 × 37 mm): its number large, where it goes, what it is, and a code that opens it."""
    _something(view)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4, invariant=1)
    canvas.setTitle(f"{job_name}: labels")
    pieces = [(s, p) for s in view.sheets for p in s.pieces]
    for k, (sheet, piece) in enumerate(pieces):
        place = k % (ACROSS * DOWN)
        if k and place == 0:
            canvas.showPage()
        x, y = (place % ACROSS) * LABEL_W, A4[1] - (place // ACROSS + 1) * LABEL_H
        code = urlencode({"surface": piece.surface_id or "", "piece": piece.label})
        _label(canvas, x, y, sheet, piece, names, f"{address}?{code}", job_name)
    canvas.save()
    return out.getvalue()


def _label(
    canvas: Canvas, x: float, y: float, sheet: SheetView, piece: SheetPiece, names: dict[int, str], code: str, job_name: str
) -> None:
    canvas.setFillColor(INK)
    canvas.setFont(BOLD, 22)
    canvas.drawString(x + 5 * mm, y + LABEL_H - 12 * mm, piece.label)
    canvas.setFont(REGULAR, 8.5)
    for n, line in enumerate((names.get(piece.surface_id or 0, "beside the plan"), sheet.name, job_name)):
        canvas.drawString(x + 5 * mm, y + LABEL_H - (17 + 4.4 * n) * mm, _short(canvas, line, LABEL_W - 34 * mm))
    widget = QrCodeWidget(code, barLevel="M")
    x1, y1, x2, y2 = widget.getBounds()
    side = 24 * mm
    drawing = Drawing(side, side, transform=[side / (x2 - x1), 0, 0, side / (y2 - y1), 0, 0])
    drawing.add(widget)
    renderPDF.draw(drawing, canvas, x + LABEL_W - side - 3 * mm, y + (LABEL_H - side) / 2)


def _short(canvas: Canvas, text: str, width: float) -> str:
    while canvas.stringWidth(text, REGULAR, 8.5) > width and len(text) > 4:
        text = text[:-2].rstrip(" ,") + "…"
    return text
