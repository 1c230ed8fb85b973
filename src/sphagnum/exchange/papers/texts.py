"""Texts of papers made ready for a line: right-to-left scripts shaped and put in the order they are printed in."""

from __future__ import annotations

import unicodedata
from html import escape

import arabic_reshaper  # type: ignore[import-untyped]
from bidi import get_display  # type: ignore[import-untyped]

from .fonts import fitted, width_mm

RIGHT_TO_LEFT = {"R", "AL", "AN"}


def runs_left(text: str) -> bool:
    """Whether a text has signs that are written from right to left."""
    return any(unicodedata.bidirectional(sign) in RIGHT_TO_LEFT for sign in text)


def shown(text: str) -> str:
    """A line as it is printed from left to right."""
    return str(get_display(arabic_reshaper.reshape(text))) if runs_left(text) else text


def lines_of(text: str, width: float, size: float, bold: bool = False) -> list[str]:
    """A text that runs from right to left in lines no wider than so many mm, each as it is printed."""
    lines, line = [], ""
    for word in text.split():
        longer = f"{line} {word}".strip()
        if line and width_mm(shown(longer), size, bold) > width:
            lines.append(line)
            longer = word
        line = longer
    return [shown(x) for x in (*lines, line)]


def marked_up(text: str, font: str, size: float, width: float, bold: bool = False) -> str:
    """A text as a paragraph wants it: escaped, every run in a font that has its signs, lines from right to left broken here."""
    lines = lines_of(text, width, size, bold) if runs_left(text) else [text]
    return "<br/>".join(
        "".join(
            escape(run) if name == font else f'<font name="{name}">{escape(run)}</font>' for name, run, _ in fitted(x, font, size)
        )
        for x in lines
    )
