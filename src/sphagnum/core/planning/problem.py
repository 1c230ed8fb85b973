"""A choice of one option per path as arrays: energies that add, costs, what is paid once, what is bought in whole packs."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..levels.bands import Bools, Floats, Ints

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
    barred: Bools = np.zeros(0, dtype=bool)
    """(options,): those no plan takes; empty: none."""
    once_money: Floats = np.zeros(0)
    """(once,): what each of what is needed once counts beside the money when plans are compared; never paid."""
    kinds: Bools = np.zeros(0, dtype=bool)
    """(once,): which of what is needed once are kinds of material; at most ``most_kinds`` are taken."""
    most_kinds: float = math.inf
    draws: Floats = np.zeros((0, 0))
    """(options, drawn): what is taken from a store in which there is only so much: ``drawn_most`` (drawn,)."""
    drawn_most: Floats = np.zeros(0)
    alike: Ints = np.zeros((0, 0), dtype=np.int64)
    """(pairs, options): +1 of one path, −1 of its twin, 0 else; of each row a plan takes both or neither."""

    def free(self, path: int) -> Ints:
        """Places of the options of a path that a plan may take."""
        mine = self.path == path
        return np.flatnonzero(mine & ~self.barred if self.barred.size else mine)

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


def allowed(p: Problem, choices: Ints) -> Bools:
    """Which choices take no more kinds, and no more out of the store, than they may, and do alike to twins; shape (choices,)."""
    fine = np.ones(len(choices), dtype=bool)
    if p.kinds.any() and math.isfinite(p.most_kinds):
        fine &= p.needs[choices][:, :, p.kinds].any(axis=1).sum(axis=1) <= p.most_kinds
    if p.alike.size:
        fine &= (p.alike[:, choices].sum(axis=2) == 0).all(axis=0)
    if p.drawn_most.size:
        fine &= (p.draws[choices].sum(axis=1) <= p.drawn_most + LITTLE).all(axis=1)
    return fine


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
    return np.asarray(unbeaten_rows(np.column_stack([energy, costs]))[::-1])


def unbeaten_rows(values: Floats, slack: Floats | float = 1.0) -> Ints:
    """Places of the rows that no other row beats in every column, by rising first column; less is better, of equals the first.

    ``slack``, per column: a row is beaten only by what beats it even at so much of its value.
    """
    return beaten_by(values, slack)[0]


def beaten_by(values: Floats, slack: Floats | float = 1.0) -> tuple[Ints, Ints]:
    """As ``unbeaten_rows``, and for each row the place of one that beats it, −1 where none does."""
    if not len(values):
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    low, span = values.min(axis=0), np.maximum(np.ptp(values, axis=0), 1e-300)
    # what is good in all of it first: a row is beaten only by what comes before it, and most are at once
    order = np.lexsort((*values.T[::-1], ((values - low) / span).sum(axis=1)))
    rows = values[order]
    most = rows - LITTLE * (1 + np.abs(rows))
    rest, eased = np.arange(len(order)), np.ascontiguousarray((rows * slack).T)  # column by column is quicker by far
    by = np.full(len(order), -1, dtype=np.int64)
    kept: list[int] = []
    while rest.size:
        i, rest, eased = int(rest[0]), rest[1:], eased[:, 1:]
        kept.append(i)
        stays = np.logical_or.reduce([column < least for column, least in zip(eased, most[i], strict=True)])
        if not stays.all():
            by[order[rest[~stays]]] = order[i]
            rest, eased = rest[stays], eased[:, stays]
    left = order[kept]
    return np.asarray(left[np.lexsort((left, *values[left].T[::-1]))], dtype=np.int64), by
