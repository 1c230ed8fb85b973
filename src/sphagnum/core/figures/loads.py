"""What layers and goods weigh, cost as material used, and take: of a patch, and of a whole job."""

from __future__ import annotations

from collections.abc import Collection
from functools import lru_cache
from typing import NamedTuple

from ..builds.windows import remedy_words
from ..cutting.stock import first_thickness_mm, price_m, price_m2
from ..job.document import JobDocument
from ..job.shelf import Shelf
from ..materials.model import kg_per_m2, sold_mm
from ..materials.table import family
from ..paths.rows import Measure
from ..surfaces.coverage import laid_share
from ..surfaces.geometry import areas
from ..surfaces.patches import Patch, patches
from ..surfaces.rows import Alternative, StackLayerIn, Surface
from .builds import Worked, chosen_builds, goods_of_build, parts_of, steps_of
from .cuts import is_boxed, line_amount
from .goods import Good, goods_of, load_of_good
from .job_figures import JobFigures, once, once_of_surface
from .lays import laid_of


class Load(NamedTuple):
    """What a stack adds to all copies of a surface; ``unpriced`` names what has no price and so is missing in ``money``."""

    kg: float
    money: float
    hours: float
    unpriced: frozenset[str] = frozenset()

    def plus(self, other: Load) -> Load:
        """Both together."""
        return Load(self.kg + other.kg, self.money + other.money, self.hours + other.hours, self.unpriced | other.unpriced)


NO_LOAD = Load(0.0, 0.0, 0.0)


def load_of(surface: Patch, layers: tuple[StackLayerIn, ...], shelf: Shelf, cut: bool = True, boxed: bool = False) -> Load:
    """Mass (kg), material (money) and work (hours) of layers on all copies of a patch; ``cut``: in pieces cut for it, on a
    ``boxed`` one as neighbours at its corners have it."""
    size = areas(surface)
    total = NO_LOAD
    for k, layer in enumerate(layers):
        material = shelf.material(layer.material)
        if material.acts == "line":
            total = total.plus(_of_good(Good(material.id, line_amount(surface, layers, k, shelf, boxed), ""), shelf))
            continue
        if not material.lies:
            continue
        laid = layer.coverage * size.gross_m2
        if cut:
            laid = laid_share(surface, layer, material) * size.treatable_m2
        price = price_m2(material, layer.thickness_mm)
        bought = family(material.family).bought
        total = total.plus(Load(
            kg_per_m2(material, layer.thickness_mm) * laid, (price or 0.0) * laid, material.minutes_per_m2 * laid / 60,
            frozenset({material.name}) if price is None and bought else frozenset()))
    return _times(total, surface.count)


def _times(load: Load, count: int) -> Load:
    return load._replace(kg=load.kg * count, money=load.money * count, hours=load.hours * count)


def _of_good(good: Good, shelf: Shelf) -> Load:
    found = load_of_good(good, shelf)
    missing = frozenset({shelf.material(good.material).name}) if found.money is None else frozenset()
    return Load(found.kg, found.money or 0.0, found.minutes / 60, missing)


def goods_for(patch: Patch, alternative: Alternative, shelf: Shelf) -> tuple[Good, ...]:
    """Goods an alternative needs for one copy of a patch."""
    changed = alternative.frame if patch.planned or alternative.frame != patch.frame else None
    frame = changed if changed is not None else patch.frame if patch.planned and patch.frame.kind != "none" else None
    return goods_of(patch, laid_of(patch, alternative), frame, shelf)


def added_load(doc: JobDocument, patch: Patch, alternative: Alternative, shelf: Shelf) -> Load:
    """What an alternative adds to all copies of a patch: the mass of what comes off goes off, its price and hours are paid."""
    return _added(patch, alternative, shelf, is_boxed(doc))


@lru_cache(maxsize=4096)
def _added(patch: Patch, alternative: Alternative, shelf: Shelf, boxed: bool) -> Load:
    new = load_of(patch, laid_of(patch, alternative), shelf, boxed=boxed)
    off = tuple(x for x in patch.present if x.id in alternative.takes_out)
    old = load_of(patch, off, shelf, cut=False)
    goods = NO_LOAD
    for good in goods_for(patch, alternative, shelf):
        goods = goods.plus(_of_good(good, shelf))
    return new.plus(_times(goods, patch.count))._replace(kg=new.kg - old.kg + goods.kg * patch.count)


@once_of_surface
def surface_load(job: JobFigures, surface: Surface) -> Load:
    """What the chosen stacks add to all copies of a surface."""
    total = NO_LOAD
    for patch in patches(surface):
        one = job.doc.chosen(surface.id, patch.zone)
        total = total if one is None else total.plus(added_load(job.doc, patch, one, job.shelf))
    return total


@once
def job_load(job: JobFigures) -> Load:
    """What the whole plan adds: chosen stacks, extra pieces, cures of rattles; material as used, not as bought."""
    total = beside_load(job)
    for good in (g for m in job.doc.measures if m.chosen for g in measure_goods(m)):
        total = total.plus(_of_good(good, job.shelf))
    for surface in job.doc.surfaces:
        total = total.plus(surface_load(job, surface))
    return total


def measure_goods(measure: Measure) -> tuple[Good, ...]:
    """What is bought for a measure."""
    return tuple(Good(g.material, g.amount, measure.name) for g in measure.goods)


def build_load(job: JobFigures, one: Worked) -> Load:
    """What one build of a job adds."""
    total = Load(0.0, 0.0, sum(s.minutes for s in steps_of(one)) / 60)
    for part in parts_of(one):
        material, (along, across, thickness) = job.shelf.material(part.material), part.flat_mm
        price = price_m2(material, sold_mm(material, thickness))
        total = total.plus(Load(part.kg, (price or 0.0) * along * across / 1e6, 0.0,
                                frozenset({material.name}) if price is None else frozenset()))
    for good in goods_of_build(one):
        total = total.plus(_of_good(good, job.shelf)._replace(hours=0.0))  # its steps say how long it takes
    for remedy in () if one.built is None else one.built.remedies or ():
        unpriced = frozenset({remedy_words(remedy.name)}) if remedy.money is None else frozenset()
        total = total.plus(Load(0.0, remedy.money or 0.0, 0.0, unpriced))
    return total


def beside_load(job: JobFigures, without: Collection[int] = ()) -> Load:
    """What the plan adds beside the stacks of its surfaces: extra pieces and goods, cures of rattles, and builds but those of
    the numbers ``without``."""
    total = NO_LOAD
    for row in job.doc.pieces:
        material = job.shelf.material(row.material)
        area = row.width_mm * row.height_mm / 1e6 * row.quantity
        thickness = row.thickness_mm or first_thickness_mm(material)
        price = price_m2(material, thickness)
        total = total.plus(Load(kg_per_m2(material, thickness) * area, (price or 0.0) * area, material.minutes_per_m2 * area / 60,
                                frozenset({material.name}) if price is None else frozenset()))
    for extra in job.doc.goods:
        total = total.plus(_of_good(Good(extra.material, extra.amount, ""), job.shelf))
    for one in chosen_builds(job):
        if one.build.id not in without:
            total = total.plus(build_load(job, one))
    for rattle in job.doc.rattles:
        cure = None if rattle.done else job.shelf.offers.cure(rattle.kind, rattle.cure)
        if cure is not None:
            price = price_m(job.shelf.material(cure.material))
            total = total.plus(Load(0.0, (price or 0.0) * cure.metres, 0.0))
    return total
