"""A choice of one option per path as arrays: energies that add, costs, what is paid once, what is bought in whole packs."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..levels.bands import Floats

Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
RESOURCES = ("added_kg", "money", "hours")
KG, MONEY, HOURS = range(3)
LITTLE = 1e-9
"""Costs nearer than this are the same; far below what is printed, far above the rounding of sums."""


class Problem(NamedTuple):
    """Options of all paths in one row, those of one path side by side; every path takes exactly one.

    ``energy`` (options,) at the listener, relative; ``costs`` (options, 3): kg, money, hours; ``needs`` (options, once) and
    ``once_costs`` (once, 3) not negative; ``uses`` (options, packs), ``pack_size``, ``pack_money`` and ``on_hand`` (packs,).
    """

    path: Ints
    energy: Floats
    costs: Floats
    needs: Bools
    once_costs: Floats
    uses: Floats
    pack_size: Floats
    pack_money: Floats
    on_hand: Floats
    now: float
    """The energy as it is."""

    @property
    def paths(self) -> int:
        """How many paths there are."""
        return int(self.path.max()) + 1


Choice = tuple[int, ...]
"""The option taken of each path, by its place among all options."""


def spent(p: Problem, choices: Ints) -> Floats:
    """What choices cost, shape (choices, 3): kg, money with whole packs, hours; ``choices`` (choices, paths)."""
    total = p.costs[choices].sum(axis=1)
    if p.once_costs.size:
        total = total + p.needs[choices].any(axis=1) @ p.once_costs
    if p.pack_size.size:
        short = np.maximum(p.uses[choices].sum(axis=1) - p.on_hand, 0.0)
        total[:, MONEY] += np.ceil(short / p.pack_size - LITTLE) @ p.pack_money
    return np.asarray(total)


def energies(p: Problem, choices: Ints) -> Floats:
    """Energy at the listener of choices, shape (choices,)."""
    return np.asarray(p.energy[choices].sum(axis=1))


def reduction_db(p: Problem, energy: float) -> float:
    """By how much less than now an energy is, dB; at most 200, where nothing is left."""
    return 10 * math.log10(p.now / max(energy, p.now * 1e-20))


def energy_for(p: Problem, reduction: float) -> float:
    """The energy a reduction leaves."""
    return p.now * 10 ** (-reduction / 10)


def unbeaten(energy: Floats, costs: Floats) -> Ints:
    """Places of the plans that none beats in energy, kg, money and hours at once, by falling energy; of equals the first."""
    order = np.lexsort((costs[:, HOURS], costs[:, MONEY], costs[:, KG], energy))
    values = np.column_stack([energy, costs])[order]
    alive = np.ones(len(order), dtype=bool)
    for i in range(len(order)):
        if alive[i]:
            # only what comes later can be beaten by it: it has no less energy
            later = alive[i + 1:]
            later[later] = (values[i + 1:][later] < values[i] - LITTLE * (1 + np.abs(values[i]))).any(axis=1)
    return np.asarray(order[alive][::-1], dtype=np.int64)
