"""Several at one job: who changed what is told as it happens, and who is at which step."""

from __future__ import annotations

import json
import secrets
import threading
import time
from collections import OrderedDict, deque
from collections.abc import Iterator

from flask import Flask, Response, current_app, request
from pydantic import BaseModel, Field

from ..core.schema import Strict
from . import schemas as s
from .shared import answer, api, sends

MOST_STREAMS = 6
"""Each holds a thread of the server; whoever comes later asks for the revision now and then."""
STREAM_S, COMMENT_S = 60.0, 10.0
HERE_S = 45.0
MOST_HERE = 200


class Somebody(Strict):
    """Somebody else who has a job open: their name, empty where it is not said, and the step they are at."""

    name: str
    step: str


class Revision(Strict):
    revision: int
    here: tuple[Somebody, ...] = ()


class At(BaseModel):
    """Where a window is: the name of who holds it, and the step it shows."""

    name: str = Field(default="", max_length=120)
    step: str = Field(max_length=160)


class Together:
    """What was changed lately, numbered, for those who listen; and who is where."""

    def __init__(self) -> None:
        self._news = threading.Condition()
        self._start = secrets.token_hex(4)
        self._number = 0
        self._lately: deque[tuple[int, int]] = deque(maxlen=500)
        self._here: OrderedDict[tuple[int, str], tuple[At, float]] = OrderedDict()
        self._opened = 0
        self._streams: dict[int, str] = {}
        self._closed = False

    def changed(self, job_id: int) -> None:
        """Something of a job changed."""
        with self._news:
            self._number += 1
            self._lately.append((self._number, job_id))
            self._news.notify_all()

    def at(self, job_id: int, tab: str, at: At) -> None:
        """A window of a job shows a step."""
        with self._news:
            before = self._here.pop((job_id, tab), None)
            self._here[job_id, tab] = at, time.monotonic() + HERE_S
            while len(self._here) > MOST_HERE:
                self._here.popitem(last=False)
        if before is None or before[0] != at:
            self.changed(job_id)

    def here(self, job_id: int, but: str) -> tuple[Somebody, ...]:
        """Who else is at which step of a job."""
        now = time.monotonic()
        with self._news:
            return tuple(Somebody(name=at.name, step=at.step) for (job, tab), (at, until) in self._here.items()
                         if job == job_id and tab != but and until > now)

    def close(self) -> None:
        """All streams end."""
        with self._news:
            self._closed = True
            self._news.notify_all()

    def stream(self, last: str, of: str) -> tuple[int, Iterator[bytes]] | None:
        """The number of a stream, and the jobs that changed since the event ``last`` as server-sent events, for a minute; None
        where too many listen. ``of``: the browser that listens; it has one, and a new one ends the one before.
        """
        with self._news:
            others = sum(1 for browser in self._streams.values() if browser != of)
            if others >= MOST_STREAMS or self._closed:
                return None
            self._opened += 1
            self._streams = {n: b for n, b in self._streams.items() if b != of} | {self._opened: of}
            self._news.notify_all()
            return self._opened, self._events(last, self._opened)

    def ended(self, own: int) -> None:
        """A stream ended, whoever ended it."""
        with self._news:
            self._streams.pop(own, None)

    def _over(self, own: int) -> bool:
        return self._closed or own not in self._streams

    def _events(self, last: str, own: int) -> Iterator[bytes]:
        start, _, number = last.partition(".")
        known = start == self._start and number.isdecimal()
        seen, end = int(number) if known else self._number, time.monotonic() + STREAM_S
        yield b"retry: 300\n\n" + (b"" if known or not last else b'data: {"all": true}\n\n')
        while (left := end - time.monotonic()) > 0:
            with self._news:
                self._news.wait_for(lambda: self._over(own) or self._number > seen, min(COMMENT_S, left))  # noqa: B023
                if self._over(own):
                    return
                jobs = sorted({job for n, job in self._lately if n > seen})
                missed = bool(self._lately) and self._lately[0][0] > seen + 1
                seen = self._number
            told = {"all": True} if missed else {"jobs": jobs}
            yield f"id: {self._start}.{seen}\ndata: {json.dumps(told)}\n\n".encode() if jobs else b": nothing new\n\n"


def together() -> Together:
    """The one of the running application."""
    found: Together = current_app.extensions["together"]
    return found


def tell_of_edits(app: Flask) -> None:
    """After each request that changed a job, whoever listens is told."""
    app.extensions["together"] = Together()

    @app.after_request
    def told(response: Response) -> Response:
        asks = request.url_rule.endpoint.rsplit(".", 1)[-1] if request.url_rule is not None else ""
        job = (request.view_args or {}).get("job_id")
        if request.method not in ("GET", "HEAD", "OPTIONS") and response.status_code < 300 and isinstance(job, int) and (
                asks not in QUIET):
            together().changed(job)
        return response


QUIET = ("try_steps", "say_where")
"""Ways in, by the names of their functions, that change nothing, or tell of it themselves."""


class Listening(BaseModel):
    """The browser that listens."""

    of: str = Field(default="", max_length=64)


@api.get("/stream", responses=sends("text/event-stream"))
def listen_in(query: Listening) -> Response:
    """Which jobs change, as it happens; where too many listen already, one event that says so."""
    found = together().stream(request.headers.get("Last-Event-ID", "")[:40], query.of)
    head = {"Cache-Control": "no-store"}
    if found is None:
        return Response(b'data: {"full": true}\n\n', mimetype="text/event-stream", headers=head)
    shared, (number, events) = together(), found
    response = Response(events, mimetype="text/event-stream", headers=head)
    response.call_on_close(lambda: shared.ended(number))
    return response


@api.post("/jobs/<int:job_id>/here", responses={200: s.Rows})
def say_where(path: s.JobPath, body: At) -> Response:
    """Say which step this window shows; it is forgotten unless it is said again."""
    together().at(path.job_id, request.headers.get("X-Tab", "")[:80], body)
    return answer(s.Rows(rows=()))
