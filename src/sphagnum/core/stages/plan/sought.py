"""What a search is to find and within what: the goal, the limits, what is left out, and what deeper linings would reach."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from ...errors import BadInput
from ...figures.boxes import box_paths
from ...figures.goal import goal_rule, instead_of_a_plan, value_in
from ...figures.job_figures import JobFigures
from ...figures.outlook import QUANTITY, better, predicted_at_ear
from ...figures.where import room_of
from ...hands import Hands
from ...levels.bands import Floats
from ...levels.rows import Goal
from ...worded import in_mm, of
from ...words import listed
from .build_ways import BuildWay, builds_begun, key_of_build
from .model import PlansAsked, PlansFound
from .pricing import Drafts, Trade
from .problem import on_hand_m2
from .unit import Unit, Wish, laid
from .units import units_of


class Sought(NamedTuple):
    """What a search goes by: the job, what was asked, the weights of its quantity, by how much the newest reading is above what
    was predicted, the trade's rules, and what can be done with builds that act on all that is heard."""

    job: JobFigures
    asked: PlansAsked
    weight_db: Floats
    learned_db: float
    trade: Trade
    drafts: Drafts
    """Layouts drafted so far."""
    hands: Hands
    """Who lays plans out."""
    builds: tuple[tuple[BuildWay, ...], ...] = ()


def left_out(job: JobFigures, asked: PlansAsked) -> frozenset[str]:
    """Materials a search does not lay. BadInput names one that is not on the shelf."""
    known = job.shelf.materials
    for field in ("struck", "only"):
        wrong = next((m for m in getattr(asked, field) if m not in known), None)
        if wrong is not None:
            raise BadInput(f"no material '{wrong}' is on the shelf", field, "name one that is there")
    out = set(asked.struck)
    laid_ = [m for m in known.values() if m.lies and m.roles]
    if asked.only:
        out |= {m.id for m in laid_ if m.id not in asked.only}
    if asked.stock:
        out |= {m.id for m in laid_ if not any(on_hand_m2(job, f"{m.id}@{mm:g}") for mm in m.thicknesses_mm)}
    return frozenset(out)


DEEPER = 3.0
"""How many times the usual depth is tried where the goal is out of reach within it."""
DEEPER_WIDTH = 0.15


def deeper(sought: Sought, wish: Wish, found: PlansFound, answer: Callable[[Sought, list[Unit]], PlansFound]) -> str:
    """The depth that would reach a goal that is out of reach within what is usual, in words; empty where none does, or nobody's
    judgement stands in the way. ``answer`` searches without laying out."""
    job = sought.job
    usual = {s.id: room.mm for s in job.doc.surfaces for room in (room_of(job, s),)
             if not room.said and room.mm is not None}
    if not usual or found.target_reduction_db is None or box_paths(job.doc):
        return ""
    surfaces = tuple(s.model_copy(update={"depth_limit_mm": DEEPER * usual[s.id]}) if s.id in usual else s
                     for s in job.doc.surfaces)
    there = job.of(job.doc.model_copy(update={"surfaces": surfaces}))
    then = answer(sought._replace(job=there, trade=Trade(there, sought.trade.kept)),
                  [*units_of(there, wish._replace(width=lambda _before, _all: DEEPER_WIDTH))])
    if then.cheapest is None:
        return ""
    said = []
    for unit, k in zip(then.units, then.plans[then.cheapest].choice, strict=True):
        for way in unit.options[k].ways:
            depth = sum(x.thickness_mm for x in way.layers or () if job.shelf.material(x.material).lies)
            if way.surface_id in usual and depth > usual[way.surface_id]:
                said.append(f"{unit.name} {of(depth, 'mm', '.0f')} instead of {in_mm(usual[way.surface_id])}")
    return "" if not said else (
        f"Deeper linings would reach it: {listed(said)}. The depths are judged: measure what there is, and say it.")


def goal_of(job: JobFigures) -> Goal:
    """The goal a plan is searched for; BadInput where there is none, or none of the kinds that can be searched for."""
    goal = job.doc.goal
    if goal is None:
        raise BadInput("there is no goal yet, so nothing to plan for", "goals", "set it under Listen")
    if goal.quantity not in QUANTITY:
        raise BadInput(f"no plan can be searched for a goal of '{goal.quantity}'", "goals", instead_of_a_plan(goal)[:-1])
    return goal


def learned_db(job: JobFigures, wish: Wish) -> float:
    """By how much the newest reading is above what was predicted of what is laid by now, dB; 0 where nothing tells."""
    done, stand = (frozenset[str](), frozenset[str]()) if wish.anew else (laid(job.doc), builds_begun(job))
    rule = goal_rule(job, None)
    if not (done or stand) or rule is None or rule.measured is None:
        return 0.0
    chosen = tuple(a if f"{a.surface_id}:{a.zone}".rstrip(":") in done else a.model_copy(update={"chosen": False})
                   for a in job.doc.alternatives)
    built = tuple(b if key_of_build(b.id) in stand else b.model_copy(update={"chosen": False}) for b in job.doc.builds)
    predicted = predicted_at_ear(job.of(job.doc.model_copy(update={"alternatives": chosen, "builds": built})))
    return 0.0 if predicted is None else better(goal_of(job)) * (rule.measured - predicted)


def limits_of(job: JobFigures) -> Floats:
    """The job's limits on kg, money and hours; infinite where there is none."""
    given = job.doc.job.limits
    kg = min((x for x in (given.added_kg, given.carries_kg) if x is not None), default=math.inf)
    return np.array([kg, math.inf if given.money is None else given.money, math.inf if given.hours is None else given.hours])


def target_db(job: JobFigures) -> tuple[float | None, float | None, float | None]:
    """The goal as a value and as a reduction at the listener, and the value as found; None where it is not known."""
    goal = goal_of(job)
    found, sign = value_in(job, goal, job.doc.round_in("as found")), better(goal)
    if goal.aim == "change by":
        return (None if found is None else found - sign * goal.value), goal.value, found
    return goal.value, None if found is None else max(sign * (found - goal.value), 0.0), found
