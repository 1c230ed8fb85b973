"""What every route needs: the store, the author of an edit, and views cached by a job's revision."""

from __future__ import annotations

import hashlib
import logging
import os
import threading
from collections.abc import Callable, Hashable
from functools import partial
from http import HTTPStatus
from typing import Any, NamedTuple

from flask import Flask, Response, current_app, make_response, request
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from ..catalogue.load import shelf as base_shelf
from ..core.cutting.buying import AtOnce
from ..core.figures.job_figures import JobFigures, Shared
from ..core.job.document import JobDocument
from ..core.job.shelf import Shelf, shelf_of, with_used
from ..core.job.workshop import WorkshopDocument
from ..core.kept import Bounded, Kept
from ..core.stages.board.overview import overview
from ..core.stages.views import VIEWS
from ..core.worded import OPENS, System, worded
from ..store.connect import Damaged
from ..store.documents import WORKSHOP, Read, document, job_ids, read, revision, revisions, workshop
from ..store.edits import Editor, Hand
from ..store.files import FileStore
from ..work.desk import Desk
from ..work.layouts import JobLayouts, LastLayouts
from .cards import Renewal
from .schemas import Refusal

log = logging.getLogger("sphagnum")
DOCUMENTS, SOUNDS, ANSWERS_BYTES, AGE_S = 40, 6, 12 * 2**20, 600.0
"""What is kept of what was asked for last: so many documents and sounds, views of so many bytes, and how long."""
_working_out = threading.BoundedSemaphore(2)
WARM = 4
"""So many of the newest jobs are worked out when the server starts."""

REFUSED = (401, 403, 404, 409, 413, 422, 429, 500, 503, 507)
CONTRACT = "SPHAGNUM_CONTRACT"
"""Set where the contract is made from the types; what is served ships with it, since making it takes most of a start."""
_SHAPE: Any = {"application/json": {"schema": {"$ref": f"#/components/schemas/{Refusal.__name__}"}}}
api = APIBlueprint("api", __name__, url_prefix="/api", doc_ui=CONTRACT in os.environ, abp_responses={
    status: {"description": HTTPStatus(status).phrase, "content": _SHAPE} for status in REFUSED})
"""All routes of the interface; one blueprint, so that methods of one path stand together in the contract."""


def sends(*kinds: str, also: tuple[int, ...] = ()) -> dict[str | int | HTTPStatus, Any]:
    """What a route that sends files declares: its media types, and ``also`` the statuses for parts of one."""
    return {status: {"description": "A file", "content": {k: {} for k in kinds}} for status in (200, *also)}


def store() -> sessionmaker[Session]:
    """The store of the running application."""
    found: sessionmaker[Session] = current_app.config["STORE"]
    return found


def files() -> FileStore:
    """The files kept beside the store."""
    found: FileStore = current_app.config["FILES"]
    return found


def editor() -> Editor:
    """Edits in the name of the browser that asks, in its window, under the edit's own id and gesture."""
    said = {name: request.headers.get(f"X-{name}", "")[:80] for name in ("Author", "Tab", "Edit", "Gesture", "Seen")}
    seen = int(said["Seen"]) if said["Seen"].isdecimal() and len(said["Seen"]) < 16 else None
    return Editor(store(), Hand(said["Author"][:64] or "nobody", said["Tab"], said["Edit"], said["Gesture"], seen))


def _kept(name: str) -> Kept:
    found: Kept = current_app.extensions[name]
    return found


def as_kept(session: Session, job_id: int) -> Read:
    """A job as it is kept."""
    return _read(_kept("documents"), session, job_id)


def _read(documents: Kept, session: Session, job_id: int) -> Read:
    number, workshops = revisions(session, job_id, WORKSHOP)
    # what a row names may be on the shelf again: whether it can be used goes by both
    return documents.renewed(("document", job_id, workshops), lambda r: r.revision == number,
                             lambda before: read(session, job_id, before))


def _in_hand(documents: Kept, session: Session, job_id: int) -> tuple[JobDocument, WorkshopDocument]:
    """A job and what the workshop owns: where somebody looks at the job the same objects, of which much is worked out; else they
    are read this once, in nobody's place."""
    looked_at = ("document", job_id, revision(session, WORKSHOP)) in documents
    return _read(documents, session, job_id).document if looked_at else document(session, job_id), _owned(documents, session)


def _owned(documents: Kept, session: Session) -> WorkshopDocument:
    return documents.get(("workshop", revision(session, WORKSHOP)), lambda: workshop(session))


def load(session: Session, job_id: int) -> tuple[JobDocument, int]:
    """A job's document and revision."""
    found = as_kept(session, job_id)
    return found.document, found.revision


def desk() -> Desk | None:
    """The desk that hands out work; None where all is worked out at once."""
    found: Desk | None = current_app.config["DESK"]
    return found


def renewal() -> Renewal:
    """What renews the cards of jobs."""
    found: Renewal = current_app.extensions["renewal"]
    return found


def own_workshop() -> WorkshopDocument:
    """All the workshop owns, as it is now."""
    with store()() as session:
        return _owned(_kept("documents"), session)


def shelf() -> Shelf:
    """The shelf as the workshop has it now."""
    return with_used(shelf_of(base_shelf(), own_workshop()), renewal().used())


def figures_of(doc: JobDocument) -> JobFigures:
    """The figures of a document, those there are where only words changed."""
    found: Shared = current_app.extensions["figures"]
    return found.figures(doc, shelf())


def trial_figures(doc: JobDocument) -> JobFigures:
    """The figures of a document nobody keeps: layouts not known yet are not begun for it."""
    hands = desk()
    layouts = None if hands is None else JobLayouts(hands, current_app.extensions["layouts"], doc.job.id, begin=False)
    found: Shared = current_app.extensions["figures"]
    return found.tried(doc, shelf(), layouts)


def job_figures(job_id: int) -> JobFigures:
    """The figures of a job as it is kept now."""
    with store()() as session:
        return figures_of(load(session, job_id)[0])


class Answer(NamedTuple):
    """A view as it is sent, and what tells it from another."""

    body: bytes
    etag: str


def seen(job_id: int, view: Callable[[JobFigures], BaseModel]) -> Response:
    """A view of a job as it is kept now: worked out once, however many ask the same of the same figures."""
    job = job_figures(job_id)
    return kept_answer((job.number, request.full_path), lambda: view(job))


def kept_answer(key: Hashable, make: Callable[[], BaseModel]) -> Response:
    """An answer kept by what it rests on. Few are worked out at a time: whoever only asks for a number gets between them."""
    def worked_out() -> Answer:
        with _working_out:
            body = said(make())
        return Answer(body, hashlib.sha1(body, usedforsecurity=False).hexdigest())

    found = _kept("answers").get((key, reader()), worked_out)
    return _json(found.body, 200, found.etag)


def warm_up(app: Flask) -> None:
    """Work out the stages of the newest jobs once, so that whoever comes first does not wait for what is loaded on first use."""
    with app.app_context():
        with store()() as session:
            docs = [load(session, n)[0] for n in job_ids(session)[-WARM:]]
        for doc in docs:
            job = figures_of(doc)
            try:
                overview(job)
                for seen in VIEWS.values():
                    seen(job, None)
            except Exception:  # whoever opens it is told; starting does not wait for it
                log.exception("job %s", doc.job.id)


def set_up(app: Flask, kept: sessionmaker[Session], hands: Desk | None) -> None:
    """What the routes share, made once for an application."""
    last = LastLayouts()
    layouts_of = (lambda _: AtOnce()) if hands is None else (lambda job_id: JobLayouts(hands, last, job_id))
    app.config["DESK"] = hands
    figures, documents = Shared(layouts_of=layouts_of), Kept(DOCUMENTS, age_s=AGE_S)
    app.extensions |= {"documents": documents, "answers": Kept(ANSWERS_BYTES, lambda a: len(a.body), AGE_S),
                       "tickets": Bounded(), "aheads": {}, "heard": Kept(SOUNDS), "layouts": last, "figures": figures,
                       "renewal": Renewal(kept, partial(_in_hand, documents), figures.figures, hands is not None)}


def answer(model: BaseModel, status: int = 200) -> Response:
    """A typed answer as JSON."""
    return _json(said(model), status)


def reader() -> System:
    """The system of units the workshop reads in."""
    return own_workshop().workshop.units


def said(model: BaseModel, **how: Any) -> bytes:
    """A typed answer in the reader's units; metric where the store cannot tell whose they are."""
    text = model.model_dump_json(**how)
    if OPENS not in text:
        return text.encode()
    try:
        system = reader()
    except (SQLAlchemyError, Damaged):
        system = "metric"
    return worded(text, system).encode()


def _json(body: bytes, status: int, etag: str | None = None) -> Response:
    response = make_response(body, status)
    response.mimetype = "application/json"
    if request.method == "GET" and status == 200:  # what did not change is not sent again
        response.headers["Cache-Control"] = "private, no-cache"
        if etag is None:
            response.add_etag()
        else:
            response.set_etag(etag)
        response.make_conditional(request)
    return response
