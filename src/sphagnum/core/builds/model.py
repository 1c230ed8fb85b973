"""What a build answers: its parts and goods, what it does, what may not be built."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..errors import BadInput
from ..levels.bands import Floats
from ..materials.model import Material
from ..schema import Strict

Axis = Literal["x", "y", "z"]
MOST_PARTS = 300
NotNegativeMm = Annotated[float, Field(ge=0, le=50_000, strict=True, allow_inf_nan=False)]
Millimetres = Annotated[float, Field(gt=0, le=50_000, strict=True, allow_inf_nan=False)]


class Sheet(Strict):
    """A sheet of the shelf: its material and its true thickness."""

    material: str
    thickness_mm: Millimetres


class Part(Strict):
    """A piece of a build. ``size_mm`` along x, y, z (z up), ``at_mm`` its least corner, ``axis`` the one its thickness lies
    along, ``outline_mm`` in the plane of the other two, from that corner."""

    id: str
    name: str
    material: str
    size_mm: tuple[float, float, float]
    at_mm: tuple[float, float, float]
    outline_mm: tuple[tuple[float, float], ...]
    holes_mm: tuple[tuple[tuple[float, float], ...], ...] = ()
    axis: Axis
    mitre_deg: float = 0
    count: int = 1
    kg: float
    flat_mm: tuple[float, float, float]
    """As it is cut: along, across and thick; a board on edge lies flat on the saw."""


class Good(Strict):
    """What is bought by the metre or piece for a build."""

    material: str
    amount: float
    unit: Literal["m", "piece"]


class InsertionLoss(Strict):
    """Per band, dB: all together, and each of ``by`` as if it alone let sound through."""

    frequency_hz: tuple[float, ...]
    total: tuple[float, ...]
    by: dict[str, tuple[float, ...]]


class Remedy(Strict):
    """What one remedy gives: sound (dB of road noise), heat (W/(m²·K) after it), light, money, in words."""

    name: str
    sound_db: float
    words: str
    u_w_m2k: float
    light_share: float
    money: float | None
    summer_share: float
    """Of the sun's heat, what still comes in."""


class TradeSpot(Strict):
    """What other air ways of a box would give: their area in all, a fan, how warm it gets and what the box takes off."""

    vent_cm2: float
    fan_m3_h: float
    sizes_mm: tuple[tuple[float, float], ...]
    """Of its openings in their order: what picking it makes of them."""
    inside_c: float
    change_dba: float
    yours: bool


class Transmissibility(Strict):
    """What a platform passes on, thirds from 12.5 Hz, dB: on a rigid floor, and against standing straight on this one."""

    frequency_hz: tuple[float, ...]
    rigid: tuple[float, ...]
    worse_db: tuple[float, ...]


class Built(Strict):
    """A build worked out; what does not belong to its kind is None."""

    parts: tuple[Part, ...] | None = None
    goods: tuple[Good, ...] = ()
    added_kg: float | None = None
    change_dba: float | None = None
    effect_db: tuple[float, ...] | None = None
    """What it takes off in its place, per band, 21 bands."""
    insertion_loss_db: InsertionLoss | None = None
    inside_c: float | None = None
    air_m3_h: float | None = None
    loudest: tuple[tuple[str, float], ...] | None = None
    """What leaves a box by each way, dB(A) of sound power, the loudest first."""
    trade: tuple[TradeSpot, ...] | None = None
    modes_hz: tuple[float, ...] | None = None
    transmissibility_db: Transmissibility | None = None
    gain_db: tuple[float, float] | None = None
    """Least and most a loudspeaker gains, the mean over the bass it plays."""
    reverberation_s: dict[str, tuple[float, float]] | None = None
    eyring_s: dict[str, tuple[float, float]] | None = None
    clarity_db: dict[str, tuple[float, float]] | None = None
    target_s: float | None = None
    count: int | None = None
    remedies: tuple[Remedy, ...] | None = None
    refused: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


LIFT_KG = 25.0
"""What one lifts; heavier parts get handles and a second pair of hands."""
HANDLES = 2


def heavy(parts: Iterable[Part]) -> list[Part]:
    """Parts that one does not lift alone: they get handles."""
    return [p for p in parts if p.kg > LIFT_KG]


def kg_m3(material: Material) -> float:
    """Its density. BadInput where nobody knows."""
    if material.properties.density_kg_m3 is None:
        raise BadInput(f"nobody knows what '{material.name}' weighs", material.id, "give its density on the shelf")
    return material.properties.density_kg_m3


def good_kg(good: Good, materials: Mapping[str, Material]) -> float:
    """What so much of it weighs; nothing where nobody knows."""
    found = materials.get(good.material)
    if found is None or not found.stock or found.stock[0].kg is None:
        return 0.0
    return good.amount / (found.stock[0].covers_m or 1.0) * found.stock[0].kg


def added_kg(parts: Iterable[Part], goods: Iterable[Good], materials: Mapping[str, Material]) -> float:
    """What a build adds: its parts, and what is bought for it."""
    return round(sum(p.kg for p in parts) + sum(good_kg(g, materials) for g in goods), 2)


def curve(values: Floats) -> tuple[float, ...]:
    """A figure per band as it is printed: to 0.01 dB, and no minus before a nought."""
    return tuple((np.round(values, 2) + 0.0).tolist())
