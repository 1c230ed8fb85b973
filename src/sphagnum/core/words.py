"""Figures and lists in plain words, for the sentence at the top of a stage."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal


def plain(value: float, digits: int = 1) -> str:
    """The size of a figure; a half is rounded away from nothing, as the browser rounds it: two screens say the same figure."""
    return f"{Decimal(abs(value)).quantize(Decimal(1).scaleb(-digits), ROUND_HALF_UP)}"


def signed(value: float, digits: int = 1) -> str:
    """A change with its sign; a real minus, never '−0.0'."""
    text = plain(value, digits)
    return text if float(text) == 0 else ("−" if value < 0 else "+") + text


def percent(share: float) -> str:
    """A share as '62 %'."""
    return f"{100 * share:.0f} %"


def listed(names: Sequence[str]) -> str:
    """'a', 'a and b', 'a, b and c'."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}" if names else ""


def in_a_row(names: Sequence[str]) -> str:
    """Names as the start of a sentence: the first one large, the others small."""
    small = [f"{n[0].lower()}{n[1:]}" for n in names]
    text = listed(small)
    return text[:1].upper() + text[1:]


def plural(count: int, one: str, many: str = "") -> str:
    """'1 sheet', '3 sheets'."""
    return f"{count} {one if count == 1 else many or one + 's'}"
