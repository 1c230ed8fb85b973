"""Steps beside the surfaces: what is done at the source, rattles, leaks, and what somebody added."""

from __future__ import annotations

from ...figures.builds import chosen_builds, goods_of_build, steps_of
from ...figures.job_figures import JobFigures
from ...figures.loads import measure_goods
from ...figures.ways import leaks_cm2
from ...fitting.history import StepRef
from ...worded import of
from .laying import consumable, low
from .model import Draft


def measure_drafts(job: JobFigures, fans: bool) -> list[Draft]:
    """One step per measure of the plan: what is done at the source, at a way in, or at the listener; fans apart."""
    out = []
    for m in job.doc.measures:
        if m.chosen and (m.air_m3_h is not None) is fans:
            at = next((p.name for p in job.doc.paths if p.id == m.path_id), f"at the {m.at}")
            note = f" {m.note.rstrip('.')}." if m.note else ""
            used = [consumable(job.shelf.material(g.material), g.amount) for g in measure_goods(m)]
            out.append(Draft(
                ref=StepRef(phase="at the source", measure_id=m.id), surface=at, what=m.name, text=f"{m.name}, {low(at)}.{note}",
                minutes=60 * m.hours if m.hours is not None else job.shelf.minutes["at the source"],
                consumables=tuple(used), hazards=("electric",) if fans else (), tools=("drill and driver",) if fans else ()))
    return out


def build_drafts(job: JobFigures) -> list[Draft]:
    """What is done for each build of the plan, one step after the other."""
    out: list[Draft] = []
    for one in chosen_builds(job):
        before: tuple[StepRef, ...] = ()
        goods = [consumable(job.shelf.material(g.material), g.amount) for g in goods_of_build(one)]
        steps = steps_of(one)
        for step in steps:
            ref = StepRef(phase=step.phase, build_id=one.build.id)
            last = step is steps[-1]
            used = goods if step.phase == "cover" or (last and not any(s.phase == "cover" for s in steps)) else ()
            out.append(Draft(ref=ref, surface=one.build.name, what=f"{one.build.name}: {step.what}", text=step.text,
                             minutes=step.minutes, tools=step.tools, hazards=step.hazards, after=before, consumables=tuple(used),
                             photograph=f"{one.build.name}, done." if last else ""))
            before = (ref,)
    return out


def rattle_drafts(job: JobFigures, surfaces: set[int] | None, known: set[StepRef]) -> list[Draft]:
    """One step per rattle not cured yet, of some surfaces, or (None) of none that is worked on; ``known``: steps something
    happened to."""
    out = []
    for rattle in job.doc.rattles:
        cure = job.shelf.offers.cure(rattle.kind, rattle.cure)
        ref = StepRef(phase="cure rattles", rattle_id=rattle.id)
        if cure is None or (rattle.done and ref not in known) or not _of(rattle.surface_id, surfaces):
            continue
        material = job.shelf.material(cure.material)
        at = f", {rattle.frequency_hz:.0f} Hz" if rattle.frequency_hz else ""
        surface = next((s.name for s in job.doc.surfaces if s.id == rattle.surface_id), "")
        out.append(Draft(
            ref=ref, surface=surface, what=f"Rattle: {low(rattle.place)}",
            text=f"{rattle.kind.capitalize()} at {low(rattle.place)}{at}: {low(cure.text)}",
            minutes=job.shelf.minutes["cure rattles"], hold="Knock or sweep again: it must be still.", hazards=material.hazards,
            photograph=f"{rattle.place}, cured.",
            consumables=(consumable(material, cure.metres),)))
    return out


def _of(surface_id: int | None, surfaces: set[int] | None) -> bool:
    return surfaces is None or (surface_id is not None and surface_id in surfaces)


def leak_drafts(job: JobFigures, surfaces: set[int] | None, known: set[StepRef]) -> list[Draft]:
    """One step per leak found and not sealed yet, but for those at a way in that the plan leaves open."""
    at = {leak.path_id for leak in job.doc.leaks}
    left = {p.id for p in job.doc.paths if p.id in at for now, then in (leaks_cm2(job.doc, p),) if then >= now > 0}
    through = {p.id: p.surface_id for p in job.doc.paths}
    out = []
    for leak in job.doc.leaks:
        ref = StepRef(phase="seal", leak_id=leak.id)
        if leak.path_id in left or (leak.sealed and ref not in known) or not _of(through.get(leak.path_id or 0), surfaces):
            continue
        size = f" ({of(leak.area_cm2, 'cm²')})" if leak.area_cm2 is not None else ""
        out.append(Draft(
            ref=ref, surface="", what=f"Leak: {low(leak.place)}",
            text=f"Seal the leak at {low(leak.place)}{size}; look again by {leak.how}.", minutes=job.shelf.minutes["seal a leak"],
            hold="Nothing comes through any more.", tools=("cartridge gun",)))
    return out


def own_drafts(job: JobFigures) -> list[tuple[str, Draft]]:
    """Steps somebody added, each with the key of the step it comes after."""
    return [(s.after, Draft(ref=StepRef(phase="own", own_id=s.id), surface="", what=s.text[:60], text=s.text, minutes=s.minutes))
            for s in job.doc.own_steps]
