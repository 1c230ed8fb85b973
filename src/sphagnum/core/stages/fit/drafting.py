"""The order as the plan has it: place by place, phases inside, what is opened last closed first."""

from __future__ import annotations

from ...figures.job_figures import JobFigures, once, once_of_surface
from ...figures.lays import new_layers
from ...fitting.history import StepHistory, StepRef, as_they_happened, histories
from ...fitting.rows import StepEvent
from ...fitting.schedule import in_own_order
from ...surfaces.patches import Patch, nothing_on, patches
from .beside import build_drafts, leak_drafts, measure_drafts, own_drafts, rattle_drafts
from .laying import frame_draft, laid_amount, layer_drafts
from .model import Draft
from .opening import Group, groups, refit_drafts, strip_drafts
from .preparing import box_check_draft, check_draft, patch_drafts
from .splitting import split

READ_AGAIN, TIDY = StepRef(phase="read again"), StepRef(phase="tidy")


@once
def events(job: JobFigures) -> tuple[StepEvent, ...]:
    """What happened to the order, as it happened."""
    return tuple(as_they_happened(job.doc.step_events))


@once
def told(job: JobFigures) -> dict[StepRef, StepHistory]:
    """How each step stands that something happened to."""
    return histories(events(job))


@once
def drafts(job: JobFigures) -> tuple[Draft, ...]:
    """All steps in the order they are done; none where nothing is planned. Minutes at house figures."""
    known = set(told(job))
    treated = [(p, a) for s in job.doc.surfaces for p in patches(s)
               if (a := job.doc.chosen(s.id, p.zone)) and new_layers(job.doc, p)]
    out = measure_drafts(job, False)
    refits: list[Draft] = []
    seen: set[StepRef] = set()
    for group in groups(treated):
        own, close = _of_group(job, group, known, seen)
        out += own
        refits = close + refits
    rest = [d for d in (*rattle_drafts(job, None, known), *leak_drafts(job, None, known)) if d.ref not in seen]
    out += [*build_drafts(job), *rest, *measure_drafts(job, True)]  # a fan goes into a box that stands
    if any(p.planned and job.doc.job.kind == "enclosure" for p, _ in treated):
        out.append(box_check_draft(job)._replace(after=tuple(d.ref for d in out)))
    out += refits
    if not out:
        return ()
    everything = tuple(d.ref for d in out)
    hours = sum(d.minutes for d in (*out, *(own for _, own in own_drafts(job)))) + job.shelf.minutes["read again"]
    out.append(Draft(
        ref=TIDY, surface="", what="Tidy up",
        text="Sweep, take the offcuts and rubbish away, put the tools back; breaks count here.",
        minutes=hours * job.shelf.minutes["around"] / 60, after=everything))
    out.append(Draft(
        ref=READ_AGAIN, surface="", what="Read again", text="Take the same readings again, like for like.",
        minutes=job.shelf.minutes["read again"], hazards=("noise",), after=(*everything, TIDY)))
    return _in_order(job, split(job, out, told(job)))


def _of_group(job: JobFigures, group: Group, known: set[StepRef], seen: set[StepRef]) -> tuple[list[Draft], list[Draft]]:
    """The steps behind one access, and those that close it. Each waits for the one before it at its place."""
    opened = _chained(strip_drafts(job, group), ())
    gate = opened[-1:]
    surfaces = {p.id for p, _ in group.treated}
    rattles = [d for d in rattle_drafts(job, surfaces, known) if d.ref not in seen]
    leaks = [d for d in leak_drafts(job, surfaces, known) if d.ref not in seen]
    seen |= {d.ref for d in (*rattles, *leaks)}
    free = tuple(d.ref for d in gate)
    work: list[Draft] = [d._replace(after=free) for d in rattles]
    checks: list[Draft] = []
    for patch, _ in group.treated:
        chained = _chained(_of_patch(job, patch), free)
        work += chained[:-1]
        checks.append(chained[-1])
    work += [d._replace(after=free) for d in leaks]
    ends = (*(d.ref for d in checks), *(d.ref for d in (*rattles, *leaks)))
    close = [d._replace(after=ends) for d in refit_drafts(job, group)]
    return [*opened, *work, *checks], close


@once_of_surface
def _of_patch(job: JobFigures, patch: Patch) -> list[Draft]:
    """The steps that make a patch ready, lay its layers and check it, one after the other."""
    one = job.doc.chosen(patch.id, patch.zone) or nothing_on(patch)
    layers = new_layers(job.doc, patch, one)
    damped = sum(laid_amount(job, patch, layers, k) for k, x in enumerate(layers)
                 if job.shelf.material(x.material).acts == "damping")
    return [*patch_drafts(job, patch, one, damped), *frame_draft(job, patch, one), *layer_drafts(job, patch, layers),
            check_draft(job, patch)]


def _chained(steps: list[Draft], first: tuple[StepRef, ...]) -> list[Draft]:
    """Steps each of which waits for the one before it, the first for ``first``."""
    return [d._replace(after=first if k == 0 else (steps[k - 1].ref,)) for k, d in enumerate(steps)]


def _in_order(job: JobFigures, steps: list[Draft]) -> tuple[Draft, ...]:
    """With what somebody added in its place, and as somebody moved them, as far as what holds lets it."""
    for after, own in own_drafts(job):
        at = next((k + 1 for k, d in enumerate(steps) if d.ref.key == after), 0)
        before = (steps[at - 1].ref,) if at else ()
        follows = steps[at:] if at else steps
        steps = [*steps[:at], own._replace(after=before), *follows]
    if not job.doc.job.step_order:
        return tuple(steps)
    holds = held_keys(steps)
    return tuple(steps[i] for i in in_own_order([d.ref.key for d in steps], holds, job.doc.job.step_order))


def held_keys(steps: list[Draft] | tuple[Draft, ...]) -> list[tuple[str, ...]]:
    """Per step the keys of those that wait for it."""
    out: dict[StepRef, list[str]] = {d.ref: [] for d in steps}
    for d in steps:
        for before in d.after:
            if before in out:
                out[before].append(d.ref.key)
    return [tuple(out[d.ref]) for d in steps]
