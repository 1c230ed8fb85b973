"""What a plan of the search gives and takes once it is laid into its job: the figures every stage then has, laid out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ...cutting.buying import RESTARTS, Found, Layouts
from ...cutting.layout import cut
from ...cutting.model import CutInput, CutResult
from ...figures.job_figures import JobFigures
from ...figures.loads import job_load
from ...figures.outlook import Outlook, outlook
from ...job.preview import tried
from ...levels.bands import Floats
from ...paths.rows import Measure
from ...planning.front import Plan
from ...planning.problem import HOURS, KG, MONEY
from ..build.budgets import job_sums
from ..build.warmth import Warmth, warmth
from ..fit.view import hours_of
from .model import OptionView, PatchWay, UnitView
from .taking import steps_for
from .unit import Option, Unit

DRAFT_S = 0.25
"""A layout drafted for so long comes within some hundredths of what a long search finds, in price."""


class Drafts:
    """Layouts drafted here and now, each once however many plans want it."""

    def __init__(self) -> None:
        self._kept: dict[CutInput, CutResult] = {}

    def __call__(self, _material: str, _thickness_mm: float, data: CutInput, /) -> Found:
        """The draft of what is wanted of a material at a thickness."""
        if data not in self._kept:
            self._kept[data] = cut(data.model_copy(update={"seconds": DRAFT_S}), seed=1, restarts=RESTARTS)
        return Found(self._kept[data])

    def moved(self) -> bool:
        """Never: nothing is under way."""
        return False


class Priced(NamedTuple):
    """A plan with the figures it has once taken; ``at``: the combination of measures elsewhere it is of; what it promises (None:
    nothing changes), how warm a box gets, and whether its money is still an estimate."""

    plan: Plan
    at: int
    ahead: Outlook | None
    warm: Warmth | None
    estimated: bool


def option_view(option: Option, cost: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> OptionView:
    """An option as it is told; ``cost``: kg, money and hours of it alone."""
    return OptionView(
        name=option.name, kg=round(cost[0], 2) + 0.0, money=round(cost[1], 2), hours=round(cost[2], 2), still=option.still,
        sealed=option.sealed, measures=tuple(m.id for m in option.measures),
        ways=tuple(PatchWay(surface_id=p.id, zone=p.zone, name=name,
                            alternative_id=one.id if one is not None and one.id else None,
                            layers=one.layers if one is not None and not one.id else None) for p, one, name in option.ways))


def unit_view(unit: Unit, options: tuple[OptionView, ...] = ()) -> UnitView:
    """A unit as it is told."""
    return UnitView(name=unit.name, path_ids=tuple(h.path.id for h in unit.paths),
                    surface_id=None if unit.surface is None else unit.surface.id, laid=unit.laid, options=options)


def local(units: Sequence[Unit], plan: Plan) -> list[int]:
    """The option of each unit a plan takes, by its place among that unit's."""
    starts = np.cumsum([0, *(len(u.options) for u in units)])
    return [c - int(starts[i]) for i, c in enumerate(plan.choice[: len(units)])]


def with_plan(job: JobFigures, units: Sequence[Unit], plan: Plan, measures: Sequence[Measure], layouts: Layouts) -> JobFigures:
    """The job as it stands with a plan taken."""
    taken = [(unit_view(u), option_view(u.options[k])) for u, k in zip(units, local(units, plan), strict=True)]
    steps = steps_for(job.doc, taken, [m.id for m in measures])
    return JobFigures(tried(job.doc, steps) if steps else job.doc, job.base, layouts)


def priced(
    job: JobFigures, units: Sequence[Unit], plan: Plan, at: int, measures: Sequence[Measure], layouts: Layouts | None
) -> Priced:
    """A plan laid into the job and looked at; ``layouts`` None leaves its money as it was estimated."""
    then = with_plan(job, units, plan, measures, layouts or Drafts())
    ahead = outlook(then)
    money = plan.costs[MONEY] if layouts is None else job_sums(then).bought_money
    costs = (round(job_load(then).kg, 6) + 0.0, money, hours_of(then))
    return Priced(plan._replace(reduction_db=0.0 if ahead is None else -ahead.change_db, costs=costs), at, ahead, warmth(then),
                  layouts is None)


def within(one: Priced, limits: Floats) -> bool:
    """Whether a plan keeps to the limits on kg, money and hours, and to what a machine in a box stands."""
    costs = np.array([one.plan.costs[i] for i in (KG, MONEY, HOURS)])
    return bool((costs <= limits + 1e-6 * (1 + np.abs(np.where(np.isfinite(limits), limits, 0.0)))).all()) and not (
        one.warm is not None and one.warm.cooks)
