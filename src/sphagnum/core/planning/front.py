"""All that can be said of a choice within limits: the best, the cheapest that is enough, the front between, what must give."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats, Ints
from ..report import Report, silent
from ..words import plural
from .problem import (
    HOURS,
    KG,
    LITTLE,
    MONEY,
    RESOURCES,
    Choice,
    Problem,
    energies,
    energy_for,
    reduction_db,
    spent,
    unbeaten,
)
from .search import SCALE, Solver, Weights, askers, every_choice

TRY_ALL = 30_000
"""Up to so many plans each is tried, and the front is whole; above, it is found plan by plan."""
LEVELS = 24
"""Steps along each resource of a front found plan by plan, if nobody asks for fewer."""
MOST_PLANS = 200
DIGITS = 3
"""Decimals printed of dB, kg, money and hours."""
LEAN = 1e-2
"""Weight of kg, money and hours beside the energy, which is ten thousand now: far below what is printed of a decibel, and enough
that no plan found is beaten by another."""
ONLY = {KG: (0.0, 1.0, 0.0, 0.0), MONEY: (0.0, 0.0, 1.0, 0.0), HOURS: (0.0, 0.0, 0.0, 1.0)}


class Plan(NamedTuple):
    """A choice with what it gives and takes: dB, and kg, money, hours."""

    choice: Choice
    reduction_db: float
    costs: tuple[float, float, float]


class Front(NamedTuple):
    """Plans within the limits by rising reduction, none beaten by another; ``best`` and ``cheapest`` are places in it.

    ``relax``: per resource that alone would have to give, how far; ``gap_db`` bounds what the search may have missed.
    """

    plans: tuple[Plan, ...]
    best: int | None
    cheapest: int | None
    most_reduction_db: float
    reached: bool
    short_by_db: float
    relax: tuple[tuple[str, float], ...]
    proven: bool
    gap_db: float


def plan_of(p: Problem, choice: Choice) -> Plan:
    """A choice with its figures."""
    row = np.array([choice], dtype=np.int64)
    kg, money, hours = spent(p, row)[0].tolist()
    return Plan(choice, reduction_db(p, float(energies(p, row)[0])), (kg, money, hours))


def quiet(p: Problem) -> Weights:
    """Weights that look for the least energy, and among plans that print alike for the leanest."""
    span = np.maximum(np.abs(p.costs).max(axis=0), 1e-6)
    return (1.0, LEAN / float(span[KG]), LEAN / float(span[MONEY]), LEAN / float(span[HOURS]))


def search(
    p: Problem, limits: Floats, target_db: float | None, seconds: float, report: Report = silent, levels: int = LEVELS
) -> Front:
    """The front of a problem within ``limits`` (kg, money, hours; infinite where there is none), at ``levels`` of each.

    Ends by the clock after ``seconds`` with the best so far, and says then what may be missed. Raises Stop from ``report``.
    """
    most = reduction_db(p, sum(float(p.energy[p.free(i)].min()) for i in range(p.paths)))
    solver = Solver(p, seconds)
    whole = _how_many(p) <= TRY_ALL
    ends = _Ends(_all(p, limits), True, 0.0) if whole else _ends(solver, limits, target_db)
    said = _Asked(target_db, most, ends)
    report(0.2, "the ends of the front stand", lambda: judged(ends.plans, said))
    needed = np.inf if target_db is None else energy_for(p, target_db)
    if not _enough(ends.plans, target_db) and (target_db is None or target_db <= most + LITTLE):
        said = said._replace(relax=_relax(solver, limits, needed))
    plans = ends.plans
    if not whole and plans:
        plans = _stepped(solver, limits, plans, levels, report, lambda now: judged(now, said))
    return judged(plans, said._replace(ends=ends._replace(proven=ends.proven and solver.left_s > 0)))


def least_instead(p: Problem, plan: Plan, limits: Floats, seconds: float) -> Plan | None:
    """The best plan within the limits that takes no more kg, money and hours than a given one; None where there is none, or the
    clock ends first."""
    solver = Solver(p, seconds)
    held = np.minimum(limits, plan.costs)
    got = solver.least(quiet(p), held)
    return None if got.choice is None else plan_of(p, got.choice)


def merged(
    fronts: list[Front], target_db: float | None, extra: tuple[int, Plan | None]
) -> tuple[Front, tuple[int, ...], int | None]:
    """Several fronts as one, with a further plan that belongs to one of them; which front each plan is of, and the place of
    the further one or of the plan that stands for it."""
    of = {id(x): i for i, f in enumerate(fronts) for x in f.plans}
    plans = [x for f in fronts for x in f.plans]
    if extra[1] is not None:
        of[id(extra[1])] = extra[0]
        plans.append(extra[1])
    relax: dict[str, float] = {}
    for name, to in (r for f in fronts for r in f.relax):
        relax[name] = min(to, relax.get(name, to))
    ends = _Ends(plans, all(f.proven for f in fronts), max(f.gap_db for f in fronts))
    found = judged(plans, _Asked(target_db, max(f.most_reduction_db for f in fronts), ends, tuple(relax.items())))
    one = extra[1]
    place = None if one is None else next((i for i, x in enumerate(found.plans) if _stands_for(x, one)), None)
    return found, tuple(of[id(x)] for x in found.plans), place


def _stands_for(plan: Plan, other: Plan) -> bool:
    """Whether a plan is at least as good as another in everything, as printed."""
    return round(plan.reduction_db, DIGITS) >= round(other.reduction_db, DIGITS) and all(
        round(a, DIGITS) <= round(b, DIGITS) for a, b in zip(plan.costs, other.costs, strict=True))


class _Ends(NamedTuple):
    plans: list[Plan]
    proven: bool
    gap_db: float


class _Asked(NamedTuple):
    """What a front is judged by."""

    target_db: float | None
    most_db: float
    ends: _Ends
    relax: tuple[tuple[str, float], ...] = ()


def judged(plans: list[Plan], said: _Asked) -> Front:
    """Plans as a front: none beaten as printed, at most so many."""
    target = said.target_db
    # a plan that is enough is not beaten by one that is not, though both print alike
    kept = _spread([x for part in (False, True) for x in _unbeaten([y for y in plans if _is_enough(y, target) is part])], target)
    best = len(kept) - 1 if kept else None
    enough = [i for i, plan in enumerate(kept) if target is not None and _is_enough(plan, target)]
    cheapest = min(enough, key=lambda i: (kept[i].costs[MONEY], -kept[i].reduction_db)) if enough else None
    reached = bool(kept) if target is None else cheapest is not None
    short = 0.0 if target is None or reached else target - (kept[-1].reduction_db if kept else 0.0)
    return Front(tuple(kept), best, cheapest, said.most_db, reached, short, () if reached else said.relax,
                 said.ends.proven, said.ends.gap_db)


def _is_enough(plan: Plan, target_db: float | None) -> bool:
    return target_db is None or plan.reduction_db >= target_db - LITTLE


def _enough(plans: list[Plan], target_db: float | None) -> bool:
    return any(_is_enough(x, target_db) for x in plans)


def _unbeaten(plans: list[Plan]) -> list[Plan]:
    """Those that none beats as printed, by rising reduction."""
    if not plans:
        return []
    energy = np.array([-round(x.reduction_db, DIGITS) for x in plans])
    kept: Ints = unbeaten(energy, np.round(np.array([x.costs for x in plans]), DIGITS))
    return [plans[i] for i in kept]


def _how_many(p: Problem) -> float:
    return float(np.prod([float(len(p.free(i))) for i in range(p.paths)]))


def _all(p: Problem, limits: Floats) -> list[Plan]:
    every = every_choice(p)
    costs, energy = spent(p, every), energies(p, every)
    within = (costs <= limits + LITTLE * (1 + np.abs(np.where(np.isfinite(limits), limits, 0.0)))).all(axis=1)
    places = np.flatnonzero(within)
    return [plan_of(p, tuple(every[places[i]].tolist())) for i in unbeaten(energy[places], costs[places])]


def _ends(solver: Solver, limits: Floats, target_db: float | None) -> _Ends:
    """The best plan, and for each resource the one that takes least of it, of all plans and of those that are enough."""
    p = solver.p
    enough = np.inf if target_db is None else energy_for(p, target_db)

    def leanest(resource: int, most_energy: float) -> tuple[Choice | None, bool]:
        least = solver.least(ONLY[resource], limits, most_energy)
        if least.choice is None:
            return None, least.proven
        held = limits.copy()
        held[resource] = plan_of(p, least.choice).costs[resource]
        return solver.least(quiet(p), held, most_energy).choice or least.choice, least.proven
    with askers() as hands:
        first = hands.submit(solver.least, quiet(p), limits)
        asked = [hands.submit(leanest, resource, most_energy)
                 for most_energy in dict.fromkeys((enough, np.inf)) for resource in (MONEY, KG, HOURS)]
        best = first.result()
        if best.choice is None:
            hands.shutdown(cancel_futures=True)
            return _Ends([], best.proven, 0.0)
        found = [x.result() for x in asked]
    plans = [plan_of(p, choice) for choice in (best.choice, *(c for c, _ in found)) if choice is not None]
    gap = 0.0
    if not best.proven:
        bound = best.bound / SCALE * p.now if np.isfinite(best.bound) else 0.0
        gap = max(reduction_db(p, bound) - plans[0].reduction_db, 0.0)
    return _Ends(plans, best.proven and all(proven for _, proven in found), gap)


def _relax(solver: Solver, limits: Floats, most_energy: float) -> tuple[tuple[str, float], ...]:
    out = []
    for resource in np.flatnonzero(np.isfinite(limits)).tolist():
        held = limits.copy()
        held[resource] = np.inf
        least = solver.least(ONLY[resource], held, most_energy)
        if least.choice is not None:
            # rounded up: what is said to be enough is enough
            to = plan_of(solver.p, least.choice).costs[resource]
            out.append((RESOURCES[resource], float(np.ceil(to * 10**DIGITS - 1e-6) / 10**DIGITS)))
    return tuple(out)


def _stepped(
    solver: Solver, limits: Floats, plans: list[Plan], levels: int, report: Report, so_far: Callable[[list[Plan]], Front]
) -> list[Plan]:
    """Plans of the least energy at even steps of each resource, coarse steps first; until the clock ends."""
    found = list(plans)
    steps: list[tuple[int, int, float]] = []
    for resource in (MONEY, KG, HOURS):
        values = [plan.costs[resource] for plan in plans]
        low, high = min(values), max(values)
        if high - low > LITTLE:
            steps += [(_coarse(k, levels), resource, low + (high - low) * k / levels) for k in range(1, levels)]
    weights = quiet(solver.p)

    def step(resource: int, level: float) -> Choice | None:
        held = limits.copy()
        held[resource] = level
        return solver.least(weights, held).choice
    with askers() as hands:
        asked = [hands.submit(step, resource, level) for _, resource, level in sorted(steps)]
        try:
            for done, one in enumerate(asked, start=1):
                if (choice := one.result()) is not None:
                    found.append(plan_of(solver.p, choice))
                report(0.2 + 0.8 * done / len(asked), f"{plural(len(found), 'plan')} looked at", partial(so_far, list(found)))
        finally:
            hands.shutdown(cancel_futures=True)
    return found


def _coarse(k: int, levels: int) -> int:
    """Order of the steps: those that halve the front come first."""
    size = levels
    while k % size:
        size //= 2
    return -size


def _spread(plans: list[Plan], target_db: float | None) -> list[Plan]:
    """At most so many plans, the ends of the front among them, the rest where the front is emptiest."""
    if len(plans) <= MOST_PLANS:
        return plans
    values = np.array([(x.reduction_db, *x.costs) for x in plans])
    scaled = (values - values.min(axis=0)) / np.maximum(np.ptp(values, axis=0), 1e-9)
    enough = [i for i, x in enumerate(plans) if target_db is not None and _is_enough(x, target_db)]
    taken = {len(plans) - 1}
    for among in (list(range(len(plans))), enough):
        taken |= {min((plans[i].costs[r], -plans[i].reduction_db, i) for i in among)[2] for r in range(3)} if among else set()
    far = np.min([np.abs(scaled - scaled[i]).sum(axis=1) for i in taken], axis=0)
    while len(taken) < MOST_PLANS:
        i = int(np.argmax(far))
        taken.add(i)
        far = np.minimum(far, np.abs(scaled - scaled[i]).sum(axis=1))
    return [plans[i] for i in sorted(taken)]
