"""Which work there is: by name, what it takes, what it gives, and the core's function that does it."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

from pydantic import BaseModel

from ..beside import together
from ..catalogue.revisions import MODEL_REVISION
from ..core.cutting.buying import RESTARTS
from ..core.cutting.layout import cut
from ..core.cutting.model import CutInput, CutResult
from ..core.errors import BadInput
from ..core.figures.job_figures import JobFigures
from ..core.job.document import JobDocument
from ..core.job.shelf import Shelf
from ..core.materials.model import composed
from ..core.report import Report
from ..core.schema import Strict
from ..core.stages.plan.ahead import Ahead, search_ahead
from ..core.stages.plan.find import find_plans
from ..core.stages.plan.model import PlansAsked, PlansFound
from ..core.stages.plan.searched import Searched
from ..instruments.recordings import read_history
from ..store.files import FileStore
from ..store.searched import find, keep


class Kind(NamedTuple):
    """One kind of work."""

    given: type[BaseModel]
    gives: type[BaseModel]
    do: Callable[[Any, Report], BaseModel]


SEARCH = "SPHAGNUM_SEARCH_S"
"""Names the seconds a layout is searched at most, where a machine is slow or has other work; a plan has twenty times as many."""
PLAN_TIMES = 20.0


def _most_s() -> float:
    try:
        return float(os.environ.get(SEARCH, "inf"))
    except ValueError:
        raise BadInput("this is no number of seconds", SEARCH, "set it to seconds, such as 5, or leave it out") from None


def _layout(data: CutInput, report: Report) -> CutResult:
    return cut(data.model_copy(update={"seconds": min(data.seconds, _most_s())}), seed=1, restarts=RESTARTS, report=report)


class Recorded(Strict):
    """A recording to be read: the folder it is kept in, its file there, what it was called, and the ticket it came with."""

    folder: str
    file: str
    name: str
    ticket: str


class ReadRun(Strict):
    """The run a recording was read into, by its file."""

    run: str


def _recording(data: Recorded, report: Report) -> ReadRun:
    folder = FileStore(Path(data.folder))
    history = read_history(folder.path(data.file), data.name, report=report)
    return ReadRun(run=folder.put_run(history))


class PlanWork(Strict):
    """A job to find a plan for, with the shelf as it is; and the folder where it is kept what searches found."""

    document: JobDocument
    shelf: Shelf
    asked: PlansAsked
    folder: str


class _Search(NamedTuple):
    """A search as it is done here: the figures of its job, what is asked, within the seconds there are, and what is kept."""

    job: JobFigures
    asked: PlansAsked
    searched: Searched


def _search(data: PlanWork) -> _Search:
    shelf = data.shelf.model_copy(update={"materials": composed(data.shelf.materials)})
    asked = data.asked.model_copy(update={"seconds": min(data.asked.seconds, max(PLAN_TIMES * _most_s(), 1.0))})
    folder, made_by = Path(data.folder), f"{MODEL_REVISION}-"
    searched = Searched(lambda key: find(folder, made_by + key), lambda key, text: keep(folder, made_by + key, text))
    return _Search(JobFigures(data.document, shelf), asked, searched)


def _plan(data: PlanWork, report: Report) -> PlansFound:
    job, asked, searched = _search(data)
    return find_plans(job, asked, report, together, searched)


def _ahead(data: PlanWork, report: Report) -> Ahead:
    job, asked, searched = _search(data)
    return search_ahead(job, asked, searched, report, together)


KINDS: dict[str, Kind] = {
    "layout": Kind(CutInput, CutResult, _layout), "recording": Kind(Recorded, ReadRun, _recording),
    "plan": Kind(PlanWork, PlansFound, _plan), "ahead": Kind(PlanWork, Ahead, _ahead),
}
