"""How long a cold product lies in a warm room until it is warm enough."""

from __future__ import annotations

import math

ROOM_C = 22.0
"""A heated room."""
HEAT_J_KG_K = 1500.0
"""Specific heat of a filled polymer (recalled)."""
SURFACE_W_M2_K = 8.0
"""Heat through still air and by radiation onto a face (recalled)."""
CARTRIDGE_KG_M2 = 18.75
"""Of a cartridge of 50 mm: mass over its surface, density times half the radius."""
ROUND_MIN = 5.0


def warm_minutes(kg_m2: float, now_c: float, wants_c: float) -> float:
    """Minutes in a heated room until a product of so much mass per surface is as warm as it wants, rounded up to five; 0 where it
    is already. Newton's law of cooling, one lump: an estimate.

    >>> warm_minutes(2.0, 9.0, 15.0)
    5.0
    >>> warm_minutes(CARTRIDGE_KG_M2, 9.0, 15.0)
    40.0
    """
    if now_c >= wants_c:
        return 0.0
    room = max(ROOM_C, wants_c + 5.0)
    minutes = kg_m2 * HEAT_J_KG_K / SURFACE_W_M2_K / 60 * math.log((room - now_c) / (room - wants_c))
    return ROUND_MIN * math.ceil(minutes / ROUND_MIN - 1e-9)
