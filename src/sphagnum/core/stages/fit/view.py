"""Fit: the work order that follows from the plan, in the right sequence, with hazards, holds and times."""

from __future__ import annotations

from ...cutting.stock import measure
from ...figures.cuts import is_boxed, line_amount
from ...figures.goods import load_of_good
from ...figures.job_figures import JobFigures, once
from ...figures.lays import new_layers
from ...figures.loads import goods_for
from ...figures.ways import leaks_cm2
from ...fitting.fixings import FASTENED_WITH, glue_of
from ...fitting.history import StepHistory, StepRef, histories
from ...fitting.schedule import Task, ready_minutes
from ...fitting.times import CHECKS, DEGREASED, FLAG_HAZARD, KIND_HAZARD, PHASES, WORKS, ZONE_HAZARD
from ...job.shelf import Shelf
from ...materials.model import Material
from ...materials.table import family
from ...schema import Strict
from ...surfaces.coverage import laid_share
from ...surfaces.geometry import areas
from ...surfaces.patches import Patch, patches
from ...surfaces.rows import Alternative, StackLayerIn, Surface
from ...worded import in_mm, of
from ...words import listed, plural


class StepView(Strict):
    """A step of the order and what happened to it; ``hold``: do not go on before this is checked."""

    key: str
    phase: str
    surface: str
    what: str
    text: str
    hazards: tuple[str, ...]
    hold: str
    minutes: float
    wait_minutes: float
    done: bool
    taken_minutes: float | None
    note: str
    ref: StepRef
    clock_s: float
    running_since: str | None
    changed: bool
    """Whether it was done when the plan asked for something else."""


class FitView(Strict):
    """The whole order, the step that is next, and where it stands."""

    sentence: str
    detail: str
    steps: tuple[StepView, ...]
    next_key: str | None
    done: int
    minutes_left: float
    """Of work."""
    ready_minutes: float
    """Until all is done, with what cures meanwhile."""


@once
def order(job: JobFigures) -> FitView:
    """The work order from the plan, phase by phase over all surfaces, with what happened to each step."""
    ticks = histories(job.doc.step_events)
    treated = [(p, a) for s in job.doc.surfaces for p in patches(s)
               if (a := job.doc.chosen(s.id, p.zone)) and new_layers(job.doc, p)]
    steps: list[StepView] = []
    for phase in PHASES:
        if phase == "read again":
            if treated or steps:
                steps.append(_step(ticks, StepRef(phase=phase), "", "Take the same readings again, like for like.",
                                   [job.shelf.hazards["noise"]], "", job.shelf.minutes[phase]))
            continue
        if phase == "at the source":
            steps += _measures(job, ticks, False)
        if phase == "cure rattles":
            steps += _rattles(job, ticks)
        if phase in ("at the source", "cure rattles"):
            continue
        once_behind: set[str] = set()
        for patch, one in treated:
            steps += _of_surface(job, ticks, phase, patch, one, once_behind)
        if phase == "seal":
            # a fan goes into a box that stands
            steps += [*_leaks(job, ticks), *_measures(job, ticks, True)]
    done = sum(1 for s in steps if s.done)
    if job.shelf.pace != 1.0:
        steps = [s.model_copy(update={"minutes": _at_pace(job.shelf, s.minutes)}) for s in steps]
    following = next((s for s in steps if not s.done), None)
    left = sum(s.minutes for s in steps if not s.done)
    ready = ready_minutes([Task((s.ref.surface_id, s.ref.zone), s.minutes, s.wait_minutes, s.phase == "read again")
                           for s in steps if not s.done])
    return FitView(
        sentence=_sentence(steps, done, following), detail=_detail(steps, left, ready), steps=tuple(steps),
        next_key=following.key if following else None, done=done, minutes_left=round(left),
        ready_minutes=round(ready),
    )


JOINED = {"compound": "damping compound between", "adhesive": "elastic adhesive between"}
OLD = {"keep": "this stays", "restore": "this is put right", "replace": "this comes out", "build on": "this stays under the new"}


Ticks = dict[StepRef, StepHistory]


def _rattles(job: JobFigures, ticks: Ticks) -> list[StepView]:
    """One step per rattle not cured yet, while the place is open."""
    out = []
    for rattle in job.doc.rattles:
        cure = job.shelf.offers.cure(rattle.kind, rattle.cure)
        ref = StepRef(phase="cure rattles", rattle_id=rattle.id)
        if cure is None or (rattle.done and ref not in ticks):
            continue
        at = f", {rattle.frequency_hz:.0f} Hz" if rattle.frequency_hz else ""
        surface = next((s.name for s in job.doc.surfaces if s.id == rattle.surface_id), "")
        out.append(_step(ticks, ref, surface,
                         f"{rattle.kind.capitalize()} at {_low(rattle.place)}{at}: {_low(cure.text)}", [],
                         "Knock or sweep again: it must be still.", job.shelf.minutes["cure rattles"],
                         what=f"Rattle: {_low(rattle.place)}"))
    return out


def _measures(job: JobFigures, ticks: Ticks, fans: bool) -> list[StepView]:
    """One step per measure of the plan: what is done at the source, at a way in, or at the listener; fans apart."""
    out = []
    for m in job.doc.measures:
        if m.chosen and (m.air_m3_h is not None) is fans:
            at = next((p.name for p in job.doc.paths if p.id == m.path_id), f"at the {m.at}")
            note = f" {m.note.rstrip('.')}." if m.note else ""
            out.append(_step(ticks, StepRef(phase="at the source", measure_id=m.id), at, f"{m.name}, {_low(at)}.{note}", [], "",
                             60 * m.hours if m.hours is not None else job.shelf.minutes["at the source"], what=m.name))
    return out


def _leaks(job: JobFigures, ticks: Ticks) -> list[StepView]:
    """One step per leak found and not sealed yet, but for those at a way in that the plan leaves open."""
    left = {p.id for p in job.doc.paths for now, then in (leaks_cm2(job.doc, p),) if then >= now > 0}
    out = []
    for leak in job.doc.leaks:
        if leak.path_id in left:
            continue
        ref = StepRef(phase="seal", leak_id=leak.id)
        if leak.sealed and ref not in ticks:
            continue
        size = f" ({of(leak.area_cm2, 'cm²')})" if leak.area_cm2 is not None else ""
        out.append(_step(ticks, ref, "", f"Seal the leak at {_low(leak.place)}{size}; look again by {leak.how}.", [],
                         "Nothing comes through any more.", job.shelf.minutes["seal a leak"], what=f"Leak: {_low(leak.place)}"))
    return out


def _of_surface(
    job: JobFigures, ticks: Ticks, phase: str, surface: Patch, one: Alternative, once_behind: set[str],
) -> list[StepView]:
    """The steps of a phase on a patch; ``once_behind`` are the accesses opened (or closed) in it already."""
    layers = new_layers(job.doc, surface, one)
    size, n = areas(surface), surface.count
    zone_hazards = [ZONE_HAZARD[z.kind] for z in surface.keep_clear if z.kind in ZONE_HAZARD]
    flag_hazards = [FLAG_HAZARD[f] for f in surface.flags if f in FLAG_HAZARD]
    common = [job.shelf.hazards[h] for h in dict.fromkeys([*zone_hazards, *flag_hazards])]
    ref, area = StepRef(phase=phase, surface_id=surface.id, zone=surface.zone), size.gross_m2 * n
    if phase in ("strip", "refit") and surface.shares_access:
        # one trim for all that lie behind it: it is as large whichever of them is treated
        area = max(areas(s).gross_m2 * s.count for s in job.doc.surfaces if s.shares_access == surface.shares_access)
    zones = sorted({str(z.kind) for z in surface.keep_clear})
    if phase in ("apply", "seal"):
        framed = _frames(job, ticks, surface, one) if phase == "apply" else []
        return [*framed, *_layers(job, ticks, phase, surface, layers)]
    if surface.planned and phase in ("strip", "log fixings", "clean", "refit"):
        return []
    if phase in ("strip", "refit") and surface.shares_access:
        if surface.shares_access in once_behind:
            return []
        once_behind.add(surface.shares_access)
    if phase == "strip":
        if "trim over it" not in surface.flags and not surface.present:
            return []
        old = [job.shelf.material(x.material).name.lower() for x in surface.present]
        off = [job.shelf.material(x.material).name.lower() for x in surface.present if x.id in one.takes_out]
        text = f"Take the trim off the {_low(surface.name)}" if "trim over it" in surface.flags else (
            f"Uncover the {_low(surface.name)}")
        if off and surface.survey_do != "replace":
            text += f"; take out: {listed(off)}"
            old = [x for x in old if x not in off]
        text += f"; {OLD.get(surface.survey_do, 'what lies there')}: {listed(old)}." if old else "."
        kind = [job.shelf.hazards[KIND_HAZARD[job.doc.job.kind]]] if job.doc.job.kind in KIND_HAZARD else []
        return [_step(ticks, ref, surface.name, text, common + kind, "", job.shelf.minutes[phase] * area)]
    if phase == "log fixings":
        text = f"Log and bag the fixings of the {_low(surface.name)}: kind, place, count."
        return [_step(ticks, ref, surface.name, text, [], "", job.shelf.minutes[phase] * n)]
    if phase == "clean":
        wiped = surface.substrate.material in DEGREASED
        text = f"{'Clean and degrease' if wiped else 'Brush and dust'} {of(area, 'm²', '.1f')} of the {_low(surface.name)}" + (
            "; let it dry." if wiped else ".")
        hold = "Bare, dry and free of wax: wipe with a white cloth." if wiped else "Dry, firm and free of dust."
        return [_step(ticks, ref, surface.name, text, common, hold, job.shelf.minutes[phase] * area)]
    if phase == "dry-fit":
        kept = f" Keep {listed([f'{z}s' for z in zones])} clear." if zones else ""
        text = f"Lay every piece of the {_low(surface.name)} dry, and mark it.{kept}"
        return [_step(ticks, ref, surface.name, text, common, "", job.shelf.minutes[phase] * area)]
    if phase == "check function":
        text = f"Check before closing the {_low(surface.name)}: {_checks(job, surface, zones)}."
        hold = "Nothing is refitted before this works."
        return [_step(ticks, ref, surface.name, text, common, hold, job.shelf.minutes[phase] * n)]
    trim = "trim over it" in surface.flags
    if not trim and not [x for x in surface.present if x.id not in one.takes_out]:
        return []
    text = (f"Refit the trim of the {_low(surface.name)} with its own fixings; nothing pinched, nothing loose." if trim else
            f"Put back what covered the {_low(surface.name)}; nothing pinched, nothing loose.")
    return [_step(ticks, ref, surface.name, text, common, "", job.shelf.minutes[phase] * area)]


def _checks(job: JobFigures, surface: Patch, zones: list[str]) -> str:
    swings = ["locks, latches and windows work"] if "moves" in surface.flags else []
    return listed([*swings, *(CHECKS[z] for z in zones if z in CHECKS)]) or WORKS[job.doc.job.kind]


def _layers(
    job: JobFigures, ticks: Ticks, phase: str, surface: Patch, layers: tuple[StackLayerIn, ...]
) -> list[StepView]:
    out = []
    for k, layer in enumerate(layers):
        material = job.shelf.material(layer.material)
        line = material.acts == "line"
        if line != (phase == "seal") or not family(material.family).bought or material.acts == "thing":
            continue
        laid, glue = _laid(job, surface, layers, k), glue_of(layer.held, material.hold)
        glued = job.shelf.material(glue.material).hazards if glue is not None and material.lies else ()
        hazards = [job.shelf.hazards[h] for h in dict.fromkeys((*material.hazards, *glued))]
        hold = f"Let it cure {material.cure_minutes / 60:g} h." if material.cure_minutes else ""
        out.append(_step(ticks, StepRef(phase=phase, surface_id=surface.id, zone=surface.zone, layer=layer.id), surface.name,
                         _apply_text(material, layer, surface, laid), hazards, hold, _laying_minutes(material, laid),
                         material.cure_minutes, f"{surface.name}: {_low(material.name)}"))
    return out


def _laid(job: JobFigures, patch: Patch, layers: tuple[StackLayerIn, ...], k: int) -> float:
    """How much of a layer goes on all copies of a patch: m², of a line as much as it takes."""
    material = job.shelf.material(layers[k].material)
    if material.acts == "line":
        return line_amount(patch, layers, k, job.shelf, is_boxed(job.doc)) * patch.count
    return laid_share(patch, layers[k], material) * areas(patch).treatable_m2 * patch.count


def _laying_minutes(material: Material, laid: float) -> float:
    return (material.minutes_each if material.acts == "line" else material.minutes_per_m2) * laid


def _frames(job: JobFigures, ticks: Ticks, surface: Patch, one: Alternative) -> list[StepView]:
    """One step for the frames, channels and fixings a stack brings."""
    goods = goods_for(job.doc, surface, one, job.shelf)
    frames = [g for g in goods if g.material not in FASTENED_WITH]
    if not frames:
        return []
    parts = [f"{m.name.lower()}, {of(g.amount * surface.count, measure(m), '.0f')}".rstrip()
             for g in frames for m in (job.shelf.material(g.material),)]
    minutes = sum(load_of_good(g, job.shelf).minutes for g in goods) * surface.count
    hazards = [job.shelf.hazards[h] for g in frames for h in job.shelf.material(g.material).hazards]
    return [_step(ticks, StepRef(phase="apply", surface_id=surface.id, zone=surface.zone, layer="frame"), surface.name,
                  f"Set what holds the {_low(surface.name)}: {listed(parts)}.", hazards, "", minutes,
                  what=f"{surface.name}: frame")]


WHERE = {"edge": ("m", "round the {}"), "seam": ("m", "along the seams and round the {}"),
         "void": ("l", "of foam as it stands, in the {}")}


def _apply_text(material: Material, layer: StackLayerIn, surface: Surface, laid: float) -> str:
    held = layer.held or material.hold
    how = (f", {held}" if held else "") + (f", {JOINED[layer.joined]}" if layer.joined else "")
    if material.acts == "line":
        unit, where = WHERE[material.goes_by]
        return f"{material.name}: {of(laid, unit, '.1f')} {where.format(_low(surface.name))}{how}."
    part = laid / (areas(surface).treatable_m2 * surface.count or 1.0)
    share = "all of it" if part >= 0.995 else f"{100 * part:.0f} % of it"
    through = "" if surface.opening is None else " Through the opening, piece by piece as Cut numbers them."
    what = f"{material.name} {in_mm(layer.thickness_mm)} on the {_low(surface.name)}"
    return f"{what}: {of(laid, 'm²', '.1f')}, {share}{how}.{through}"


def _step(
    ticks: Ticks, ref: StepRef, surface: str, text: str, hazards: list[str], hold: str,
    minutes: float, wait: float = 0.0, what: str = "",
) -> StepView:
    tick = ticks.get(ref, StepHistory())
    return StepView(
        key=ref.key, ref=ref, phase=ref.phase, surface=surface, what=what or surface or "whole job", text=text,
        hazards=tuple(hazards), hold=hold,
        minutes=max(1.0, round(minutes)), wait_minutes=wait, done=tick.done, taken_minutes=tick.minutes, note=tick.note,
        clock_s=tick.clock_s, running_since=tick.running_since, changed=tick.done and bool(tick.text) and tick.text != text,
    )


def _sentence(steps: list[StepView], done: int, following: StepView | None) -> str:
    if not steps:
        return "No work order yet: choose a stack for a surface in Build."
    if following is None:
        return f"All {plural(len(steps), 'step')} done. Now prove it."
    what = f"{following.phase}, {_low(following.surface)}" if following.surface else following.phase
    return f"Step {steps.index(following) + 1} of {len(steps)}: {what}."


def _detail(steps: list[StepView], left: float, ready: float) -> str:
    if not steps or not left:
        return ""
    work = f"About {left / 60:.1f} h of work left" if left >= 60 else f"About {left:.0f} min of work left"
    return f"{work}." if ready < left + 5 else f"{work}; with what cures beside it, ready {ready / 60:.1f} h after you go on."


def apply_minutes(job: JobFigures, patch: Patch, layers: tuple[StackLayerIn, ...], k: int, laid_m2: float) -> float:
    """Minutes of the step that lays the layer at place ``k`` on all copies of a patch, ``laid_m2`` of it where it is no line, at
    this workshop's pace; 0 where it has no step."""
    material = job.shelf.material(layers[k].material)
    if not family(material.family).bought or material.acts == "thing":
        return 0.0
    laid = _laid(job, patch, layers, k) if material.acts == "line" else laid_m2
    return _at_pace(job.shelf, max(1.0, round(_laying_minutes(material, laid))))


def fixed_minutes(job: JobFigures, patch: Patch) -> tuple[float, float]:
    """Minutes of the steps on a patch that do not depend on what is laid: those beside its access, and those that open and
    close that."""
    sums = {True: 0.0, False: 0.0}
    for phase in PHASES:
        if phase not in ("at the source", "cure rattles", "apply", "seal", "read again"):
            for step in _of_surface(job, {}, phase, patch, job.doc.chosen(patch.id, patch.zone) or _bare(patch), set()):
                sums[phase in ("strip", "refit")] += _at_pace(job.shelf, step.minutes)
    return sums[False], sums[True]


def _bare(patch: Patch) -> Alternative:
    return Alternative(id=0, version=0, surface_id=patch.id, zone=patch.zone)


def _at_pace(shelf: Shelf, minutes: float) -> float:
    return minutes if shelf.pace == 1.0 else max(1.0, round(minutes * shelf.pace))


def hours_of(job: JobFigures) -> float:
    """Hours of the whole work order at this workshop's pace, without what only waits."""
    return sum(s.minutes for s in order(job).steps) / 60


def _low(name: str) -> str:
    return f"{name[0].lower()}{name[1:]}" if name else name
