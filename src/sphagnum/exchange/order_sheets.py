"""The work order on paper: hazards first, a box to tick before each step, its pieces drawn, fixings to fill in."""

from __future__ import annotations

import io
from collections.abc import Sequence
from urllib.parse import urlencode
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm as MM
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from ..core.errors import BadInput
from ..core.papers.blocks import PieceDrawn, SurfaceBlock
from ..core.stages.fit.model import FitView, Place, StepFixing, StepView
from ..core.worded import System, view_in
from ..core.words import listed, plural
from .codes import code_of
from .papers.charts import surface
from .papers.drawing import Drawn
from .report_style import BARK, HEAD, INK, LINE, REGULAR, SMALL, TEXT, TITLE

WIDE = A4[0] - 36 * MM
PICTURE_W, PICTURE_H = 62 * MM, 46 * MM
DANGER = HexColor("#9d2b20")
IN_RED = TEXT.clone("in red", textColor=DANGER)
EMPTY_ROWS = 4
"""Rows of the fixings table left to fill in."""


def order_sheets(view: FitView, job_name: str, address: str, system: System) -> bytes:
    """The order as a PDF; with an ``address`` of the running program a code beside each step opens it. BadInput for none."""
    if not view.steps:
        raise BadInput("there is no work order yet", "order", "choose a stack for a surface in Build")
    view, out = view_in(view, system), io.BytesIO()
    paper = SimpleDocTemplate(out, pagesize=A4, leftMargin=18 * MM, rightMargin=18 * MM, topMargin=16 * MM, bottomMargin=16 * MM,
                              title=f"{job_name}: work order", invariant=1, lang="en")
    places = {p.id: p for p in view.places}
    minutes = view.minutes
    blocks: list[Flowable] = [
        Paragraph(escape(f"{job_name}: work order"), TITLE),
        Paragraph(f"{plural(len(view.steps), 'step')}, about {minutes.work / 60:.1f} h of work"
                  + (f" and {minutes.wait / 60:.1f} h of waiting" if minutes.wait >= 5 else "")
                  + f", {plural(view.people, 'person', 'people')}.", TEXT),
        Paragraph(escape(f"Tools: {listed(view.tools)}."), TEXT) if view.tools else Spacer(0, 0),
        *_hazards(view.hazards), Spacer(0, 5 * MM)]
    for number, step in enumerate(view.steps, start=1):
        blocks += _step(step, number, places.get(step.ref.surface_id or 0), address)
    paper.build(blocks, onFirstPage=_foot, onLaterPages=_foot)
    return out.getvalue()


def _foot(canvas: Canvas, paper: SimpleDocTemplate) -> None:
    canvas.setFont(REGULAR, 8)
    canvas.setFillColor(BARK)
    canvas.drawString(18 * MM, 9 * MM, str(paper.title))
    canvas.drawRightString(A4[0] - 18 * MM, 9 * MM, f"page {paper.page}")


def _hazards(hazards: Sequence[str]) -> list[Flowable]:
    if not hazards:
        return []
    rows = [[Paragraph(f"<b>{escape(h)}</b>", TEXT)] for h in hazards]
    box = Table(rows, colWidths=[WIDE], style=TableStyle([
        ("BOX", (0, 0), (-1, -1), 1.2, DANGER), ("TOPPADDING", (0, 0), (-1, -1), 2), ("BOTTOMPADDING", (0, 0), (-1, -1), 2)]))
    return [Paragraph("Before anything else", HEAD), box,
            Paragraph("The maker's instructions, local codes and licensed practice come first.", SMALL)]


def _step(step: StepView, number: int, place: Place | None, address: str) -> list[Flowable]:
    """One step: box, title, text, what it needs; its picture and the code beside it."""
    said = [Paragraph(f"<b>{number}. {escape(step.what)}</b>", HEAD), Paragraph(escape(step.text), TEXT)]
    said += [Paragraph(f"<b>{escape(h)}</b>", IN_RED) for h in step.hazards]
    if step.hold:
        said.append(Paragraph(f"<b>Hold.</b> {escape(step.hold)}", TEXT))
    said += [Paragraph(f"· {escape(line)}", TEXT) for line in step.how]
    said += [Paragraph(f"[ &nbsp; ] {escape(c.name)}", TEXT) for c in step.checks]
    said += [Paragraph(escape(line), SMALL) for line in _needs(step)]
    beside: list[Flowable] = []
    if place is not None and step.pieces:
        beside.append(_picture(place, step))
    if address:
        beside.append(code_of(f"{address}?{urlencode({'step': step.key})}", 20 * MM))
    box = Table([[""]], colWidths=[5 * MM], rowHeights=[5 * MM], style=TableStyle([("BOX", (0, 0), (-1, -1), 1.2, INK)]))
    row = Table([[box, said, beside]], colWidths=[9 * MM, WIDE - 9 * MM - (PICTURE_W + 4 * MM if beside else 0),
                                                  PICTURE_W + 4 * MM if beside else 0],
                splitInRow=1,
                style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEABOVE", (0, 0), (-1, 0), 0.6, LINE),
                                  ("LEFTPADDING", (0, 0), (-1, -1), 0), ("TOPPADDING", (0, 0), (-1, -1), 5),
                                  ("BOTTOMPADDING", (0, 0), (-1, -1), 6)]))
    more = [_fixings(step.fixings)] if step.phase in ("log fixings", "refit") else []
    return [KeepTogether([row]), *more]


def _needs(step: StepView) -> list[str]:
    """What a step wants, a line each."""
    used = [c.said for c in step.consumables if c.amount > 0]
    timers = [f"{t.name} {t.minutes:g} min, then {t.then}" for t in step.timers]
    wait = f", then {step.wait_minutes / 60:g} h" if step.wait_minutes else ""
    return [x for x in (
        f"About {max(1, round(step.minutes))} min{wait}" + (f"; {step.people} people" if step.people > 1 else "") + ".",
        f"Tools: {', '.join(step.tools)}." if step.tools else "", f"Takes: {'; '.join(used)}." if used else "",
        f"Clocks: {'; '.join(timers)}." if timers else "",
        _in_order(step),
        f"Photograph: {step.photograph}" if step.photograph else "") if x]


def _in_order(step: StepView) -> str:
    """The pieces of the first copy by name; the others follow in the same order."""
    if not step.pieces:
        return ""
    copies = step.pieces[-1].copy_number
    first = ", ".join(p.label for p in step.pieces if p.copy_number == 1)
    others = f"; the same on the other {copies - 1}" if copies > 1 else ""
    return f"Pieces in order: {first}{others}; the thick edge goes on first."


def _fixings(fixings: Sequence[StepFixing]) -> Flowable:
    """The fixings known, and empty rows to fill in."""
    head = ["kind", "size", "count", "place", "bag", "back"]
    rows = [[f.kind, f.size, str(f.count), f.place[:40], f.bag, ""] for f in fixings] + [[""] * 6] * EMPTY_ROWS
    widths = [38 * MM, 20 * MM, 16 * MM, WIDE - 9 * MM - 108 * MM, 18 * MM, 16 * MM]
    table = Table([head, *rows], colWidths=widths, rowHeights=6 * MM, repeatRows=1, style=TableStyle([
        ("FONT", (0, 0), (-1, -1), REGULAR, 8.5), ("GRID", (0, 0), (-1, -1), 0.5, LINE), ("TEXTCOLOR", (0, 0), (-1, 0), BARK)]))
    table.hAlign = "RIGHT"
    return table


def _picture(place: Place, step: StepView) -> Flowable:
    """The surface with the pieces of a step in their order (those of the first copy), the edge that goes on first thick."""
    pieces = tuple(PieceDrawn(label=p.label, outline_mm=p.outline_mm, holes_mm=p.holes_mm, first_edge=p.first_edge)
                   for p in step.pieces if p.copy_number == 1)
    block = SurfaceBlock(title=place.name, outline_mm=place.outline_mm, pieces=pieces)
    return Drawn(surface(block, PICTURE_W / MM, PICTURE_H / MM, every_label=True))
