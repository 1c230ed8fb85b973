"""The buying list of a job as a table for a spreadsheet and as a page for the counter."""

from __future__ import annotations

import csv
import io

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Spacer, Table, TableStyle

from ..core.cutting.buying import Buy
from ..core.stages.cut.model import CutView
from ..core.worded import MASS_UNIT, System, mass, view_in
from .papers.frame import paragraph, printed
from .readings import safe
from .report_style import BOLD, HEAD, LINE, REGULAR, SMALL, TEXT, TITLE, printing

COLUMNS = ("what", "needed", "on the shelf", "buy", "unit", "spare", "kg", "price", "currency", "supplier", "order number")


WIDTHS = (76 * mm, 34 * mm, 32 * mm, 14 * mm, 18 * mm)


def buying_csv(view: CutView, system: System) -> str:
    """One line a material and size; an unknown price is blank. What the work uses up follows, said so."""
    out, view = io.StringIO(), view_in(view, system)
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow([MASS_UNIT[system] if c == "kg" else c for c in COLUMNS])
    for b in (*view.buy, *view.used_up):
        table.writerow([safe(b.name), safe(b.needed), safe(b.shelf), b.units, safe(b.unit), b.spare, mass(b.kg, system),
                        "" if b.money is None else f"{b.money:.2f}", safe(view.currency), safe(b.supplier), safe(b.order_number)])
    return out.getvalue()


@printing
def buying_pdf(view: CutView, job_name: str, made_on: str, system: System) -> bytes:
    """The list on A4, by supplier."""
    view, title = view_in(view, system), f"To buy: {job_name}"
    story: list[Flowable] = [paragraph(title, TITLE), paragraph(f"{made_on}. {view.detail}", TEXT)]
    if view.older or view.work:
        story.append(paragraph("Pieces are still being laid out: this list is not the last.", HEAD))
    for supplier in sorted({b.supplier for b in view.buy}):
        rows = [b for b in view.buy if b.supplier == supplier]
        story += [paragraph(supplier or "Supplier not noted", HEAD), _table(rows, view.currency, system)]
    unknown = sum(b.money is None for b in view.buy)
    without = f"without {unknown} of no known price; " if unknown else "· "
    carried = f"{mass(view.kg, system)} {MASS_UNIT[system]} to carry"
    story += [Spacer(1, 4 * mm), paragraph(f"{without}{carried}.", TEXT, lead=f"{view.currency} {view.money:.2f}")]
    if view.used_up:
        story += [paragraph("What the work uses up (house figures, not in the sum)", HEAD),
                  _table(list(view.used_up), view.currency, system)]
    return printed(title, title, story, view)


def _table(rows: list[Buy], currency: str, system: System) -> Table:
    cells: list[list[object]] = [["", "needed", "buy", MASS_UNIT[system], currency]]
    for b in rows:
        of_roll = b.unit.endswith("of roll")
        buy = b.unit if of_roll else f"{b.units} × {b.unit}"
        bought = [buy if b.units else "nothing"]
        under = zip(([b.name, b.order_number], [b.needed, b.shelf], bought), WIDTHS, strict=False)
        cells.append([*([paragraph(x, SMALL, w) for x in lines if x] for lines, w in under),
                      mass(b.kg, system), "" if b.money is None else f"{b.money:.2f}"])
    table = Table(cells, colWidths=WIDTHS)
    table.setStyle(TableStyle([
        ("FONT", (0, 0), (-1, 0), BOLD, 8.5), ("FONT", (0, 1), (-1, -1), REGULAR, 8.5), ("ALIGN", (3, 0), (-1, -1), "RIGHT"),
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, LINE), ("VALIGN", (0, 0), (-1, -1), "TOP"), ("TOPPADDING", (0, 0), (-1, -1), 2.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2.5)]))
    return table
