"""Work behind the page: begin it, ask how far it is, stop it."""

from __future__ import annotations

from typing import Any, Literal

from flask import Response
from pydantic import BaseModel, Field

from ..core.errors import BadInput
from ..core.schema import Strict, parse
from ..store.documents import Missing
from ..work.desk import Desk, Entry, State, result_of
from ..work.kinds import KINDS
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


def _hands() -> Desk:
    found = desk()
    if found is None:
        raise BadInput("no work is handed out here", "work", "serve the application to have it")
    return found


def _said(entry: Entry | None, query: WorkQuery) -> Response:
    if entry is None:
        raise Missing("there is no such work (any more)")
    result = result_of(entry).model_dump(mode="json") if query.result and entry.result is not None else None
    return answer(WorkState(id=entry.id, kind=entry.kind, state=entry.state, share=round(entry.share, 3), words=entry.words,
                            step=entry.step, open=entry.open, found=entry.result is not None, result=result))


@api.post("/work", responses={200: WorkState})
def begin_work(query: WorkQuery, body: WorkAsked) -> Response:
    """Begin work on an input, or find it under way or done."""
    return _said(_hands().start(body.kind, parse(KINDS[body.kind].given, body.input)), query)


@api.get("/work/<work_id>", responses={200: WorkState})
def see_work(path: WorkPath, query: WorkQuery) -> Response:
    """How far work is, with the best result so far."""
    return _said(_hands().find(path.work_id), query)


@api.delete("/work/<work_id>", responses={200: WorkState})
def stop_work(path: WorkPath, query: WorkQuery) -> Response:
    """Stop work; the best it had so far stays its result."""
    return _said(_hands().cancel(path.work_id), query)
