"""What the plan promises at the listener, and how sure that is, in words."""

from __future__ import annotations

from ...figures.outlook import Outlook
from ...levels.rows import QUANTITIES, Goal
from ...words import plain, signed


def planned_words(ahead: Outlook | None, goal: Goal | None) -> str:
    """The plan's change with its interval, and what it leaves; empty without a plan."""
    if ahead is None or goal is None:
        return ""
    low, high = ahead.change_db - ahead.within_db, ahead.change_db + ahead.within_db
    leaves = "" if ahead.level_db is None or ahead.level_within_db is None else (
        f" It leaves {plain(ahead.level_db)} {_left_unit(goal)}, {plain(ahead.level_db - ahead.level_within_db)} to "
        f"{plain(ahead.level_db + ahead.level_within_db)} with the reading's own error.")
    lean = "" if abs(ahead.lean_db) < 0.05 else (
        f" That is {plain(ahead.lean_db)} dB {'less' if ahead.lean_db > 0 else 'more'} than the sum as computed: what looks "
        "loudest and what looks best owes part of it to luck.")
    return f"The plan gives {signed(ahead.change_db)} dB, 95 %: {signed(low)} to {signed(high)}.{leaves}{lean}"


def _left_unit(goal: Goal) -> str:
    facts = QUANTITIES[goal.quantity]
    return "dB between the rooms" if facts.between_rooms else facts.unit
