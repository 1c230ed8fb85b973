"""When finished work is looked at again: rules by material and place, shipped as data."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date, timedelta

from ..schema import Strict


class Look(Strict):
    """One rule: layers it is for (by material, family or how they are held; none named: any), on surfaces with one of its flags
    (none named: any), and when: so many days after, or on the first of a month."""

    id: str
    what: str
    materials: tuple[str, ...] = ()
    families: tuple[str, ...] = ()
    holds: tuple[str, ...] = ()
    flags: tuple[str, ...] = ()
    days: int | None = None
    month: int | None = None

    def fits(self, material: str, family: str, held: str, flags: Collection[str]) -> bool:
        """Whether it is about a layer where that lies."""
        named = self.materials or self.families or self.holds
        mine = material in self.materials or family in self.families or any(held.startswith(h) for h in self.holds)
        return (mine or not named) and (not self.flags or any(f in flags for f in self.flags))

    def due(self, done: date) -> date:
        """The day, for work done on a day.

        >>> Look(id="x", what="", month=4).due(date(2026, 11, 29))
        datetime.date(2027, 4, 1)
        """
        if self.month is None:
            return done + timedelta(days=self.days or 0)
        this = date(done.year, self.month, 1)
        return this if this > done else date(done.year + 1, self.month, 1)


class LookAgain(Strict):
    """A day to look again: when (ISO 8601), and at what."""

    due_on: str
    what: str
