"""What the server holds in memory, and of what: for whoever looks after it, and once an hour in the log."""

from __future__ import annotations

from flask import Flask, Response, current_app

from ..core.figures.job_figures import Shared
from ..core.kept import Kept
from ..core.schema import Strict
from ..core.stacks.known import PREDICTIONS
from ..core.stacks.transmission import LEAVES
from ..work.desk import MOST_ENTRIES, Desk
from ..work.layouts import MOST_KEPT, LastLayouts
from ..work.worker import held_mb
from .shared import answer, api


class Held(Strict):
    """One kind of what is kept: how many, about how many bytes (None: counted only), and the most there may be, in words."""

    name: str
    count: int
    bytes: int | None = None
    most: str


class Health(Strict):
    """Memory of the server and of each process at work for it, MB, and what is kept in it."""

    memory_mb: float
    workers_mb: tuple[float, ...] = ()
    held: tuple[Held, ...]


def health(app: Flask) -> Health:
    """What an application holds by now."""
    figures, last, desk = app.extensions["figures"], app.extensions["layouts"], app.config["DESK"]
    assert isinstance(figures, Shared)
    assert isinstance(last, LastLayouts)
    held = [Held(name="figures of jobs", count=figures.held()[0], bytes=figures.held()[1], most=_mb(figures.most_bytes))]
    for name, kept, by_bytes in (("answers", app.extensions["answers"], True), ("documents", app.extensions["documents"], False),
                                 ("heard", app.extensions["heard"], False), ("predictions", PREDICTIONS, False)):
        assert isinstance(kept, Kept)
        count, size = kept.held()
        held.append(Held(name=name, count=count, bytes=round(size) if by_bytes else None,
                         most=_mb(kept.most) if by_bytes else f"{kept.most:.0f}"))
    count, size = LEAVES.held()
    held.append(Held(name="leaves of stacks", count=count, bytes=round(size), most=_mb(LEAVES.most)))
    held.append(Held(name="layouts", count=last.held(), most=f"{MOST_KEPT}"))
    workers: tuple[float, ...] = ()
    if isinstance(desk, Desk):
        count, size = desk.held()
        held.append(Held(name="work", count=count, bytes=size, most=f"{MOST_ENTRIES}, and what is under way"))
        workers = tuple(round(held_mb(pid), 1) for pid in desk.workers())
    return Health(memory_mb=round(held_mb(), 1), workers_mb=workers, held=tuple(held))


def _mb(size: float) -> str:
    return f"{size / 2**20:.0f} MB"


@api.get("/health", responses={200: Health})
def get_health() -> Response:
    """How much memory is held, and of what."""
    return answer(health(current_app))
