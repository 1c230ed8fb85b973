"""Which work there is: by name, what it takes, what it gives, and the core's function that does it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from pydantic import BaseModel

from ..catalogue.load import shelf
from ..core.cutting.buying import RESTARTS
from ..core.cutting.layout import cut
from ..core.cutting.model import CutInput, CutResult
from ..core.figures.job_figures import JobFigures
from ..core.job.document import JobDocument
from ..core.job.shelf import shelf_of
from ..core.job.workshop import WorkshopDocument
from ..core.report import Report
from ..core.schema import Strict
from ..core.stages.board.card import Card, card


class Kind(NamedTuple):
    """One kind of work."""

    given: type[BaseModel]
    gives: type[BaseModel]
    do: Callable[[Any, Report], BaseModel]


def _layout(data: CutInput, report: Report) -> CutResult:
    return cut(data, seed=1, restarts=RESTARTS, report=report)


class CardInput(Strict):
    """A job and what the workshop owns."""

    document: JobDocument
    workshop: WorkshopDocument


def _card(given: CardInput, _report: Report) -> Card:
    return card(JobFigures(given.document, shelf_of(shelf(), given.workshop)))


KINDS: dict[str, Kind] = {
    "layout": Kind(CutInput, CutResult, _layout),
    "card": Kind(CardInput, Card, _card),
}
