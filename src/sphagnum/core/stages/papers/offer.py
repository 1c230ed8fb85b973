"""The offer: what is heard, up to three plans side by side with their promise and their price, and on what terms."""

from __future__ import annotations

import math
from collections.abc import Sequence
from datetime import date, timedelta

from ...builds.windows import remedy_words
from ...errors import BadInput
from ...figures.builds import chosen_builds, steps_of
from ...figures.goal import goal_place, goal_words, instead_of_a_plan
from ...figures.job_figures import JobFigures
from ...figures.loads import job_load
from ...figures.rounds import value_at
from ...job.document import JobDocument
from ...job.workshop import WorkshopIn
from ...levels.rows import QUANTITIES
from ...papers.price import Price
from ...schema import Strict
from ...surfaces.patches import patches
from ...words import listed, plural
from ..build.offer import price_now
from ..fit.view import order
from ..plan.candidates import name_of
from .asked import AS_PLANNED, PlanAsked, job_of
from .promises import change_range, does_not

MOST_PLANS = 3
class OfferedPlan(Strict):
    """One plan of an offer. ``change_db``: low, middle, high of planned less as found; None where nobody predicts it."""

    name: str
    change_db: tuple[float, float, float] | None
    unit: str
    added_kg: float
    hours: float
    """At pace 1: what is charged."""
    days: int
    """Of work and waiting, at the workshop's pace."""
    does: tuple[str, ...]
    does_not: tuple[str, ...]
    price: Price


class JobOffer(Strict):
    """An offer as it would be handed over today; ``number`` is given when it is."""

    on: str
    valid_until: str
    number: str | None
    heard: str
    plans: tuple[OfferedPlan, ...]
    excluded: tuple[str, ...]
    hazards: tuple[str, ...]


def offer(job: JobFigures, doc: JobDocument, asked: Sequence[PlanAsked], on: date, valid_days: int | None = None) -> JobOffer:
    """The offer of a job on a day, by what its shelf says the workshop charges. ``doc``: its words too; without plans: as chosen.
    BadInput without a goal or a plan, and naming what has no price."""
    goal, charges = doc.goal, job.shelf.charges
    if goal is None:
        raise BadInput("nothing can be promised without a goal", "goals", "set one in Listen")
    if charges is None:
        raise BadInput("nobody knows what an hour of work costs", "labour_per_hour", "say what the workshop charges")
    named = [(p.name, job_of(job, p)) for p in asked or [PlanAsked(name=AS_PLANNED)]]
    plans = tuple(_plan(name, j, charges) for name, j in named)
    idle = next((p.name for p in plans if not p.does), None)
    if idle is not None and len(plans) > 1:
        raise BadInput(f"“{idle}” does nothing", f"plan {idle}", "choose what lies somewhere, or leave it out")
    if idle is not None:
        mend = instead_of_a_plan(goal) or "choose a stack in Build, or find a plan"
        raise BadInput("nothing is planned yet", "alternatives", mend)
    hazards = dict.fromkeys(h for _, j in named for h in order(j).hazards)
    return JobOffer(
        on=on.isoformat(),
        valid_until=(on + timedelta(days=charges.valid_days if valid_days is None else valid_days)).isoformat(),
        number=None,
        heard=heard(doc, job),
        plans=plans,
        excluded=tuple(t.text for t in charges.terms if t.block == "excluded" and t.suits(doc.job.kind)),
        hazards=tuple(hazards),
    )


def _plan(name: str, job: JobFigures, charges: WorkshopIn) -> OfferedPlan:
    price, hours = price_now(job, charges)
    minutes, goal = order(job).minutes, job.doc.goal
    elapsed = (minutes.work + minutes.wait) / 60
    return OfferedPlan(
        name=name,
        change_db=change_range(job),
        unit=QUANTITIES[goal.quantity].unit if goal else "",
        added_kg=round(job_load(job).kg, 1),
        hours=hours,
        days=max(1, math.ceil(elapsed / charges.day_hours - 1e-9)),
        does=does(job),
        does_not=does_not(job),
        price=price,
    )


def does(job: JobFigures) -> tuple[str, ...]:
    """What is done where, a sentence each."""
    out = []
    for surface in job.doc.surfaces:
        for patch in patches(surface):
            one = job.doc.chosen(patch.id, patch.zone)
            if one is None or not one.layers:
                continue
            where = (
                f"{surface.name}{f', {patch.zone}' if patch.zone else ''}{f' (each of {surface.count})' * (surface.count > 1)}"
            )
            out.append(f"{where}: {name_of(one.layers, job.shelf)}.")
    for build in chosen_builds(job):
        if build.built is not None and build.built.count:
            done = [f"{plural(build.built.count, 'absorber')} built and hung"]
        elif build.built is not None and build.built.remedies:
            done = [remedy_words(r.name) for r in build.built.remedies]
        else:
            done = [step.what for step in steps_of(build)]
        if done:
            out.append(f"{build.build.name}: {listed(done)}.")
    leaks = [x.place for x in job.doc.leaks if not x.sealed]
    if leaks:
        out.append(f"Leaks sealed: {listed(leaks[:8])}.")
    measures = [m.name for m in job.doc.measures if m.chosen]
    if measures:
        out.append(f"Besides: {listed(measures[:8])}.")
    cured = [f"{r.kind} at {r.place}" for r in job.doc.rattles if not r.done and r.cure]
    if cured:
        out.append(f"Rattles cured: {listed(cured[:8])}.")
    return tuple(out)


def heard(doc: JobDocument, job: JobFigures) -> str:
    """The complaint in the customer's words, what was read and how sure, and what is wanted."""
    found, goal = doc.round_in("as found"), doc.goal
    said = [f"{r.role.capitalize()}: “{r.words[:300]}”" for r in doc.remarks if found is None or r.round_id == found.id][:3]
    read = None if found is None or goal is None or goal.quantity == "ring time" else value_at(job, goal, found)
    if read is not None and goal is not None:
        unit = QUANTITIES[goal.quantity].unit
        said.append(f"Read as found: {read[0]:.1f} {unit} ± {read[1]:.1f} at {goal_place(doc, goal)}.")
    if goal is not None:
        said.append(f"Wanted: {goal_words(doc)}")
    return " ".join(said)
