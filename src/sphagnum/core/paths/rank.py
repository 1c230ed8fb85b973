"""What to treat, in which order, how deep; ceilings of any set; and whether a target can be reached at all."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..levels.decibels import energy, energy_sum

DEEPEST_DB = {"surface": 15.0, "leak": 20.0, "level": 10.0}
"""How much less one path can usually be made to let through: a lining, a seal, an isolator. House figures."""


class Wish(NamedTuple):
    """A path to treat: its index, by how much (dB), from which level to which."""

    path: int
    depth_db: float
    level_db: float


class Ranking(NamedTuple):
    """The wishes in order, the level they leave, and whether the target is met."""

    wishes: tuple[Wish, ...]
    total_db: float
    reached: bool


def ceiling_db(level_db: Floats, gone: Floats) -> float | None:
    """Reduction at the listener if the paths marked in ``gone`` (bool) vanished; None where nothing else is left."""
    rest = energy_sum(level_db[~gone.astype(bool)]) if (~gone.astype(bool)).any() else -math.inf
    return energy_sum(level_db) - rest if math.isfinite(rest) else None


SMALLEST_DB = 1.5
"""A path that would come down by less than this is left alone, where the others can make up for it."""


def rank(level_db: Floats, most_db: Floats, target_db: float) -> Ranking:
    """The least work that brings the sum of paths to ``target_db``: every path above one common level comes down to it.

    ``most_db`` is how far each path can come down (0: not to be treated). Paths hardly worth touching are left out as long as
    the target is met without them; the others come in the order of what they carry. Where even all that is allowed does not
    do, the ranking goes as deep as allowed.
    """
    found = _levelled(level_db, most_db, target_db)
    while found.reached and len(found.wishes) > 1:
        least = min(found.wishes, key=lambda w: w.depth_db)
        if least.depth_db >= SMALLEST_DB:
            break
        fewer = most_db.copy()
        fewer[least.path] = 0.0
        tried = _levelled(level_db, fewer, target_db)
        if not tried.reached:
            break
        found, most_db = tried, fewer
    return found


def _levelled(level_db: Floats, most_db: Floats, target_db: float) -> Ranking:
    """All paths that may come down, down to one level found by halving."""
    floor = level_db - most_db

    def left(level: float) -> Floats:
        return np.asarray(np.maximum(np.minimum(level_db, level), floor))

    finite = level_db[np.isfinite(level_db)]
    if not finite.size:
        return Ranking((), -math.inf, False)
    now, least, most = energy(level_db), energy(floor), 10 ** (target_db / 10)
    lowest, high = float(finite.min()) - 60.0, float(finite.max())
    low = lowest
    reached = energy_sum(left(lowest)) <= target_db + 1e-9
    for _ in range(50):  # in energies: a power for each path and half is not worth it
        middle = (low + high) / 2
        if np.maximum(np.minimum(now, 10 ** (middle / 10)), least).sum() <= most:
            low = middle
        else:
            high = middle
    after = left(low if reached else lowest)
    known = np.isfinite(level_db)
    depth = np.where(known, np.where(known, level_db, 0.0) - np.where(known, after, 0.0), 0.0)
    order = np.argsort(-energy(level_db), kind="stable")
    wishes = tuple(Wish(int(i), float(depth[i]), float(level_db[i])) for i in order if depth[i] > 1e-6)
    return Ranking(wishes, energy_sum(after), bool(reached))
