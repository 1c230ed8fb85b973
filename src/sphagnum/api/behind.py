"""Work behind the page: begin it, ask how far it is, stop it."""

from __future__ import annotations

from typing import Any, Literal

from flask import Response
from pydantic import BaseModel, Field

from ..core.errors import BadInput
from ..core.schema import Strict, parse
from ..store.documents import Missing
from ..work.desk import Desk, Entry, State
from ..work.kinds import KINDS
from .shared import answer, api, desk


class WorkAsked(Strict):
    """Work to begin. The same input asked for twice is one piece of work."""

    kind: Literal["layout"]
    input: dict[str, Any]


class WorkPath(BaseModel):
    work_id: str = Field(pattern=r"^[0-9a-f]{32}$")


class WorkState(Strict):
    """How far work is. ``step`` rises with all that is told of it; ``result`` is the best so far, final when done."""

    id: str
    kind: str
    state: State
    share: float
    words: str
    step: int
    open: bool
    result: dict[str, Any] | None


def _hands() -> Desk:
    found = desk()
    if found is None:
        raise BadInput("no work is handed out here", "work", "serve the application to have it")
    return found


def _said(entry: Entry | None) -> Response:
    if entry is None:
        raise Missing("there is no such work (any more)")
    result = None if entry.result is None else KINDS[entry.kind].gives.model_validate_json(entry.result).model_dump(mode="json")
    return answer(WorkState(id=entry.id, kind=entry.kind, state=entry.state, share=round(entry.share, 3), words=entry.words,
                            step=entry.step, open=entry.open, result=result))


@api.post("/work", responses={200: WorkState})
def begin_work(body: WorkAsked) -> Response:
    """Begin work on an input, or find it under way or done."""
    return _said(_hands().start(body.kind, parse(KINDS[body.kind].given, body.input)))


@api.get("/work/<work_id>", responses={200: WorkState})
def see_work(path: WorkPath) -> Response:
    """How far work is, with the best result so far."""
    return _said(_hands().find(path.work_id))


@api.delete("/work/<work_id>", responses={200: WorkState})
def stop_work(path: WorkPath) -> Response:
    """Stop work; the best it had so far stays its result."""
    return _said(_hands().cancel(path.work_id))
