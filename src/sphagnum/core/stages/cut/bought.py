"""What a job buys beside sheets and rolls: by the metre, the piece and the tin, and what the work uses up."""

from __future__ import annotations

import math
from typing import NamedTuple

from ...builds.windows import remedy_words
from ...cutting.buying import Buy, OnHand, buy_amount, buy_tins, buy_unsold, flat_forms
from ...cutting.stock import forms_at
from ...cutting.store import left_of, size_of
from ...figures.builds import chosen_builds, goods_of_build
from ...figures.cuts import is_boxed, line_amount
from ...figures.job_figures import JobFigures, once
from ...figures.loads import goods_for, measure_goods
from ...materials.model import StockForm
from ...materials.table import family
from ...surfaces.geometry import areas
from ...words import plural
from .wanted import pieces_wanted, to_lay


def amounts_bought(job: JobFigures) -> list[Buy]:
    """Seals, tapes, fixings, goods added by hand and cures of rattles, each material once."""
    amounts: dict[str, float] = {}

    def add(material: str, amount: float) -> None:
        amounts[material] = amounts.get(material, 0.0) + amount

    for patch, layers in to_lay(job.doc):
        for k, line in enumerate(layers):
            if job.shelf.material(line.material).acts == "line":
                add(line.material, line_amount(patch, layers, k, job.shelf, is_boxed(job.doc)) * patch.count)
        one = job.doc.chosen(patch.id, patch.zone)
        for good in goods_for(patch, one, job.shelf) if one is not None else ():
            add(good.material, good.amount * patch.count)
    for extra in job.doc.goods:
        add(extra.material, extra.amount)
    for measure in job.doc.measures:
        for good in measure_goods(measure) if measure.chosen else ():
            add(good.material, good.amount)
    for good in (g for one in chosen_builds(job) for g in goods_of_build(one)):
        add(good.material, good.amount)
    for rattle in job.doc.rattles:
        cure = None if rattle.done else job.shelf.offers.cure(rattle.kind, rattle.cure)
        if cure is not None:
            add(cure.material, cure.metres)
    return [buy_amount(job.shelf.material(name), amount, counted(job, name)) for name, amount in amounts.items()]


def measures_bought(job: JobFigures) -> list[Buy]:
    """Measures of the plan that cost something, and remedies of a window: what is fitted beside the stacks, as a fan."""
    priced: list[tuple[str, float | None]] = [(m.name, m.money) for m in job.doc.measures if m.chosen and m.money]
    priced += [(f"{one.build.name}: {remedy_words(r.name)}", r.money) for one in chosen_builds(job) if one.built is not None
               for r in one.built.remedies or ()]
    return [Buy(material="", thickness_mm=None, name=name, needed="1 piece", units=1, spare=0, unit="piece", kg=0.0, money=money)
            for name, money in priced]


def fixings_bought(job: JobFigures) -> list[Buy]:
    """New ones for fixings that came off worn or broken."""
    many: dict[str, int] = {}
    for f in job.doc.fixings:
        if f.state != "good":
            name = f"{f.kind.capitalize()} {f.size}".strip()
            many[name] = many.get(name, 0) + f.count
    return [Buy(material="", thickness_mm=None, name=f"{name}, new", needed=plural(n, "piece"), units=n, spare=0, unit="piece",
                kg=0.0, money=None) for name, n in many.items()]


def counted(job: JobFigures, material: str) -> OnHand:
    """What the shelf has of a material today, whatever the job's own copy of it says: what was counted, less what other jobs
    have used since."""
    today = job.base.materials.get(material)

    def on_hand(form: StockForm) -> float | None:
        same = (f for f in (today.stock if today else ()) if size_of(f) == size_of(form))
        return next((left_of(f, material, job.base.used, job.doc.job.id) for f in same), None)

    return on_hand


class Use(NamedTuple):
    """What of a consumable goes on a square metre of damping, on a metre of cut, and on any job."""

    per_m2: float = 0.0
    per_m: float = 0.0
    once: float = 0.0


USES: dict[str, Use] = {
    "panel-cleaner": Use(per_m2=0.1), "lint-free-cloth": Use(per_m2=4.0), "knife-blade": Use(per_m=1 / 15.0),
    "seam-roller": Use(once=1.0), "nitrile-gloves": Use(per_m2=0.5, once=1.0), "marking-pen": Use(once=1.0),
}
"""House figures: one litre of cleaner for ten square metres, a blade for fifteen metres of cut."""


@once
def used_up(job: JobFigures) -> tuple[Buy, ...]:
    """Cleaner, cloths, blades, gloves: by the area of damping and the metres of cut. Empty where nothing is cut."""
    wanted = [n.wanted for named in pieces_wanted(job).values() for n in named]
    if not wanted:
        return ()
    metres = sum(w.shape.length for w in wanted) / 1e3
    damped = sum(n.wanted.shape.area for (name, _), named in pieces_wanted(job).items() for n in named
                 if job.shelf.material(name).acts == "damping") / 1e6
    out = []
    for name, use in USES.items():
        amount = use.per_m2 * damped + use.per_m * metres + use.once
        if name in job.shelf.materials and amount > 0:
            out.append(buy_amount(job.shelf.material(name), math.ceil(amount - 1e-9), counted(job, name)))
    return tuple(out)


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
        tins = buy_tins(material, thickness, covered, counted(job, name)) if forms_at(material, thickness) else None
        out.append(tins or buy_unsold(material, thickness, covered))
    return out
