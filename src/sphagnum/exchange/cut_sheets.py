"""What goes to the bench on paper: cut sheets with every corner from two edges, and labels with a code that opens the piece."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from typing import NamedTuple
from urllib.parse import urlencode

from reportlab.graphics import renderPDF
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm as MM
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

from ..core.errors import BadInput
from ..core.stages.cut.model import CutView, MarkLine, Points, SheetPiece, SheetView
from ..core.worded import LENGTH_UNIT, System, marked, view_in, worded
from ..core.words import listed, percent, plural
from .codes import code_of
from .papers.frame import canvas_of, not_printed, width_of, write
from .report_style import BARK, BOLD, INK, LINE, PAPER, printing

MARGIN = 14 * MM
LOW = 17 * MM
"""No row below it: the foot of the page stands there."""
AXIS = 14.0
POINTS, POINT_W = 5, 84.0
DRAWN_HIGH = 140 * MM
FILL = {"D": 0.62, "C": 0.9, "B": 0.45, "A": 0.82, "S": 0.93, "I": 0.88, "": 0.95}
LABEL_W, LABEL_H, ACROSS, DOWN = 70 * MM, 37 * MM, 3, 8


@printing
def cut_sheets(view: CutView, names: dict[int, str], job_name: str, system: System) -> bytes:
    """A page for each sheet, roll or offcut that is cut another way than those before it, in the order of the list."""
    _something(view)
    out, view = io.BytesIO(), view_in(view, system)
    foot = (f"{job_name}: cut sheets", "Not the last layout: pieces were still being laid out." if view.work else "",
            not_printed(view, job_name, *names.values()))
    canvas = canvas_of(out, foot[0], "  ·  ".join(x for x in foot if x))
    for number, sheet in enumerate(view.sheets, start=1):
        if sheet.same_as is None:
            like = [n for n, s in enumerate(view.sheets, start=1) if n == number or s.same_as == number - 1]
            which = f"sheet {number} of {len(view.sheets)}" if len(like) == 1 else f"sheets {listed([str(n) for n in like])}"
            _Page(canvas, system, f"{job_name}, {which}").sheet(sheet, names)
    canvas.save()
    return out.getvalue()


def _something(view: CutView) -> None:
    if not view.sheets:
        raise BadInput("nothing is laid out yet", "sheets", "choose a stack in Build, and wait until its pieces are laid out")


At = Callable[[tuple[float, float]], tuple[float, float]]


class _Page(NamedTuple):
    """Where a sheet is drawn and listed: lengths in whose system, and which job and sheet."""

    canvas: Canvas
    system: System
    head: str

    def sheet(self, sheet: SheetView, names: dict[int, str]) -> None:
        """The sheet drawn as it lies, then how its pieces are marked out, over as many pages as that takes."""
        canvas, (width, height) = self.canvas, A4
        scale = min((width - 2 * MARGIN - AXIS) / sheet.across_mm, DRAWN_HIGH / sheet.up_mm)
        top = height - MARGIN
        times = f", cut {sheet.alike} times" if sheet.alike > 1 else ""
        write(canvas, MARGIN, top - 12, f"{_kind(sheet)}: {sheet.name}{times}", 15, bold=True, fill=INK, room=width - 2 * MARGIN)
        pieces = plural(len(sheet.pieces), "piece")
        write(canvas, MARGIN, top - 27, f"{sheet.size}, {pieces}, {percent(sheet.used)} of it used.", 9.5)
        write(canvas, width - MARGIN, top - 27, self.head, 9.5, fill=BARK, anchor=1.0, room=width / 2 - MARGIN)
        x0, y0 = MARGIN + AXIS, top - 50 - sheet.up_mm * scale

        def at(p: tuple[float, float]) -> tuple[float, float]:
            return x0 + p[0] * scale, y0 + p[1] * scale

        canvas.setFillColor(PAPER)
        canvas.setStrokeColor(INK)
        _ring(canvas, [sheet.outline_mm], at, 1.2)
        for piece in sheet.pieces:
            canvas.setFillGray(FILL.get(sheet.letter, 0.9))
            _ring(canvas, [piece.outline_mm, *piece.holes_mm], at, 0.8)
        for piece in sheet.pieces:
            _name(canvas, piece, at)
        self.edges(sheet, x0, y0, scale)
        self.listed(sheet, names, y0 - 32)

    def edges(self, sheet: SheetView, x0: float, y0: float, scale: float) -> None:
        """How long its foot and its left edge are, which side lies up, and where its grain runs."""
        canvas = self.canvas
        long, high = sheet.across_mm * scale, sheet.up_mm * scale
        write(canvas, x0, y0 - 11, worded(f"foot {marked(sheet.across_mm)}", self.system), 8, fill=BARK)
        canvas.saveState()
        canvas.translate(x0 - 5, y0)
        canvas.rotate(90)
        write(canvas, 0, 0, worded(f"left edge {marked(sheet.up_mm)}", self.system), 8)
        canvas.restoreState()
        write(canvas, x0, y0 + high + 5, sheet.face.capitalize(), 9, bold=True, fill=INK)
        if sheet.grain:
            along = sheet.grain == "foot"
            write(canvas, x0 + long - 40, y0 + high + 5, "grain", 9, bold=True, anchor=1.0)
            x, y = x0 + long - 22, y0 + high + 8
            canvas.setStrokeColor(INK)
            canvas.setLineWidth(1.2)
            _arrow(canvas, (x - 12, y) if along else (x, y - 6), (x + 12, y) if along else (x, y + 12))

    def listed(self, sheet: SheetView, names: dict[int, str], y: float) -> None:
        """Each piece: its labels, where it goes, its size and place, and what more there is to mark."""
        canvas = self.canvas
        self.columns(y, sheet)
        for piece in sheet.pieces:
            labels = simpleSplit(" ".join((piece.label, *piece.also)), BOLD, 9, 88)
            more = [x for line in piece.lines for x in _rows(line)]
            rows = max(len(labels), 1 + len(more))
            if y - 4 - 12 * rows < LOW:
                canvas.showPage()
                y = A4[1] - MARGIN - 20
                self.columns(y, sheet)
            canvas.setStrokeColor(LINE)
            canvas.setLineWidth(0.6)
            canvas.line(MARGIN, y - 4, A4[0] - MARGIN, y - 4)
            strong = [(0, n, text) for n, text in enumerate(labels)] + [(95, 0, piece.size), (225, 0, piece.at)]
            for x, n, text in strong:
                write(canvas, MARGIN + x, y - 14 - 12 * n, text, 9, bold=True, fill=INK)
            write(canvas, MARGIN + 345, y - 14, names.get(piece.surface_id or 0, ""), 8.5, room=A4[0] - 2 * MARGIN - 345)
            for n, texts in enumerate(more, start=1):
                for k, text in enumerate(texts):
                    write(canvas, MARGIN + 95 + k * POINT_W, y - 14 - 12 * n, text, 8.5)
            y -= 12 * rows + 4
        canvas.showPage()

    def columns(self, y: float, sheet: SheetView) -> None:
        unit = LENGTH_UNIT[self.system]
        for x, text in ((0, "piece" if sheet.alike == 1 else "pieces, one a sheet"), (95, f"size, along the foot × up, {unit}"),
                        (225, f"from left · from foot, {unit}"), (345, "goes on")):
            write(self.canvas, MARGIN + x, y, text, 8, fill=BARK)


def _rows(line: MarkLine) -> list[tuple[str, ...]]:
    """Part of how a piece is marked out: its words, then its places in columns."""
    return [(line.lead,), *(line.points[k : k + POINTS] for k in range(0, len(line.points), POINTS))]


def _kind(sheet: SheetView) -> str:
    return sheet.offcut[:1].upper() + sheet.offcut[1:] if sheet.offcut else f"{'Roll' if sheet.roll else 'Sheet'} {sheet.number}"


def _arrow(canvas: Canvas, begin: tuple[float, float], end: tuple[float, float]) -> None:
    """A line with a head at both ends: grain has no sense, only a direction."""
    canvas.line(*begin, *end)
    (dx, dy) = ((end[k] - begin[k]) / math.dist(begin, end) * 4 for k in (0, 1))
    for (x, y), sign in ((end, -1.0), (begin, 1.0)):
        for side in (0.6, -0.6):
            canvas.line(x, y, x + sign * dx - side * dy, y + sign * dy + side * dx)


def _ring(canvas: Canvas, rings: list[Points], at: At, line: float) -> None:
    path = canvas.beginPath()
    for ring in rings:
        for k, p in enumerate(ring):
            (path.moveTo if k == 0 else path.lineTo)(*at(p))
        path.close()
    canvas.setLineWidth(line)
    canvas.drawPath(path, stroke=1, fill=1, fillMode=0)


def _name(canvas: Canvas, piece: SheetPiece, at: At) -> None:
    """Its label in the middle of its bounds, on white, and its size under it where there is room."""
    points = [at(p) for p in piece.outline_mm]
    (x, across), (y, up) = (((min(v) + max(v)) / 2, max(v) - min(v)) for v in ([p[k] for p in points] for k in (0, 1)))
    label = width_of(piece.label, 9, True) + 6
    canvas.saveState()
    canvas.translate(x, y)
    if label > across and up > across:  # along a strip that stands
        canvas.rotate(90)
        across, up = up, across
    size = width_of(piece.size, 7)
    below = size + 4 < across and up > 28
    wide = max(label, size + 6 if below else 0)
    canvas.setFillGray(1)
    canvas.roundRect(-wide / 2, -14 if below else -6, wide, 20 if below else 12, 3, stroke=0, fill=1)
    write(canvas, 0, -3.2, piece.label, 9, bold=True, anchor=0.5, fill=INK)
    if below:
        write(canvas, 0, -11.5, piece.size, 7, anchor=0.5)
    canvas.restoreState()


class Bag(NamedTuple):
    """A bag of fixings: what is written on it large, what is in it, where it is from, and the step it belongs to."""

    bag: str
    what: str
    where: str
    step: str


@printing
def labels(
    view: CutView, names: dict[int, str], job_name: str, address: str, system: System, bags: tuple[Bag, ...] = (),
) -> bytes:
    """A label a piece and a bag, 24 to a page (70 × 37 mm): its number large, where it goes, what it is, and a code that opens it
    under the job's ``address``."""
    if not bags:
        _something(view)
    out, view = io.BytesIO(), view_in(view, system)
    canvas = Canvas(out, pagesize=A4, invariant=1)
    canvas.setTitle(f"{job_name}: labels")
    pieces = [(s, p) for s in view.sheets for p in s.pieces]
    said = [(p.label, (names.get(p.surface_id or 0, "beside the plan"), f"{s.name}, {p.size}", job_name),
             f"{address}/cut?{urlencode({'surface': p.surface_id or '', 'piece': p.label})}") for s, p in pieces]
    said += [(f"Bag {b.bag}", (b.what, b.where, job_name), f"{address}/fit?{urlencode({'step': b.step})}") for b in bags]
    for k, (large, lines, code) in enumerate(said):
        place = k % (ACROSS * DOWN)
        if k and place == 0:
            canvas.showPage()
        x, y = (place % ACROSS) * LABEL_W, A4[1] - (place // ACROSS + 1) * LABEL_H
        _label(canvas, x, y, large, lines, code)
    canvas.save()
    return out.getvalue()


def _label(canvas: Canvas, x: float, y: float, large: str, lines: tuple[str, ...], code: str) -> None:
    side = 24 * MM
    room = LABEL_W - 7 * MM - side
    write(canvas, x + 5 * MM, y + LABEL_H - 12 * MM, large, 22, bold=True, fill=INK, room=room)
    for n, line in enumerate(lines):
        write(canvas, x + 5 * MM, y + LABEL_H - (17 + 4.4 * n) * MM, line, 8.5, room=room)
    renderPDF.draw(code_of(code, side), canvas, x + LABEL_W - side - 3 * MM, y + (LABEL_H - side) / 2)
