"""Alternatives of a surface side by side: what each gives, weighs, costs and takes, and what the trade says of it."""

from __future__ import annotations

import numpy as np

from ...errors import BadInput
from ...figures.cuts import is_boxed
from ...figures.job_figures import JobFigures, once
from ...figures.lays import panel_loss, planned_lay, present_lay
from ...figures.loads import added_load
from ...levels.bands import PREDICTED_HZ
from ...rules.engine import ORDER
from ...schema import Strict
from ...surfaces.patches import Patch, patch_of
from ...surfaces.rows import Alternative
from ...worded import in_mm, of
from ...words import listed, signed
from .budgets import job_sums
from .curves import a_total, at_ear_db, levels_through
from .heat import heat_of
from .layers import depth_of, section
from .trade import said


class TableRow(Strict):
    """One alternative: change through the surface and at the ear (dB(A), negative is less; None where no model covers it), and
    what it comes to. Money without what has no known price."""

    alternative_id: int | None
    preset: str
    """Which way of a school it is; empty for one of the job's own."""
    name: str
    chosen: bool
    made_of: str
    through_db: float | None
    ear_db: float | None
    kg: float
    depth_mm: float
    money: float
    unpriced: bool
    hours: float
    u_value: float | None
    moisture: str
    worst: str
    says: str
    change_db: tuple[float, ...]
    problem: str


class Table(Strict):
    """Alternatives of a surface or zone, the chosen one first to compare with."""

    sentence: str
    frequency_hz: tuple[float, ...]
    rows: tuple[TableRow, ...]


@once
def table(job: JobFigures, surface_id: int, zone: str = "") -> Table:
    """The alternatives of a surface (of a zone of it). BadInput where there is no such surface."""
    surface = job.doc.surface(surface_id)
    if surface is None:
        raise BadInput(f"there is no surface {surface_id}", "surface_id", "look at the job anew")
    patch = patch_of(surface, zone)
    rows = tuple(row_of(job, patch, a) for a in job.doc.alternatives if a.surface_id == surface.id and a.zone == patch.zone)
    return Table(sentence=_sentence(rows), frequency_hz=PREDICTED_HZ, rows=rows)


def row_of(job: JobFigures, patch: Patch, alternative: Alternative, preset: str = "") -> TableRow:
    """One alternative on a patch."""
    lay = planned_lay(job.doc, patch, alternative)
    drawn = section(patch, lay, alternative, job.shelf, is_boxed(job.doc))
    depth = depth_of(drawn).mm
    added = added_load(job.doc, patch, alternative, job.shelf)
    heat = heat_of(patch, lay, job.shelf)
    through: float | None = None
    ear: float | None = None
    change: tuple[float, ...] = ()
    problem, prediction = "", None
    try:
        prediction = panel_loss(patch, lay, job.shelf)[1]
        panel_loss(patch, present_lay(job.doc, patch), job.shelf)
        now, then = levels_through(job, patch, lay)
        change = tuple(round(float(x), 2) + 0.0 for x in np.asarray(then - now))
        through, ear = round(a_total(then) - a_total(now), 2), at_ear_db(job, patch, alternative)
    except BadInput as error:
        problem = error.sentence
    rules = said(job, patch, alternative, lay, prediction, depth, added, job_sums(job), heat)
    against = [r for r in rules if r.scope != "job" and not r.overridden and r.severity in ("danger", "warn")]
    worst = min(against, key=lambda r: ORDER[r.severity], default=None)
    names = [f"{job.shelf.material(x.material).name} {in_mm(x.thickness_mm)}" for x in alternative.layers
             if job.shelf.material(x.material).lies]
    return TableRow(
        alternative_id=None if preset else alternative.id, preset=preset, name=alternative.name, chosen=alternative.chosen,
        made_of=listed(names), through_db=through, ear_db=None if ear is None else round(ear, 2), kg=round(added.kg, 2),
        depth_mm=round(depth, 1), money=round(added.money, 2), unpriced=bool(added.unpriced), hours=round(added.hours, 2),
        u_value=None if heat is None else next((f.value for f in heat.figures if f.label == "U"), None),
        moisture="" if heat is None else "dry" if "stays dry" in heat.sentence else "can condense",
        worst=worst.severity if worst else "good", says=worst.text if worst else "", change_db=change, problem=problem)


def _sentence(rows: tuple[TableRow, ...]) -> str:
    known = [r for r in rows if r.through_db is not None]
    if len(known) < 2:
        return "One alternative so far: add another, or let a school of the trade put some beside it."
    best = min(known, key=lambda r: r.through_db or 0.0)
    chosen = next((r for r in known if r.chosen), None)
    if chosen is None or best is chosen:
        return f"{best.name} gives most: {signed(best.through_db or 0.0)} dB(A) through it."
    more = (chosen.through_db or 0.0) - (best.through_db or 0.0)
    kg = best.kg - chosen.kg
    return f"{best.name} gives {more:.1f} dB more than {chosen.name}, at {of(signed(kg), 'kg')}."
