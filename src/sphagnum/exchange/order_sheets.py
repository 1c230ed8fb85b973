"""The work order on paper: hazards first, a box to tick before each step, its pieces drawn, fixings to fill in."""

from __future__ import annotations

from collections.abc import Sequence
from urllib.parse import urlencode

from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm as MM
from reportlab.platypus import Flowable, KeepTogether, Spacer, Table, TableStyle

from ..core.errors import BadInput
from ..core.papers.blocks import PieceDrawn, SurfaceBlock
from ..core.stages.fit.model import FitView, Place, StepFixing, StepView
from ..core.worded import System, view_in
from ..core.words import listed, plural
from .codes import code_of
from .papers.charts import surface
from .papers.drawing import Drawn
from .papers.frame import WIDE, paragraph, printed
from .report_style import BARK, BOLD, HEAD, INK, LINE, REGULAR, SMALL, TEXT, TITLE, printing

PICTURE_W, PICTURE_H = 62 * MM, 46 * MM
DANGER = HexColor("#9d2b20")
STRONG = TEXT.clone("strong", fontName=BOLD)
IN_RED = STRONG.clone("in red", textColor=DANGER)
CELL = TEXT.clone("cell", fontSize=8.5, leading=10.5)
EMPTY_ROWS = 4
"""Rows of the fixings table left to fill in."""


@printing
def order_sheets(view: FitView, job_name: str, address: str, system: System) -> bytes:
    """The order as a PDF; with an ``address`` of the running program a code beside each step opens it. BadInput for none."""
    if not view.steps:
        raise BadInput("there is no work order yet", "order", "choose a stack for a surface in Build")
    view, title = view_in(view, system), f"{job_name}: work order"
    places = {p.id: p for p in view.places}
    minutes = view.minutes
    said = (f"{plural(len(view.steps), 'step')}, about {minutes.work / 60:.1f} h of work"
            + (f" and {minutes.wait / 60:.1f} h of waiting" if minutes.wait >= 5 else "")
            + f", {plural(view.people, 'person', 'people')}.")
    blocks: list[Flowable] = [
        paragraph(title, TITLE), paragraph(said, TEXT),
        paragraph(f"Tools: {listed(view.tools)}.", TEXT) if view.tools else Spacer(0, 0),
        *_hazards(view.hazards), Spacer(0, 5 * MM)]
    for number, step in enumerate(view.steps, start=1):
        blocks += _step(step, number, places.get(step.ref.surface_id or 0), address)
    return printed(title, title, blocks, view)


def _hazards(hazards: Sequence[str]) -> list[Flowable]:
    if not hazards:
        return []
    rows = [[paragraph(h, STRONG)] for h in hazards]
    box = Table(rows, colWidths=[WIDE], style=TableStyle([
        ("BOX", (0, 0), (-1, -1), 1.2, DANGER), ("TOPPADDING", (0, 0), (-1, -1), 2), ("BOTTOMPADDING", (0, 0), (-1, -1), 2)]))
    return [paragraph("Before anything else", HEAD), box,
            paragraph("The maker's instructions, local codes and licensed practice come first.", SMALL)]


def _step(step: StepView, number: int, place: Place | None, address: str) -> list[Flowable]:
    """One step: box, title, text, what it needs; its picture and the code beside it."""
    pictured = place is not None and bool(step.pieces)
    room = WIDE - 9 * MM - (PICTURE_W + 4 * MM if pictured or address else 0)
    said = [paragraph(f"{number}. {step.what}", HEAD, room), paragraph(step.text, TEXT, room)]
    said += [paragraph(h, IN_RED, room) for h in step.hazards]
    if step.hold:
        said.append(paragraph(step.hold, TEXT, room, lead="Hold."))
    said += [paragraph(f"· {line}", TEXT, room) for line in step.how]
    said += [paragraph(f"☐ {c.name}", TEXT, room) for c in step.checks]
    said += [paragraph(line, SMALL, room) for line in _needs(step)]
    beside: list[Flowable] = []
    if pictured and place is not None:
        beside.append(_picture(place, step))
    if address:
        beside.append(code_of(f"{address}?{urlencode({'step': step.key})}", 20 * MM))
    box = Table([[""]], colWidths=[5 * MM], rowHeights=[5 * MM], style=TableStyle([("BOX", (0, 0), (-1, -1), 1.2, INK)]))
    row = Table([[box, said, beside]], colWidths=[9 * MM, room, WIDE - 9 * MM - room], splitInRow=1,
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
    widths = [38 * MM, 20 * MM, 16 * MM, WIDE - 9 * MM - 108 * MM, 18 * MM, 16 * MM]
    known = [(f.kind, f.size, str(f.count), f.place, f.bag) for f in fixings]
    rows = [[*(paragraph(t, CELL, w) for t, w in zip(row, widths, strict=False)), ""] for row in known]
    rows += [[""] * 6] * EMPTY_ROWS
    heights = [6 * MM, *[None] * len(known), *[6 * MM] * EMPTY_ROWS]
    table = Table([head, *rows], colWidths=widths, rowHeights=heights, repeatRows=1, style=TableStyle([
        ("FONT", (0, 0), (-1, -1), REGULAR, 8.5), ("GRID", (0, 0), (-1, -1), 0.5, LINE), ("TEXTCOLOR", (0, 0), (-1, 0), BARK)]))
    table.hAlign = "RIGHT"
    return table


def _picture(place: Place, step: StepView) -> Flowable:
    """The surface with the pieces of a step in their order (those of the first copy), the edge that goes on first thick."""
    pieces = tuple(PieceDrawn(label=p.label, outline_mm=p.outline_mm, holes_mm=p.holes_mm, first_edge=p.first_edge)
                   for p in step.pieces if p.copy_number == 1)
    block = SurfaceBlock(title=place.name, outline_mm=place.outline_mm, pieces=pieces)
    return Drawn(surface(block, PICTURE_W / MM, PICTURE_H / MM, every_label=True))
