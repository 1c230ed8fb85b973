"""What a search found, for a person: plans with their reasons, how sure, what comes next, and what would have to give."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ...figures.boxes import box_paths
from ...figures.job_figures import JobFigures
from ...figures.measures import less_measure
from ...figures.outlook import better
from ...figures.rounds import heard_at
from ...figures.ways import cap_of
from ...levels.bands import Floats
from ...levels.rows import QUANTITIES
from ...planning.front import Front, Plan, quiet
from ...planning.problem import HOURS, KG, MONEY, RESOURCES, reduction_db
from ...planning.search import Solver, askers
from ...planning.why import Named, why
from ...worded import of
from ...words import in_a_row, listed, plain, plural
from .build_ways import less_builds
from .costs import price_of
from .effects import weighted
from .model import FoundPlan, OptionView, PlansFound, RelaxedLimit
from .pricing import Elsewhere, Priced, build_taken, local, option_view, unit_view
from .unit import Option, Unit

MORE = 1.1
"""By how much a limit is raised to see what that would give."""
IF_CHANGED_S = 1.0
"""What finding that out may take; what is not found by then is not said."""
LITTLE_DB = 0.05
LEAST_MORE = {MONEY: 5.0, KG: 0.5}
"""Less more than this is no step worth naming."""


class Search(NamedTuple):
    """A search that has ended: what was tried, the front, which combination each of its plans is of, the plan as it stands,
    the place of one that takes no more, the limits, and the level found, the target and the reduction wanted."""

    job: JobFigures
    units: Sequence[Unit]
    weight_db: Floats
    tried: Sequence[Elsewhere]
    front: Front
    of: tuple[int, ...]
    own: tuple[int, Plan]
    instead: int | None
    limits: Floats
    goal: tuple[float | None, float | None, float | None]
    learned_db: float = 0.0
    """By how much what was read so far is above what was predicted of it."""
    paid: float = 1.0
    """Money to pay over money estimated."""


def found_plans(s: Search, shown: Sequence[Priced], own: Priced, final: bool = True) -> PlansFound:
    """The search in words and figures: the plans of its front, in order, as they were priced, and the one that stands. What would
    change it is asked once it is ``final``."""
    goal = s.job.doc.goal
    assert goal is not None
    mine, plans = _plan(s, own), tuple(_plan(s, x) for x in shown)
    used = [sorted({mine.choice[i], *(x.choice[i] for x in plans)}) for i in range(len(s.units))]
    slim = [{k: n for n, k in enumerate(ks)} for ks in used]

    def renumbered(x: FoundPlan) -> FoundPlan:
        return x.model_copy(update={"choice": tuple(slim[i][k] for i, k in enumerate(x.choice))})
    found, target, wanted = s.goal
    return PlansFound(
        sentence=_sentence(s, shown), detail=_detail(s, own), quantity=QUANTITIES[goal.quantity].label,
        unit=QUANTITIES[goal.quantity].unit,
        now_db=found, target_db=target, target_reduction_db=None if wanted is None else round(wanted, 2),
        units=tuple(unit_view(u, tuple(_option(s.job, u.options[k]) for k in ks)) for u, ks in zip(s.units, used, strict=True)),
        plans=tuple(renumbered(x) for x in plans), own=renumbered(mine), best=s.front.best, cheapest=s.front.cheapest,
        instead=s.instead, reached=s.front.reached, short_by_db=round(s.front.short_by_db, 2),
        most_reduction_db=round(s.front.most_reduction_db, 2), capped_by=_capped(s),
        relax=_relaxed(s), next_steps=tuple(_next(s, i) for i in range(len(plans))),
        limits={name: float(x) for name, x in zip(RESOURCES, s.limits, strict=True) if math.isfinite(x)},
        stacks=sum(u.compared for u in s.units), proven=s.front.proven and not _narrowed(s), gap_db=round(s.front.gap_db, 2),
        if_changed=_if_changed(s) if final else ())


def _narrowed(s: Search) -> bool:
    return any(u.narrowed for u in s.units)


def _option(job: JobFigures, option: Option) -> OptionView:
    return option_view(option, (option.cost.kg, price_of(job.shelf, option.cost), option.cost.hours))


def _plan(s: Search, one: Priced) -> FoundPlan:
    """A plan in figures: those it has once taken, and how it fares with other sources."""
    places, there, plan = local(s.units, one.plan), s.tried[one.at], one.plan
    now, then = [], []
    for unit, k in zip(s.units, places, strict=True):
        for j, h in enumerate(unit.paths):
            level = unit.level_db[k, j]
            for m in there.measures:
                level = less_measure(level, h.path, m)
            level = less_builds(s.job.doc, level, h.path, there.builds)
            now.append(weighted(h.now_db, s.weight_db))
            then.append(weighted(level, s.weight_db))
    before, after = np.array(now), np.array(then)
    lean = 0.0 if one.ahead is None else one.ahead.lean_db
    others = [round(10 * math.log10(before[:, k].sum() / max(after[:, k].sum(), 1e-30)) - lean, 2) + 0.0 for k in (1, 2)]
    sizes = np.cumsum([0, *(len(u.paths) for u in s.units)])
    energies = [after[sizes[i]:sizes[i + 1], 0].sum() for i in range(len(s.units))]
    offset, found = _offset(s), s.goal[0]
    kg, money, hours = plan.costs
    return FoundPlan(
        choice=tuple(places), measures=tuple(m.id for m in there.measures),
        builds=tuple(build_taken(w) for w in there.builds), reduction_db=round(plan.reduction_db, 2) + 0.0,
        within_db=0.0 if one.ahead is None else round(one.ahead.within_db, 2),
        level_db=None if found is None else round(found - _way(s) * (plan.reduction_db - s.learned_db), 2),
        added_kg=round(kg, 2) + 0.0, money=round(money, 2), estimated=one.estimated, hours=round(hours, 2),
        kinds=one.kinds,
        warmer_k=None if one.warm is None else round(one.warm.rise_k, 1), other_sources_db=(others[0], others[1]),
        path_db=tuple(round(10 * math.log10(max(e, 1e-9)) + offset, 1) for e in energies), why=_why(s, plan, one.at))


def _offset(s: Search) -> float:
    """What brings the model's levels to the one found, dB."""
    total, goal = 10 * math.log10(s.tried[0].problem.now), s.job.doc.goal
    heard = None if goal is None else heard_at(s.job, goal, s.job.doc.round_in("as found"))
    found = s.goal[0] if heard is None else heard[0]
    return 0.0 if found is None else found - total


def _way(s: Search) -> int:
    return 1 if s.job.doc.goal is None else better(s.job.doc.goal)


def _why(s: Search, plan: Plan, at: int) -> str:
    still, start = [], 0
    for u in s.units:
        still.append(next((start + k for k, o in enumerate(u.options) if o.still), -1))
        start += len(u.options)
    options = [o.name for u in s.units for o in u.options]
    now = [float(sum(weighted(h.now_db, s.weight_db)[0] for h in u.paths)) for u in s.units]
    names = Named((*(u.name for u in s.units), "the rest"), (*options, ""), (*still, start), (*now, 0.0))
    there = [*(m.name for m in s.tried[at].measures), *(w.name for w in s.tried[at].builds if w.name)]
    elsewhere = f"{listed(there)}, and: " if there else ""
    return elsewhere + why(s.tried[at].problem, plan, names)


def _sentence(s: Search, shown: Sequence[Priced]) -> str:
    plans, wanted = s.front.plans, s.goal[2]
    if not plans:
        return "No plan is within the limits."
    best = plans[-1]
    if wanted is None:
        return f"Up to {best.reduction_db:.1f} dB less within the limits."
    if s.front.cheapest is not None:
        one, at = plans[s.front.cheapest], shown[s.front.cheapest]
        within = "" if at.ahead is None else f" ± {plain(at.ahead.within_db)}"
        asks = ", if the machine stands how warm it gets: nobody said" if _heat_unknown(shown) else ""
        return f"Reached: {plain(one.reduction_db)}{within} dB less for {s.job.doc.job.currency} {one.costs[MONEY]:.0f}{asks}."
    short = f"{s.front.short_by_db:.1f} dB" if s.front.short_by_db >= LITTLE_DB else "less than 0.1 dB"
    return f"Out of reach by {short}: {best.reduction_db:.1f} dB is the most within the limits."


def _heat_unknown(shown: Sequence[Priced]) -> bool:
    return any(x.warm is not None and x.warm.limit_k is None for x in shown)


def _detail(s: Search, own: Priced) -> str:
    stacks = sum(u.compared for u in s.units)
    boxes = {w.words for ways in (*(o.builds for u in s.units for o in u.options), *(x.builds for x in s.tried))
             for w in ways if w.words}
    compared = [f"{stacks:,} stacks compared".replace(",", " ")] if stacks else []
    compared += [f"{plural(len(boxes), 'other box', 'other boxes')} kept as the best the shelf makes"] if boxes else []
    looked = in_a_row(compared) if compared else "Only what the job has was looked at"
    if abs(s.learned_db) >= LITTLE_DB:
        way = "less" if s.learned_db > 0 else "more"
        amount = f"{abs(s.learned_db):.1f} dB {way}"
        looked = f"What is laid gives {amount} than predicted, by the newest reading; the goal asks for that beside. {looked}"
    if box_paths(s.job.doc) and own.warm is None:
        looked = f"How warm the box gets nobody can tell: work it out on the desk. {looked}"
    if _narrowed(s):
        return f"{looked}. The clock left part of the shelf unseen: with more time there may be better plans."
    if s.front.proven:
        return f"{looked}; over all ways in together nothing better can be put together from those kept."
    missed = f"; up to {s.front.gap_db:.1f} dB may be missed" if s.front.gap_db >= LITTLE_DB else ""
    return f"{looked}. The clock ended the search before the whole front stood{missed}."


def _capped(s: Search) -> str:
    """Which way in holds back the most that could be had, and why, where that does not reach the goal."""
    wanted = s.goal[2]
    if wanted is None or s.front.most_reduction_db >= wanted:
        return ""
    least = [min(float(weighted(level, s.weight_db)[:, 0].sum()) for level in u.level_db) for u in s.units]
    unit = s.units[int(np.argmax(least))]
    path = unit.paths[0].path
    why_ = cap_of(s.job, path).words if path.surface_id is not None and cap_of(s.job, path).db is not None else (
        "nothing there takes off more")
    return f"{unit.name} holds it back: {why_}."


def _relaxed(s: Search) -> tuple[RelaxedLimit, ...]:
    units = dict(zip(RESOURCES, ("kg", s.job.doc.job.currency, "h"), strict=True))
    now = dict(zip(RESOURCES, s.limits.tolist(), strict=True))
    return tuple(RelaxedLimit(limit=name, now=now[name], to=math.ceil(to * 10 - 1e-6) / 10, unit=units[name])
                 for name, to in s.front.relax)


def _next(s: Search, i: int) -> str:
    """What a little more than a plan buys: the further plan that gives most per money, and per kilogram."""
    here = s.front.plans[i]
    further = [x for x in s.front.plans[i + 1:] if x.reduction_db >= here.reduction_db + LITTLE_DB]
    said = []
    for resource, unit in ((MONEY, s.job.doc.job.currency), (KG, "kg")):
        dearer = [x for x in further if x.costs[resource] > here.costs[resource] + LEAST_MORE[resource]]
        if not dearer:
            continue
        best = max(dearer, key=lambda x: (x.reduction_db - here.reduction_db) / (x.costs[resource] - here.costs[resource]))
        more = best.costs[resource] - here.costs[resource]
        said.append(f"{unit} {more:.0f} more gives {best.reduction_db - here.reduction_db:.1f} dB" if unit != "kg" else
                    f"{of(more, 'kg', '.1f')} more gives {best.reduction_db - here.reduction_db:.1f} dB")
    return f"{'; '.join(dict.fromkeys(said))}." if said else "Nothing more is to be had within the limits."


def _if_changed(s: Search) -> tuple[str, ...]:
    """What the best plan would give if one limit were a tenth higher."""
    if s.front.best is None:
        return ()
    at = s.of[s.front.best]
    p = s.tried[at].problem
    best = reduction_db(p, float(p.energy[np.array(s.front.plans[s.front.best].choice)].sum()))
    solver = Solver(p, IF_CHANGED_S)

    def said(resource: int, name: str) -> str:
        held = s.limits.copy()
        held[MONEY] /= s.paid
        held[resource] *= MORE
        got = solver.least(quiet(p), held)
        if got.choice is None or not got.proven:
            return ""
        more = reduction_db(p, float(p.energy[np.array(got.choice)].sum())) - best
        return f"A tenth more {name}: {more:.1f} dB more." if more >= LITTLE_DB else f"A tenth more {name} gives nothing."
    asked = [(resource, name) for resource, name in ((KG, "kilograms"), (MONEY, "money"), (HOURS, "hours"))
             if math.isfinite(s.limits[resource])]
    with askers() as hands:
        return tuple(filter(None, hands.map(lambda one: said(*one), asked)))
