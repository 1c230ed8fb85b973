"""What a plan costs is what Cut then needs; while a layout runs, what is an estimate says so."""

from __future__ import annotations

import copy
import os
import random
from typing import Any

import numpy as np
import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.buying import Found, laid_out
from sphagnum.core.cutting.model import CutInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.loads import job_load
from sphagnum.core.figures.outlook import outlook
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.preview import tried
from sphagnum.core.job.shelf import Shelf, shelf_of
from sphagnum.core.job.workshop import Workshop, WorkshopDocument
from sphagnum.core.planning import front
from sphagnum.core.schema import parse
from sphagnum.core.stages.board.overview import overview
from sphagnum.core.stages.build.view import build
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.stages.fit.view import hours_of
from sphagnum.core.stages.plan.find import find_plans
from sphagnum.core.stages.plan.model import PlansAsked
from sphagnum.core.stages.plan.taking import steps_of
from sphagnum.demo import rows, van

JOBS = int(os.environ.get("SWEEP_PLANS", "1"))
EACH = 1 if JOBS > 10 else 4
"""Of the plans found, every so many is looked at in a short run."""
KEPT = ("butyl-foil", "bitumen-sheet", "cotton-felt", "polyester-fleece", "vinyl-5", "vinyl-10", "seam-tape", "melamine-foam")


def made_up(n: int) -> dict[str, Any]:
    """A van of three to six panels of random outlines, with a limit on money that bites."""
    rng = random.Random(n)
    surfaces, paths = [], []
    for k in range(1, rng.randint(3, 6) + 1):
        w, h = rng.randint(500, 2200), rng.randint(400, 1500)
        cut = rng.choice([0, min(w, h) // 3])
        outline = [[0, 0], [w, 0], [w, h - cut], [w - cut, h], [0, h]] if cut else [[0, 0], [w, 0], [w, h], [0, h]]
        surfaces.append({"name": f"Panel {k}", "count": rng.choice([1, 1, 2]), "outline_mm": outline, "depth_limit_mm": 50,
                         "substrate": {"material": "steel", "thickness_mm": 0.8}, "flags": ["trim over it"],
                         "keep_clear": [{"kind": "fixing", "x_mm": w / 2, "y_mm": h / 2, "width_mm": 60, "height_mm": 60}]})
        paths.append({"name": f"Panel {k}", "surface_id": k, "incident_offset_db": rng.randint(-8, 8)})
    at = {"position_id": 1, "condition_id": 1}
    return {"job": {"id": 1, "version": 1, "name": f"Made up {n}", "limits": {"money": rng.choice([120, 250, 500])}},
            "positions": rows({"name": "Ear"}), "conditions": rows({"name": "80 km/h", "spectrum": "road-80"}),
            "rounds": rows({"name": "As found", "state": "as found"}),
            "readings": rows({**at, "round_id": 1, "level_db": 74.0}, {**at, "round_id": 1, "level_db": 74.4}),
            "goals": rows({**at, "aim": "change by", "value": 3}), "surfaces": rows(*surfaces), "paths": rows(*paths)}


@pytest.mark.parametrize("n", range(JOBS))
@pytest.mark.broad
def test_plans_cost_what_cut_then_needs_and_are_what_every_stage_says(n: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """15 to 24 % too much was said; 5 % in the mean and 10 % in nine of ten are asked, within the limit."""
    monkeypatch.setattr(front, "LEVELS", 4)
    job = JobFigures(parse(JobDocument, made_up(n)), shelf())
    struck = tuple(m.id for m in shelf().materials.values() if m.roles and m.id not in KEPT)
    found = find_plans(job, PlansAsked(struck=struck, seconds=3 if JOBS < 10 else 12))
    limit = job.doc.job.limits.money
    off = []
    for plan in found.plans[::EACH]:
        assert plan.money <= limit + 0.01
        then = JobFigures(tried(job.doc, steps_of(job.doc, found, plan)), shelf())
        needed, ahead = cut_view(then, None).money, outlook(then)
        off.append(abs(plan.money - needed) / max(needed, 1.0))
        if ahead is None:
            assert plan.reduction_db == 0
            continue
        assert plan.reduction_db == pytest.approx(-ahead.change_db, abs=0.011)
        assert plan.within_db == pytest.approx(ahead.within_db, abs=0.011)
        assert plan.level_db == pytest.approx(ahead.level_db, abs=0.02)
        assert plan.added_kg == pytest.approx(job_load(then).kg, abs=0.011)
        assert plan.hours == pytest.approx(hours_of(then), abs=0.011)
    assert off
    assert np.mean(off) <= 0.05
    assert np.quantile(off, 0.9) <= 0.10
    # what a limit leaves is used: no plan that fits is refused for what it was thought to cost
    if found.best is not None and not found.reached:
        assert found.plans[found.best].money >= 0.7 * limit


class HalfLaid:
    """Layouts of which some are still under way."""

    def __init__(self, *under_way: str) -> None:
        self.under_way = under_way

    def __call__(self, material: str, _thickness_mm: float, data: CutInput, /) -> Found:
        return Found(None, "work") if material in self.under_way else Found(laid_out(data))

    def moved(self) -> bool:
        return False


def charged() -> Shelf:
    return shelf_of(shelf(), WorkshopDocument(workshop=parse(Workshop, {"id": 1, "version": 1, "labour_per_hour": 40})))


def test_while_a_layout_runs_the_sum_is_whole_and_says_what_of_it_is_estimated() -> None:
    """861, later 955, with nothing said to be missing: a sum of part of the list looked like the sum."""
    doc, own = parse(JobDocument, van()), charged()
    whole = JobFigures(doc, own)
    late = JobFigures(doc, own, HalfLaid("polyester-fleece", "vinyl-10"))
    views = [build(x, 1) for x in (whole, late)]
    sums = [next(m for m in v.meters if m.label.startswith("To buy")) for v in views]
    assert sums[1].value == pytest.approx(sums[0].value, rel=0.15)
    assert "estimated until laid out" in sums[1].note
    assert "polyester fleece" in sums[1].note
    assert "estimated" not in sums[0].note
    assert views[0].offer.estimated == ()
    assert len(views[1].offer.estimated) == 2
    lines = {b.name: b for b in cut_view(late, None).buy}
    about = [b for b in lines.values() if b.estimated]
    assert len(about) == 2
    assert all(b.money and b.kg for b in about)
    assert next(x.line for x in overview(late).stages if x.stage == "cut") != ""


def test_measures_that_cost_stand_in_what_is_to_buy_once() -> None:
    raw = copy.deepcopy(van())
    without = cut_view(JobFigures(parse(JobDocument, raw), shelf()), None).money
    raw["measures"] = rows({"name": "Quieter tyres", "at": "source", "effect_db": 3, "money": 320.0},
                           {"name": "Not taken", "at": "source", "effect_db": 3, "money": 99.0, "chosen": False})
    job = JobFigures(parse(JobDocument, raw), charged())
    bought = cut_view(job, None)
    assert bought.money == pytest.approx(without + 320)
    assert [b.money for b in bought.buy if b.name == "Quieter tyres"] == [320.0]
    lines = {x.label: x.money for x in build(job, 1).offer.lines}
    on_hand = sum(b.stock_money for b in (*bought.buy, *bought.used_up))  # what the shelf has is sold at its list price
    assert lines["Material"] == pytest.approx(bought.money + sum(b.money or 0 for b in bought.used_up) + on_hand)
