"""A document as PDF: A4, bookmarks, language and title, pages counted, headings never alone at a foot."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from PIL import Image as Picture
from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm as MM
from reportlab.platypus import (
    CondPageBreak,
    Flowable,
    Image,
    KeepTogether,
    PageBreak,
    Paragraph,
    Spacer,
    Table,
    TableStyle,
)

from ...core.papers import blocks as b
from ..report_style import BOLD, HEAD, INK, LINE, MOSS, SMALL, TEXT, TITLE, printing
from . import charts
from .drawing import Drawn
from .frame import WIDE, paragraph, printed
from .kept import Photograph

LEAD = TEXT.clone("lead", fontName=BOLD, fontSize=12, leading=16)
HEADING = HEAD.clone("heading", fontSize=13, leading=17, spaceBefore=12, spaceAfter=3, keepWithNext=1)
CAPTION = HEAD.clone("caption", fontSize=9.5, leading=12.5, spaceBefore=5, spaceAfter=2, keepWithNext=1)
POINT = TEXT.clone("point", leftIndent=4 * MM, bulletIndent=0.5 * MM)
WEIGHTS = {"lead": LEAD, "plain": TEXT, "small": SMALL, "point": POINT}
MOST_MM = 200.0
"""No section waits for more room than that."""


@printing
def pdf(paper: b.Paper, photograph: Photograph, language: str = "en") -> bytes:
    """A document's pages. What no font here can print is named at its end."""
    story = _head(paper, photograph)
    for number, section in enumerate(paper.sections):
        story += _section(section, photograph, number)
    return printed(paper.title, paper.foot, story, paper, language, paper.foot[:120] or "Sphagnum")


MARK_W, MARK_H = 42 * MM, 16 * MM


def _head(paper: b.Paper, photograph: Photograph) -> list[Flowable]:
    """Whose it is, of when, and its title; the workshop's mark beside them."""
    mark = photograph(paper.mark) if paper.mark else None
    wide = WIDE - (MARK_W + 4 * MM if mark else 0)
    words = [paragraph(paper.sub, SMALL, wide), paragraph(paper.title, TITLE, wide)]
    if mark is None:
        return [*words, Spacer(1, 1.5 * MM)]
    style = TableStyle([
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("ALIGN", (1, 0), (1, 0), "RIGHT"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
        ("RIGHTPADDING", (0, 0), (-1, -1), 0), ("TOPPADDING", (0, 0), (-1, -1), 0)])
    return [Table([[words, _fitted(mark, MARK_W, MARK_H)]], colWidths=[wide + 4 * MM, MARK_W], style=style), Spacer(1, 1.5 * MM)]


class _Bookmark(Flowable):  # type: ignore[misc]
    """A place the reader's outline leads to."""

    def __init__(self, key: str, title: str) -> None:
        super().__init__()
        self.key, self.title, self.width, self.height = key, title, 0, 0
        self.keepWithNext = 1

    def draw(self) -> None:
        """Set it."""
        self.canv.bookmarkPage(self.key)
        self.canv.addOutlineEntry(self.title[:120], self.key, 0)


def _section(section: b.PaperSection, photograph: Photograph, number: int) -> list[Flowable]:
    blocks = [f for group in _grouped(section.blocks) for f in _printed(group, photograph)]
    if not blocks:
        return []
    head: list[Flowable] = [_Bookmark(f"section{number}", section.title), paragraph(section.title, HEADING)]
    begin = PageBreak() if section.page else CondPageBreak(min(_needs(head) + _needs(blocks[:1]), MOST_MM * MM))
    return [begin, *head, *blocks]


def _needs(flowables: Sequence[Flowable]) -> float:
    """How much room they want on one page: of a table its head and two rows."""
    tall = 0.0
    for f in flowables:
        if isinstance(f, KeepTogether):
            tall += _needs(f._content)
        elif isinstance(f, Table):
            tall += min(f.wrap(WIDE, 1e6)[1], 60 * MM)
        else:
            tall += f.getSpaceBefore() + f.wrap(WIDE, 1e6)[1] + f.getSpaceAfter()
    return tall


IN_A_ROW = 3
SMALL_PICTURES = (b.SurfaceBlock, b.SectionBlock)


def _grouped(blocks: Sequence[b.Block]) -> list[list[b.Block]]:
    """Small pictures that follow each other as rows, all else on its own."""
    out: list[list[b.Block]] = []
    for block in blocks:
        last = out[-1] if out else []
        if last and isinstance(block, SMALL_PICTURES) and isinstance(last[-1], SMALL_PICTURES) and len(last) < IN_A_ROW:
            last.append(block)
        else:
            out.append([block])
    return out


def _printed(blocks: Sequence[b.Block], photograph: Photograph) -> list[Flowable]:
    """A group of blocks: small pictures beside each other, each under its title; any other block on its own."""
    if not isinstance(blocks[0], SMALL_PICTURES):
        return _block(blocks[0], photograph)
    wide = WIDE / IN_A_ROW
    seen = [x for block in blocks if (x := charts.picture(block, wide / MM - 5.0)) is not None]
    cells: list[Any] = [[paragraph(x.title, CAPTION, wide - 5 * MM), Drawn(x.drawing)] for x in seen]
    row = Table([[*cells, *[""] * (IN_A_ROW - len(cells))]], colWidths=[wide] * IN_A_ROW, hAlign="LEFT", style=TableStyle([
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0), ("RIGHTPADDING", (0, 0), (-1, -1), 0)]))
    return [KeepTogether([row]), Spacer(1, 2 * MM)]


def _block(block: b.Block, photograph: Photograph) -> list[Flowable]:
    if (seen := charts.picture(block)) is not None:
        under = [paragraph(x, TEXT) for x in seen.under]
        return _titled(seen.title, [Spacer(1, 1.5 * MM), Drawn(seen.drawing), Spacer(1, 1.5 * MM), *under, Spacer(1, 1.5 * MM)])
    match block:
        case b.Sentence():
            return [paragraph(block.text, WEIGHTS[block.weight]), Spacer(1, 1.2 * MM)] if block.text else []
        case b.TableBlock():
            return _titled(block.title, [_table(block), Spacer(1, 2.5 * MM)], together=len(block.rows) <= 12)
        case b.SoundBlock():
            return [paragraph(f"{block.title}: to be heard in the page for a browser.", SMALL), Spacer(1, 1 * MM)]
        case b.PhotographsBlock():
            return _photographs(block, photograph)
        case _:
            return []


def _titled(title: str, below: list[Flowable], together: bool = True) -> list[Flowable]:
    if not title:
        return [KeepTogether(below)] if together else below
    head = paragraph(title, CAPTION)
    return [KeepTogether([head, *below])] if together else [head, *below]


def _table(block: b.TableBlock) -> Table:
    count = len(block.head)
    shares = block.shares or (1.0,) * count
    widths = [WIDE * s / sum(shares) for s in shares]
    right = ParagraphStyle("right", parent=TEXT, alignment=2, fontSize=8.5, leading=11)
    left = ParagraphStyle("left", parent=TEXT, fontSize=8.5, leading=11)
    strong = {False: left.clone("strong", fontName=BOLD), True: right.clone("strong right", fontName=BOLD)}

    def cell(text: str, column: int, bold: bool) -> Paragraph:
        style = strong[column in block.right] if bold else right if column in block.right else left
        return paragraph(text, style, widths[column] - 4)

    rows = [[cell(t, k, True) for k, t in enumerate(block.head)]]
    rows += [[cell(t, k, block.last_is_sum and row is block.rows[-1]) for k, t in enumerate(row)] for row in block.rows]
    table = Table(rows, colWidths=widths, repeatRows=1, hAlign="LEFT", splitInRow=1)
    style = [
        ("LINEBELOW", (0, 0), (-1, 0), 0.8, INK),
        ("LINEBELOW", (0, 1), (-1, -1), 0.3, LINE),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2),
        ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2.5),
    ]
    if block.last_is_sum:
        style += [("LINEABOVE", (0, -1), (-1, -1), 0.8, MOSS), ("BACKGROUND", (0, -1), (-1, -1), HexColor("#f4f0e2"))]
    table.setStyle(TableStyle(style))
    return table


def _photographs(block: b.PhotographsBlock, photograph: Photograph) -> list[Flowable]:
    """Two beside each other, each with its caption under it."""
    each = WIDE / 2 - 2 * MM
    shown = [(p, data) for p in block.pictures if (data := photograph(p.file)) is not None]
    cells = [[_fitted(data, each, 58 * MM), paragraph(p.caption, SMALL, each)] for p, data in shown]
    rows = [
        KeepTogether(
            [
                Table(
                    [[*cells[i : i + 2], *([""] * (2 - len(cells[i : i + 2])))]],
                    colWidths=[WIDE / 2] * 2,
                    style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]),
                )
            ]
        )
        for i in range(0, len(cells), 2)
    ]
    return ([paragraph(block.title, CAPTION)] if block.title and rows else []) + rows


def _fitted(data: bytes, width: float, tall: float) -> Image:
    with Picture.open(io.BytesIO(data)) as picture:
        scale = min(width / picture.width, tall / picture.height)
        size = picture.width * scale, picture.height * scale
    return Image(io.BytesIO(data), *size, hAlign="LEFT")
