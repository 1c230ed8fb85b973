"""The Bench: series of samples with what they tell, their signal, a recording cut into readings, own properties, a page."""

from __future__ import annotations

from datetime import date
from typing import Literal

from flask import Response
from flask_openapi3 import FileStorage
from pydantic import BaseModel, Field

from ..core.bench.model import MOST_RUNS
from ..core.bench.own import Measured, Own, measured
from ..core.bench.paper import bench_paper
from ..core.bench.played import bench_signal
from ..core.bench.recorded import ReadingFound, stretches
from ..core.bench.rows import SeriesKept, order_of
from ..core.bench.view import BenchView, bench, series_card
from ..core.errors import BadInput
from ..core.forms import RowId
from ..core.job.workshop import WorkshopIn
from ..core.levels.recording import History
from ..core.levels.signals import RATE_HZ
from ..core.materials.properties import Properties
from ..core.schema import Strict, parse
from ..core.worded import view_in
from ..store.documents import WORKSHOP, Missing, revision
from . import schemas as s
from .edits import done
from .files import slug
from .papers import DRAWN, sheet
from .runs import read_in
from .shared import answer, api, files, kept_answer, own_workshop, reader, sends, shelf, store
from .signals import wav


class SeriesPath(BaseModel):
    series_id: RowId


class PaperPath(SeriesPath):
    way: Literal["pdf", "html"]


class SeriesUpload(BaseModel):
    """A recording of the readings of a series that come next."""

    file: FileStorage
    series_id: RowId


class Cut(Strict):
    """Readings found in a recording, in order, and what was on in each by the drawn order; None is the empty opening. ``take``:
    the number of the recording among those of the series."""

    take: int
    found: tuple[ReadingFound, ...]
    samples: tuple[str | None, ...]
    sentence: str


class OwnAsked(Strict):
    """Readings of a property procedure."""

    own: Own = Field(...)


@api.get("/bench", responses={200: BenchView})
def get_bench() -> Response:
    """Series of samples read in the shop's own box, and what each tells; worked out once for each state of the workshop."""
    with store()() as session:
        number = revision(session, WORKSHOP)
    return kept_answer(("bench", number), lambda: bench(own_workshop().series, shelf()))


def _series(number: int) -> SeriesKept:
    found = next((x for x in own_workshop().series if x.id == number), None)
    if found is None:
        raise Missing("there is no such series")
    return found


@api.get("/series/<int:series_id>/signal.wav", responses=sends("audio/wav"))
def get_series_signal(path: SeriesPath) -> Response:
    """The signal a series is read with, its bands turned down as the series says."""
    series = _series(path.series_id)
    return wav(bench_signal(series.bands_hz, series.signal, series.gains_db), RATE_HZ, slug(series.name))


@api.post("/series/recording", responses={200: Cut})
def cut_recording(form: SeriesUpload) -> Response:
    """The readings in one long recording, cut by its silences; nothing is kept until they are typed into the series."""
    series, name = _series(form.series_id), form.file.filename or "recording"
    coming = order_of(series)[len(series.runs):MOST_RUNS]
    with files().attempt() as kept:  # no row names the file: it goes with what nothing points to
        _, run, _ = read_in(kept, form.file, name, "record the readings one after another")
    assert isinstance(run, History)
    try:
        found = stretches(run, series.bands_hz, series.signal != "noise", len(coming))
    except BadInput as error:
        raise error.at(name) from None
    if not found:
        raise BadInput("no stretch of sound lasts long enough", name, "read each for three seconds or more")
    if series.runs and None not in coming[:len(found)]:
        raise BadInput("this recording holds no reading of the empty opening, and stands at a level of its own", name,
                       "record on until the empty opening comes again")
    return answer(Cut(take=max((r.take for r in series.runs), default=0) + 1, found=found, samples=coming[:len(found)],
                      sentence=f"{len(found)} of the {len(coming)} readings to come were found, by the silences between them."))


@api.post("/bench/property", responses={200: Measured})
def measure_property(body: OwnAsked) -> Response:
    """A property of a material from a ring, a swing, a flow or a scale; nothing is kept until it is taken onto the shelf."""
    return answer(measured(body.own, shelf().materials, date.today().isoformat()))


@api.post("/bench/property-taken", responses={200: s.Rows})
def take_property(body: OwnAsked) -> Response:
    """The same taken onto the shelf, as measured in the shop: one edit of the workshop, undone as one."""
    known, on = shelf().materials, date.today().isoformat()
    found = measured(body.own, known, on)
    material = known[body.own.material]
    taken = material.model_copy(update={
        "properties": parse(Properties, {**material.properties.model_dump(), found.property: found.value}),
        "sources": {**material.sources, found.property: "measured"},
        "references": {**material.references, found.property: found.reference}})
    kept = next((r for r in own_workshop().shelf_materials if r.material.id == material.id), None)
    step = s.Step(collection="shelf_materials", row=None if kept is None else kept.id,
                  version=0 if kept is None else kept.version, values={"material": taken.model_dump(mode="json")})
    return done(WORKSHOP, step)


@api.get("/series/<int:series_id>/paper.<string:way>", responses=sends(*DRAWN.values()))
def get_series_paper(path: PaperPath) -> Response:
    """The page of a series."""
    from ..exchange.papers.html import html  # what prints is loaded when something is printed first
    from ..exchange.papers.pdf import pdf

    own, series = own_workshop(), _series(path.series_id)
    card = series_card(series, shelf())
    paper = view_in(bench_paper(series, card, own.workshop or WorkshopIn(), date.today().isoformat()), reader())
    written = pdf(paper, lambda _: None) if path.way == "pdf" else html(paper, lambda _: None)
    return sheet(written, path.way, f"{slug(series.name)}.{path.way}")
