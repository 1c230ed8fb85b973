"""What each stage says of a job, by the stage's name: the same functions the interface asks, in one table."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..figures.job_figures import JobFigures
from ..schema import Strict
from .board.overview import overview
from .build.view import build
from .cut.view import cut_view
from .fit.done import fit_view
from .listen.view import board
from .prove.view import prove
from .trace.view import trace_view

VIEWS: dict[str, Callable[[JobFigures, int | None], Strict]] = {
    "listen": lambda job, _: board(job, None), "trace": lambda job, _: trace_view(job),
    "build": build, "cut": cut_view,
    "fit": lambda job, _: fit_view(job), "prove": lambda job, _: prove(job),
}


def stage_view(job: JobFigures, stage: str, surface_id: int | None = None) -> dict[str, Any]:
    """A stage's view as JSON; ``board`` gives the job's card. KeyError for a stage there is not."""
    if stage == "board":
        return {"job": job.doc.job.model_dump(mode="json"), "overview": overview(job).model_dump(mode="json")}
    return VIEWS[stage](job, surface_id).model_dump(mode="json")
