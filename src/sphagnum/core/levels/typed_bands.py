"""Levels in bands as people type and paste them: '63: 84, 125: 86', a table of two columns, or frequencies over levels."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np

from ..errors import BadInput
from .bands import A_WEIGHTING_DB, NOMINAL_HZ, SPAN, Floats, nearest_nominal
from .decibels import energy_sum
from .rows import QUANTITIES
from .typed import HIGH_DB, LOW_DB

OCTAVES_HZ = (16.0, 31.5, 63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, 16000.0)
LEAST_BANDS = 3
"""Fewer figures with frequencies are no spectrum."""
_N = r"[+\-−]?\d+(?:[.,]\d+)?"
_PAIR = re.compile(rf"(\d+(?:[.,]\d+)?)\s*(k?)\s*(?:hz)?\s*[:=]\s*({_N})\s*(?:db(?:\s*\(?[acz]\)?)?)?", re.IGNORECASE)
_HERTZ = re.compile(r"^\"?(\d+(?:[.,]\d+)?)\s*(k?)\s*(?:hz)?\"?$", re.IGNORECASE)
_LEVEL = re.compile(rf"^\"?({_N})\s*(?:db(?:\s*\(?[acz]\)?)?)?\"?$", re.IGNORECASE)
_A = re.compile(r"db\s*\(?a\)?|\ba-weighted\b", re.IGNORECASE)

Weighting = Literal["", "Z", "A"]


class TypedBands(NamedTuple):
    """Levels by nominal frequency as typed; whether they are octaves, and A-weighted."""

    level_db: dict[float, float]
    octaves: bool
    a_weighted: bool


def read_bands(text: str, weighting: Weighting = "") -> TypedBands | None:
    """The bands in a text, or None where it holds none. ``weighting``: what the levels are in, where the text does not say.

    Raises BadInput for a level out of range and for a band that stands twice.
    """
    found = _pairs(text) or _table(text)
    if found is None or len(found) < LEAST_BANDS:
        return None
    bands: dict[float, float] = {}
    for hz, level in found:
        band = nearest_nominal(hz)
        if band is None:
            return None
        if band in bands:
            raise BadInput(f"{band:g} Hz stands twice", "level", "give each band once")
        if not LOW_DB <= level <= HIGH_DB:
            raise BadInput(f"{level:g} dB is out of range", f"{band:g} Hz", f"levels lie within {LOW_DB:g} to {HIGH_DB:g} dB")
        bands[band] = level
    return TypedBands(bands, all(f in OCTAVES_HZ for f in bands), weighting == "A" or (not weighting and bool(_A.search(text))))


def _pairs(text: str) -> list[tuple[float, float]] | None:
    """'63: 84, 125: 86': pairs and nothing beside them."""
    found = list(_PAIR.finditer(text))
    rest = _PAIR.sub(" ", text)
    if not found or re.sub(r"(?i)[\s,;|]|db\s*\(?[acz]?\)?|hz", "", rest):
        return None
    return [(_number(m[1]) * (1000 if m[2] else 1), _number(m[3])) for m in found]


def _table(text: str) -> list[tuple[float, float]] | None:
    """Two columns, frequency and level, under a header or none; or a row of frequencies over a row of levels."""
    lines = [x for x in text.replace("\r", "").split("\n") if x.strip()]
    apart = next((s for s in ("\t", ";") if any(s in x for x in lines)), None)
    rows = [[c.strip() for c in (x.split(apart) if apart else re.split(r",(?=\s|\D|\d+\.)|,(?=\d)|\s{2,}", x))] for x in lines]
    if not apart and all("," not in x for x in lines):
        rows = [x.split() for x in lines]
    for at in range(len(rows) - 1):
        over = [(h, v) for h, v in zip(map(_hertz, rows[at]), map(_db, rows[at + 1]), strict=False)
                if h is not None and v is not None]
        if len(over) >= LEAST_BANDS and _rising([h for h, _ in over]):
            return over
    down = [(h, v) for r in rows if len(r) > 1 for h, v in ((_hertz(r[0]), _db(r[1])),) if h is not None and v is not None]
    headed = len(rows) - len(down) <= 1
    return down if headed and len(down) >= LEAST_BANDS and _rising([h for h, _ in down]) else None


def _rising(hertz: Sequence[float]) -> bool:
    return all(nearest_nominal(f) is not None for f in hertz) and all(a < b for a, b in pairwise(hertz))


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def _hertz(cell: str) -> float | None:
    found = _HERTZ.match(cell.strip())
    return None if found is None else _number(found[1]) * (1000 if found[2] else 1)


def _db(cell: str) -> float | None:
    found = _LEVEL.match(cell.strip())
    return None if found is None else _number(found[1])


def thirds_of(typed: TypedBands, source_db: Floats) -> tuple[float | None, ...]:
    """Unweighted levels of the 33 bands, None where none was typed.

    An octave's energy is spread over its thirds by the source's shape ``source_db`` (21,), which goes on level beyond its ends;
    dB(A) are freed of their weighting, each third by its own.
    """
    shape = np.concatenate([np.full(SPAN.start, source_db[0]), source_db, np.full(len(NOMINAL_HZ) - SPAN.stop, source_db[-1])])
    weight = np.array(A_WEIGHTING_DB) if typed.a_weighted else np.zeros(len(NOMINAL_HZ))
    out: list[float | None] = [None] * len(NOMINAL_HZ)
    for hz, level in typed.level_db.items():
        at = NOMINAL_HZ.index(hz)
        if not typed.octaves:
            out[at] = round(level - float(weight[at]), 2)
            continue
        thirds = [i for i in (at - 1, at, at + 1) if 0 <= i < len(NOMINAL_HZ)]
        heard = shape[thirds] + weight[thirds]
        for i, share in zip(thirds, heard - energy_sum(heard), strict=True):
            out[i] = round(min(max(level + float(share) - float(weight[i]), LOW_DB), HIGH_DB), 2)
    return tuple(out)


def c_weighting_db(hz: float) -> float:
    """C weighting at a frequency, dB (IEC 61672-1:2013, formula (5) with its pole frequencies).

    >>> round(c_weighting_db(31.6228), 1), round(c_weighting_db(1000.0), 1)
    (-3.0, 0.0)
    """
    f1, f4 = 20.598997, 12194.217
    gain = f4**2 * hz**2 / ((hz**2 + f1**2) * (hz**2 + f4**2))
    at_1k = f4**2 * 1e6 / ((1e6 + f1**2) * (1e6 + f4**2))
    return 20 * math.log10(gain / at_1k)


def level_in(quantity: str, bands_db: Sequence[float | None]) -> float:
    """The level of a goal's quantity out of 33 bands, dB: A- or C-weighted, or the sum over its own range."""
    span = QUANTITIES[quantity].bands_hz
    known = [(f, w, v) for f, w, v in zip(NOMINAL_HZ, A_WEIGHTING_DB, bands_db, strict=True) if v is not None]
    if span is not None:
        return energy_sum([v for f, _, v in known if span[0] <= f <= span[1]] or [LOW_DB])
    if quantity == "LCeq":
        return energy_sum([v + c_weighting_db(f) for f, _, v in known])
    return energy_sum([v + w for _, w, v in known])


def look_like_bands(levels: Sequence[float]) -> bool:
    """Whether levels typed in one go are more likely bands than repeats: seven to ten that lie far apart."""
    return 7 <= len(levels) <= 10 and max(levels) - min(levels) > 6.0
