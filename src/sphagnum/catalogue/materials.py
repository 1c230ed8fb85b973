"""Reads of the shipped shelf its materials alone."""

from __future__ import annotations

from functools import cache

from ..core.materials.model import Material, composed
from ..core.schema import parse
from .files import listed, read

MATERIALS = ("panels", "boards", "damping", "foams", "barriers", "combined", "porous", "lines", "goods", "consumables")


@cache
def materials() -> dict[str, Material]:
    """The shipped materials by id, validated. BadInput if the data are broken."""
    every = [parse(Material, listed(m), f"materials/{name}.toml: {m['id']}")
             for name in MATERIALS for m in read(f"materials/{name}")["material"]]
    return composed({m.id: m for m in every})
