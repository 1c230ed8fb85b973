"""Quantities as people type them: a number with or without its unit, metric or imperial, read into one unit."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, NamedTuple

from pydantic import BeforeValidator

from .errors import BadInput
from .schema import read_number

INCH_MM, FOOT_MM, POUND_KG = 25.4, 304.8, 0.45359237
"""Exact by the international yard and pound agreement of 1959."""
_FOOT2_M2, _FOOT3_M3 = (FOOT_MM / 1e3) ** 2, (FOOT_MM / 1e3) ** 3


class Units(NamedTuple):
    """Units of one kind by name, each in the first of ``usual``, which a refusal names."""

    by_name: Mapping[str, float]
    usual: str


LENGTHS = Units({
    "mm": 1.0, "cm": 10.0, "m": 1000.0, "in": INCH_MM, "inch": INCH_MM, "inches": INCH_MM, '"': INCH_MM, "″": INCH_MM,
    "ft": FOOT_MM, "foot": FOOT_MM, "feet": FOOT_MM, "'": FOOT_MM, "′": FOOT_MM, "mil": INCH_MM / 1000, "thou": INCH_MM / 1000,
    "yd": 914.4, "µm": 1e-3, "um": 1e-3}, "mm, cm, m, in or ft")
MASSES = Units({"kg": 1.0, "g": 1e-3, "t": 1e3, "lb": POUND_KG, "lbs": POUND_KG, "oz": POUND_KG / 16}, "kg, g, lb or oz")
DENSITIES = Units({"kg/m³": 1.0, "kg/m3": 1.0, "g/cm³": 1e3, "g/cm3": 1e3, "lb/ft³": POUND_KG / _FOOT3_M3,
                   "lb/ft3": POUND_KG / _FOOT3_M3, "pcf": POUND_KG / _FOOT3_M3}, "kg/m³, g/cm³ or lb/ft³")
AREAL = Units({"kg/m²": 1.0, "kg/m2": 1.0, "g/m²": 1e-3, "g/m2": 1e-3, "lb/ft²": POUND_KG / _FOOT2_M2,
               "lb/ft2": POUND_KG / _FOOT2_M2, "lb/sqft": POUND_KG / _FOOT2_M2, "psf": POUND_KG / _FOOT2_M2},
              "kg/m², g/m² or lb/ft²")

_VULGAR = {"¼": "1/4", "½": "1/2", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_PART = re.compile(r"(?P<number>\d+/\d+|\d+(?:[.,]\d+)?(?:[ -]+\d+/\d+)?)\s*(?P<unit>[^\d\s.,-][^\d\s]*[²³23]?)?\s*")
_BARE = re.compile(r"[-+\u2212]?[\d\s.,'\u00a0\u2009\u202f]+")
_FEET = ("ft", "foot", "feet", "'", "′")


def read_quantity(value: object, units: Units) -> object:
    """A quantity in the first of its usual units: "3/8 in", "2 ft 6", "1 1/2 in", "0,8 mm", a bare number as it is.

    After feet a bare number is inches. Other values pass through. Raises BadInput for a unit that is not known.
    """
    if not isinstance(value, str):
        return value
    text = value.strip().lower()
    for sign, plain in _VULGAR.items():
        text = text.replace(sign, f" {plain}")
    text = text.strip()
    if not text or (_BARE.fullmatch(text) and not re.search(r"\d'\s*\d{0,2}$", text)):
        return read_number(value)
    minus = text[0] in "-\u2212"
    rest = text[1:] if minus else text
    total, at, last = 0.0, 0, ""
    while at < len(rest):
        found = _PART.match(rest, at)
        if found is None:
            raise BadInput(f"'{value.strip()[:40]}' is not a quantity", "", f"type a number and {units.usual}")
        name = found["unit"] or ("in" if last in _FEET else "" if last else next(iter(units.by_name)))
        if name not in units.by_name:
            raise BadInput(f"the unit '{(name or found['number'])[:20]}' is not known here", "", f"use {units.usual}")
        total += _fraction(found["number"]) * units.by_name[name]
        at, last = found.end(), name
    return round(-total if minus else total, 9)


def _fraction(text: str) -> float:
    total = 0.0
    for part in re.split(r"[ -]+", text.strip()):
        top, _, bottom = part.partition("/")
        if bottom and not float(bottom):
            raise BadInput(f"'{text}' divides by nothing", "", "type a number")
        total += float(top.replace(",", ".")) / (float(bottom) if bottom else 1.0)
    return total


def _typed(units: Units) -> Any:
    """Marks a field of a form: text with any of these units is read into the first."""
    return BeforeValidator(lambda value: read_quantity(value, units))


TypedMm, TypedKg, TypedKgM2, TypedKgM3 = _typed(LENGTHS), _typed(MASSES), _typed(AREAL), _typed(DENSITIES)

LAPS = 1.1
"""A tenth more for laps and waste of what is laid by the metre."""
