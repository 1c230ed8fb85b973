"""What a plan of the search gives and takes once it is laid into its job: the figures every stage then has, laid out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ...cutting.buying import RESTARTS, Cut, Found, Layouts
from ...cutting.layout import cut
from ...cutting.model import CutInput, CutResult
from ...figures.job_figures import JobFigures
from ...figures.loads import added_load, job_load
from ...figures.outlook import Outlook, outlook
from ...figures.ways import leaks_cm2
from ...job.preview import tried
from ...levels.bands import Floats
from ...paths.rows import Measure
from ...planning.front import Plan
from ...planning.problem import HOURS, KG, MONEY, Problem
from ...surfaces.patches import Patch, nothing_on, patches
from ...surfaces.rows import Alternative
from ..build.budgets import job_sums
from ..build.warmth import Warmth, warmth
from ..cut.laid_out import bought
from ..fit.view import hours_of
from .build_ways import BuildWay
from .model import BuildTaken, OptionView, PatchWay, UnitView
from .options import against
from .taking import steps_for
from .unit import Option, Unit, key_of, kinds_in

DRAFT_S = 0.25
"""A layout drafted for so long comes within some hundredths of what a long search finds, in price."""


class Drafts:
    """Layouts drafted here and now, each once however many plans want it; ``kept`` by what is laid out."""

    def __init__(self) -> None:
        self.kept: dict[CutInput, CutResult] = {}

    def __call__(self, _material: str, _thickness_mm: float, data: CutInput, /) -> Found:
        """The draft of what is wanted of a material at a thickness."""
        if data not in self.kept:
            self.kept[data] = drafted(data)
        return Found(self.kept[data])

    def moved(self) -> frozenset[Cut]:
        """None: nothing is under way."""
        return frozenset()


def drafted(data: CutInput) -> CutResult:
    """A layout drafted: it answers soon, and alike whoever asks."""
    return cut(data.model_copy(update={"seconds": DRAFT_S}), seed=1, restarts=RESTARTS, draft=True)


class Elsewhere(NamedTuple):
    """Measures at the source or the listener taken together, what becomes of builds that act on all that is heard, and the
    problem they leave."""

    measures: tuple[Measure, ...]
    builds: tuple[BuildWay, ...]
    problem: Problem


class Priced(NamedTuple):
    """A plan with the figures it has once taken; ``at``: the combination of measures and builds elsewhere it is of; what it
    promises (None: nothing changes), how warm a box gets, and whether its money is still an estimate."""

    plan: Plan
    at: int
    ahead: Outlook | None
    warm: Warmth | None
    estimated: bool
    warned: tuple[str, ...] = ()
    """Patches of which Build would warn, by their keys."""
    kinds: int = 0
    """How many kinds of material it lays."""
    short: bool = False
    """Whether more has to be bought than is on hand, where only that was to be used."""


class Trade:
    """Asks Build's rules of plans laid into the job: what they say of a patch that they do not say of it untreated."""

    def __init__(self, job: JobFigures, kept: frozenset[str]) -> None:
        self.job, self.kept = job, kept
        self._usual: dict[str, frozenset[str]] = {}
        self._said: dict[tuple[str, Alternative, float], frozenset[str]] = {}

    def warned(self, then: JobFigures) -> tuple[str, ...]:
        """Keys of the patches of a job whose chosen stacks are warned of; what is kept as it is chosen is not asked about."""
        return tuple(key_of(p) for s in then.doc.surfaces for p in patches(s)
                     if (one := then.doc.chosen(s.id, p.zone)) is not None and key_of(p) not in self.kept
                     and self._new(then, p, one))

    def _new(self, then: JobFigures, patch: Patch, one: Alternative) -> frozenset[str]:
        key = key_of(patch)
        if key not in self._usual:
            self._usual[key] = against(self.job, patch, nothing_on(patch), by_curve=True)
        bare = one.model_copy(update={"id": 0, "version": 0, "name": ""})
        asked = key, bare, sum(leaks_cm2(then.doc, p)[1] for p in then.doc.paths if p.surface_id == patch.id)
        if asked not in self._said:
            load = added_load(then.doc, patch, one, then.shelf)
            self._said[asked] = against(then, patch, one, load.kg, by_curve=True, as_laid=True) - self._usual[key]
        return self._said[asked] - WHOLE_JOB


WHOLE_JOB = frozenset({"box-too-warm", "over-kg", "over-money", "over-hours"})
"""What hangs on the whole plan, and is looked at by its sums."""


def build_taken(way: BuildWay) -> BuildTaken:
    """What becomes of a build, as it is told."""
    return BuildTaken(build_id=way.build.id, name=way.build.name, chosen=way.built is not None, words=way.words,
                      given=way.build.given if way.words else None)


def option_view(option: Option, cost: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> OptionView:
    """An option as it is told; ``cost``: kg, money and hours of it alone."""
    return OptionView(
        name=option.name, kg=round(cost[0], 2) + 0.0, money=round(cost[1], 2), hours=round(cost[2], 2), still=option.still,
        sealed=option.sealed, measures=tuple(m.id for m in option.measures), builds=tuple(build_taken(w) for w in option.builds),
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


def with_plan(job: JobFigures, units: Sequence[Unit], plan: Plan, elsewhere: Elsewhere, layouts: Layouts) -> JobFigures:
    """The job as it stands with a plan taken."""
    taken = [(unit_view(u), option_view(u.options[k])) for u, k in zip(units, local(units, plan), strict=True)]
    steps = steps_for(job.doc, taken, [m.id for m in elsewhere.measures], [build_taken(w) for w in elsewhere.builds])
    return JobFigures(tried(job.doc, steps) if steps else job.doc, job.base, layouts)


def priced(
    job: JobFigures, units: Sequence[Unit], plan: Plan, at: int, elsewhere: Elsewhere, layouts: Layouts | None,
    trade: Trade | None = None, stock: bool = False,
) -> Priced:
    """A plan laid into the job and looked at; ``layouts`` None leaves its money as it was estimated; ``trade`` asks the rules,
    ``stock`` whether it is laid of what is on hand."""
    then = with_plan(job, units, plan, elsewhere, layouts or Drafts())
    ahead = outlook(then)
    money = plan.costs[MONEY] if layouts is None else job_sums(then).bought_money
    costs = (round(job_load(then).kg, 6) + 0.0, money, hours_of(then))
    return Priced(plan._replace(reduction_db=0.0 if ahead is None else -ahead.change_db, costs=costs), at, ahead, warmth(then),
                  layouts is None, () if trade is None else trade.warned(then), kinds_of(then),
                  stock and layouts is not None and _bought(then))


def kinds_of(then: JobFigures) -> int:
    """How many kinds of material the chosen stacks of a job lay."""
    chosen = (then.doc.chosen(s.id, p.zone) for s in then.doc.surfaces for p in patches(s))
    return len(kinds_in(then.shelf, (one.layers for one in chosen if one is not None)))


def _bought(then: JobFigures) -> bool:
    """Whether something that is cut has to be bought, beside spare."""
    return any(b.thickness_mm is not None and not b.enough for b in bought(then).buy)


def within(one: Priced, limits: Floats) -> bool:
    """Whether a plan keeps to the limits on kg, money and hours, to what a machine in a box stands and to what is on hand, and
    the trade does not warn of it."""
    costs = np.array([one.plan.costs[i] for i in (KG, MONEY, HOURS)])
    return bool((costs <= limits + 1e-6 * (1 + np.abs(np.where(np.isfinite(limits), limits, 0.0)))).all()) and not (
        one.warm is not None and one.warm.cooks) and not one.warned and not one.short
