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


PAIRS = ("()", "[]", "{}", "⟨⟩", "⟪⟫", "⦅⦆", "⦋⦌", "⦑⦒", "⦓⦔", "⦗⦘", "「」", "『』", "【】",
         "〔〕", "〖〗", "〘〙", "〚〛", "⁅⁆", "⟦⟧", "⟬⟭")
"""Brackets of which each kind stands for one pair of a line while it is put in order: the order keeps pairs, not their looks."""


def shown(text: str) -> str:
    """A line as it is printed from left to right: brackets close what they opened, and what is said around a name keeps its own
    direction (only a line of four in five letters from right to left is read from the right)."""
    if not runs_left(text):
        return text
    marked, pairs = _with_own_brackets(arabic_reshaper.reshape(text))
    kinds = [unicodedata.bidirectional(sign) for sign in marked]
    to_left = sum(k in RIGHT_TO_LEFT for k in kinds) > 4 * kinds.count("L")
    line = str(get_display(marked, base_dir="R" if to_left else "L"))
    for own, was in pairs:
        turned = line.index(own[1]) < line.index(own[0])
        line = line.translate(str.maketrans(own, was[::-1] if turned else was))
    return line


def _with_own_brackets(text: str) -> tuple[str, list[tuple[str, str]]]:
    """A line in which every pair of brackets is of another kind, and what each kind was."""
    signs, pairs, opened = list(text), list[tuple[str, str]](), list[int]()
    free = [p for p in PAIRS if not set(p) & set(text)]
    for at, sign in enumerate(text):
        if sign in "([{":
            opened.append(at)
        elif opened and free and text[opened[-1]] + sign in PAIRS:
            own, begin = free.pop(), opened.pop()
            pairs.append((own, text[begin] + sign))
            signs[begin], signs[at] = own[0], own[1]
    return "".join(signs), pairs


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
