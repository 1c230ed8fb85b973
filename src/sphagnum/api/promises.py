"""Keeps what is promised: when the first step is done, and at each report."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Literal

from ..catalogue.revisions import MODEL_REVISION, SHELF_REVISION
from ..core.stages.prove.promise import is_new, promise_of
from ..store.documents import WORKSHOP, revision
from ..store.edits import Editor, Hand
from .shared import job_figures, store

PROGRAM = Hand("the program")
"""Whose edits nobody undoes: nobody made them by hand."""


def keep_promise(job_id: int, occasion: Literal["first step", "report"]) -> None:
    """Keep the plan's prediction as it stands, where it says anything new."""
    job = job_figures(job_id)
    if occasion == "first step" and job.doc.promises:
        return
    with store()() as session:
        shelf = f"{SHELF_REVISION} {revision(session, WORKSHOP)}"
    at = datetime.now(UTC).isoformat(timespec="seconds")
    promise = promise_of(job, occasion, at, MODEL_REVISION, shelf)
    if promise is not None and is_new(promise, job.doc):
        Editor(store(), PROGRAM).create(job_id, "promises", [promise.model_dump(mode="json")])
