"""Work behind the page: begin it, ask how far it is, stop it."""

from __future__ import annotations

import threading
from typing import Any, Literal
from uuid import uuid4

from flask import Response, current_app, request
from pydantic import BaseModel, Field

from ..core.errors import BadInput
from ..core.levels.logs import Run
from ..core.levels.recording import History
from ..core.schema import Strict, parse
from ..instruments.recordings import seconds_of
from ..store.documents import Missing
from ..store.files import FileStore
from ..work.desk import Desk, Entry, State, result_of
from ..work.kinds import KINDS, Recorded
from .shared import answer, api, desk


class WorkAsked(Strict):
    """Work to begin. The same input asked for twice is one piece of work."""

    kind: Literal["layout"]
    input: dict[str, Any]


class WorkQuery(BaseModel):
    """Whether the result is wanted too; who only asks how far it is does without."""

    result: bool = False


class WorkPath(BaseModel):
    work_id: str = Field(pattern=r"^[0-9a-f]{32}$")


class WorkState(Strict):
    """How far work is. ``step`` rises with all that is told of it; ``found`` once there is a result, the best so far and final
    when done, which ``result`` holds where it was asked for."""

    id: str
    kind: str
    state: State
    share: float
    words: str
    step: int
    open: bool
    found: bool
    result: dict[str, Any] | None


def hands() -> Desk:
    found = desk()
    if found is None:
        raise BadInput("no work is handed out here", "work", "serve the application to have it")
    return found


def said(entry: Entry | None, full: bool) -> Response:
    """How far work is; ``full``: with its newest result."""
    if entry is None:
        raise Missing("there is no such work (any more)")
    result = result_of(entry).model_dump(mode="json") if full and entry.result is not None else None
    return answer(WorkState(id=entry.id, kind=entry.kind, state=entry.state, share=round(entry.share, 3), words=entry.words,
                            step=entry.step, open=entry.open, found=entry.result is not None, result=result))


BEHIND_S = 120.0
"""Recordings longer than this are read behind the page, with progress."""
MOST_AT_ONCE = 4
"""Of the server's threads so many may wait for a long recording."""
_reading = threading.BoundedSemaphore(MOST_AT_ONCE)
LONGEST_WAIT_S = 3600.0


def read_behind(kept: FileStore, sound: str, name: str) -> tuple[Run | History, str] | None:
    """A long recording read by a worker, and the name its run is kept under; None where it is short or nobody works.

    How far it is can be asked by the ticket the upload came with. BadInput for what cannot be read, or when it was stopped.
    """
    worker = desk()
    if worker is None or seconds_of(kept.path(sound), name) <= BEHIND_S:
        return None
    if not _reading.acquire(blocking=False):
        raise BadInput(f"{MOST_AT_ONCE} long recordings are being read already", name, "wait for one of them")
    try:
        ticket = request.headers.get("X-Ticket", "")[:64]
        entry = worker.start("recording", Recorded(folder=str(kept.folder), file=sound, name=name, ticket=ticket or uuid4().hex))
        if ticket:
            tickets: dict[str, str] = current_app.extensions["tickets"]
            tickets[ticket] = entry.id
        done = worker.wait(entry.id, LONGEST_WAIT_S) or entry
    finally:
        _reading.release()
    if done.state != "done":
        raise BadInput("the reading of it was stopped" if done.state == "cancelled" else done.words.rstrip("."), name, "")
    run = result_of(done).run
    return kept.run(kept.adopt(run)), run


class TicketPath(BaseModel):
    ticket: str = Field(min_length=8, max_length=64)


@api.get("/tickets/<ticket>", responses={200: WorkState})
def see_ticket(path: TicketPath) -> Response:
    """How far the reading of an upload is, by the ticket it was sent with."""
    entry = hands().find(current_app.extensions["tickets"].get(path.ticket, ""), here=True)
    if entry is None:  # still on its way here, or short enough to be read at once
        return answer(WorkState(id="", kind="recording", state="waiting", share=0.0, words="", step=0, open=False, found=False,
                                result=None))
    return said(entry, False)


@api.post("/work", responses={200: WorkState})
def begin_work(query: WorkQuery, body: WorkAsked) -> Response:
    """Begin work on an input, or find it under way or done."""
    return said(hands().start(body.kind, parse(KINDS[body.kind].given, body.input)), query.result)


@api.get("/work/<work_id>", responses={200: WorkState})
def see_work(path: WorkPath, query: WorkQuery) -> Response:
    """How far work is, with the best result so far."""
    return said(hands().find(path.work_id), query.result)


@api.delete("/work/<work_id>", responses={200: WorkState})
def stop_work(path: WorkPath, query: WorkQuery) -> Response:
    """Stop work; the best it had so far stays its result."""
    return said(hands().cancel(path.work_id), query.result)
