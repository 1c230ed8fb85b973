"""Kinds of fixings: what undoes each, what is easily forgotten when it goes back, and what stays behind."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ..surfaces.geometry import Edge
from ..words import plural
from .rows import Fixing, FixingKept


class Kind(NamedTuple):
    """What undoes a fixing ("{}": with its size), and what to look for."""

    tool: str
    many: str
    mind: str = ""


KINDS: dict[str, Kind] = {
    "six-lobe screw": Kind("six-lobe driver {}", "six-lobe screws", "hidden ones sit under caps and in handles"),
    "hexagon nut": Kind("socket {}", "hexagon nuts"),
    "push rivet": Kind("trim lever", "push rivets", "push the pin out first; it goes in last"),
    "clip": Kind("trim lever", "clips", "one that stays in the panel goes back on the trim first"),
    "staple": Kind("staple puller", "staples"),
    "connector": Kind("flat lever", "connectors", "unplug before the trim comes away, plug in before it goes back"),
    "cable pull": Kind("pliers", "cable pulls", "it hangs on the trim: unhook before it comes away"),
    "bonded bead": Kind("cutting wire", "bonded beads", "cut, and laid anew with the maker's adhesive"),
    "other": Kind("", "other fixings")}


def mirrored_fixings(fixings: Sequence[FixingKept], outline_mm: Edge) -> tuple[FixingKept, ...]:
    """Fixings as they sit on the other side of a panel of that outline."""
    xs = [x for x, _ in outline_mm]
    both_mm = min(xs) + max(xs)
    return tuple(f if f.x_mm is None else f.model_copy(update={"x_mm": max(0.0, both_mm - f.x_mm)}) for f in fixings)


def kept(fixing: Fixing) -> FixingKept:
    """A fixing as the next panel alike has it."""
    return FixingKept(**{name: getattr(fixing, name) for name in FixingKept.model_fields})


def driver_of(fixing: Fixing) -> str:
    """The tool that undoes a fixing; empty where nobody can know."""
    tool = KINDS[fixing.kind].tool
    return tool.format(fixing.size).strip() if "{}" in tool else tool


def counted(fixing: Fixing) -> str:
    """'4 six-lobe screws T20'."""
    return f"{plural(fixing.count, fixing.kind, KINDS[fixing.kind].many)} {fixing.size}".strip()


def told(fixing: Fixing) -> str:
    """'4 six-lobe screws T20 (handle, bag B3)'."""
    what = counted(fixing)
    where = ", ".join(x for x in (fixing.place, f"bag {fixing.bag}" if fixing.bag else "") if x)
    return f"{what} ({where})" if where else what


def missing(fixings: Sequence[Fixing]) -> list[str]:
    """What is not back yet, a line each."""
    return [f"{f.count - f.back} of {told(f)}" for f in fixings if f.back < f.count]
