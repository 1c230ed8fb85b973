"""How sure a plan's prediction is: its interval, and how far it leans because the loudest looked loudest."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..levels.decibels import energy_sum


class Prospect(NamedTuple):
    """The level a plan leaves (dB), its 95 % interval, and by how much the reduction is expected to be less than computed."""

    level_db: float
    low_db: float
    high_db: float
    lean_db: float


def prospect(now_db: Floats, planned_db: Floats, unsure_db: Floats) -> Prospect | None:
    """The prospect of a plan over paths of A-weighted levels now and as planned; None where nothing is known.

    ``unsure_db`` is the standard uncertainty of each path against the others, the whole being held to what was read. What looks
    loud owes part of that to luck: levels drawn towards their mean by u²/(u² + s²), s the true spread of the paths, gain less
    by the same work (regression to the mean; Efron and Morris 1975).
    """
    known = np.isfinite(now_db) & np.isfinite(planned_db)
    now, then, u = now_db[known], planned_db[known], unsure_db[known]
    if not now.size:
        return None
    before, after = energy_sum(now), energy_sum(then)
    share_now, share_then = 10 ** ((now - before) / 10), 10 ** ((then - after) / 10)
    # a path louder by 1 dB lifts the sum after by its share then, and the reading it is held to takes off its share now
    spread = 1.96 * math.sqrt(float(np.sum(((share_then - share_now) * u) ** 2)))
    lean = 0.0
    if now.size > 1:
        true = max(float(np.var(now, ddof=1)) - float(np.mean(u**2)), 0.25)
        drawn = now - u**2 / (u**2 + true) * (now - now.mean())
        lean = max((before - after) - (energy_sum(drawn) - energy_sum(drawn + then - now)), 0.0)
    return Prospect(after, after - spread, after + spread, lean)
