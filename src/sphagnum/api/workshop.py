"""What the workshop owns: read, edited, undone by the same mechanism as a job."""

from __future__ import annotations

from flask import Response

from ..core.errors import BadInput
from ..core.job.workshop import WorkshopDocument
from ..core.schema import Strict
from ..store.documents import WORKSHOP, revision, workshop
from ..store.undo import redo, undo
from . import schemas as s
from .edits import done
from .shared import answer, api, editor, store

MOST_TAX = 100


class WorkshopPage(Strict):
    """All the workshop owns, and a number that rises with every edit of it."""

    document: WorkshopDocument
    revision: int


@api.get("/workshop", responses={200: WorkshopPage})
def get_workshop() -> Response:
    """What the workshop owns beside its jobs."""
    with store()() as session:
        return answer(WorkshopPage(document=workshop(session), revision=revision(session, WORKSHOP)))


@api.post("/workshop/edits", responses={200: s.Rows})
def edit_workshop(body: s.Steps) -> Response:
    """Several steps as one edit, undone as one. A tax above the net price is a slip; one that is kept already still loads."""
    for step in body.steps:
        tax = step.values.get("tax_percent")
        if step.collection == "workshops" and isinstance(tax, int | float) and tax > MOST_TAX:
            raise BadInput(f"a tax of {tax:g} % is more than the price itself", "tax_percent", "give 0 to 100, such as 19")
    return done(WORKSHOP, *body.steps)


@api.post("/workshop/undo", responses={200: s.Undone})
def undo_workshop(query: s.TakeBack) -> Response:
    """Take back the asking browser's newest edit of the workshop that stands."""
    return answer(s.Undone(what=undo(editor(), WORKSHOP, query.skip, query.force)))


@api.post("/workshop/redo", responses={200: s.Undone})
def redo_workshop(query: s.TakeBack) -> Response:
    """Bring back what the asking browser took back last."""
    return answer(s.Undone(what=redo(editor(), WORKSHOP, query.skip, query.force)))
