"""The table of families: whoever asks what a kind of layer or material does asks here."""

from __future__ import annotations

from collections.abc import Sequence
from operator import attrgetter
from typing import Any

import numpy as np

from ..errors import BadInput
from .elements import Place
from .families import air, combined, damping, foam, limp, line, plate, porous, thing
from .family import Family, Layer

FAMILIES: dict[str, Family] = {f.name: f for f in (
    plate.FAMILY, limp.FAMILY, foam.FAMILY, porous.FAMILY, air.FAMILY, damping.FAMILY, line.FAMILY,
    combined.FAMILY, thing.GOODS, thing.CONSUMABLE)}


def family(kind: str) -> Family:
    """A family by name; BadInput for one there is not, so that nothing unknown is ever taken for a plate."""
    if kind not in FAMILIES:
        raise BadInput(f"'{kind}' is no family of materials", "kind", f"use {', '.join(FAMILIES)}")
    return FAMILIES[kind]


def variant_of(layer: Layer) -> tuple[str, str]:
    """The kind of a layer and which variant of it, by which layers can be computed together."""
    return layer.kind, family(layer.kind).variant(layer)


def columns_of(kind: str, variant: str, layers: Sequence[Any]) -> Place:
    """Layers of one kind and variant as columns in SI, shape (layers, 1): the one door from the units of files."""
    columns = family(kind).columns(variant)
    read = attrgetter(*(path for path, _ in columns.values()))
    rows = np.array([read(x) for x in layers], dtype=float).reshape(len(layers), len(columns))
    return Place(kind, variant, {name: rows[:, j : j + 1] * unit.times / unit.by
                                 for j, (name, (_, unit)) in enumerate(columns.items())})


def layer_mass(layer: Layer) -> float:
    """Mass of one layer averaged over the panel, kg/m²."""
    place = columns_of(*variant_of(layer), [layer])
    return float(family(layer.kind).mass(place)[0, 0])
