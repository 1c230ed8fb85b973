"""Fit: the work order that follows from the plan, and what happened to it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import NamedTuple

from ...figures.job_figures import JobFigures, once
from ...fitting.history import StepHistory, StepRef, later
from ...fitting.rows import Fixing, StepEvent
from ...fitting.schedule import Task, ready_minutes
from ...fitting.taken_off import missing
from ...fitting.times import PHASES
from ...words import listed, plural
from ..cut.wanted import drawn_surfaces
from .drafting import drafts, events, held_keys, told
from .laying import low
from .model import Check, Draft, FellAway, FitView, Minutes, Place, StepFixing, StepView, Warmth
from .standing import Stands, pieces_of, standing, warmth

HAZARDS = StepRef(phase="hazards")
"""What acknowledging the hazards of a day belongs to."""
DAY = StepRef(phase="day")
"""What the temperature of a day belongs to."""


@once
def order(job: JobFigures) -> FitView:
    """The work order from the plan, place by place, with what happened to each step."""
    happened, found, last = events(job), told(job), warmth(job)
    stand = standing(job)
    plan = [s.draft for s in stand]
    holds = held_keys(plan)
    done = {s.draft.ref for s in stand if s.over}
    named = {d.ref: d.what for d in plan}
    cured = {s.draft.ref: later(s.history.done_at, s.draft.waits) for s in stand if s.draft.waits}
    steps = tuple(_step(job, s, held, [named[r] for r in s.draft.after if r in named and r not in done],
                        max((cured[r] for r in s.draft.after if cured.get(r)), default="", key=_moment))
                  for s, held in zip(stand, holds, strict=True))
    left = [s for s in steps if not s.done and not s.skipped]
    following = next((s for s in left), None)
    wanted = _wanted(plan, done)
    ahead, ready = sum(s.minutes for s in left), ready_minutes(_tasks(left))
    count = sum(1 for s in steps if s.done)
    known = {*(s.told_as for s in stand), HAZARDS, DAY}
    return FitView(
        sentence=_sentence(steps, following), detail=_detail(steps, ahead, ready), steps=steps,
        next_key=following.key if following else None, done=count, minutes=_minutes(steps),
        minutes_left=round(ahead), ready_minutes=round(ready), people=max((s.people for s in steps), default=1),
        tools=tuple(dict.fromkeys(t for s in steps for t in s.tools)), hazards=_ranked(job, [h for d in plan for h in d.hazards]),
        places=_places(job, steps), fell_away=_fell_away(found, known), acknowledged=_acknowledged(happened),
        wants=_wants(wanted), temperature=_temperature(last, wanted),
        days=tuple(dict.fromkeys(e.item for e in happened if e.what == "day ends")))


def _moment(at: str) -> datetime:
    return datetime.fromisoformat(at)


def _blocked(d: Draft, checks: Sequence[Check], waits_for: list[str]) -> list[str]:
    """Why a step may not be ticked yet."""
    out = [f"First: {listed([low(w) for w in waits_for[:3]])}{', and more' * (len(waits_for) > 3)}."] if waits_for else []
    failed = [c.name for c in checks if c.passed is False]
    unseen = [c.name for c in checks if c.passed is None]
    if failed:
        out.append(f"Did not pass: {listed(failed)}.")
    if unseen:
        out.append(f"Nobody has looked yet: {listed(unseen)}.")
    lacks = missing(d.fixings) if d.ref.phase == "refit" else []
    if lacks:
        out.append(f"Not back yet: {listed(lacks[:3])}{', and more' * (len(lacks) > 3)}.")
    return out


def _step(
    job: JobFigures, stands: Stands, holds: tuple[str, ...], waits_for: list[str], not_before: str,
) -> StepView:
    d, h, then = stands.draft, stands.history, stands.asked_then
    timers = {t.name: t for t in h.timers if not t.ended}
    running = tuple(t.model_copy(update={"ends_at": timers[t.name].ends_at}) if t.name in timers else t for t in d.timers)
    checks = tuple(Check(name=c, passed=passed, note=note) for c in d.checks for passed, note in (h.checks.get(c, (None, "")),))
    laid = set(h.laid)
    return StepView(
        key=d.ref.key, ref=d.ref, phase=d.ref.phase, part=PHASES[d.ref.phase], surface=d.surface, what=d.what, text=d.text,
        how=d.how, hazards=_ranked(job, d.hazards), hold=d.hold, holds=holds,
        blocked=() if h.done else tuple(_blocked(d, checks, waits_for)), not_before="" if h.done else not_before,
        pieces=tuple(p.model_copy(update={"laid": h.done or p.id in laid}) for p in pieces_of(d)), letter=d.letter, tools=d.tools,
        consumables=d.consumables, people=d.people, timers=running, checks=checks,
        fixings=tuple(_told(f) for f in d.fixings), photograph=d.photograph,
        minutes=d.minutes * job.shelf.pace, wait_minutes=d.waits, done=h.done, skipped=h.skipped, taken_minutes=h.minutes,
        note=h.note, who=h.who, handed=h.handed, used=h.used, like=d.like, clock_s=h.clock_s, running_since=h.running_since,
        changed=bool(then), asked_then=then)


def _told(fixing: Fixing) -> StepFixing:
    return StepFixing(**{name: getattr(fixing, name) for name in StepFixing.model_fields})


def _ranked(job: JobFigures, hazards: Sequence[str]) -> tuple[str, ...]:
    """Hazards in words, each once, in the order of the shelf: what can kill first."""
    wanted = set(hazards)
    return tuple(said for name, said in job.shelf.hazards.items() if name in wanted)


def _tasks(steps: Sequence[StepView]) -> list[Task]:
    place = {s.key: i for i, s in enumerate(steps)}
    after: list[list[int]] = [[] for _ in steps]
    for i, s in enumerate(steps):
        for key in s.holds:
            if key in place:
                after[place[key]].append(i)
    return [Task(s.minutes, s.wait_minutes, tuple(a)) for s, a in zip(steps, after, strict=True)]


def _minutes(steps: Sequence[StepView]) -> Minutes:
    work, ready = sum(s.minutes for s in steps), ready_minutes(_tasks(steps))
    parts = {name: sum(s.minutes for s in steps if s.part == name) for name in dict.fromkeys(PHASES.values())}
    return Minutes(work=work, wait=max(0.0, ready - work), **parts)


def _places(job: JobFigures, steps: Sequence[StepView]) -> tuple[Place, ...]:
    worked = {s.ref.surface_id for s in steps}
    return tuple(Place(id=v.id, name=v.name, outline_mm=v.outline_mm, treatable_mm=v.treatable_mm, opening_mm=v.opening_mm)
                 for v in drawn_surfaces(job).values() if v.id in worked)


def _fell_away(found: dict[StepRef, StepHistory], known: set[StepRef]) -> tuple[FellAway, ...]:
    """Steps that were done, wholly or in part, and that the plan no longer has."""
    return tuple(FellAway(phase=r.phase, text=h.text or r.key, note=h.note, who=h.who, minutes=h.minutes)
                 for r, h in found.items() if r not in known and (h.done or (h.laid and not r.part)))


def _acknowledged(events: Sequence[StepEvent]) -> tuple[tuple[str, str], ...]:
    return tuple(dict.fromkeys((e.who, e.at[:10]) for e in events if e.what == "acknowledged"))


class Wanted(NamedTuple):
    """What wants panel and product so warm, °C."""

    what: str
    c: float


def _wanted(plan: Sequence[Draft], done: set[StepRef]) -> list[Wanted]:
    found = [Wanted(low(d.what.partition(": ")[2] or d.what), d.wants_c)
             for d in plan if d.wants_c is not None and d.ref not in done]
    return sorted(dict.fromkeys(found), key=lambda w: -w.c)


def _wants(wanted: list[Wanted]) -> str:
    return f"Panel and product at {wanted[0].c:g} °C at least: {wanted[0].what} wants it." if wanted else ""


def _temperature(last: StepEvent | None, wanted: list[Wanted]) -> Warmth | None:
    """The last reading, against what is left to do."""
    if last is None:
        return None
    known = [c for c in (last.panel_c, last.product_c) if c is not None]
    cold = [w for w in wanted if known and min(known) < w.c]
    said = "".join(f"{w.what[0].upper()}{w.what[1:]} wants {w.c:g} °C; it is {min(known):g} °C: warm panel and product first. "
                   for w in cold[:2]).strip()
    return Warmth(at=last.at, panel_c=last.panel_c, product_c=last.product_c, sentence=said)


def _sentence(steps: Sequence[StepView], following: StepView | None) -> str:
    if not steps:
        return "No work order yet: choose a stack for a surface in Build."
    if following is None:
        skipped = [s for s in steps if s.skipped]
        but = f", {plural(len(skipped), 'step')} left out: {listed([low(s.what) for s in skipped[:3]])}" if skipped else ""
        return f"All {plural(len(steps) - len(skipped), 'step')} done{but}. Now prove it."
    what = f"{following.phase}, {low(following.surface)}" if following.surface else following.phase
    return f"Step {steps.index(following) + 1} of {len(steps)}: {what}."


def _detail(steps: Sequence[StepView], left: float, ready: float) -> str:
    if not steps or not left:
        return ""
    work = f"About {left / 60:.1f} h of work left" if left >= 60 else f"About {left:.0f} min of work left"
    return f"{work}." if ready < left + 5 else f"{work}; with what cures beside it, ready {ready / 60:.1f} h after you go on."


@once
def hours_of(job: JobFigures) -> float:
    """Hours of the whole work order at this workshop's pace, without what only waits."""
    return sum(d.minutes for d in drafts(job)) * job.shelf.pace / 60
