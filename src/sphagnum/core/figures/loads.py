"""What layers weigh, cost as material used, and take to lay: of a surface, and of a whole job."""

from __future__ import annotations

from typing import NamedTuple

from ..cutting.stock import first_thickness_mm, line_metres, stock_price_m2, tin_m2
from ..job.shelf import Shelf
from ..materials.model import to_layer
from ..materials.table import layer_mass
from ..surfaces.coverage import laid_share
from ..surfaces.geometry import areas
from ..surfaces.rows import StackLayerIn, Surface
from .job_figures import JobFigures, once


class Load(NamedTuple):
    """What a stack adds to all copies of a surface."""

    kg: float
    money: float
    hours: float


def load_of(surface: Surface, layers: tuple[StackLayerIn, ...], shelf: Shelf, cut: bool = True) -> Load:
    """Mass (kg), material (money) and work (hours) of layers on all copies of a surface; ``cut``: in pieces cut for it."""
    size = areas(surface)
    kg = money = minutes = 0.0
    for layer in layers:
        material = shelf.material(layer.material)
        covered = (laid_share(surface, layer, material) if cut else layer.coverage) * size.treatable_m2
        if material.acts == "line":
            if material.stock.covers_m:
                money += material.stock.price * line_metres(size) / material.stock.covers_m
            minutes += material.minutes_per_m2 * line_metres(size) / 4
            continue
        if material.acts == "damping" and material.stock.covers_m:
            money += material.stock.price * covered / tin_m2(material, layer.thickness_mm)
        kg += layer_mass(to_layer(material, layer.thickness_mm)) * covered
        money += stock_price_m2(material) * covered
        minutes += material.minutes_per_m2 * covered
    return Load(kg * surface.count, money * surface.count, minutes * surface.count / 60)


def added_load(surface: Surface, layers: tuple[StackLayerIn, ...], shelf: Shelf) -> Load:
    """What layers add to a surface: the mass of what comes off goes off, its price and hours are paid already."""
    new, old = load_of(surface, layers, shelf), load_of(surface, surface.present, shelf, cut=False)
    return Load(new.kg - old.kg, new.money, new.hours)


@once
def job_load(job: JobFigures) -> Load:
    """What the whole plan adds: chosen stacks, extra pieces, cures of rattles; material as used, not as bought."""
    loads = [added_load(s, a.layers, job.shelf) for s in job.doc.surfaces if (a := job.doc.chosen(s.id)) is not None]
    for row in job.doc.pieces:
        material = job.shelf.material(row.material)
        area = row.width_mm * row.height_mm / 1e6 * row.quantity
        kg = layer_mass(to_layer(material, row.thickness_mm or first_thickness_mm(material))) * area
        loads.append(Load(kg, stock_price_m2(material) * area, material.minutes_per_m2 * area / 60))
    for rattle in job.doc.rattles:
        cure = None if rattle.done else job.shelf.offers.cure(rattle.kind, rattle.cure)
        if cure is not None:
            stock = job.shelf.material(cure.material).stock
            loads.append(Load(0.0, stock.price * cure.metres / (stock.covers_m or 1.0), 0.0))
    return Load(*(sum(x) for x in zip(*loads, strict=True))) if loads else Load(0.0, 0.0, 0.0)
