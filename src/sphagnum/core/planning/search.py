"""One question at a time put to the integer solver: the least of a sum within limits, its proof, and the clock."""

from __future__ import annotations

import os
import time
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
import scipy

from ..levels.bands import Floats, Ints
from .problem import LITTLE, MONEY, Choice, Problem, allowed, energies, spent

SCALE = 1e4
"""The energy now as the solver sees it: its tolerances are then far below a thousandth of a decibel."""
TIGHTER = 4
"""How often limits are drawn tighter where the solver's tolerance let a plan over them."""


Weights = tuple[float, float, float, float]
"""Of the energy as the solver sees it, kg, money and hours."""


class Answer(NamedTuple):
    """A plan found (None: none is within the limits, or the clock ended first), the least the sum can be, and whether that
    is proven."""

    choice: Choice | None
    bound: float
    proven: bool


def askers() -> ThreadPoolExecutor:
    """Threads that put questions beside one another: the solver lets go of the interpreter, and what comes out does not depend on
    which ends first."""
    return ThreadPoolExecutor(os.cpu_count() or 1)


class Solver:
    """Puts questions about one problem until its clock ends."""

    def __init__(self, problem: Problem, seconds: float) -> None:
        self.p, self._end = problem, time.monotonic() + seconds
        n, once, packs = len(problem.path), len(problem.once_costs), len(problem.pack_size)
        self._n, self._width = n, n + once + packs
        self._matrix, self._low, self._high = _joins(problem, n, once, packs)
        top = np.ceil(_most_used(problem) / problem.pack_size) if packs else np.zeros(0)
        may = 1.0 - problem.barred if problem.barred.size else np.ones(n)
        self._bounds = scipy.optimize.Bounds(np.zeros(self._width), np.concatenate([may, np.ones(once), top]))
        self._whole = np.concatenate([np.ones(n), np.zeros(once), np.ones(packs)])
        self._costs = np.zeros((3, self._width))
        self._costs[:, :n], self._costs[:, n:n + once] = problem.costs.T, problem.once_costs.T
        self._costs[MONEY, n + once:] = problem.pack_money
        self._compared = self._costs.copy()
        if problem.once_money.size:
            self._compared[MONEY, n:n + once] += problem.once_money
        self._energy = np.zeros(self._width)
        self._energy[:n] = problem.energy * (SCALE / problem.now)

    @property
    def left_s(self) -> float:
        """How long the clock still runs, s."""
        return self._end - time.monotonic()

    def least(self, weights: Weights, most: Floats, most_energy: float = np.inf) -> Answer:
        """The plan of the least weighted sum of energy (scaled), kg, money and hours, within limits.

        ``most`` (3,) of kg, money and hours, infinite where nothing limits; ``most_energy`` in the problem's own unit.
        """
        limits, energy = most.astype(float), most_energy
        for _ in range(TIGHTER):
            found = self._ask(weights, limits, energy)
            if found.choice is None:
                return found
            choice = np.array([found.choice], dtype=np.int64)
            over = spent(self.p, choice)[0] - most
            over_energy = float(energies(self.p, choice)[0]) - most_energy
            too_much = over > LITTLE * (1 + np.abs(np.where(np.isfinite(most), most, 0.0)))
            if not too_much.any() and over_energy <= LITTLE * self.p.now:
                return found
            limits = limits - np.where(too_much, 2 * over, 0.0)
            energy -= 2 * max(over_energy, 0.0)
        return Answer(None, found.bound, False)

    def _ask(self, weights: Weights, most: Floats, most_energy: float) -> Answer:
        seconds = self.left_s
        if seconds <= 0:
            return Answer(None, -np.inf, False)
        rows, highs = [self._matrix], [self._high]
        lows = [self._low]
        for i in range(3):
            if np.isfinite(most[i]):
                rows.append(scipy.sparse.csr_array(self._costs[i][None, :]))
                highs.append(np.array([most[i]]))
                lows.append(np.array([-np.inf]))
        if np.isfinite(most_energy):
            rows.append(scipy.sparse.csr_array(self._energy[None, :]))
            highs.append(np.array([most_energy * (SCALE / self.p.now)]))
            lows.append(np.array([-np.inf]))
        aim = weights[0] * self._energy + np.array(weights[1:]) @ self._compared
        got = scipy.optimize.milp(
            aim, integrality=self._whole, bounds=self._bounds,
            constraints=scipy.optimize.LinearConstraint(
                scipy.sparse.vstack(rows, format="csc"), np.concatenate(lows), np.concatenate(highs)),
            options={"time_limit": seconds, "mip_rel_gap": 0.0})
        bound = -np.inf if got.mip_dual_bound is None else float(got.mip_dual_bound)
        return Answer(None if got.x is None else self._read(got.x), bound, got.status in (0, 2))

    def _read(self, x: Floats) -> Choice:
        taken = x[: self._n]
        of = (self.p.free(i) for i in range(self.p.paths))
        return tuple(int(mine[np.argmax(taken[mine])]) for mine in of)


def _most_used(p: Problem) -> Floats:
    most = np.zeros(len(p.pack_size))
    for i in range(p.paths):
        most += p.uses[p.path == i].max(axis=0)
    return np.maximum(most - p.on_hand, 0.0)


def _joins(p: Problem, n: int, once: int, packs: int) -> tuple[scipy.sparse.csr_array, Floats, Floats]:
    """One option per path; what is needed is paid; what is used is bought or on hand."""
    width = n + once + packs
    rows: list[Floats] = []
    low: list[float] = []
    high: list[float] = []
    for i in range(p.paths):
        row = np.zeros(width)
        row[:n] = p.path == i
        rows.append(row)
        low.append(1.0)
        high.append(1.0)
        for k in range(once):
            if (needing := (p.path == i) & p.needs[:, k]).any():
                row = np.zeros(width)
                row[:n], row[n + k] = needing, -1.0
                rows.append(row)
                low.append(-np.inf)
                high.append(0.0)
    for k in range(packs):
        row = np.zeros(width)
        row[:n], row[n + once + k] = p.uses[:, k], -p.pack_size[k]
        rows.append(row)
        low.append(-np.inf)
        high.append(float(p.on_hand[k]))
    if p.kinds.any() and np.isfinite(p.most_kinds):
        row = np.zeros(width)
        row[n:n + once] = p.kinds
        rows.append(row)
        low.append(-np.inf)
        high.append(p.most_kinds)
    for pair in p.alike:
        row = np.zeros(width)
        row[:n] = pair
        rows.append(row)
        low.append(0.0)
        high.append(0.0)
    for k, most in enumerate(p.drawn_most):
        row = np.zeros(width)
        row[:n] = p.draws[:, k]
        rows.append(row)
        low.append(-np.inf)
        high.append(float(most))
    return scipy.sparse.csr_array(np.array(rows)), np.array(low), np.array(high)


def every_choice(p: Problem) -> Ints:
    """All plans there are that take nothing barred and no more than they may, shape (plans, paths)."""
    parts = [p.free(i) for i in range(p.paths)]
    every: Ints = np.asarray(np.stack(np.meshgrid(*parts, indexing="ij"), axis=-1).reshape(-1, p.paths), dtype=np.int64)
    return every[allowed(p, every)]
