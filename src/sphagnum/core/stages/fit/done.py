"""What was really done, from standing ticks: how much of each layer lies, what differs from the plan, what that gives."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date

from shapely import Polygon

from ...errors import BadInput
from ...figures.job_figures import JobFigures, once
from ...figures.loads import job_load
from ...figures.outlook import outlook
from ...figures.ways import leaks_cm2
from ...fitting.history import StepRef
from ...job.document import JobDocument
from ...materials.model import kg_per_m2
from ...surfaces.rows import Alternative, StackLayerIn
from ...worded import of
from ...words import plain, plural, signed
from .afterwards import look_again
from .laying import low
from .model import FitView, StepView, WasDone
from .view import order

LEAST_COVERAGE = 0.01


@once
def fit_view(job: JobFigures) -> FitView:
    """The stage: the order, what was really done, and once all is done the days to look again."""
    view, day = order(job), finished_on(job)
    again = look_again(job, day) if day is not None and view.next_key is None else ()
    return view.model_copy(update={"was_done": was_done(job), "look_again": again})


def finished_on(job: JobFigures) -> date | None:
    """The day of the last step that was ticked; None where none was, or nobody noted when."""
    last = max((e.at for e in job.doc.step_events if e.what == "done" and e.at), default="")
    return date.fromisoformat(last[:10]) if last else None


@once
def was_done(job: JobFigures) -> WasDone | None:
    """What was done so far; None where nothing was."""
    if not job.doc.step_events:
        return None
    steps = whole_steps(order(job).steps)
    if not any(s.done or any(p.laid for p in s.pieces) for s in steps):
        return None
    then, planned = job.of(_as_done(job, steps, False)), job_load(job).kg
    missing = sum(p.kg for s in steps if 0 < share_of(s) < 1 for p in s.pieces if not p.laid)
    begun = job.of(_as_done(job, steps, True)) if missing else then
    kg = job_load(begun).kg - missing + sum(_weighed(job, s) for s in steps)
    ahead, meant = outlook(then), outlook(job)
    differs = tuple(_differs(job, steps))
    gives = ""
    if ahead is not None and meant is not None:
        gives = f"; what is done gives {signed(ahead.change_db)} ± {plain(ahead.within_db)} dB"
        if abs(ahead.change_db - meant.change_db) >= 0.05:
            gives += f", the plan {signed(meant.change_db)}"
    whole = abs(kg - planned) < 0.05
    said = f"Done as planned: {of(kg, 'kg', '.1f')}" if whole and not differs else (
        f"Done: {of(kg, 'kg', '.1f')} of the {of(planned, 'kg', '.1f')} planned")
    return WasDone(kg=round(kg, 2), planned_kg=round(planned, 2), sentence=f"{said}{gives}.", differs=differs,
                   change_db=None if ahead is None else ahead.change_db, within_db=None if ahead is None else ahead.within_db)


def whole_steps(steps: Iterable[StepView]) -> list[StepView]:
    """With the parts of a step that was split as one again."""
    out: dict[StepRef, StepView] = {}
    for s in steps:
        ref = s.ref.parted(0)
        first = out.get(ref)
        out[ref] = s if first is None else first.model_copy(update={
            "pieces": first.pieces + s.pieces, "used": first.used + s.used, "done": first.done and s.done,
            "skipped": first.skipped and s.skipped, "minutes": first.minutes + s.minutes})
    return list(out.values())


def share_of(step: StepView | None) -> float:
    """How much of what a step lays lies, 0–1; 0 of none."""
    if step is None or step.skipped:
        return 0.0
    if step.done or not step.pieces:
        return float(step.done)
    areas = [Polygon(p.outline_mm, p.holes_mm).area for p in step.pieces]
    return float(sum(a for a, p in zip(areas, step.pieces, strict=True) if p.laid) / (sum(areas) or 1.0))


def _as_done(job: JobFigures, steps: Sequence[StepView], whole: bool) -> JobDocument:
    """The job's document with only what was done of its plan, and what was used instead; ``whole``: with all of a layer that is
    begun."""
    doc = job.doc
    by_layer = {(s.ref.surface_id, s.ref.zone, s.ref.layer): s for s in steps if s.ref.layer}
    beside = {(s.ref.measure_id, s.ref.leak_id) for s in steps if s.done}
    alternatives = tuple(_less(job, a, by_layer, whole) if a.chosen else a for a in doc.alternatives)
    measures = tuple(m.model_copy(update={"chosen": m.chosen and (m.id, None) in beside}) for m in doc.measures)
    built = {b.id: [s.done for s in steps if s.ref.build_id == b.id] for b in doc.builds}
    builds = tuple(b.model_copy(update={"chosen": b.chosen and bool(built[b.id]) and all(built[b.id])})
                   for b in doc.builds)
    open_still = {x.path_id for x in doc.leaks if not x.sealed and (None, x.id) not in beside}
    paths = tuple(p.model_copy(update={"planned_leak_cm2": leaks_cm2(doc, p)[0]}) if p.id in open_still else p for p in doc.paths)
    return doc.model_copy(update={"alternatives": alternatives, "measures": measures, "paths": paths, "builds": builds})


def _less(job: JobFigures, one: Alternative, steps: dict[tuple[int | None, str, str], StepView], whole: bool) -> Alternative:
    layers = []
    for layer in one.layers:
        step = steps.get((one.surface_id, one.zone, layer.id))
        share = share_of(step)
        if step is None and job.shelf.material(layer.material).lies:  # air, which nobody lays, stands with what encloses it
            layers.append(layer)
        elif share > 0:
            layers.append(_instead(job, step, layer.model_copy(update={
                "coverage": layer.coverage if share >= 1 or whole else max(LEAST_COVERAGE, round(layer.coverage * share, 4))})))
    return one.model_copy(update={"layers": tuple(layers)})


def _instead(job: JobFigures, step: StepView | None, layer: StackLayerIn) -> StackLayerIn:
    """The layer of what was used for it, where that is another that lies."""
    for used in step.used if step is not None else ():
        try:
            material = job.shelf.material(used.material)
        except BadInput:
            continue
        if material.lies and material.id != layer.material:
            near = min(material.thicknesses_mm or (layer.thickness_mm,), key=lambda mm: abs(mm - layer.thickness_mm))
            return layer.model_copy(update={"material": material.id, "thickness_mm": near})
    return layer


def _weighed(job: JobFigures, step: StepView) -> float:
    """By how much what was weighed is more than what its pieces come to, of the material they are of by now, kg."""
    weighed = [u.amount for u in step.used if u.unit == "kg" and u.amount is not None]
    one = job.doc.chosen(step.ref.surface_id or 0, step.ref.zone)
    layer = next((x for x in one.layers if x.id == step.ref.layer), None) if one is not None else None
    if not weighed or layer is None or share_of(step) == 0:
        return 0.0
    counted = _instead(job, step, layer)
    area: float = sum(Polygon(p.outline_mm, p.holes_mm).area for p in step.pieces if p.laid) / 1e6
    return sum(weighed) - area * kg_per_m2(job.shelf.material(counted.material), counted.thickness_mm)


def _differs(job: JobFigures, steps: Iterable[StepView]) -> Iterable[str]:
    for s in steps:
        laid = [p for p in s.pieces if p.laid]
        if s.skipped:
            yield f"{s.what}: left out, {s.skipped}."
        elif s.pieces and not s.done and laid:
            yield f"{s.what}: {len(laid)} of {plural(len(s.pieces), 'piece')} laid."
        for used in s.used:
            name = job.shelf.materials[used.material].name if used.material in job.shelf.materials else used.material
            much = "" if used.amount is None else f" {of(used.amount, used.unit)}"
            yield f"{s.what}: used {low(name)}{much}{f', {used.note}' if used.note else ''}."
