"""Figures of a job: computed once, kept while only words change, and never of another document."""

from __future__ import annotations

import random
from collections.abc import Callable
from functools import partial
from typing import Any

import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.buying import AtOnce, Cut, Found
from sphagnum.core.cutting.model import CutInput
from sphagnum.core.errors import BadInput
from sphagnum.core.figures import lays, path_levels
from sphagnum.core.figures.job_figures import JobFigures, Shared
from sphagnum.core.figures.loads import job_load
from sphagnum.core.figures.outlook import outlook
from sphagnum.core.job.document import COLLECTIONS, JobDocument
from sphagnum.core.job.shelf import shelf_of
from sphagnum.core.job.words import WORDS, without_words
from sphagnum.core.job.workshop import WorkshopDocument
from sphagnum.core.schema import parse
from sphagnum.core.stages.build.view import build
from sphagnum.core.stages.cut.laid_out import laid_out
from sphagnum.core.stages.cut.wanted import drawn_surfaces
from sphagnum.core.stages.fit import drafting
from sphagnum.core.stages.fit.standing import standing
from sphagnum.core.stages.fit.view import order
from sphagnum.core.stages.trace.view import trace_view
from sphagnum.core.stages.views import VIEWS, stage_view
from sphagnum.demo import ceiling, hood, loudspeakers, van


def document(make: Callable[[], dict[str, Any]] = van) -> JobDocument:
    return parse(JobDocument, make())


def with_words(doc: JobDocument) -> JobDocument:
    """The same job with something written wherever words can stand, and every row edited once more."""
    def said(row: Any, name: str) -> Any:
        return row.model_copy(update={"version": row.version + 1, **dict.fromkeys(WORDS.get(name, ()), "scribbled")})
    rows = {name: tuple(said(r, name) for r in getattr(doc, name)) for name in COLLECTIONS}
    return doc.model_copy(update={"job": said(doc.job, "job"), **rows})


@pytest.mark.parametrize("make", [van, hood, ceiling, loudspeakers])
def test_words_change_no_view(make: Callable[[], dict[str, Any]]):
    doc = document(make)
    for stage in VIEWS:
        assert stage_view(JobFigures(with_words(doc), shelf()), stage) == stage_view(JobFigures(doc, shelf()), stage)


def test_an_edit_of_a_note_recomputes_nothing_and_one_of_a_layer_only_what_follows(monkeypatch: pytest.MonkeyPatch):
    made: list[str] = []
    lays.panel_loss.cache_clear()
    real = lays.stack_of
    monkeypatch.setattr(lays, "stack_of", lambda surface, *rest: (made.append(surface.name), real(surface, *rest))[1])
    kept, doc = Shared(), document()
    first = build(kept.figures(doc, shelf()), 3)
    made.clear()
    assert build(kept.figures(with_words(doc), shelf()), 3) is first
    assert (kept.computed, made) == (1, [])
    alternatives = [a.model_copy(update={"layers": (a.layers[0].model_copy(update={"thickness_mm": 3.7}), *a.layers[1:])})
                    if a.surface_id == 3 else a for a in doc.alternatives]
    changed = doc.model_copy(update={"alternatives": tuple(alternatives)})
    now = build(kept.figures(changed, shelf()), 3)
    assert kept.computed == 2
    assert set(made) == {next(s.name for s in doc.surfaces if s.id == 3)}
    assert now == build(JobFigures(changed, shelf()), 3) != first


def halved(doc: JobDocument, rng: random.Random) -> JobDocument:
    """The job with a layer of one of its plans over half of what it covered."""
    one = rng.choice([a for a in doc.alternatives if a.layers])
    layer = one.layers[0].model_copy(update={"coverage": one.layers[0].coverage / 2})
    other = one.model_copy(update={"layers": (layer, *one.layers[1:])})
    return doc.model_copy(update={"alternatives": tuple(other if a is one else a for a in doc.alternatives)})


def warmer(doc: JobDocument, rng: random.Random) -> JobDocument:
    return doc.model_copy(update={"job": doc.job.model_copy(update={"temperature_c": rng.uniform(-5, 40)})})


def without_one(name: str) -> Callable[[JobDocument, random.Random], JobDocument]:
    def less(doc: JobDocument, rng: random.Random) -> JobDocument:
        rows = getattr(doc, name)
        gone = rng.choice(rows) if rows else None
        return doc.model_copy(update={name: tuple(r for r in rows if r is not gone)})
    return less


EDITS = [halved, halved, warmer, *map(without_one, ("alternatives", "leaks", "block_offs", "readings", "measures", "knocks",
                                                    "rattles", "fixings"))]


@pytest.mark.parametrize("make", [van, hood, ceiling, loudspeakers])
def test_what_is_taken_over_from_the_figures_before_is_what_is_worked_out_anew(make: Callable[[], dict[str, Any]]):
    """Edits and previews in any order: of each the whole stage, as if there had been nothing before it."""
    rng, kept, doc = random.Random(7), Shared(), document(make)
    for _ in range(14):
        doc = rng.choice(EDITS)(doc, rng) if doc.alternatives else document(make)
        seen = kept.figures(doc, shelf())
        if not any(a.layers for a in doc.alternatives):
            continue
        tried = halved(doc, rng)
        for job, of in ((seen, doc), (kept.tried(tried, shelf(), None), tried)):
            anew = JobFigures(without_words(of), shelf())
            for figure in (trace_view, outlook, job_load, drawn_surfaces, order):
                assert figure(job) == figure(anew), figure


def test_a_hand_on_one_surface_leaves_the_ways_through_the_others_and_their_steps_as_they_are(monkeypatch: pytest.MonkeyPatch):
    made: list[int] = []
    laid: list[int] = []
    levels, steps = path_levels._path_levels, drafting.layer_drafts
    monkeypatch.setattr(path_levels, "_path_levels", lambda job, path, *rest: (made.append(path.id), levels(job, path, *rest))[1])
    monkeypatch.setattr(drafting, "layer_drafts", lambda job, patch, *rest: (laid.append(patch.id), steps(job, patch, *rest))[1])
    kept, doc = Shared(), document()
    outlook(kept.figures(doc, shelf()))
    standing(kept.figures(doc, shelf()))
    assert sorted(made) == [p.id for p in doc.paths]
    assert set(laid) == {a.surface_id for a in doc.alternatives if a.chosen and a.layers}
    here = shelf()
    for of, figures in (("hand", lambda then: kept.tried(then, here, None)), ("edit", lambda then: kept.figures(then, here))):
        then = halved(doc, random.Random(of))
        surface = next(a.surface_id for a, b in zip(then.alternatives, doc.alternatives, strict=True) if a is not b)
        made.clear()
        laid.clear()
        outlook(figures(then))
        standing(figures(then))
        assert made == [p.id for p in doc.paths if p.surface_id == surface], of
        assert set(laid) == {a.surface_id for a in then.alternatives if a.chosen and a.surface_id == surface}, of


class Behind(AtOnce):
    """Layouts that are under way until they are done, one after another."""

    def __init__(self) -> None:
        self.done, self.waited, self.told = set[Cut](), set[Cut](), set[Cut]()

    def __call__(self, material: str, thickness_mm: float, data: CutInput, /) -> Found:
        if (material, thickness_mm) in self.done:
            return super().__call__(material, thickness_mm, data)
        self.waited.add((material, thickness_mm))
        return Found(None, f"under way: {material}")

    def moved(self) -> frozenset[Cut]:
        further = self.done & self.waited - self.told
        self.told |= further
        return frozenset(further)


@pytest.mark.parametrize("make", [van, hood])
def test_a_finished_layout_moves_what_rests_on_it_and_nothing_else(make: Callable[[], dict[str, Any]]):
    """Layout by layout, each stage as it would be with all figures begun anew."""
    behind, doc, base = Behind(), document(make), shelf()
    kept = Shared(layouts_of=lambda _: behind)
    places = [(stage, None) for stage in VIEWS] + [("build", s.id) for s in doc.surfaces]
    for at in places:
        stage_view(kept.figures(doc, base), *at)
    first, sheets = kept.figures(doc, base), dict[Cut, object]()
    assert len(behind.waited) > 2
    for one in sorted(behind.waited):
        behind.done.add(one)
        now, anew = kept.figures(doc, base), JobFigures(without_words(doc), base, behind)
        assert now is not first
        assert outlook(now) is outlook(first)
        for at in places:
            assert stage_view(now, *at) == stage_view(anew, *at), (one, at)
        laid = {(x.asked.material.id, x.asked.thickness_mm): x for x in laid_out(now)}
        assert laid[one].result is not None
        assert all(laid[cut] is before for cut, before in sheets.items())
        sheets[one] = laid[one]
        assert kept.figures(doc, base) is now
    assert kept.computed == 1


def test_what_could_not_be_worked_out_of_a_layout_is_tried_again_once_it_is_laid():
    behind, doc, base = Behind(), document(), shelf()
    kept = Shared(layouts_of=lambda _: behind)

    def fails(job: JobFigures) -> int:
        if any(x.result is None for x in laid_out(job)):
            raise BadInput("it is not laid out", "", "wait")
        return 1

    def said(job: JobFigures) -> int:
        try:
            return job.keep("fails", lambda: fails(job))
        except BadInput:
            return 0

    for expected in (0, 1):
        job = kept.figures(doc, base)
        assert job.keep("said", partial(said, job)) == expected
        behind.done |= behind.waited


def test_figures_of_one_job_are_never_those_of_another():
    kept = Shared(most_bytes=1.5e6)  # room for one of them beside the one in hand
    docs = [document(m) for m in (van, hood, ceiling)]
    docs = [d.model_copy(update={"job": d.job.model_copy(update={"id": i})}) for i, d in enumerate(docs, start=1)]
    for _ in range(2):
        for doc in docs:
            assert stage_view(kept.figures(doc, shelf()), "build") == stage_view(JobFigures(doc, shelf()), "build")
            count, size = kept.held()
            assert count < 3
            assert size <= kept.most_bytes or count == 1
    assert kept.computed == 6  # none of the three was still there when it came again
    another_shelf = shelf().model_copy()
    assert kept.figures(docs[2], another_shelf).shelf is another_shelf


def test_one_workshop_has_one_shelf_however_often_it_is_read():
    """Figures are kept by their shelf: a document read anew must not begin them anew."""
    own = {"workshop": {"id": 0, "version": 1}, "house_minutes": [{"id": 1, "version": 1, "phase": "clean", "minutes": 12.0}]}
    one, two = (shelf_of(shelf(), parse(WorkshopDocument, own)) for _ in range(2))
    assert one is two
    assert one.minutes["clean"] == 12.0 != shelf().minutes["clean"]
