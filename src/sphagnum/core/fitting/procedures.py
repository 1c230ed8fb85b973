"""How materials go on: tools, what is done in which order, how warm it must be; shipped as data."""

from __future__ import annotations

from collections.abc import Collection

from ..schema import Strict

Lines = tuple[str, ...]


class Procedure(Strict):
    """How one kind of material goes on. ``holds``: beginnings of how it is held; ``acts``: what it does in a stack; empty: any
    of them."""

    id: str
    holds: Lines = ()
    acts: Lines = ()
    verb: str = "Lay {what} on the {place}"
    """How it is told, in the imperative."""
    tools: Lines = ()
    how: Lines = ()
    hazards: Lines = ()
    wants_c: float | None = None
    """Panel and product at least so warm, °C."""
    two_part: bool = False
    then_work: str = "lay no more of it"
    then_tack: str = "press together now"
    then_cure: str = "go on with it"


class Also(Strict):
    """What is minded besides, where a place or a material is so, of what acts so; ``acts`` empty: of anything."""

    when: str
    acts: Lines = ()
    how: Lines


class Procedures(Strict):
    """All there are, in the order they are tried."""

    procedures: tuple[Procedure, ...]
    also: tuple[Also, ...]

    def of(self, held: str, acts: str) -> Procedure:
        """The first that fits how something is held and what it does."""
        return next(p for p in self.procedures
                    if (not p.holds or any(held.startswith(h) for h in p.holds)) and (not p.acts or acts in p.acts))

    def minded(self, ways: Collection[str], acts: str) -> Lines:
        """What is minded besides, of all that is so."""
        return tuple(line for a in self.also if a.when in ways and (not a.acts or acts in a.acts) for line in a.how)
