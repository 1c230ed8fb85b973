"""What happened to the steps of a work order: ticks, pieces, checks, timers and the clock, computed from events."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import datetime, timedelta

from ..schema import Strict
from .rows import StepEvent


class StepRef(Strict):
    """What a step is about: a phase, and the surface, layer, measure, rattle, leak or own step it belongs to."""

    phase: str
    surface_id: int | None = None
    zone: str = ""
    layer: str = ""
    measure_id: int | None = None
    rattle_id: int | None = None
    leak_id: int | None = None
    own_id: int | None = None
    build_id: int | None = None
    part: int = 0

    def parted(self, part: int) -> StepRef:
        """One of the two parts of a step that was split; 0 is the whole too."""
        return self if part == self.part else self.model_copy(update={"part": part})

    @property
    def key(self) -> str:
        """The same in one word, for lists; rows keep the parts."""
        parts = (("surface", self.surface_id), ("zone", self.zone), ("layer", self.layer), ("measure", self.measure_id),
                 ("rattle", self.rattle_id), ("leak", self.leak_id), ("step", self.own_id),
                 ("build", self.build_id), ("part", self.part))
        return " ".join([self.phase, *(f"{name} {value}" for name, value in parts if value)])


class Used(Strict):
    """What was really used: of which material how much, and why."""

    material: str
    amount: float | None
    unit: str
    note: str


class Timer(Strict):
    """A clock that runs down: until when (ISO 8601), and what to do then."""

    name: str
    ends_at: str
    ended: bool = False
    """Whether somebody has seen it end, or stopped it."""


class StepHistory(Strict):
    """How a step stands. ``clock_s`` is what its clock counted, without what runs since ``running_since`` (ISO 8601)."""

    done: bool = False
    done_at: str = ""
    skipped: str = ""
    """Why it is left out."""
    note: str = ""
    minutes: float | None = None
    clock_s: float = 0.0
    running_since: str | None = None
    text: str = ""
    """What the step said when it was last ticked."""
    like: str = ""
    who: str = ""
    handed: str = ""
    """Whom it was handed to."""
    laid: tuple[str, ...] = ()
    checks: dict[str, tuple[bool, str]] = {}
    """By check: whether it passed, and what was noted."""
    timers: tuple[Timer, ...] = ()
    used: tuple[Used, ...] = ()
    split_at: str = ""
    """The piece from which on it is a step of its own."""


def ref_of(event: StepEvent) -> StepRef:
    """The step an event belongs to."""
    return StepRef(**{name: getattr(event, name) for name in StepRef.model_fields})


APART_S = 1e-6
AHEAD_S = 300.0
"""A device's clock further ahead of the server's than this is wrong."""


def as_they_happened(events: Sequence[StepEvent]) -> list[StepEvent]:
    """Events in the order they happened, whenever they came in: each device's in its own order, devices by the time.

    What happened later than it was taken in was told by a wrong clock; it happened when it was taken in. What has no time stands
    where it was kept.
    """
    when: list[float] = []
    for e in events:
        at = _moment(e.at) if e.at else when[-1] if when else 0.0
        taken_in = _moment(e.received_at) if e.received_at else at
        when.append(taken_in if at > taken_in + AHEAD_S else at)
    latest: dict[str, float] = {}
    for i in sorted((i for i, e in enumerate(events) if e.sequence), key=lambda i: events[i].sequence):
        device = events[i].device
        when[i] = latest[device] = max(when[i], latest.get(device, 0.0) + APART_S)
    return [events[i] for i in sorted(range(len(events)), key=lambda i: (when[i], i))]


def _moment(at: str) -> float:
    return datetime.fromisoformat(at).timestamp()


def histories(events: Sequence[StepEvent]) -> dict[StepRef, StepHistory]:
    """Events in the order they happened, by step, each folded into how it stands."""
    by_step: dict[StepRef, list[StepEvent]] = {}
    for event in events:
        by_step.setdefault(ref_of(event), []).append(event)
    return {ref: folded(own) for ref, own in by_step.items()}


def folded(events: Sequence[StepEvent]) -> StepHistory:
    """The events of one step as how it stands after them."""
    done, note, typed, clock, text, like, who, handed, skipped, done_at, split_at = (
        False, "", None, 0.0, "", "", "", "", "", "", "")
    running: StepEvent | None = None
    laid: dict[str, None] = {}
    checks: dict[str, tuple[bool, str]] = {}
    timers: dict[str, Timer] = {}
    used: dict[str, Used] = {}
    for e in events:
        if e.what in ("passed", "failed"):
            checks[e.item] = e.what == "passed", noted(checks.get(e.item, (False, ""))[1], e)
            continue
        if e.what == "used":
            used[e.material] = Used(material=e.material, amount=e.amount, unit=e.unit, note=e.note)
            continue
        if e.what in ("split", "joined"):
            split_at = e.item if e.what == "split" else ""
            continue
        if e.what == "timer":
            timers[e.item] = Timer(name=e.item, ends_at=later(e.at, e.minutes or 0.0))
            continue
        if e.what == "timer ended":
            if e.item in timers:
                timers[e.item] = timers[e.item].model_copy(update={"ended": True})
            continue
        if e.what in ("laid", "unlaid"):
            laid.pop(e.item, None)
            laid |= {e.item: None} if e.what == "laid" else {}
            like = e.like or like
            continue
        if (e.what == "note" and (e.note or e.minutes is None)) or (e.what == "done" and e.note):
            note = noted(note, e)
        typed = e.minutes if e.minutes is not None else typed
        handed = e.who if e.what == "handed" else handed
        if e.what in ("skipped", "taken up"):
            skipped = e.note or "no reason noted" if e.what == "skipped" else ""
        if e.what in ("done", "undone"):
            done, text, like, who, skipped, done_at = e.what == "done", e.text, e.like, e.who, "", e.at
        if e.what == "started":
            running = running or e
        elif e.what in ("paused", "done") and running is not None:
            clock += seconds(running.at, e.at)
            running = None
    minutes = typed if typed is not None else max(1.0, float(round(clock / 60))) if done and clock else None
    return StepHistory(
        done=done, done_at=done_at if done else "", skipped=skipped, note=note, minutes=minutes, clock_s=round(clock, 1),
        text=text, like=like, who=who, running_since=running.at if running else None, handed=handed, laid=tuple(laid),
        checks=checks, timers=tuple(timers.values()), used=tuple(used.values()), split_at=split_at)


def noted(before: str, event: StepEvent) -> str:
    """What is noted after an event: its own words in place of those they were typed over, beside what nobody saw who typed."""
    seen = event.what != "done" if event.over is None else event.over == before
    if seen or not before or before in event.note:
        return event.note
    return f"{before} / {event.note}" if event.note and event.note not in before else before


def passed_on(found: dict[StepRef, StepHistory], ref: StepRef, like: str, standing: Collection[StepRef]) -> StepRef | None:
    """Whose history a layer's step takes on that has none of its own: a step at its place whose layer is gone and was like it."""
    same = (r for r, h in found.items() if r not in standing and h.like == like
            and (r.phase, r.surface_id, r.zone, r.part) == (ref.phase, ref.surface_id, ref.zone, ref.part))
    return next(same, None) if like else None


def seconds(start: str, end: str) -> float:
    """Seconds from one time to another; 0 where either was not noted or they run backwards."""
    if not start or not end:
        return 0.0
    return max(0.0, (datetime.fromisoformat(end) - datetime.fromisoformat(start)).total_seconds())


def later(at: str, minutes: float) -> str:
    """A time so many minutes after another; empty where that was not noted."""
    return (datetime.fromisoformat(at) + timedelta(minutes=minutes)).isoformat() if at else ""
