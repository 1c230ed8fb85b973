"""Reads the shipped data: of the shelf its materials, and how well a way of measuring repeats, alone."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any

from ..core.materials.model import Material, composed
from ..core.schema import parse

MATERIALS = ("panels", "boards", "damping", "foams", "barriers", "combined", "porous", "lines", "goods", "consumables")


def read(name: str) -> dict[str, Any]:
    """A file of the shipped data, by its name without the ending."""
    return tomllib.loads((resources.files(__package__) / "data" / f"{name}.toml").read_text("utf-8"))


def listed(data: object) -> object:
    """TOML arrays as tuples, as the strict types ask."""
    if isinstance(data, dict):
        return {k: listed(v) for k, v in data.items()}
    return tuple(listed(v) for v in data) if isinstance(data, list) else data


@cache
def materials() -> dict[str, Material]:
    """The shipped materials by id, validated. BadInput if the data are broken."""
    every = [parse(Material, listed(m), f"materials/{name}.toml: {m['id']}")
             for name in MATERIALS for m in read(f"materials/{name}")["material"]]
    return composed({m.id: m for m in every})


def repeatability(method: str) -> float:
    """Standard deviation of one reading by a shipped way of measuring, dB."""
    return float(next(m["repeatability_db"] for m in read("methods")["method"] if m["id"] == method))
