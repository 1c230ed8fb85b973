"""What could make two rounds differ, compared item by item, and what each difference could be worth."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from datetime import date
from typing import Literal

from ..schema import Strict
from ..words import listed, plural

Fairness = Literal["like for like", "with caution", "not comparable"]
LONG_APART_DAYS = 45
_NUMBER = re.compile(r"[+\-−]?\d+(?:[.,]\d+)?")


class ContextItem(Strict):
    """One item to note with a round; ``worth`` says what a change of it could be worth."""

    item: str
    kinds: tuple[str, ...]
    weight: Literal["forbids", "caution"]
    within: float = 0.0
    law: str = ""
    worth: str = ""


class FairItem(Strict):
    """One item in both rounds; ``same`` None where either is unknown, ``worth_db`` where a law gives it."""

    item: str
    before: str
    after: str
    same: bool | None
    weight: Literal["forbids", "caution"]
    worth: str
    worth_db: float | None


class FairView(Strict):
    """Whether two rounds may be compared, and why."""

    fairness: Fairness | None
    words: str
    items: tuple[FairItem, ...]


def _first_number(text: str) -> float | None:
    found = _NUMBER.search(text)
    return float(found[0].replace(",", ".").replace("−", "-")) if found else None


def _speed(before: float, after: float) -> float | None:
    """Tyre and road noise of a car rises by about 35·lg of the speed (between 30 and 40 in the literature; recalled)."""
    return 35 * math.log10(after / before) if before > 0 and after > 0 else None


def _tyre_temperature(before: float, after: float) -> float | None:
    """About −0.1 dB per kelvin for car tyres on dense asphalt (ISO/TS 13471-1, recalled)."""
    return -0.1 * (after - before)


LAWS: dict[str, Callable[[float, float], float | None]] = {"speed": _speed, "tyre temperature": _tyre_temperature}


def same(item: ContextItem, before: str, after: str) -> bool:
    """Whether two notes mean the same: the same words, or numbers that differ by no more than the item allows."""
    a, b = " ".join(before.lower().split()), " ".join(after.lower().split())
    if a == b:
        return True
    x, y = _first_number(a), _first_number(b)
    if x is None or y is None or not item.within:
        return False
    rest = [_NUMBER.sub("", t, count=1).strip() for t in (a, b)]
    return rest[0] == rest[1] and abs(x - y) <= item.within + 1e-9


def compare_context(
    items: tuple[ContextItem, ...], before: Mapping[str, str], after: Mapping[str, str], days: tuple[str, str] = ("", ""),
) -> FairView:
    """Two rounds' contexts item by item, and the verdict on them. ``days``: when they were read, ISO dates or ''."""
    out = []
    for item in items:
        a, b = before.get(item.item, "").strip(), after.get(item.item, "").strip()
        known = bool(a and b)
        equal = same(item, a, b) if known else None
        x, y = _first_number(a), _first_number(b)
        law = LAWS.get(item.law)
        worth_db = law(x, y) if law and equal is False and x is not None and y is not None else None
        out.append(FairItem(item=item.item, before=a, after=b, same=equal, weight=item.weight, worth=item.worth,
                            worth_db=None if worth_db is None else round(worth_db, 1) + 0.0))
    differ = [i for i in out if i.same is False]
    unknown = [i for i in out if i.same is None]
    apart = _days_apart(*days)
    if not out:
        return FairView(fairness=None, words="", items=())
    forbidden = [i.item for i in differ if i.weight == "forbids"]
    if forbidden:
        return FairView(fairness="not comparable", items=tuple(out),
                        words=f"Not comparable: {listed(forbidden)} changed.")
    long = apart is not None and apart > LONG_APART_DAYS
    if not differ and not unknown and not long:
        return FairView(fairness="like for like", words="Like for like.", items=tuple(out))
    parts = [f"{listed([i.item for i in differ])} changed"] if differ else []
    if unknown:
        parts.append(f"{plural(len(unknown), 'item')} not noted")
    if long:
        parts.append(f"{apart} days apart")
    return FairView(fairness="with caution", words=f"With caution: {'; '.join(parts)}.", items=tuple(out))


def _days_apart(first: str, second: str) -> int | None:
    if not first or not second:
        return None
    try:
        return abs((date.fromisoformat(second) - date.fromisoformat(first)).days)
    except ValueError:
        return None


def things_changed(text: str) -> tuple[str, ...]:
    """The things a round changed, as written: parted by commas, semicolons, line ends, '+' or 'and'."""
    return tuple(p.strip() for p in re.split(r"[,;\n+]|\band\b", text) if p.strip())
