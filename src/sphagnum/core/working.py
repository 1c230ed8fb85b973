"""How a figure came about: the record behind "show the working"."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Literal

from .schema import Strict


class WorkingInput(Strict):
    """One input of a computation, as shown to a person."""

    name: str
    value: str


class Working(Strict):
    """Formula by name, inputs, source, range of validity and expected accuracy of a figure."""

    figure: str
    formula: str
    inputs: tuple[WorkingInput, ...]
    source: str
    accuracy: str
    valid: str = ""


def inputs(**named: object) -> tuple[WorkingInput, ...]:
    """Inputs from keyword arguments; underscores in a name read as spaces."""
    return tuple(WorkingInput(name=k.replace("_", " "), value=str(v)) for k, v in named.items())


class Figure(Strict):
    """A computed figure with its unit; value None where unknown."""

    label: str
    value: float | None
    unit: str


def figure(label: str, value: float, unit: str, digits: int) -> Figure:
    """A figure from a number, rounded; what is not finite is unknown."""
    return Figure(label=label, value=round(float(value), digits) + 0.0 if math.isfinite(value) else None, unit=unit)


class BandLine(Strict):
    """A figure per one-third octave, 50 Hz to 5 kHz."""

    label: str
    unit: str
    values: tuple[float | None, ...]


class TradePoint(Strict):
    """A named choice on a trade: where it lies and what it gives."""

    label: str
    x: float
    value: float
    yours: bool
    """Whether it is the choice asked about."""


class Trade(Strict):
    """How one figure falls as another grows: values over x, and the choices that lie on the curve."""

    label: str
    unit: str
    x_label: str
    x_unit: str
    x: tuple[float, ...]
    values: tuple[float, ...]
    points: tuple[TradePoint, ...]


class Wares(Strict):
    """So much of a material that is bought for a measure, in metres or pieces as it is sold."""

    material: str
    amount: float


class Fitted(Strict):
    """What is fitted with a measure of the desk; of a fan the air it moves, m³/h; what is bought for it."""

    name: str
    air_m3_h: float | None = None
    goods: tuple[Wares, ...] = ()


class Answer(Strict):
    """What a small calculation says: one sentence, its figures, per band where it has them, cautions and its working.

    ``effect_db`` is what it takes off per band at the listener, where it is a measure that can enter a budget at
    ``effect_at``; ``also`` is what must be fitted with it and takes nothing off by itself; ``goods`` what is
    bought for itself.
    """

    sentence: str
    figures: tuple[Figure, ...]
    lines: tuple[BandLine, ...] = ()
    trade: Trade | None = None
    cautions: tuple[str, ...] = ()
    effect_db: tuple[float, ...] | None = None
    effect_at: Literal["source", "path", "listener"] = "source"
    also: tuple[Fitted, ...] = ()
    goods: tuple[Wares, ...] = ()
    build: dict[str, object] | None = None
    """What is given of the thing that is built so, where it can be drawn, cut and proven."""
    working: Working


def band_line(label: str, unit: str, values: Iterable[float]) -> BandLine:
    """A line from numbers, rounded to 0.01; what is not finite is unknown."""
    return BandLine(label=label, unit=unit, values=tuple(round(float(v), 2) + 0.0 if math.isfinite(v) else None for v in values))
