"""What a stack on a patch weighs, costs and takes, layer by layer: sheets and tins by whole packs, the rest as used."""

from __future__ import annotations

from typing import NamedTuple

from ...cutting.stock import FLAT, area_m2, forms_at, measure
from ...figures.cuts import is_boxed, line_amount
from ...figures.goods import Good, goods_of, load_of_good
from ...figures.job_figures import JobFigures, once
from ...figures.loads import added_load, goods_for
from ...job.shelf import Shelf
from ...materials.model import kg_per_m2
from ...materials.table import family
from ...quantities import LAPS
from ...surfaces.coverage import asked_share
from ...surfaces.geometry import areas
from ...surfaces.patches import Patch, patch_of
from ...surfaces.rows import Alternative, StackLayerIn
from ..fit.hours import apply_hours, fixed_hours_of, worked_hours

WASTE = 1.3
"""Sheet and roll opened for each square metre laid, until Cut has laid it out: a judgement."""


class Cost(NamedTuple):
    """Kilograms, money paid as it is used, hours; what is bought whole, by what it is and how much of it; and of all that is cut,
    how much is opened, m²."""

    kg: float = 0.0
    money: float = 0.0
    hours: float = 0.0
    uses: tuple[tuple[str, float], ...] = ()
    priced: bool = True
    draws: tuple[tuple[str, float], ...] = ()

    def plus(self, other: Cost) -> Cost:
        """Both together."""
        return Cost(self.kg + other.kg, self.money + other.money, self.hours + other.hours, _summed(self.uses, other.uses),
                    self.priced and other.priced, _summed(self.draws, other.draws))


def _summed(a: tuple[tuple[str, float], ...], b: tuple[tuple[str, float], ...]) -> tuple[tuple[str, float], ...]:
    if not a or not b:
        return a or b
    sums = dict(a)
    for name, amount in b:
        sums[name] = sums.get(name, 0.0) + amount
    return tuple(sorted(sums.items()))


class PackOf(NamedTuple):
    """How something is bought: how much a pack holds, and its price."""

    size: float
    money: float


def pack_of(shelf: Shelf, key: str) -> PackOf:
    """The pack behind a key of ``uses``: of a sheet or tin, the cheapest form by area."""
    name, _, mm = key.partition("@")
    form = min((f for f in forms_at(shelf.material(name), float(mm)) if f.price is not None and area_m2(f)),
               key=lambda f: (f.price or 0.0) / (area_m2(f) or 1.0))
    return PackOf((area_m2(form) or 1.0) * form.per_pack, (form.price or 0.0) * form.per_pack)


def price_of(shelf: Shelf, cost: Cost) -> float:
    """A cost's money with what is sold whole at its share of a pack: to compare stacks before anything is added up."""
    return cost.money + sum(amount / p.size * p.money for name, amount in cost.uses for p in (pack_of(shelf, name),))


def layer_cost(job: JobFigures, patch: Patch, layers: tuple[StackLayerIn, ...], k: int) -> Cost:
    """What the new layer at place ``k`` on all copies of a patch adds as asked, with the goods it brings; minutes as its step of
    the work order has."""
    layer = layers[k]
    material = job.shelf.material(layer.material)
    laid = asked_share(layer, material) * areas(patch).treatable_m2 * patch.count
    hours = apply_hours(job, patch, layers, k, laid)
    goods = goods_cost(job, goods_of(patch, (layer,), None, job.shelf), patch.count)
    if material.acts == "line":
        amount = line_amount(patch, layers, k, job.shelf, is_boxed(job.doc))
        return goods_cost(job, (Good(material.id, amount, ""),), patch.count)._replace(hours=hours)
    if not material.lies:
        return goods
    own = Cost(kg_per_m2(material, layer.thickness_mm) * laid, 0.0, hours)
    if not family(material.family).bought:
        return own.plus(goods)
    forms = [f for f in forms_at(material, layer.thickness_mm) if f.price is not None and area_m2(f)]
    if not forms:
        return own.plus(goods)._replace(priced=False)
    best = min(forms, key=lambda f: (f.price or 0.0) / (area_m2(f) or 1.0))
    opened = laid * (WASTE if best.form in FLAT else 1.0)
    key = f"{material.id}@{layer.thickness_mm:g}"
    own = own._replace(draws=((key, opened),))
    if best.form == "roll" and not best.sold_whole:
        return own.plus(goods)._replace(money=goods.money + opened * (best.price or 0.0) / (area_m2(best) or 1.0))
    return own.plus(Cost(uses=((key, opened),))).plus(goods)


def goods_cost(job: JobFigures, goods: tuple[Good, ...], count: int) -> Cost:
    out = Cost()
    for good in goods:
        load = load_of_good(good, job.shelf)
        money = (load.money or 0.0) * count * (LAPS if measure(job.shelf.material(good.material)) == "m" else 1.0)
        out = out.plus(Cost(load.kg * count, money, worked_hours(job, load.minutes * count), (), load.money is not None))
    return out


def fixed_hours(job: JobFigures, patch: Patch) -> tuple[float, float]:
    """Hours on a patch whatever is laid: beside its access, and opening and closing that."""
    return _fixed_hours(job, patch.id, patch.zone)


@once
def _fixed_hours(job: JobFigures, surface_id: int, zone: str) -> tuple[float, float]:
    surface = next(s for s in job.doc.surfaces if s.id == surface_id)
    return fixed_hours_of(job, patch_of(surface, zone))


def alternative_cost(job: JobFigures, patch: Patch, one: Alternative) -> Cost:
    """What an alternative that the job keeps adds, as Build counts it: with what it takes out, and its own frame."""
    total = Cost()
    layers = (patch.substrate, *one.layers) if patch.planned else one.layers
    for k in range(len(layers)):
        total = total.plus(layer_cost(job, patch, layers, k))
    load = added_load(job.doc, patch, one, job.shelf)
    extra = tuple(g for g in goods_for(patch, one, job.shelf)
                  if g not in goods_of(patch, layers, None, job.shelf)) if one.frame is not None else ()
    return total.plus(goods_cost(job, extra, patch.count))._replace(kg=load.kg, priced=not load.unpriced)
