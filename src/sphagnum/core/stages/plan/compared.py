"""Stacks compared by what they give and cost: of those not predicted yet from below, so that most never need be."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from ...levels.bands import Bools, Floats, Ints
from ...planning.problem import LITTLE, beaten_by
from .candidates import Layers
from .effects import Effects

ENERGIES = 3
"""Columns of a row that are energies; kg, money and hours follow."""
EASED = np.array([0.92] * ENERGIES + [1.0] * 3)
"""Bounds are taken 0.36 dB lower: a damping also moves the resonance of a sheet on felt over it, by which both together were up
to 0.31 dB quieter than their sum, in 55 000 stacks of made-up jobs."""
AT_ONCE = 256
"""Rows held against the front in one go."""
LEAST_CLOSE = 1e-12
"""Stands for what a close fit lets out at least: a share that is none, of a wall that stands close."""


class Tried(NamedTuple):
    """Stacks that were predicted: their effects, and their rows: energies, kg, money, hours; infinite where none may be laid."""

    stacks: tuple[Layers, ...]
    effects: Effects
    rows: Floats

    def at(self, places: Sequence[int]) -> Tried:
        """Those at some places."""
        at = np.array(places, dtype=np.int64)
        return Tried(tuple(self.stacks[i] for i in places), Effects(*(x[at] for x in self.effects)), self.rows[at])

    def beside(self, other: Tried) -> Tried:
        """Both in a row."""
        return Tried(self.stacks + other.stacks,
                     Effects(*(np.concatenate(x) for x in zip(self.effects, other.effects, strict=True))),
                     np.concatenate([self.rows, other.rows]))


class Compared:
    """Rows none of which may beat what is kept: where a row is not ``known``, its energies are bounds from below, and ``look``
    gives the true row once it is on the front. What comes out is what knowing all of them would give."""

    def __init__(self, rows: Floats, known: Bools, look: Callable[[Ints], Floats], slack: Floats | float = 1.0) -> None:
        self.rows, self._known, self._look, self._slack = rows.copy(), known.copy(), look, slack
        self._beater = np.full(len(rows), -1, dtype=np.int64)
        self._front = np.zeros(0, dtype=np.int64)
        self._changed(np.arange(len(rows)))

    def front(self) -> Ints:
        """Places of the rows that none beats, all of them known."""
        while (new := self._front[~self._known[self._front]]).size:
            self.rows[new] = self._look(new)
            self._known[new] = True
            self._changed(new)
        return self._front

    def strike(self, places: Sequence[int]) -> None:
        """Takes rows out: what only they beat comes up again."""
        self.rows[list(places)] = np.inf
        self._changed(np.array(places))

    def _changed(self, places: Ints) -> None:
        """Rows got worse. What else is on the front stays: what comes up was beaten by what beats none of it."""
        stay = self._front[~np.isin(self._front, places)]
        up = np.concatenate([places, np.flatnonzero(np.isin(self._beater, places))])
        up = up[np.isfinite(self.rows[up]).all(axis=1)]
        self._beater[up] = -1
        most = np.asfortranarray(self.rows[stay] - LITTLE * (1 + np.abs(self.rows[stay])))
        for start in range(0, len(up) if len(stay) else 0, AT_ONCE):
            some = up[start:start + AT_ONCE]
            eased = self.rows[some] * self._slack
            beaten = np.logical_and.reduce([own[:, None] >= other for own, other in zip(eased.T, most.T, strict=True)])
            self._beater[some] = np.where(np.any(beaten, axis=1), stay[np.argmax(beaten, axis=1)], -1)
        up = up[self._beater[up] < 0]
        kept, by = beaten_by(self.rows[up], self._slack)
        self._beater[up] = np.where(by < 0, -1, up[by])
        self._front = np.sort(np.concatenate([stay, up[kept]]))


def together(one: Effects, other: Effects, nothing: Effects) -> Effects:
    """The most two parts of a stack do together, each (stacks, 21): what each gains alone adds up.

    What lies over a damping shares its panel with it, so that together they do less at the ear than the sum, but for ``EASED``: a
    bound held against the models by the tests, not proven of them. What a close fit lets out hangs on the weight of both: it is
    taken as next to nothing.
    """
    bare = np.nan_to_num(nothing.loss_db, nan=0.0)
    return Effects(one.loss_db + other.loss_db - bare, one.less_db + other.less_db - nothing.less_db,
                   np.maximum(one.inside, other.inside), np.minimum(one.close, LEAST_CLOSE),
                   np.full_like(one.cavities_hz, np.nan))
