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


CHECKS = {"drain": "drains run", "vent": "vents breathe", "moving part": "moving parts travel freely",
          "module": "modules and warning lights work", "sealing face": "seals close all round",
          "fixing": "every fixing hole is open", "cable run": "cables lie free"}
