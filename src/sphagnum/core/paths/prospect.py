"""What a plan promises and how sure that is: the change to expect, and half of its 95 % interval, by one formula everywhere."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..levels.decibels import energy_sum

ALIKE = 0.5
"""How much of the errors of two changes predicted by the same model they share (coefficient of correlation): a judgement."""
CURVED = math.log(10) / 20
"""Half the second derivative of an energy sum in dB by the levels it is of, per dB."""
OFTEN = 1.96


class Unsure(NamedTuple):
    """How little is known of each path: its level now against the others (paths,), and its change by each of a number of causes
    that do not depend on one another (paths, causes); standard uncertainties, dB."""

    share_db: Floats
    change_db: Floats


class Prospect(NamedTuple):
    """The change to expect of a plan (dB, negative is less), half of its 95 % interval, and how far from the sum as computed."""

    change_db: float
    within_db: float
    lean_db: float


def causes(error_db: Floats, models: list[str], together: Floats | None = None) -> Floats:
    """Causes of the errors of changes, (paths, causes): what paths of one model share, what each has for itself, and
    ``together``, (paths, more): what acts on several at once. ``error_db`` (paths,) is 0 for a path that nothing changes."""
    named = sorted({m for m in models if m})
    shared = np.array([[math.sqrt(ALIKE) * (m == name) for name in named] for m in models]).reshape(len(models), len(named))
    own = np.diag([math.sqrt(1 - ALIKE) if m else 1.0 for m in models]).reshape(len(models), len(models))
    return np.column_stack([shared * error_db[:, None], own * error_db[:, None],
                            np.zeros((len(models), 0)) if together is None else together])


def prospect(now_db: Floats, planned_db: Floats, unsure: Unsure) -> Prospect | None:
    """The prospect of a plan over paths of weighted levels now and as planned, the whole now held to what was read; None where
    nothing is known, nothing is left, or nothing changes.

    First order: a path louder by 1 dB moves the sum after by its share then, and the reading it is held to takes off its share
    now; its change moves the sum after alone (GUM 5.1.2, 5.2.2). The expected change leaves out what a plan owes to luck:
    levels drawn towards their mean by u²/(u² + s²), s the true spread of the paths, gain less by the same work (regression to
    the mean; Efron and Morris 1975), changes that were chosen because they looked best fall by ``chosen_best_db``; and the mean
    of a sum of energies lies over the sum of the means (second order).
    """
    known = np.isfinite(now_db) & ~np.isnan(planned_db)
    now, then, u, by = now_db[known], planned_db[known], unsure.share_db[known], unsure.change_db[known]
    if not now.size or not np.isfinite(then).any() or np.array_equal(now, then):
        return None
    before, after = energy_sum(now), energy_sum(then)
    share_now, share_then = 10 ** ((now - before) / 10), 10 ** ((then - after) / 10)
    variance = float(np.sum(((share_then - share_now) * u) ** 2) + np.sum((share_then @ by) ** 2))
    lean = _loudest_db(now, then, u) + chosen_best_db(share_then, by) + _curved_db(share_now, share_then, u, by)
    return Prospect(after - before + lean, OFTEN * math.sqrt(variance), lean)


def _loudest_db(now: Floats, then: Floats, u: Floats) -> float:
    """By how much less a plan gives because what it treats looked loudest, dB."""
    if now.size < 2:
        return 0.0
    true = max(float(np.var(now, ddof=1)) - float(np.mean(u**2)), 0.25)
    drawn = now - u**2 / (u**2 + true) * (now - now.mean())
    return max((energy_sum(now) - energy_sum(then)) - (energy_sum(drawn) - energy_sum(drawn + then - now)), 0.0)


BEST = 0.2
"""How much of the uncertainty of a change its having been chosen costs: as simulated for one of 25 within a budget."""


def chosen_best_db(share_then: Floats, by: Floats) -> float:
    """By how much less changes give because they were chosen for looking best, dB."""
    return BEST * float(share_then @ np.sqrt(np.sum(by**2, axis=1)))


def _curved_db(share_now: Floats, share_then: Floats, u: Floats, by: Floats) -> float:
    """By how much the mean of the sum after lies over the sum of the means, more than it does now, dB."""
    own = u**2 + np.sum(by**2, axis=1)
    after = share_then @ own - np.sum((share_then * u) ** 2) - np.sum((share_then @ by) ** 2)
    now = share_now @ u**2 - np.sum((share_now * u) ** 2)
    return CURVED * float(after - now)
