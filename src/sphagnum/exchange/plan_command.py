"""The ``plan --job`` command: what the page's search does, for a job file, with plans as layers that can be laid into it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..beside import together
from ..core.errors import BadInput
from ..core.figures.job_figures import JobFigures
from ..core.figures.ways import leaks_cm2
from ..core.job.document import JobDocument
from ..core.job.preview import tried
from ..core.job.shelf import Shelf
from ..core.levels.rows import QUANTITIES
from ..core.report import Report, silent
from ..core.schema import Strict
from ..core.stages.build.view import warnings_of
from ..core.stages.plan.find import find_plans
from ..core.stages.plan.model import FoundPlan, PlansAsked, PlansFound
from ..core.stages.plan.pricing import Drafts
from ..core.stages.plan.taking import steps_of
from ..core.surfaces.patches import patches
from .files import read_bytes
from .job_file import read_job


class PlannedSurface(Strict):
    """What is new on a surface or zone: its layers, substrate side first, as a job file's alternatives hold them."""

    layers: tuple[dict[str, Any], ...]
    frame: dict[str, Any] | None


class PlannedBuild(Strict):
    """A build of the plan, as a job file holds it."""

    chosen: bool
    given: dict[str, Any]


class JobPlan(Strict):
    """A plan of a job: its change, half of the 95 % interval of that, what it adds, costs and takes; which openings it closes and
    measures taken, what the rules say of it that they do not say of the job untreated, and what lies on each surface that gets
    something new. ``estimated``: its money is not of sheets laid out."""

    change_db: float
    within_db: float
    added_kg: float
    money: float
    estimated: bool
    hours: float
    leaks: tuple[str, ...]
    measures: tuple[str, ...]
    warns: tuple[str, ...]
    surfaces: dict[str, PlannedSurface]
    builds: dict[str, PlannedBuild]


class JobPlans(Strict):
    """What ``plan --job`` prints. ``cheapest`` and ``best`` are places in ``plans``."""

    now_db: float | None
    unit: str
    up_is_good: bool
    reached: bool
    cheapest: int | None
    best: int | None
    proven: bool
    plans: tuple[JobPlan, ...]


def run_plan_of_job(
    name: str, seconds: float, only: Sequence[str], without: Sequence[str], stock: bool, shelf: Shelf, report: Report = silent
) -> JobPlans:
    """``plan --job JOB.json``. ``only`` and ``without`` name materials; ``stock`` keeps to what is on hand. Raises BadInput."""
    document = read_job(read_bytes(name), name, shelf).document
    job = JobFigures(document, shelf)
    try:
        asked = PlansAsked(struck=tuple(without), only=tuple(only), stock=stock, seconds=min(max(seconds, 1.0), 120.0))
        found = find_plans(job, asked, report, together)
    except BadInput as error:
        raise error.at(name) from None
    goal = document.goal
    assert goal is not None  # else nothing was found
    facts = QUANTITIES[goal.quantity]
    layouts = Drafts()
    before = warnings_of(JobFigures(_untreated(document), shelf, layouts))
    return JobPlans(
        now_db=found.now_db, unit=facts.unit, up_is_good=facts.up_is_good, reached=found.reached, cheapest=found.cheapest,
        best=found.best, proven=found.proven,
        plans=tuple(_plan(job, found, plan, before, layouts) for plan in found.plans))


def _untreated(doc: JobDocument) -> JobDocument:
    return doc.model_copy(update={
        "builds": tuple(b.model_copy(update={"chosen": False}) for b in doc.builds),
        "alternatives": tuple(a.model_copy(update={"chosen": False}) for a in doc.alternatives),
        "measures": tuple(m.model_copy(update={"chosen": False}) for m in doc.measures)})


def _plan(job: JobFigures, found: PlansFound, plan: FoundPlan, before: frozenset[str], layouts: Drafts) -> JobPlan:
    doc = tried(job.doc, steps_of(job.doc, found, plan))
    up = job.doc.goal is not None and QUANTITIES[job.doc.goal.quantity].up_is_good
    options = [(u, u.options[k]) for u, k in zip(found.units, plan.choice, strict=True)]
    taken = {*plan.measures, *(m for _, o in options for m in o.measures)}
    surfaces: dict[str, PlannedSurface] = {}
    for surface in doc.surfaces:
        names = {z.id: z.name for z in surface.zones}
        for patch in patches(surface):
            one = doc.chosen(surface.id, patch.zone)
            if one is not None:
                name = f"{surface.name} / {names.get(patch.zone, 'the rest')}" if surface.zones else surface.name
                surfaces[name] = PlannedSurface(layers=tuple(x.model_dump(mode="json") for x in one.layers),
                                                frame=None if one.frame is None else one.frame.model_dump(mode="json"))
    return JobPlan(
        change_db=(plan.reduction_db if up else -plan.reduction_db) + 0.0, within_db=plan.within_db, added_kg=plan.added_kg,
        money=plan.money, estimated=plan.estimated, hours=plan.hours,
        leaks=tuple(p.name for p in doc.paths for now, then in (leaks_cm2(doc, p),) if then < now),
        measures=tuple(m.name for m in job.doc.measures if m.id in taken),
        warns=tuple(sorted(warnings_of(JobFigures(doc, job.base, layouts)) - before)), surfaces=surfaces,
        builds={b.name: PlannedBuild(chosen=b.chosen, given=b.given.model_dump(mode="json", exclude_none=True))
                for b in doc.builds})
