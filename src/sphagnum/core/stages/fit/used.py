"""What a job's standing ticks have used of what the store holds, in units as they are sold."""

from __future__ import annotations

from shapely import Polygon

from ...cutting.buying import OPENED, Cut, flat_forms
from ...cutting.stock import area_m2, form_at, goes_for
from ...cutting.store import StockUse, size_of
from ...figures.job_figures import JobFigures, once
from ...figures.lays import new_layers
from ...fitting.history import StepRef, ref_of
from ...materials.model import Material, StockForm
from ...surfaces.patches import patches
from ..cut.sheets import ask, find
from ..cut.wanted import pieces_wanted
from .done import share_of, whole_steps
from .drafting import events
from .laying import is_laid, laid_amount
from .view import order

WHOLE = ("", "sheet", "sheets", "roll", "rolls", "piece", "pieces")
"""Units in which what was used instead counts by the unit."""


@once
def stock_used(job: JobFigures) -> tuple[StockUse, ...]:
    """By step and form, what lies or is used up; nothing where nothing is ticked."""
    laid, at = _ticks(job)
    steps = {s.ref: s for s in whole_steps(order(job).steps) if s.ref in at and share_of(s)}
    by_layer = {(r.surface_id, r.zone, r.layer): s for r, s in steps.items() if r.layer}
    out: list[StockUse] = []
    for surface in job.doc.surfaces if steps else ():
        for patch in patches(surface):
            layers = new_layers(job.doc, patch)
            for k, layer in enumerate(layers):
                material = job.shelf.material(layer.material)
                step = by_layer.get((patch.id, patch.zone, layer.id))
                if step is None or not is_laid(material) or any(u.material != layer.material for u in step.used):
                    continue
                if step.pieces:
                    opened = _opened(job, (layer.material, layer.thickness_mm))
                    out += [_use(material, form, per_mm2 * Polygon(p.outline_mm, p.holes_mm).area, laid.get(p.id, at[step.ref]))
                            for p in step.pieces if p.laid or step.done for form, per_mm2 in opened]
                else:
                    thickness = layer.thickness_mm if material.lies else None
                    amount = laid_amount(job, patch, layers, k) * share_of(step)
                    out += [_use(material, form, units, at[step.ref]) for form, units in _of_amount(material, thickness, amount)]
    for ref, step in steps.items():
        amounts = [(c.material, c.amount) for c in step.consumables if step.done]
        out += [_use(m, form, units, at[ref]) for name, amount in amounts if (m := job.shelf.materials.get(name)) is not None
                for form, units in _of_amount(m, None, amount)]
        out += [_use(m, form, u.amount, at[ref]) for u in step.used if u.unit in WHOLE and u.amount is not None
                and (m := job.shelf.materials.get(u.material)) is not None and (form := form_at(m, None)) is not None]
    return tuple(u for u in out if u.units > 0)


def _ticks(job: JobFigures) -> tuple[dict[str, str], dict[StepRef, str]]:
    """By piece when it was laid, and by step when the last of what is ticked of it was."""
    laid: dict[str, str] = {}
    last: dict[StepRef, str] = {}
    for e in events(job):
        if e.what in ("done", "laid") and e.at:
            last[ref_of(e).parted(0)] = e.at
            if e.what == "laid":
                laid[e.item] = e.at
    return laid, last


def _use(material: Material, form: StockForm, units: float, at: str) -> StockUse:
    return StockUse(material=material.id, size=size_of(form), units=round(units, 4), at=at)


def _opened(job: JobFigures, key: Cut) -> list[tuple[StockForm, float]]:
    """Units of stock opened for a material, by form, for each mm² of its pieces; by their area, until they are laid out."""
    named = pieces_wanted(job).get(key, [])
    whole = sum(n.wanted.shape.area for n in named) or 1.0
    asked = ask(job, key, named)
    found = find(job, asked)
    result, forms = found.result or found.older, flat_forms(asked.material, key[1])
    if result is None:
        return [(f, OPENED / 1e6 / (area_m2(f) or 1.0)) for f in forms[:1]]
    each = {f.id: (f.length_mm or 1.0) if f.form == "roll" else None for f in forms}
    return [(f, sum(u.length_used_mm / mm if (mm := each[f.id]) else 1.0 for u in result.used if u.stock == f.id) / whole)
            for f in forms]


def _of_amount(material: Material, thickness_mm: float | None, amount: float) -> list[tuple[StockForm, float]]:
    form = form_at(material, thickness_mm)
    return [] if form is None else [(form, amount / ((area_m2(form) if material.lies else None) or goes_for(material, form)))]
