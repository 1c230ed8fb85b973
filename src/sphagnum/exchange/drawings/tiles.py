"""Shapes at 1:1 on sheets of paper: tiles that overlap, registration marks, page numbers, and a line to check the printer by."""

from __future__ import annotations

import io
import math

from reportlab.lib.pagesizes import A3, A4, letter
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from ...core.errors import BadInput
from ...core.quantities import INCH_MM
from ...core.surfaces.drawn import DrawnShape, Ring
from ...core.worded import System, in_mm, worded
from ..papers.frame import write
from ..report_style import printing

PAGES = {"A4": A4, "A3": A3, "letter": letter}
MARGIN_MM, OVERLAP_MM, FOOT_MM = 10.0, 10.0, 14.0
CHECK_MM: dict[System, float] = {"metric": 100.0, "imperial": 4 * INCH_MM}
"""The line on every page, whole on the rule it is measured with."""
MOST_PAGES = 400


@printing
def tiles_of(shapes: tuple[DrawnShape, ...], page: str, system: System) -> bytes:
    """Each shape on as many pages as it needs, in rows from the lower left. BadInput for more paper than anybody glues."""
    width, height = (v / mm for v in PAGES[page])
    room = width - 2 * MARGIN_MM, height - 2 * MARGIN_MM - FOOT_MM
    plans = [(s, *_grid(s, room)) for s in shapes]
    total = sum(c * r for _, c, r in plans)
    if total > MOST_PAGES:
        raise BadInput(f"it would take {total} pages", "--page", "use larger paper, or draw fewer shapes at once")
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=PAGES[page], invariant=1)
    canvas.setTitle("Shapes at 1:1")
    number = 0
    for shape, columns, rows in plans:
        for row in range(rows):
            for column in range(columns):
                number += 1
                _tile(canvas, shape, (column, row), (columns, rows), room)
                _foot(canvas, shape, (column, row), (columns, rows), f"{number} of {total}", width, system)
                canvas.showPage()
    canvas.save()
    return out.getvalue()


def _grid(shape: DrawnShape, room: tuple[float, float]) -> tuple[int, int]:
    """Columns and rows of pages a shape takes."""
    spans = [max(p[i] for p in shape.outline_mm) - min(p[i] for p in shape.outline_mm) for i in (0, 1)]
    steps = [(span - OVERLAP_MM) / (size - OVERLAP_MM) for span, size in zip(spans, room, strict=True)]
    columns, rows = (max(math.ceil(s - 1e-9), 1) for s in steps)
    return columns, rows


def _tile(canvas: Canvas, shape: DrawnShape, at: tuple[int, int], of: tuple[int, int], room: tuple[float, float]) -> None:
    left, low = (min(p[i] for p in shape.outline_mm) for i in (0, 1))
    x0, y0 = left + at[0] * (room[0] - OVERLAP_MM), low + at[1] * (room[1] - OVERLAP_MM)
    canvas.saveState()
    canvas.translate(MARGIN_MM * mm, (MARGIN_MM + FOOT_MM) * mm)
    frame = canvas.beginPath()
    frame.rect(0, 0, room[0] * mm, room[1] * mm)
    canvas.clipPath(frame, stroke=0, fill=0)
    canvas.setLineWidth(0.6)
    for ring in (shape.outline_mm, *shape.holes_mm):
        _draw(canvas, ring, x0, y0)
    canvas.restoreState()
    _marks(canvas, at, of, room)


def _draw(canvas: Canvas, ring: Ring, x0: float, y0: float) -> None:
    path = canvas.beginPath()
    for k, (x, y) in enumerate(ring):
        (path.moveTo if k == 0 else path.lineTo)((x - x0) * mm, (y - y0) * mm)
    path.close()
    canvas.drawPath(path, stroke=1, fill=0)


def _marks(canvas: Canvas, at: tuple[int, int], of: tuple[int, int], room: tuple[float, float]) -> None:
    """Crosses where neighbouring pages meet: they lie on one another when the pages are glued right."""
    canvas.saveState()
    canvas.setLineWidth(0.4)
    canvas.setDash(2, 2)
    canvas.translate(MARGIN_MM * mm, (MARGIN_MM + FOOT_MM) * mm)
    half = OVERLAP_MM / 2
    xs = [x for x, there in ((half, at[0] > 0), (room[0] - half, at[0] < of[0] - 1)) if there]
    ys = [y for y, there in ((half, at[1] > 0), (room[1] - half, at[1] < of[1] - 1)) if there]
    for x in xs:
        canvas.line(x * mm, 0, x * mm, room[1] * mm)
    for y in ys:
        canvas.line(0, y * mm, room[0] * mm, y * mm)
    canvas.setDash()
    for x in xs or [half, room[0] - half]:
        for y in ys or [half, room[1] - half]:
            canvas.circle(x * mm, y * mm, 2 * mm, stroke=1, fill=0)
            canvas.line((x - 4) * mm, y * mm, (x + 4) * mm, y * mm)
            canvas.line(x * mm, (y - 4) * mm, x * mm, (y + 4) * mm)
    canvas.restoreState()


def _foot(
    canvas: Canvas, shape: DrawnShape, at: tuple[int, int], of: tuple[int, int], number: str, width: float,
    system: System,
) -> None:
    y = MARGIN_MM * mm
    where = f"column {at[0] + 1} of {of[0]}, row {at[1] + 1} of {of[1]}" if of != (1, 1) else "on one page"
    room = (width - 2 * MARGIN_MM - 30) * mm
    write(canvas, MARGIN_MM * mm, y + 7 * mm, f"{shape.label or shape.id} ({where})", 9, room=room)
    write(canvas, (width - MARGIN_MM) * mm, y + 7 * mm, f"page {number}", 9, anchor=1.0)
    canvas.setLineWidth(0.8)
    x, check = MARGIN_MM * mm, CHECK_MM[system]
    canvas.line(x, y + 3 * mm, x + check * mm, y + 3 * mm)
    for end in (x, x + check * mm):
        canvas.line(end, y + 1.5 * mm, end, y + 4.5 * mm)
    write(canvas, x + (check + 3) * mm, y + 2 * mm, worded(f"{in_mm(check)}: measure it; print at 100 %, not fitted", system), 9)
