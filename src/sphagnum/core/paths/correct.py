"""Model and tests brought together: each path's level as the better known of both makes it, the whole kept as read."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..levels.decibels import energy
from .measured import PathTest

MODEL_DB = 1.5
"""Standard uncertainty of a modelled path against its neighbours, dB; ± 3 dB with 95 %."""


class Corrected(NamedTuple):
    """dB to add to each path, the half-width of each path's level (95 %), and what does not fit, in words."""

    shift_db: Floats
    half_width_db: Floats
    odd: tuple[str, ...]


def corrected(level_dba: Floats, tests: Sequence[PathTest], model_db: Floats | float = MODEL_DB) -> Corrected:
    """Paths corrected by tests; their energies add up to what they added up to before. ``model_db`` is how sure the model is of
    each path (standard uncertainty, dB).

    A resolved test and the model are averaged by their precision in decibels. A test that did not resolve its path, or only
    bounds it, holds the path to that side of its interval. Paths without a test share what is left in their old proportions.
    """
    total = float(energy(level_dba).sum())
    shares = energy(level_dba) / total
    unsure = np.broadcast_to(np.asarray(model_db, dtype=float), shares.shape)
    width = 1.96 * unsure
    fixed: dict[int, float] = {}
    for i in {t.path_index for t in tests}:
        own = [t for t in tests if t.path_index == i]
        if not math.isfinite(float(level_dba[i])):
            continue
        value, weight = 10 * math.log10(max(float(shares[i]), 1e-9)), 1 / float(unsure[i]) ** 2
        for t in own:
            if t.resolved and not t.bound and t.share > 0:
                spread = max(10 * math.log10(max(t.high, t.share) / max(t.low, 1e-4)) / 3.92, 0.2)
                value = (value * weight + 10 * math.log10(t.share) / spread**2) / (weight + 1 / spread**2)
                weight += 1 / spread**2
        for t in own:
            if t.bound and t.resolved:
                value = max(value, 10 * math.log10(max(t.share, 1e-9)))
            elif not t.resolved:
                value = min(value, 10 * math.log10(max(t.high, 1e-3)))
        fixed[i] = 10 ** (value / 10)
        width[i] = 1.96 / math.sqrt(weight)
    odd = []
    whole = sum(fixed.values())
    free = [i for i in range(len(shares)) if i not in fixed]
    rest = float(shares[free].sum())
    if whole > 0.98 or rest <= 0:
        if whole > 1.1:
            odd.append(f"The tests add up to {100 * whole:.0f} % of the whole: one of them is too high, or the level moved "
                       "meanwhile.")
        scale = (1 - min(rest, 0.02)) / whole if whole > 0 else 1.0
        fixed = {i: s * scale for i, s in fixed.items()}
        whole = sum(fixed.values())
    new = shares.copy()
    for i, share in fixed.items():
        new[i] = share
    if rest > 0:
        new[free] = shares[free] * (1 - whole) / rest
    with np.errstate(divide="ignore", invalid="ignore"):
        shift = np.where(shares > 0, 10 * np.log10(new / shares), 0.0)
    return Corrected(shift, width, tuple(odd))


def share_range(share: float, half_width_db: float, tested: bool = False) -> tuple[float, float]:
    """A share with its path a half-width lower and higher.

    What was tested is a share of a total that is held, so its own energy moves; of what was not, the others stay as they are.
    """
    if tested:
        low, high = (min(share * 10 ** (d / 10), 1.0) for d in (-half_width_db, half_width_db))
        return low, high
    low, high = (share * 10 ** (d / 10) / (1 - share + share * 10 ** (d / 10)) for d in (-half_width_db, half_width_db))
    return low, high
