"""The ``order`` command: the work order of a job file, printed, on paper, and the days to look again as a calendar."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

from ..core.errors import BadInput
from ..core.figures.job_figures import JobFigures
from ..core.job.shelf import Shelf
from ..core.schema import Strict
from ..core.stages.fit.afterwards import look_again
from ..core.stages.fit.model import FitView, StepView
from ..core.stages.fit.view import order
from .files import read_bytes, write_whole
from .job_file import read_job


class OrderConsumable(Strict):
    material: str
    amount: float
    unit: str


class OrderTimer(Strict):
    name: str
    minutes: float
    then: str


class OrderFixing(Strict):
    kind: str
    size: str
    count: int
    place: str
    bag: str


class OrderStep(Strict):
    """A step; ``hold`` in words, ``holds`` the keys of those that wait for it."""

    key: str
    phase: str
    part: str
    surface: str
    text: str
    pieces: tuple[str, ...]
    tools: tuple[str, ...]
    consumables: tuple[OrderConsumable, ...]
    people: int
    hazards: tuple[str, ...]
    hold: str
    holds: tuple[str, ...]
    minutes: float
    wait_minutes: float
    timers: tuple[OrderTimer, ...]
    fixings: tuple[OrderFixing, ...]
    photograph: str
    done: bool
    taken_minutes: float | None


class Order(Strict):
    """The whole order; minutes are sums of figures that are not rounded, to 0.1."""

    steps: tuple[OrderStep, ...]
    minutes: dict[str, float]
    people: int
    tools: tuple[str, ...]
    hazards: tuple[str, ...]


def run_order(name: str, shelf: Shelf, pdf: Path | None, ics: Path | None, on: str | None) -> Order:
    """``order JOB.json``: the order printed; ``pdf`` and ``ics`` written beside. BadInput naming what is wrong."""
    day = day_of(on)
    document = read_job(read_bytes(name), name, shelf).document
    job = JobFigures(document, shelf)
    view = order(job)
    files: dict[Path, bytes] = {}
    if pdf is not None:
        from .order_sheets import order_sheets

        files[pdf] = order_sheets(view, document.job.name, "", "metric")
    if ics is not None:
        from .calendar_file import calendar_file

        files[ics] = calendar_file(look_again(job, day), document.job.name)
    if files:
        write_whole(files)
    return order_of(view)


def day_of(on: str | None) -> date:
    """A day as it is given, or today. BadInput for none."""
    try:
        return date.today() if on is None else date.fromisoformat(on)
    except ValueError:
        raise BadInput(f"'{on}' is no day", "--on", "give it as 2026-11-29") from None


def order_of(view: FitView) -> Order:
    """An order as it is printed."""
    minutes = {k: round(v, 1) for k, v in view.minutes.model_dump().items()}
    return Order(steps=tuple(_step(s) for s in view.steps), minutes=minutes, people=view.people, tools=view.tools,
                 hazards=view.hazards)


def _step(s: StepView) -> OrderStep:
    own: dict[str, Any] = {name: getattr(s, name) for name in (
        "key", "phase", "part", "surface", "text", "tools", "people", "hazards", "hold", "holds", "photograph", "done",
        "taken_minutes")}
    return OrderStep(
        **own, pieces=tuple(p.label for p in s.pieces), minutes=round(s.minutes, 1), wait_minutes=round(s.wait_minutes, 1),
        consumables=tuple(OrderConsumable(material=c.material, amount=c.amount, unit=c.unit or "piece") for c in s.consumables),
        timers=tuple(OrderTimer(name=t.name, minutes=t.minutes, then=t.then) for t in s.timers),
        fixings=tuple(OrderFixing(kind=f.kind, size=f.size, count=f.count, place=f.place, bag=f.bag) for f in s.fixings))
