"""What the trade says of a stack on a surface: the case its rules are asked about."""

from __future__ import annotations

import numpy as np

from ...errors import BadInput
from ...figures.job_figures import JobFigures, once
from ...figures.lays import Lay, panel_loss, present_lay, stack_of
from ...figures.loads import Load
from ...figures.sources import source_of
from ...figures.ways import is_opening, leaks_cm2
from ...figures.where import room_of, where_of
from ...job.shelf import Shelf
from ...job.shelf_changes import said_changes
from ...levels.bands import PREDICTED_A_DB, PREDICTED_HZ, Floats
from ...materials.model import Material
from ...rules.case import Budget, Case, Part
from ...rules.engine import Rule, Spoken, speak
from ...stacks.columns import make_up, plan
from ...stacks.model import Frame
from ...stacks.predict import Prediction
from ...surfaces.coverage import panel_share
from ...surfaces.geometry import areas
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative
from ...working import Answer
from .budgets import JobSums
from .layers import unsold
from .warmth import warmth

VENT_CM2 = 50.0
"""An opening that stays so large is one that lets air through: a judgement."""
STRONG_DB = 10.0
"""Bands within so much of the loudest are where a noise is strong."""


def said(
    job: JobFigures, patch: Patch, alternative: Alternative, lay: Lay, prediction: Prediction | None, depth: float, added: Load,
    sums: JobSums, heat: Answer | None, rules: tuple[Rule, ...] | None = None,
) -> tuple[Spoken, ...]:
    """The rules (all of the shelf's, if none are given) that speak up for an alternative on a patch, those somebody goes against
    with their reason."""
    source = source_of(job).levels
    strong = source + PREDICTED_A_DB
    change, through = _curves(job, patch, prediction, strong)
    room = room_of(job, patch)
    limits = job.doc.job.limits
    warm = warmth(job) if job.doc.job.kind == "enclosure" else None
    case = Case(
        patch, areas(patch), _parts(job, patch, lay), depth, added.kg / patch.count, prediction, strong_hz(job),
        change_db=change, through_db=through, kind=job.doc.job.kind, temperature_c=job.doc.job.temperature_c,
        substrate=job.shelf.material(patch.substrate.material),
        substrate_mm=patch.substrate.thickness_mm, ties=_ties(patch, lay, job.shelf),
        wet_faces=_wet(heat), leak_cm2=sum(leaks_cm2(job.doc, p)[1] for p in job.doc.paths if p.surface_id == patch.id),
        takes_out=() if patch.planned else alternative.takes_out, unsold=unsold(alternative.layers, job.shelf),
        unpriced=tuple(sorted(added.unpriced)), moved_on=tuple(m.name for m in moved_on(job)),
        budgets=(Budget("kg", sums.kg, limits.added_kg, "kg"),
                 Budget("money", sums.bought_money, limits.money, job.doc.job.currency),
                 Budget("hours", sums.hours, limits.hours, "h")),
        vented=any(z.kind == "vent" for s in job.doc.surfaces for z in s.keep_clear) or any(
            is_opening(p) and leaks_cm2(job.doc, p)[1] >= VENT_CM2 for p in job.doc.paths),
        depth_limit_mm=room.mm if room.said else None,
        usual_depth_mm=None if room.said or where_of(job, patch.id) is None else room.mm,
        warmer_k=None if warm is None else warm.rise_k, warmer_limit_k=None if warm is None else warm.limit_k,
        combustion=any("engine" in c.name.lower() or c.spectrum == "engine" for c in job.doc.conditions),
    )
    return speak(job.shelf.rules if rules is None else rules, case, {o.id: o.reason for o in alternative.overrides})


@once
def strong_hz(job: JobFigures) -> tuple[float, float]:
    """The first and the last band in which the noise of a job is strong."""
    strong = source_of(job).levels + PREDICTED_A_DB
    loud = [f for f, level in zip(PREDICTED_HZ, strong, strict=True) if level >= strong.max() - STRONG_DB]
    return loud[0], loud[-1]


def loss_before(job: JobFigures, patch: Patch) -> Floats:
    """R of what stands on a patch, dB (21,); of what does not stand yet, of its panel alone. BadInput where no model rules."""
    bare = Lay((), temperature_c=job.doc.job.temperature_c)
    return panel_loss(patch, bare if patch.planned else present_lay(job.doc, patch), job.shelf)[0]


def _curves(
    job: JobFigures, patch: Patch, prediction: Prediction | None, strong: Floats
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """What R gains over what stands (of what does not stand yet: over its panel alone), and what comes through, A-weighted, per
    band; both empty where no model covers the stack."""
    if prediction is None:
        return (), ()
    loss = np.array(prediction.transmission_loss_db)
    try:
        before = loss_before(job, patch)
    except BadInput:
        return (), tuple((strong - loss).tolist())
    return tuple((loss - before).tolist()), tuple((strong - loss).tolist())


def _ties(patch: Patch, lay: Lay, shelf: Shelf) -> tuple[Frame, ...]:
    """What joins two leaves of a lay, known without its curve; a limp layer gives way between what holds it."""
    try:
        stack = stack_of(patch, lay, shelf)
        arranged = plan(make_up(stack))
    except BadInput:
        return ()
    return tuple(tie for tie, pair in zip(stack.ties, arranged.tied, strict=True)
                 if all(arranged.groups[i].kind == "leaf" for i in pair))


PLACING = ("places", "fill", "lying", "bears", "sheds")
"""What of a combined sheet's limits is its own, whatever its parts'."""


def _parts(job: JobFigures, patch: Patch, lay: Lay) -> tuple[Part, ...]:
    out = []
    for one in lay.placed:
        whole = job.shelf.material(one.layer.material)
        share = lay.share(patch, one, job.shelf)
        reached = share / max(panel_share(patch, 1.0), 1e-9) if one.new else 1.0
        for part, mm in whole.each_part():
            seen = part if part is whole else part.model_copy(update={
                "name": whole.name, "holds_overhead": whole.holds_overhead, "holds_curved": whole.holds_curved,
                "comes_off": whole.comes_off, "stock": whole.stock, "hold": whole.hold,
                "limits": part.limits.model_copy(update={k: getattr(whole.limits, k) for k in PLACING})})
            out.append(Part(seen, one.layer.thickness_mm if mm is None else mm, share, one.layer, one.new, one.far,
                            one.layer.held or _usual(whole), reached))
    return tuple(out)


def _usual(material: Material) -> str:
    """How a material is held if nobody says otherwise, where that is a firm way."""
    return next((w for w in ("hangers", "screws", "contact glue") if w in material.hold and "when" not in material.hold), "")


def _wet(heat: Answer | None) -> tuple[str, ...]:
    _, found, where = ("", "", "") if heat is None else heat.sentence.partition("Water can condense ")
    return (where.rstrip("."),) if found else ()


def moved_on(job: JobFigures) -> tuple[Material, ...]:
    """Materials the job was planned with whose shelf has other values by now."""
    return tuple(c.material for c in job.doc.material_copies
                 if (now := job.base.materials.get(c.material.id)) is not None and now is not job.shelf.materials[c.material.id]
                 and said_changes(c.material, now, of_plans=True))
