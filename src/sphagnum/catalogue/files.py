"""Reads a file of the shipped data, and what a reading by a way of measuring is worth; loads nothing of what they describe."""

from __future__ import annotations

import tomllib
from importlib import resources
from typing import Any, NamedTuple


def read(name: str) -> dict[str, Any]:
    """A file of the shipped data, by its name without the ending."""
    return tomllib.loads((resources.files(__package__) / "data" / f"{name}.toml").read_text("utf-8"))


def listed(data: object) -> object:
    """TOML arrays as tuples, as the strict types ask."""
    if isinstance(data, dict):
        return {k: listed(v) for k, v in data.items()}
    return tuple(listed(v) for v in data) if isinstance(data, list) else data


class Worth(NamedTuple):
    """What a reading by a shipped way of measuring is worth, standard uncertainties in dB (see methods.toml)."""

    repeatability_db: float
    setup_db: float
    different_instrument_db: float


def worth(method: str) -> Worth:
    """What one reading by a shipped way of measuring is worth."""
    data = read("methods")
    found = next(m for m in data["method"] if m["id"] == method)
    return Worth(float(found["repeatability_db"]), float(found["setup_db"]), float(data["different_instrument_db"]))
