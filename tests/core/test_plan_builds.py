"""A plan chooses among boxes round the same machine: what it proposes may be built, and gives what it says once it is taken."""

from __future__ import annotations

from typing import Any

import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.builds.box_given import BoxIn
from sphagnum.core.builds.model import Built
from sphagnum.core.figures.builds import chosen_builds, counted_twice
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.loads import job_load
from sphagnum.core.figures.outlook import outlook
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.preview import tried
from sphagnum.core.planning import front
from sphagnum.core.schema import parse
from sphagnum.core.stages.build.budgets import job_sums
from sphagnum.core.stages.fit.view import hours_of
from sphagnum.core.stages.plan import find
from sphagnum.core.stages.plan.box_variants import WARMTH_SHARE
from sphagnum.core.stages.plan.find import find_plans
from sphagnum.core.stages.plan.model import FoundPlan, PlansAsked, PlansFound
from sphagnum.core.stages.plan.pricing import Drafts
from sphagnum.core.stages.plan.taking import steps_of
from sphagnum.demo import rows
from sphagnum.demo_builds import blower


@pytest.fixture(autouse=True)
def coarse(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(front, "LEVELS", 4)
    monkeypatch.setattr(find, "MOST_SHOWN", 6)


def job_of(**given: Any) -> JobFigures:
    """The blower's job with other things given of its hood."""
    raw = blower()
    for b in raw["builds"]:
        b["given"] = {**b["given"], **given}
    return JobFigures(parse(JobDocument, raw), shelf())


def planned(job: JobFigures, **asked: Any) -> PlansFound:
    return find_plans(job, PlansAsked(seconds=1.0, **asked))


def taken(job: JobFigures, found: PlansFound, plan: FoundPlan) -> JobFigures:
    return JobFigures(tried(job.doc, steps_of(job.doc, found, plan)), job.base, Drafts())


def box_in(job: JobFigures) -> tuple[BoxIn, Built]:
    [one] = chosen_builds(job)
    assert isinstance(one.build.given, BoxIn)
    assert one.built is not None
    return one.build.given, one.built


def test_a_hood_over_its_money_is_planned_anew_and_gives_what_was_said_once_it_is_taken() -> None:
    job = job_of()
    assert job_sums(JobFigures(job.doc, job.base, Drafts())).bought_money > 450
    found = planned(job)
    assert found.reached
    assert found.cheapest is not None
    plan = found.plans[found.cheapest]
    assert plan.money <= 450
    then = taken(job, found, plan)
    ahead = outlook(then)
    assert ahead is not None
    assert -ahead.change_db == pytest.approx(plan.reduction_db, abs=0.01)
    assert ahead.within_db == pytest.approx(plan.within_db, abs=0.01)
    assert job_load(then).kg == pytest.approx(plan.added_kg, abs=0.01)
    assert hours_of(then) == pytest.approx(plan.hours, abs=0.01)
    assert job_sums(then).bought_money == pytest.approx(plan.money, rel=0.03)
    given, built = box_in(then)
    assert given.machine == box_in(job)[0].machine
    assert given != box_in(job)[0]
    assert built.inside_c is not None
    assert built.inside_c + WARMTH_SHARE * (built.inside_c - given.outside_c) <= 50
    # what is kept as it is planned stays so, though it costs too much
    kept = planned(job, pinned=("build 1",))
    assert all(b.given is None for u in kept.units for o in u.options for b in o.builds)


def test_a_box_that_would_cook_its_machine_is_mended_by_the_plan() -> None:
    small = [{"role": role, "side": side, "width_mm": 60, "height_mm": 60} for role, side in (("in", "left"), ("out", "right"))]
    job = job_of(openings=small, fan_m3_h=0)
    assert chosen_builds(job) == ()  # 400 W do not go out by two holes
    found = planned(job)
    assert found.reached
    assert found.cheapest is not None
    given, built = box_in(taken(job, found, found.plans[found.cheapest]))
    assert given.fan_m3_h > 0 or given.openings != job.doc.builds[0].given.openings  # type: ignore[union-attr]
    assert built.inside_c is not None
    assert built.inside_c < 50


def test_a_box_over_all_that_is_heard_is_taken_or_the_desks_is_but_never_both() -> None:
    raw = blower()
    raw["builds"][0]["path_id"] = None
    raw["builds"][0]["chosen"] = False
    raw["measures"] = rows({"name": "A hood by the desk", "at": "source", "effect_db": 9.0, "calculation": "hood", "money": 380,
                            "chosen": True})
    job = JobFigures(parse(JobDocument, raw), shelf())
    found = planned(job)
    built = 0
    for plan in found.plans:
        then = taken(job, found, plan)
        assert all(counted_twice(then.doc, b) is None for b in then.doc.builds)
        ahead = outlook(then)
        assert -(0.0 if ahead is None else ahead.change_db) == pytest.approx(plan.reduction_db, abs=0.01)
        built += len(chosen_builds(then))
    assert built > 0
    assert found.reached
