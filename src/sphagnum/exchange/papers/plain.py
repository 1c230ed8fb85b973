"""A document as CSV and as plain text for a mail; cells that could be taken for a formula are guarded."""

from __future__ import annotations

import csv
import io
import re

from ...core.levels.meaning import hertz
from ...core.papers.blocks import (
    BandsBlock,
    Block,
    Paper,
    PathsBlock,
    PhotographsBlock,
    RuleBlock,
    Sentence,
    StairsBlock,
    TableBlock,
)
from ...core.words import percent, signed

NUMBER = re.compile(r"[-+−]?\d+([.,]\d+)?\Z")
FORMULA = ("=", "+", "-", "@", "\t", "\r")


def guarded(cell: str) -> str:
    """A cell no program takes for a formula; a number stays one, with a plain minus."""
    plain = cell.replace("−", "-")
    if NUMBER.match(plain):
        return plain
    return f"'{cell}" if cell.startswith(FORMULA) else cell


def comma_separated(paper: Paper, decimal_comma: bool = False) -> bytes:
    """A document as rows: section, then what stands there; with decimal commas cells are parted by semicolons."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=";" if decimal_comma else ",", lineterminator="\r\n")
    for section in paper.sections:
        for row in (r for b in section.blocks for r in _rows(b)):
            cells = [guarded(c) for c in (section.title, *row)]
            writer.writerow([c.replace(".", ",") if decimal_comma and NUMBER.match(c) else c for c in cells])
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def as_text(paper: Paper) -> str:
    """A document in plain words, to be put into a mail."""
    out = [paper.title, paper.sub, ""]
    for section in paper.sections:
        if section.blocks:
            out += [section.title.upper(), ""]
            out += [
                ": ".join(x for x in (row[0], ", ".join(x for x in row[1:] if x)) if x)
                for b in section.blocks
                for row in _rows(b)
            ]
            out.append("")
    return "\n".join([*out, paper.foot]).strip() + "\n"


def _rows(block: Block) -> list[tuple[str, ...]]:
    match block:
        case Sentence():
            return [(("· " if block.weight == "point" else "") + block.text,)] if block.text else []
        case TableBlock():
            return [block.head, *block.rows]
        case RuleBlock():
            return [(m.name, f"{m.value:.1f}", block.unit, f"± {m.within:.1f}" if m.within else "") for m in block.marks]
        case StairsBlock():
            return [(s.name, f"{s.level:.1f}", block.unit, "" if s.change is None else signed(s.change)) for s in block.steps]
        case PathsBlock():
            return [
                (p.name, "" if p.now is None else f"{p.now:.1f}", "" if p.then is None else f"{p.then:.1f}", percent(p.share))
                for p in block.paths
            ]
        case BandsBlock():
            return [
                ("Band", block.before, block.after, "change"),
                *(
                    (hertz(f), *("" if v is None else f"{v:.1f}" for v in (b, a)), "" if c is None else signed(c))
                    for f, b, a, c in zip(block.frequency_hz, block.before_db, block.after_db, block.change_db, strict=True)
                ),
            ]
        case PhotographsBlock():
            return [(p.caption or "photograph",) for p in block.pictures]
        case _:
            return [(block.title,)]
