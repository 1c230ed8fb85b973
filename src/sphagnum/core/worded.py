"""Quantities in sentences: they carry their unit through the core, and are worded in the reader's system at the door.

A quantity stands between ⟨ and ⟩ as it reads in metric: ⟨^ … ⟩ where it is marked on something with a rule, ⟨~ … ⟩ where its
unit is said elsewhere besides, as in a list of places.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache
from typing import Literal, NamedTuple, TypeVar

from pydantic import BaseModel

from .quantities import FOOT_MM, INCH_MM, POUND_KG

System = Literal["metric", "imperial"]
OPENS = "⟨"
LENGTH_UNIT: dict[System, str] = {"metric": "mm", "imperial": "in"}
V = TypeVar("V", bound=BaseModel)
MASS_UNIT: dict[System, str] = {"metric": "kg", "imperial": "lb"}
SIXTEENTHS, MARKED = 16, 32
NEAR_IN = 0.012
"""A length is told in sixteenths where one comes so near, inches; else as a decimal."""
_FOOT_M = FOOT_MM / 1e3


class _Unit(NamedTuple):
    """What a metric unit is told in, how much of it one is, and how many decimals it is told with."""

    name: str
    each: float
    decimals: int


IMPERIAL: dict[str, _Unit] = {
    "mm": _Unit("in", 1 / INCH_MM, 2), "cm": _Unit("in", 10 / INCH_MM, 1), "m": _Unit("ft", 1 / _FOOT_M, 1),
    "cm²": _Unit("in²", 100 / INCH_MM**2, 1), "m²": _Unit("ft²", 1 / _FOOT_M**2, 1), "m³": _Unit("ft³", 1 / _FOOT_M**3, 0),
    "kg": _Unit("lb", 1 / POUND_KG, 1), "kg/m²": _Unit("lb/ft²", _FOOT_M**2 / POUND_KG, 2),
    "kg/m³": _Unit("lb/ft³", _FOOT_M**3 / POUND_KG, 1), "m³/h": _Unit("ft³/min", 1 / _FOOT_M**3 / 60, 0),
    "min/m²": _Unit("min/ft²", _FOOT_M**2, 3), "/m²": _Unit("/ft²", _FOOT_M**2, 2), "/m": _Unit("/ft", _FOOT_M, 2),
}
_UNITS = "|".join(re.escape(u) for u in sorted(IMPERIAL, key=len, reverse=True))
_HELD = re.compile(rf"⟨([~^]?)([^⟨⟩]*?) ?({_UNITS})⟩")
_NUMBER = re.compile(r"\d[\d\u202f,]*(?:\.\d+)?")


def in_mm(*lengths: float, by: str = " × ") -> str:
    """Lengths in mm as a sentence carries them: one, or a size."""
    return f"⟨{by.join(f'{x:g}' for x in lengths)} mm⟩"


def bare(*lengths: float, by: str = " · ") -> str:
    """Whole mm without their unit, as a list of places has them."""
    return f"⟨~{by.join(f'{x:.0f}' for x in lengths)} mm⟩"


def marked(*lengths: float, by: str = " × ") -> str:
    """Whole mm with their unit, as they are marked with a rule."""
    return f"⟨^{by.join(f'{x:.0f}' for x in lengths)} mm⟩"


def of(value: float | str, unit: str, how: str = "g") -> str:
    """Any other quantity: ``of(3.2, "m²", ".1f")``; a text stands as it is. A unit both systems share is plain text."""
    said = f"{value if isinstance(value, str) else format(value, how)} {unit}"
    return f"⟨{said}⟩" if unit in IMPERIAL else said


def mass(kg: float, system: System) -> str:
    """A mass in a column whose head names the unit."""
    return f"{kg / POUND_KG if system == 'imperial' else kg:.{1 if system == 'imperial' else 2}f}".rstrip("0").rstrip(".")


def worded(text: str, system: System) -> str:
    """A text with all its quantities in one system."""
    return _HELD.sub(_IN[system], text) if OPENS in text else text


def _metric(held: re.Match[str]) -> str:
    return held[2] if held[1] == "~" else f"{held[2]}{'' if held[3][0] == '/' else ' '}{held[3]}"


def _imperial(held: re.Match[str]) -> str:
    unit = IMPERIAL[held[3]]
    tell: Callable[[str], str] = inches if unit.name == "in" and held[3] == "mm" else lambda n: _plain(n, unit)
    if held[1]:
        tell = _marked
    numbers = _NUMBER.sub(lambda n: tell(n[0]), held[2])
    return numbers if held[1] == "~" else f"{numbers}{'' if unit.name[0] == '/' else ' '}{unit.name}"


_IN: dict[System, Callable[[re.Match[str]], str]] = {"metric": _metric, "imperial": _imperial}


def _value(number: str) -> float:
    return float(number.replace(",", "").replace("\u202f", ""))


def _plain(number: str, unit: _Unit) -> str:
    value = _value(number) * unit.each
    decimals = max(unit.decimals, 2) if 0 < value < 1 else unit.decimals
    return f"{value:,.{decimals}f}".rstrip("0").rstrip(".") if decimals else f"{value:,.0f}"


@lru_cache(maxsize=4096)
def inches(number: str) -> str:
    """A length in mm in inches: in sixteenths where they come near enough, else as a decimal."""
    value = _value(number) / INCH_MM
    sixteenths = round(value * SIXTEENTHS)
    if value and (sixteenths == 0 or abs(sixteenths / SIXTEENTHS - value) > NEAR_IN):
        return f"{value:.{3 if value < 1 else 2}f}".rstrip("0").rstrip(".")
    return _fraction(sixteenths)


def _marked(number: str) -> str:
    """A place to be marked: to the next 32nd of an inch, which is the finest a rule shows."""
    return _fraction(round(_value(number) / INCH_MM * MARKED), MARKED)


def _fraction(parts: int, bottom: int = SIXTEENTHS) -> str:
    whole, top = divmod(parts, bottom)
    while top and top % 2 == 0:
        top, bottom = top // 2, bottom // 2
    part = f"{top}/{bottom}" if top else ""
    return " ".join(x for x in (str(whole) if whole or not top else "", part) if x)


def shortened(text: str, most: int) -> str:
    """A text of so many characters at most, cut before a quantity rather than within it."""
    if len(text) <= most:
        return text
    cut = text[: most - 1]
    if cut.rfind("⟨") > cut.rfind("⟩"):
        cut = cut[: cut.rfind("⟨")]
    return f"{cut.rstrip(' ,;')}…"


def view_in(view: V, system: System) -> V:
    """A view with all its sentences in one system: for paper, which is drawn from views."""
    return type(view).model_validate_json(worded(view.model_dump_json(), system))
