"""Phases of the work in their order, house minutes, and which hazard belongs to what."""

from __future__ import annotations

PHASES = ("at the source", "strip", "log fixings", "clean", "cure rattles", "dry-fit", "apply", "seal", "check function",
          "refit", "read again")

# Minutes per square metre (strip, clean, dry-fit, refit) or per surface (log, check): house figures, open to learning.
MINUTES = {"strip": 8.0, "log fixings": 3.0, "clean": 10.0, "cure rattles": 6.0, "dry-fit": 6.0,
           "check function": 5.0, "refit": 10.0,
           "read again": 20.0, "at the source": 30.0, "seal a leak": 10.0}

FLAG_HAZARD = {"hot": "hot"}
ZONE_HAZARD = {"airbag seam": "airbag", "hot part": "hot", "moving part": "moving", "module": "battery"}
KIND_HAZARD = {"enclosure": "machine-heat", "room": "old-building"}


DEGREASED = frozenset({"steel", "aluminium", "stainless", "galvanised", "glass-fibre", "plastic-trim", "window-glass", "acrylic"})
"""Panels that are wiped with cleaner; masonry, boards and wood are brushed, for they drink it."""
WORKS = {"vehicle": "wiring, plugs and lights work", "enclosure": "fan, vents, trips and alarms are free and reachable",
         "room": "sockets, switches and vents are free"}
"""What must work before a place is closed, where nothing on it says more."""
CHECKS = {"drain": "drains run", "vent": "vents breathe", "moving part": "moving parts travel freely",
          "module": "modules and warning lights work", "sealing face": "seals close all round",
          "fixing": "every fixing hole is open", "cable run": "cables lie free"}
