"""Seals, strips and isolators: sold by length, no layers of a stack."""

from __future__ import annotations

from ..family import Family

FAMILY = Family(name="line", acts="line")
