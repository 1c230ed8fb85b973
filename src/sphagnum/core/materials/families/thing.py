"""Goods and consumables: bought, weighed and handled, but no layers: studs, screws, grilles, cleaners, blades."""

from __future__ import annotations

from ..family import Family

GOODS = Family(name="goods", acts="thing")
CONSUMABLE = Family(name="consumable", acts="thing")
