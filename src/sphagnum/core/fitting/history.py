"""What happened to the steps of a work order: ticks, notes and the clock, computed from events."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from ..schema import Strict
from .rows import StepEvent


class StepRef(Strict):
    """What a step is about: a phase, and the surface, layer, measure, rattle or leak it belongs to."""

    phase: str
    surface_id: int | None = None
    zone: str = ""
    layer: str = ""
    measure_id: int | None = None
    rattle_id: int | None = None
    leak_id: int | None = None

    @property
    def key(self) -> str:
        """The same in one word, for lists; rows keep the parts."""
        parts = (("surface", self.surface_id), ("zone", self.zone), ("layer", self.layer),
                 ("measure", self.measure_id), ("rattle", self.rattle_id), ("leak", self.leak_id))
        return " ".join([self.phase, *(f"{name} {value}" for name, value in parts if value)])


class StepHistory(Strict):
    """How a step stands. ``clock_s`` is what its clock counted, without what runs since ``running_since`` (ISO 8601)."""

    done: bool = False
    note: str = ""
    minutes: float | None = None
    clock_s: float = 0.0
    running_since: str | None = None
    text: str = ""
    """What the step said when it was last ticked."""


def ref_of(event: StepEvent) -> StepRef:
    """The step an event belongs to."""
    return StepRef(**{name: getattr(event, name) for name in StepRef.model_fields})


def histories(events: Sequence[StepEvent]) -> dict[StepRef, StepHistory]:
    """Events by step, each folded into how it stands; in the order they were kept."""
    by_step: dict[StepRef, list[StepEvent]] = {}
    for event in events:
        by_step.setdefault(ref_of(event), []).append(event)
    return {ref: _folded(own) for ref, own in by_step.items()}


def _folded(events: Sequence[StepEvent]) -> StepHistory:
    done, note, typed, clock, text = False, "", None, 0.0, ""
    running: StepEvent | None = None
    for event in events:
        note = event.note if event.note or event.what == "note" else note
        typed = event.minutes if event.minutes is not None else typed
        if event.what in ("done", "undone"):
            done, text = event.what == "done", event.text
        if event.what == "started":
            running = running or event
        elif event.what in ("paused", "done") and running is not None:
            clock += _seconds(running.at, event.at)
            running = None
    minutes = typed if typed is not None else max(1.0, float(round(clock / 60))) if done and clock else None
    return StepHistory(done=done, note=note, minutes=minutes, clock_s=round(clock, 1),
                       running_since=running.at if running else None, text=text)


def _seconds(start: str, end: str) -> float:
    """Seconds from one time to another; 0 where either was not noted or they run backwards."""
    if not start or not end:
        return 0.0
    return max(0.0, (datetime.fromisoformat(end) - datetime.fromisoformat(start)).total_seconds())
