"""What each stage says of a job, by the stage's name: the same functions the interface asks, in one table."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from .cutting.plan import cut_view
from .fitting.order import order
from .job import JobDocument
from .levels.board import board
from .levels.proof import prove
from .materials.shelf import Shelf
from .overview import overview
from .paths.plan import trace_view
from .schema import Strict
from .stacks.build import build

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
