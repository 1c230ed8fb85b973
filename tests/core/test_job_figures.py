"""Figures of a job: computed once, kept while only words change, and never of another document."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.figures import lays
from sphagnum.core.figures.job_figures import JobFigures, Shared
from sphagnum.core.job.document import COLLECTIONS, JobDocument
from sphagnum.core.job.shelf import shelf_of
from sphagnum.core.job.words import WORDS
from sphagnum.core.job.workshop import WorkshopDocument
from sphagnum.core.schema import parse
from sphagnum.core.stages.build.view import build
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
