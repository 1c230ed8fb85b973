"""The report as PDF: one page a customer keeps, and an appendix for the technical reader."""

from __future__ import annotations

import io
from collections.abc import Sequence
from html import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from ..core.figures.goal import GoalRule, goal_words
from ..core.job.document import JobDocument
from ..core.stages.prove.stairs import Stair
from ..core.stages.prove.view import ProveView
from ..core.words import percent, signed
from .report_appendix import appendix
from .report_style import BARK, BOLD, HEAD, HEATHER, INK, LINE, MOSS, PAPER, REGULAR, SMALL, TEXT, TITLE, WATER


class Tape(Flowable):  # type: ignore[misc]
    """The goal rule drawn as a tape."""

    def __init__(self, rule: GoalRule) -> None:
        super().__init__()
        self.rule, self.width, self.height = rule, 174 * mm, 20.5 * mm

    def draw(self) -> None:
        """Draw the tape with a mark per known value."""
        rule, c = self.rule, self.canv
        c.setFillColor(PAPER)
        c.rect(0, 0, self.width, 6 * mm, stroke=0, fill=1)

        def at(value: float) -> float:
            return float((value - rule.low) / (rule.high - rule.low) * self.width)

        c.setFont(REGULAR, 7)
        step = 5 if rule.high - rule.low <= 40 else 10
        first = int(rule.low // step * step)
        for tick in range(first, int(rule.high) + 1, step):
            if rule.low <= tick <= rule.high:
                c.setFillColor(BARK)
                c.drawCentredString(at(tick), 1.5 * mm, f"{tick} {rule.unit}")
        within = rule.predicted_within or 0.0
        if rule.predicted is not None and within:  # where what is promised will lie, 95 in 100
            c.setFillColor(HEATHER)
            c.rect(at(rule.predicted - within), 5.2 * mm, at(2 * within + rule.low), 0.8 * mm, stroke=0, fill=1)
        sure = f" ± {within:.1f}" if within else ""
        marks = [(name, value, colour) for name, value, colour in (
            ("target", rule.target, MOSS), ("predicted", rule.predicted, HEATHER), ("as found", rule.as_found, INK),
            ("measured", rule.measured, WATER)) if value is not None]
        texts = [f"{name} {value:.1f}{sure if name == 'predicted' else ''}" for name, value, _ in marks]
        spans = label_spans([at(value) for _, value, _ in marks], [stringWidth(t, BOLD, 8) for t in texts], self.width)
        c.setFont(BOLD, 8)
        for (_, value, colour), text, (left, row) in zip(marks, texts, spans, strict=True):
            up = (7.5 + 3.2 * row) * mm
            c.setFillColor(colour)
            c.rect(at(value) - 0.4 * mm, 3.5 * mm, 0.8 * mm, up - 2 * mm, stroke=0, fill=1)
            c.drawString(left, up, text)


def label_spans(at: Sequence[float], widths: Sequence[float], room: float) -> list[tuple[float, int]]:
    """Where the label of each mark begins and in which row it stands, 0 the lowest, so that none covers another or leaves the
    tape; same unit all."""
    rows: list[list[tuple[float, float]]] = []
    out: dict[int, tuple[float, int]] = {}
    for i in sorted(range(len(at)), key=lambda k: at[k]):
        left = at[i] + GAP if at[i] + GAP + widths[i] <= room else at[i] - GAP - widths[i]
        row = next((r for r, taken in enumerate(rows) if all(left > b or left + widths[i] < a for a, b in taken)), len(rows))
        rows += [[]] if row == len(rows) else []
        rows[row].append((left - GAP, left + widths[i] + GAP))
        out[i] = left, row
    return [out[i] for i in range(len(at))]


GAP = 2 * mm
"""Between a mark and its label, and between labels."""


def report(document: JobDocument, prove: ProveView, rule: GoalRule | None, made_on: str) -> bytes:
    """A page with headline, goal rule, every place and whether it was fair; then the appendix. Returns PDF bytes."""
    job, out = document.job, io.BytesIO()
    pdf = SimpleDocTemplate(out, pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=16 * mm,
                            bottomMargin=14 * mm, title=f"{job.name}: result", author=job.workshop or "Sphagnum")
    story: list[Flowable] = [
        Paragraph(escape(" · ".join(x for x in (job.name, job.customer) if x)), SMALL),
        Paragraph(escape(prove.sentence), TITLE),
        Spacer(1, 2 * mm),
        Paragraph(escape(prove.detail), TEXT),
    ]
    if rule is not None:
        story += [Paragraph("Goal", HEAD), Paragraph(escape(_capital(goal_words(document))), TEXT), Spacer(1, 3 * mm),
                  Tape(rule)]
    if prove.cells:
        story += [Paragraph(escape(f"{prove.before} against {_low(prove.after)}"), HEAD), _places(prove)]
    if prove.stairs:
        steps = [f"{s.name} {s.level_db:.1f} {prove.unit}" + _step(s)
                 for s in prove.stairs]
        story += [Paragraph("Round by round, at the goal's place", HEAD), Paragraph(escape("; ".join(steps)) + ".", TEXT)]
    cautions = list(dict.fromkeys(c.text for cell in prove.cells for c in cell.comparison.cautions))
    story += [Paragraph("Was it a fair comparison?", HEAD), Paragraph(escape(prove.fair.words or "Not known."), TEXT)]
    story += [Paragraph(escape(text), SMALL) for text in cautions]
    if prove.next_step:
        story += [Paragraph("What next", HEAD), Paragraph(escape(prove.next_step), TEXT)]
    if prove.loudest_now:
        loud = "; ".join(f"{p.name} {percent(p.share)}" for p in prove.loudest_now)
        story += [Paragraph("Loudest now, as predicted", HEAD), Paragraph(escape(loud) + ".", TEXT)]
    if prove.remarks:
        story.append(Paragraph("What was heard", HEAD))
        story += [Paragraph(escape(f"{name}, {role}: “{words[:300]}”"), TEXT) for name, role, words in prove.remarks[:6]]
    story += [Spacer(1, 4 * mm), Paragraph(escape(
        f"{job.workshop + ', ' if job.workshop else ''}{made_on}. Levels are energy means; intervals hold 95 % (GUM). "
        "About 10 dB is heard as half as loud."), SMALL)]
    pdf.build([*story, *appendix(document, prove)])
    return out.getvalue()


def _step(stair: Stair) -> str:
    """The change of a round against the one it follows, in brackets."""
    if stair.change_db is None:
        return ""
    return f" ({signed(stair.change_db)})" if stair.comparable else " (not comparable)"


def _places(prove: ProveView) -> Table:
    head = ["Place", "Condition", "Before", "After", "Change", "95 % interval", "Verdict"]
    rows = [[Paragraph(escape(c.position), TEXT), Paragraph(escape(c.condition), TEXT),
             f"{c.comparison.before_db:.1f}", f"{c.comparison.after_db:.1f}",
             f"{signed(-c.comparison.reduction_db)} dB",
             f"{signed(-c.comparison.interval95_db[1])} to {signed(-c.comparison.interval95_db[0])} dB",
             c.verdict] for c in [c for c in prove.cells if not c.control][:14]]
    head[2:4] = [f"{head[2]}, {prove.unit}", f"{head[3]}, {prove.unit}"]
    table = Table([head, *rows], colWidths=[w * mm for w in (30, 31, 23, 21, 17, 27, 25)], repeatRows=1)
    table.setStyle(TableStyle([
        ("FONT", (0, 0), (-1, 0), BOLD, 7.5), ("FONT", (0, 1), (-1, -1), REGULAR, 8.5),
        ("TEXTCOLOR", (0, 0), (-1, -1), INK), ("LINEBELOW", (0, 0), (-1, -1), 0.4, LINE),
        ("VALIGN", (0, 0), (-1, -1), "MIDDLE"), ("LEFTPADDING", (0, 0), (-1, -1), 2),
    ]))
    return table


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _low(text: str) -> str:
    return text[:1].lower() + text[1:]
