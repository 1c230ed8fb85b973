"""What the workshop owns: read, edited, undone by the same mechanism as a job."""

from __future__ import annotations

from flask import Response

from ..core.job.workshop import WorkshopDocument
from ..core.schema import Strict
from ..store.documents import WORKSHOP, revision, workshop
from ..store.undo import redo, undo
from . import schemas as s
from .edits import done
from .shared import answer, api, editor, store


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
    """Several steps as one edit, undone as one."""
    return done(WORKSHOP, *body.steps)


@api.post("/workshop/undo", responses={200: s.Undone})
def undo_workshop(query: s.TakeBack) -> Response:
    """Take back the asking browser's newest edit of the workshop that stands."""
    return answer(s.Undone(what=undo(editor(), WORKSHOP, query.skip, query.force)))


@api.post("/workshop/redo", responses={200: s.Undone})
def redo_workshop(query: s.TakeBack) -> Response:
    """Bring back what the asking browser took back last."""
    return answer(s.Undone(what=redo(editor(), WORKSHOP, query.skip, query.force)))
