"""Short words for the made-up jobs: numbered rows, layers, outlines, spectra."""

from __future__ import annotations

import math
import random

import numpy as np

from .catalogue.load import shelf
from .core.levels.bands import A_WEIGHTING_DB, NOMINAL_HZ, PREDICTED_HZ
from .demo_shelf import Row


def rows(*items: Row) -> list[Row]:
    """Rows numbered from 1."""
    return [{"id": i, "version": 1, **item} for i, item in enumerate(items, start=1)]


def rectangle(width: float, height: float) -> list[list[float]]:
    """An outline, mm."""
    return [[0, 0], [width, 0], [width, height], [0, height]]


def layer(material: str, thickness_mm: float, coverage: float = 1.0) -> Row:
    """A layer of a stack."""
    return {"material": material, "thickness_mm": thickness_mm, "coverage": coverage}


def bands_at(level: float, spectrum: str, gone: Row | None = None, tone_hz: float = 0.0, seed_: int = 1) -> list[float]:
    """33 made-up bands of a level dB(A): a source's shape, less what ``gone`` says per band label, with a tone on top."""
    rng = random.Random(seed_)
    known = dict(zip(PREDICTED_HZ, shelf().spectra[spectrum].levels().tolist(), strict=True))
    ends = known[50.0], known[5000.0]
    less = sorted((float(k), v) for k, v in (gone or {}).items())
    shape = []
    for f in NOMINAL_HZ:
        base = known.get(f, ends[0] - 2 if f < 50 else ends[1] - 6 * math.log2(f / 5000))
        cut = float(np.interp(math.log(f), [math.log(k) for k, _ in less], [v for _, v in less])) if less else 0.0
        shape.append(base - cut + (16.0 if f == tone_hz else 0.0) + rng.gauss(0, 0.4))
    total = 10 * math.log10(sum(10 ** ((v + w) / 10) for v, w in zip(shape, A_WEIGHTING_DB, strict=True)))
    return [round(v + level - total, 1) for v in shape]
