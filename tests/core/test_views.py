"""Every stage of every demo job, and of a job with nothing in it: a sentence, finite figures, and working behind them."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from sphagnum.core.errors import BadInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import JobDocument
from sphagnum.core.schema import parse
from sphagnum.core.stages.board.overview import overview
from sphagnum.core.stages.build.view import build
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.stages.fit.view import order
from sphagnum.core.stages.listen.view import board
from sphagnum.core.stages.papers.report import report
from sphagnum.core.stages.prove.view import prove
from sphagnum.core.stages.trace.view import trace_view
from sphagnum.demo import ceiling, hood, loudspeakers, van
from sphagnum.exchange.papers.pdf import pdf
from sphagnum.exchange.readings import readings_csv


def nothing() -> dict[str, Any]:
    return {"job": {"id": 1, "version": 1, "name": "Empty"}}


JOBS = [van, hood, ceiling, loudspeakers, nothing]
STAGES: dict[str, Callable[[JobFigures], Any]] = {
    "listen": lambda job: board(job, job.doc.rounds[-1].id if job.doc.rounds else None), "trace": trace_view,
    "build": lambda job: build(job, None), "cut": lambda job: cut_view(job, None), "fit": order, "prove": prove}


def numbers(value: Any) -> Iterator[float]:
    if isinstance(value, dict):
        for part in value.values():
            yield from numbers(part)
    elif isinstance(value, list | tuple):
        for part in value:
            yield from numbers(part)
    elif isinstance(value, float):
        yield value


@pytest.mark.parametrize("stage", STAGES)
@pytest.mark.parametrize("make", JOBS)
def test_every_stage_says_something_and_computes_finite_figures(shelf, make: Callable[[], dict], stage: str):
    doc = parse(JobDocument, make())
    view = STAGES[stage](JobFigures(doc, shelf))
    assert view.sentence
    assert view.sentence[0].isupper() or view.sentence[0].isdigit()
    assert view.sentence[-1] in ".?"
    assert "None" not in view.sentence + getattr(view, "detail", "")
    assert all(math.isfinite(n) for n in numbers(view.model_dump()))
    for working in getattr(view, "working", ()):
        assert working.formula
        assert working.source
        assert working.accuracy
        assert working.inputs


@pytest.mark.parametrize("make", JOBS)
def test_the_board_line_of_every_stage_is_short(shelf, make: Callable[[], dict]):
    above = overview(JobFigures(parse(JobDocument, make()), shelf))
    assert [s.stage for s in above.stages] == list(STAGES)
    assert all(0 < len(s.line) <= 60 for s in above.stages)
    rule = above.goal_rule
    if rule is not None:
        known = [v for v in (rule.as_found, rule.target, rule.predicted, rule.measured) if v is not None]
        assert all(rule.low < v < rule.high for v in known)


@pytest.mark.parametrize("make", JOBS)
def test_reports_and_tables_of_every_job_are_made(shelf, make: Callable[[], dict]):
    doc = parse(JobDocument, make())
    if doc.goal is None:
        with pytest.raises(BadInput, match="without a goal"):
            report(JobFigures(doc, shelf), doc, None, "own")
    else:
        assert pdf(report(JobFigures(doc, shelf), doc, None, "own"), lambda _: None).startswith(b"%PDF-")
    assert len(readings_csv(doc).splitlines()) == len(doc.readings) + 1


def test_later_rounds_show_their_change_and_their_fairness_at_a_glance(shelf):
    doc = parse(JobDocument, hood())
    view = board(JobFigures(doc, shelf), 5)
    goal = next(c for c in view.cells if c.is_goal)
    assert goal.change_db == pytest.approx(44.7 - 47.62, abs=0.05)
    assert [m.fairness for m in view.rounds] == [None, "not comparable", "like for like", "like for like", "like for like"]
    assert [m.read for m in view.rounds] == [4, 1, 2, 2, 2]
    assert all(c.change_db is None for c in board(JobFigures(doc, shelf), 1).cells)
