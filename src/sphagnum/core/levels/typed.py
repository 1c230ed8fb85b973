"""Levels as people type or dictate them: '74,8', '73.9..75.8', 'between 62 and 66', several at once."""

from __future__ import annotations

import re
from typing import NamedTuple

from ..errors import BadInput

_N = r"([+\-−]?\d+(?:[.,]\d+)?)"
_RANGE = re.compile(rf"^(?:between|from)?\s*{_N}\s*(?:\.\.\.?|–|—|to|and|(?<=\d)\s*-\s*)\s*{_N}$", re.IGNORECASE)
_SINGLE = re.compile(rf"^{_N}$")
_UNIT = re.compile(r"(?i)\s*db\s*(\([acz]\)|[acz])?")
LOW_DB, HIGH_DB = -50.0, 200.0


class Entry(NamedTuple):
    """One typed reading: a level, or a range."""

    level_db: float | None
    low_db: float | None
    high_db: float | None
    resolution_db: float = 0.1


def last_digit(text: str) -> float:
    """What one step of the last digit of a typed level is worth, dB: 0.1 for '74.8', 1 for '74'."""
    decimals = re.split(r"[.,]", text.strip())[1:]
    return 10.0 ** -min(len(decimals[0]) if decimals else 0, 3)


def read_entries(text: str) -> list[Entry]:
    """The readings in a text, parted by ';', line ends or spaces. Raises BadInput for what is no level."""
    cleaned = _UNIT.sub("", text.strip())
    if not cleaned:
        raise BadInput("no level was typed", "level", "type 74.8, or 73.9..75.8")
    parts = [p for p in re.split(r"[;\n]+", cleaned) if p.strip()]
    if len(parts) == 1 and not _RANGE.match(parts[0].strip()) and " " in parts[0].strip():
        parts = parts[0].split()
    return [_entry(p.strip()) for p in parts]


def _entry(text: str) -> Entry:
    found = _RANGE.match(text)
    if found:
        low, high = sorted((_level(found[1]), _level(found[2])))
        return Entry(None, low, high, min(last_digit(found[1]), last_digit(found[2])))
    if not _SINGLE.match(text):
        raise BadInput(f"'{text[:40]}' is not a level", "level", "type 74.8, or a range such as 73.9..75.8")
    return Entry(_level(text), None, None, last_digit(text))


def _level(text: str) -> float:
    value = float(text.replace(",", ".").replace("−", "-"))
    if not LOW_DB <= value <= HIGH_DB:
        raise BadInput(f"{value:g} dB is out of range", "level", f"levels lie within {LOW_DB:g} to {HIGH_DB:g} dB")
    return value
