"""The search over all units of a job together: for each combination of measures elsewhere one exact choice, merged to a front."""

from __future__ import annotations

import itertools
import math
import time
from collections.abc import Sequence
from functools import partial

import numpy as np

from ...errors import BadInput
from ...figures.goal import goal_rule, value_in
from ...figures.job_figures import JobFigures
from ...figures.loads import beside_load
from ...figures.measures import less_measure
from ...figures.path_levels import predicted_at_ear
from ...levels.bands import Floats
from ...levels.rows import Goal
from ...paths.rows import Measure
from ...planning.front import Front, Plan, least_instead, merged, plan_of, search
from ...planning.plan import weights_db
from ...planning.problem import Problem
from ...report import Report, silent
from ...surfaces.patches import patches
from .costs import Cost, alternative_cost, fixed_hours, pack_of
from .effects import weighted
from .model import PlansAsked, PlansFound
from .say import Elsewhere, Search, found_plans
from .units import Unit, Wish, laid, measure_cost, units_of

QUANTITY = {"LAeq": "dBA", "LCeq": "dBC", "low band": "low"}
"""Goals that are sums of energies over paths, and what the search calls them."""
MOST_ELSEWHERE = 4
"""Measures at the source or the listener that are tried in every combination; further ones stay as they are chosen."""
SHOW_EVERY_S = 4.0
"""How often a search under way is worked out into plans to look at."""
SHARE_OF_STACKS = 0.75
"""Of the search's progress: the rest is choosing among them."""


def find_plans(job: JobFigures, asked: PlansAsked, report: Report = silent) -> PlansFound:
    """The best plans over all surfaces, leaks and measures of a job within its limits.

    The job's own alternatives are the first answer; then every surface is searched, and what is chosen is exact over what was
    found. Raises BadInput where there is no goal that adds up, no way that may be treated, or nothing on the shelf; Stop from
    ``report``.
    """
    end = time.monotonic() + asked.seconds
    weight = weights_db(QUANTITY[_goal(job).quantity])
    known = {m.id for m in job.shelf.materials.values()}
    wrong = next((m for m in asked.struck if m not in known), None)
    if wrong is not None:
        raise BadInput(f"no material '{wrong}' is on the shelf", "struck", "strike one that is there")
    wish = Wish(weight, frozenset(asked.pinned), frozenset(asked.struck), own_only=True, anew=asked.anew)
    own = list(units_of(job, wish))
    if not own:
        raise BadInput("no way in has a level yet", "paths", "list the ways in under Trace, and set the goal")
    learned = learned_db(job, wish)
    first = _answer(job, own, weight, learned, 3.0)
    report(0.04, "from what the job has: looking further", lambda: first)
    units: list[Unit] = []

    def share() -> float:
        return 0.04 + (SHARE_OF_STACKS - 0.04) * len(units) / len(own)

    def tick(name: str, stacks: int) -> None:
        before = sum(u.predicted for u in units)
        report(share(), f"{name}: {before + stacks} stacks predicted")
    shown = time.monotonic()
    for unit in units_of(job, wish._replace(own_only=False, tick=tick)):
        units.append(unit)
        mixed = [*units, *own[len(units):]]
        if time.monotonic() - shown > SHOW_EVERY_S:
            report(share(), f"{unit.name} done", partial(_quick, job, mixed, weight, learned))
            shown = time.monotonic()
    return _answer(job, units, weight, learned, max(end - time.monotonic(), 2.0), report)


def _goal(job: JobFigures) -> Goal:
    goal = job.doc.goal
    if goal is None:
        raise BadInput("there is no goal yet, so nothing to plan for", "goals", "set it under Listen")
    if goal.quantity not in QUANTITY:
        raise BadInput(f"a goal of '{goal.quantity}' is no sum of energies over the ways in", "goals",
                       "plan by hand in Build, or set a goal in dB(A), dB(C) or the low band")
    return goal


def _quick(job: JobFigures, units: list[Unit], weight: Floats, learned: float) -> PlansFound:
    return _answer(job, units, weight, learned, 1.0)


def learned_db(job: JobFigures, wish: Wish) -> float:
    """By how much the newest reading is above what was predicted of what is laid by now, dB; 0 where nothing tells."""
    done = frozenset[str]() if wish.anew else laid(job.doc)
    rule = goal_rule(job, None)
    if not done or rule is None or rule.measured is None:
        return 0.0
    chosen = tuple(a if f"{a.surface_id}:{a.zone}".rstrip(":") in done else a.model_copy(update={"chosen": False})
                   for a in job.doc.alternatives)
    predicted = predicted_at_ear(job.of(job.doc.model_copy(update={"alternatives": chosen})))
    return 0.0 if predicted is None else rule.measured - predicted


def limits_of(job: JobFigures) -> Floats:
    """The job's limits on kg, money and hours; infinite where there is none."""
    given = job.doc.job.limits
    kg = min((x for x in (given.added_kg, given.carries_kg) if x is not None), default=math.inf)
    return np.array([kg, math.inf if given.money is None else given.money, math.inf if given.hours is None else given.hours])


def target_db(job: JobFigures) -> tuple[float | None, float | None, float | None]:
    """The goal as a level and as a reduction, and the level as found; None where it is not known."""
    goal = _goal(job)
    found = value_in(job, goal, job.doc.round_in("as found"))
    if goal.aim == "change by":
        return (None if found is None else found - goal.value), goal.value, found
    return goal.value, None if found is None else max(found - goal.value, 0.0), found


def _answer(
    job: JobFigures, units: list[Unit], weight: Floats, learned: float, seconds: float, report: Report = silent
) -> PlansFound:
    limits, (target, asked, found) = limits_of(job), target_db(job)
    # what came out louder than predicted so far has to be made up for
    wanted = None if asked is None else max(asked + learned, 0.0)
    every = [m for m in job.doc.measures if m.at != "path"]
    elsewhere, stay = every[:MOST_ELSEWHERE], tuple(m for m in every[MOST_ELSEWHERE:] if m.chosen)
    tried = [Elsewhere((*taken, *stay), problem_of(job, units, weight, (*taken, *stay)))
             for n in range(len(elsewhere) + 1) for taken in itertools.combinations(elsewhere, n)]
    end = time.monotonic() + seconds
    fronts: list[Front] = []
    for i, one in enumerate(tried):
        share = max(end - time.monotonic(), 0.2) / (len(tried) - i)

        def told(part: float, words: str, _so_far: object = None, i: int = i) -> None:
            report(SHARE_OF_STACKS + (1 - SHARE_OF_STACKS) * (i + part) / len(tried), words)
        fronts.append(search(one.problem, limits, wanted, share, told))
    own = _own(units, tried, every)
    instead = least_instead(tried[own[0]].problem, own[1], limits)
    front, of, place = merged(fronts, wanted, (own[0], instead))
    return found_plans(Search(job, units, weight, tried, front, of, own, place, limits, (found, target, asked), learned))


def _own(units: list[Unit], tried: Sequence[Elsewhere], elsewhere: list[Measure]) -> tuple[int, Plan]:
    """The plan as it stands, and which combination of measures elsewhere it has."""
    chosen = {m.id for m in elsewhere if m.chosen}
    at = next(i for i, x in enumerate(tried) if {m.id for m in x.measures} == chosen)
    starts = np.cumsum([0, *(len(u.options) for u in units)])
    choice = tuple(int(starts[i]) + u.own for i, u in enumerate(units))
    return at, plan_of(tried[at].problem, (*choice, int(starts[-1])))


def problem_of(job: JobFigures, units: list[Unit], weight: Floats, taken: tuple[Measure, ...]) -> Problem:
    """The choice over all units with some measures taken elsewhere; what goes with any plan is a last path of one option."""
    energies, path = [], []
    for i, unit in enumerate(units):
        level = unit.level_db
        for m in taken:
            level = np.stack([less_measure(level[:, k], h.path, m) for k, h in enumerate(unit.paths)], axis=1)
        energies.append(weighted(level, weight)[..., 0].sum(axis=1))
        path += [i] * len(unit.options)
    options = [o for u in units for o in u.options]
    rest = _beside(job, units)
    for m in taken:
        rest = rest.plus(measure_cost(job, m))
    costs = [*(o.cost for o in options), rest]
    needed = [(*own, *([READ_AGAIN] if cost.hours > 0 else [])) for own, cost in zip(
        (*(o.needs for o in options), ()), costs, strict=True)]
    needs = sorted({n for names in needed for n in names})
    packs = sorted({name for c in costs for name, _ in c.uses})
    sizes = [pack_of(job.shelf, name) for name in packs]
    access = {p.shares_access: fixed_hours(job, p)[1] for s in job.doc.surfaces for p in patches(s) if p.shares_access}
    # whatever is worked on, the readings are taken again after it
    access[READ_AGAIN] = job.shelf.minutes[READ_AGAIN] * job.shelf.pace / 60
    now = sum(float(weighted(h.now_db, weight)[0]) for u in units for h in u.paths)
    if not now > 0:
        raise BadInput("nothing reaches the listener by the ways listed", "paths", "look at their levels under Trace")
    return Problem(
        path=np.array([*path, len(units)], dtype=np.int64), energy=np.concatenate([*energies, [0.0]]),
        costs=np.array([[c.kg, c.money, c.hours] for c in costs]),
        needs=np.array([[n in names for n in needs] for names in needed], dtype=bool).reshape(len(costs), len(needs)),
        once_costs=np.array([[0.0, 0.0, access[n]] for n in needs]).reshape(len(needs), 3),
        uses=np.array([[dict(c.uses).get(n, 0.0) for n in packs] for c in costs]).reshape(len(costs), len(packs)),
        pack_size=np.array([x.size for x in sizes]), pack_money=np.array([x.money for x in sizes]),
        on_hand=np.zeros(len(packs)), now=now)


def _beside(job: JobFigures, units: list[Unit]) -> Cost:
    """What any plan has with it: pieces, goods, rattles, and stacks on surfaces no way leads through."""
    load = beside_load(job)
    minutes = job.shelf.minutes["cure rattles"] * sum(
        not r.done and job.shelf.offers.cure(r.kind, r.cure) is not None for r in job.doc.rattles)
    total = Cost(load.kg, load.money, minutes * job.shelf.pace / 60)
    within = {u.surface.id for u in units if u.surface is not None}
    for surface in job.doc.surfaces:
        for patch in patches(surface):
            one = job.doc.chosen(patch.id, patch.zone)
            if surface.id not in within and one is not None:
                own, access = fixed_hours(job, patch)
                total = total.plus(alternative_cost(job, patch, one)).plus(Cost(hours=own + access))
    return total


READ_AGAIN = "read again"
