"""What each stage says of a job, by the stage's name: the same functions the interface asks, in one table."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..job.document import JobDocument
from ..job.shelf import Shelf
from ..schema import Strict
from .board.overview import overview
from .build.view import build
from .cut.view import cut_view
from .fit.view import order
from .listen.view import board
from .prove.view import prove
from .trace.view import trace_view

VIEWS: dict[str, Callable[[JobDocument, Shelf, int | None], Strict]] = {
    "listen": lambda doc, shelf, _: board(doc, shelf, None), "trace": lambda doc, shelf, _: trace_view(doc, shelf),
    "build": build, "cut": cut_view,
    "fit": lambda doc, shelf, _: order(doc, shelf), "prove": lambda doc, shelf, _: prove(doc, shelf),
}


def stage_view(doc: JobDocument, shelf: Shelf, stage: str, surface_id: int | None = None) -> dict[str, Any]:
    """A stage's view as JSON; ``board`` gives the job's card. KeyError for a stage there is not."""
    if stage == "board":
        return {"job": doc.job.model_dump(mode="json"), "overview": overview(doc, shelf).model_dump(mode="json")}
    return VIEWS[stage](doc, shelf, surface_id).model_dump(mode="json")
