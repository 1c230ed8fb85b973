"""What a job buys beside sheets and rolls: by the metre, the piece and the tin, and what the work uses up."""

from __future__ import annotations

from ...cutting.buying import Buy, buy_amount, buy_tins, buy_unsold, flat_forms
from ...cutting.stock import forms_at, line_metres
from ...figures.job_figures import JobFigures
from ...figures.loads import goods_for
from ...materials.table import family
from ...surfaces.geometry import areas
from .wanted import to_lay


def amounts_bought(job: JobFigures) -> list[Buy]:
    """Seals, tapes, fixings, goods added by hand and cures of rattles, each material once."""
    amounts: dict[str, float] = {}

    def add(material: str, amount: float) -> None:
        amounts[material] = amounts.get(material, 0.0) + amount

    for patch, layers in to_lay(job.doc):
        for line in layers:
            if job.shelf.material(line.material).acts == "line":
                add(line.material, line_metres(areas(patch)) * patch.count)
        one = job.doc.chosen(patch.id, patch.zone)
        for good in goods_for(job.doc, patch, one, job.shelf) if one is not None else ():
            add(good.material, good.amount * patch.count)
    for extra in job.doc.goods:
        add(extra.material, extra.amount)
    for rattle in job.doc.rattles:
        cure = None if rattle.done else job.shelf.offers.cure(rattle.kind, rattle.cure)
        if cure is not None:
            add(cure.material, cure.metres)
    return [buy_amount(job.shelf.material(name), amount) for name, amount in amounts.items()]


def not_flat(job: JobFigures) -> list[Buy]:
    """What is laid and not cut from sheets or rolls: by the tin, or of a thickness nobody is known to sell."""
    area: dict[tuple[str, float], float] = {}
    for patch, layers in to_lay(job.doc):
        for layer in layers:
            material = job.shelf.material(layer.material)
            bought = material.lies and family(material.family).bought
            if bought and not flat_forms(material, layer.thickness_mm):
                key = material.id, layer.thickness_mm
                area[key] = area.get(key, 0.0) + layer.coverage * areas(patch).treatable_m2 * patch.count
    out = []
    for (name, thickness), covered in area.items():
        material = job.shelf.material(name)
        tins = buy_tins(material, thickness, covered) if forms_at(material, thickness) else None
        out.append(tins or buy_unsold(material, thickness, covered))
    return out
