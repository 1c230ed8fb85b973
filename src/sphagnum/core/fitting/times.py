"""Phases of the work, the part of the day each belongs to, house minutes, and which hazard belongs to what."""

from __future__ import annotations

from typing import Literal

Part = Literal["access", "prepare", "apply", "fixings", "check", "around"]
PHASES: dict[str, Part] = {
    "at the source": "apply", "strip": "access", "log fixings": "fixings", "clean": "prepare", "cure rattles": "apply",
    "dry-fit": "prepare", "apply": "apply", "seal": "apply",
    "build": "apply", "cover": "apply", "hang": "apply", "check function": "check", "own": "apply", "refit": "access",
    "tidy": "around", "read again": "check"}
"""Phases as they follow at one place, and the part each is counted under."""

MINUTES = {"strip": 8.0, "log fixings": 3.0, "clean": 10.0, "cure rattles": 6.0, "dry-fit": 6.0,
           "check function": 5.0, "refit": 10.0, "read again": 20.0, "at the source": 30.0, "seal a leak": 10.0,
           "a piece": 1.0, "a metre of seam": 0.5, "a fixing": 0.25,
           "curved": 15.0, "overhead": 20.0, "through an opening": 20.0, "around": 5.0}
"""House figures, open to the workshop: minutes per square metre (strip, clean, dry-fit, refit), per surface (log, check), per
piece of work; the last four per hour of other work."""

FLAG_HAZARD = {"hot": "hot"}
ZONE_HAZARD = {"airbag seam": "airbag", "hot part": "hot", "moving part": "moving", "module": "battery"}
KIND_HAZARD = {"enclosure": "machine-heat", "room": "old-building"}


DEGREASED = frozenset({"steel", "aluminium", "stainless", "galvanised", "glass-fibre", "plastic-trim", "window-glass", "acrylic"})
"""Panels that are wiped with cleaner; masonry, boards and wood are brushed, for they drink it."""
CHECKS = {"drain": "drains run, tried with water", "vent": "vents breathe", "moving part": "moving parts travel freely",
          "module": "modules and warning lights work", "sealing face": "seals close all round",
          "fixing": "every fixing hole is open", "cable run": "cables lie free", "airbag seam": "the tear seam is free",
          "hot part": "nothing soft lies near the hot part"}
"""What is looked at because of a zone that is kept clear."""
WORKS: dict[str, tuple[str, ...]] = {
    "vehicle": ("wiring, plugs and lights work",),
    "enclosure": ("fan, vents, trips and alarms are free and reachable",),
    "room": ("sockets, switches and vents are free",)}
"""What must work before a place is closed, where nothing on it says more."""
SWINGS = ("locks, latches and windows work", "it closes with no more force than before")
"""Of a door or hatch."""
MACHINE_CHECKS = ("the temperature in the box holds under load", "exhaust goes to the open")
"""Of a box round a machine, once it stands."""


def more(minutes: dict[str, float], *ways: str) -> float:
    """By what work is multiplied that goes slower in these ways.

    >>> more({"curved": 15.0, "overhead": 30.0}, "curved", "overhead")
    1.75
    """
    return 1.0 + sum(minutes[w] for w in ways) / 60
