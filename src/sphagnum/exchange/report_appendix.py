"""The appendix of the report, for the technical reader: rounds, budgets line by line, bands, context, working."""

from __future__ import annotations

from html import escape

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, PageBreak, Paragraph, Table, TableStyle

from ..core.job.document import JobDocument
from ..core.levels.meaning import hertz
from ..core.stages.prove.view import ProveView
from ..core.words import signed
from .report_style import BOLD, HEAD, INK, LINE, REGULAR, SMALL, TEXT, TITLE


def appendix(document: JobDocument, prove: ProveView) -> list[Flowable]:
    """Flowables that follow the customer's page."""
    story: list[Flowable] = [PageBreak(), Paragraph("For the technical reader", TITLE)]
    story += [Paragraph("Rounds", HEAD), _table(
        ["Round", "State", "Read on", "Follows", "What was changed"],
        [[r.name, r.state, r.taken_on or "–", next((o.name for o in document.rounds if o.id == r.follows_id), "–"),
          r.changed + (f" Stripped without a baseline: {r.without_baseline}" if r.without_baseline else "")]
         for r in document.rounds], (42, 22, 22, 34, 54))]
    if prove.one_change:
        story.append(Paragraph(escape(prove.one_change), TEXT))
    story += [Paragraph(escape(r.words), TEXT) for r in prove.rivals]
    if prove.fair.items:
        story += [Paragraph("Circumstances of the two rounds", HEAD), _table(
            ["Item", prove.before, prove.after, "Same"],
            [[i.item, i.before or "–", i.after or "–", {True: "yes", False: "no", None: "not noted"}[i.same]]
             for i in prove.fair.items], (40, 54, 54, 26))]
    if prove.cells:
        story += [Paragraph("Uncertainty budgets (GUM, Student’s t at the effective degrees of freedom)", HEAD), _table(
            ["Place, condition", "Source", "u, dB", "Degrees of freedom"],
            [[f"{c.position}, {c.condition}" if i == 0 else "", line.source, f"{line.standard_uncertainty_db:.2f}",
              f"{line.degrees_of_freedom:g}" if line.degrees_of_freedom else "no limit"]
             for c in prove.cells for i, line in enumerate(c.comparison.budget)], (62, 68, 18, 26))]
    if prove.drift_db is not None:
        story.append(Paragraph(f"Drift at the control place, taken off: {signed(-prove.drift_db)} dB.", TEXT))
    if prove.spectrum is not None:
        known = [(f, b, a, c) for f, b, a, c in zip(
            prove.spectrum.frequency_hz, prove.spectrum.before_db, prove.spectrum.after_db, prove.spectrum.change_db,
            strict=True) if b is not None and a is not None and c is not None]
        story += [Paragraph("Bands at the goal’s place, dB", HEAD)]
        for start in range(0, len(known), 11):
            part = known[start : start + 11]
            story.append(_table(["", *(hertz(f) for f, *_ in part)], [
                [prove.before, *(f"{b:.1f}" for _, b, _, _ in part)], [prove.after, *(f"{a:.1f}" for _, _, a, _ in part)],
                ["Change", *(signed(c) for *_, c in part)]], (28, *(13.2,) * len(part))))
        story += [Paragraph(escape(x), TEXT) for x in prove.spectrum.sayings]
    if prove.response is not None:
        story.append(Paragraph(escape(prove.response.words), TEXT))
    if prove.side_effects:
        story += [Paragraph("What must not get worse", HEAD)]
        story += [Paragraph(escape(f"{s.name}: {s.words}"), TEXT) for s in prove.side_effects]
    against = [(s.name, a.name, o.id.replace("-", " "), o.reason) for a in document.alternatives if a.chosen
               for s in document.surfaces if s.id == a.surface_id for o in a.overrides]
    if against:
        story += [Paragraph("Rules of the trade gone against, and why", HEAD), _table(
            ["Surface", "Stack", "Rule", "Reason"], [list(row) for row in against], (34, 40, 36, 64))]
    sources = sorted({f"{w.formula} ({w.source})" for w in prove.working})
    story += [Paragraph("How the figures came about", HEAD), *(Paragraph(escape(x), SMALL) for x in sources)]
    return story


def _table(head: list[str], rows: list[list[str]], widths_mm: tuple[float, ...]) -> Table:
    body = [[Paragraph(escape(cell), SMALL) for cell in row] for row in rows]
    table = Table([head, *body], colWidths=[w * mm for w in widths_mm], repeatRows=1, hAlign="LEFT")
    table.setStyle(TableStyle([
        ("FONT", (0, 0), (-1, 0), BOLD, 7.5), ("FONT", (0, 1), (-1, -1), REGULAR, 7.5), ("TEXTCOLOR", (0, 0), (-1, -1), INK),
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, LINE), ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
        ("LEFTPADDING", (0, 0), (-1, -1), 2), ("TOPPADDING", (0, 0), (-1, -1), 1.5), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
    ]))
    return table
