"""What layers weigh, cost as material used, and take to lay: of a surface, and of a whole job."""

from __future__ import annotations

from typing import NamedTuple

from ..job import JobDocument, StackLayerIn, Surface
from ..materials.model import Material, to_layer
from ..materials.shelf import Shelf
from ..stacks.predict import layer_mass
from ..surfaces.coverage import laid_share
from ..surfaces.geometry import Areas, areas


class Load(NamedTuple):
    """What a stack adds to all copies of a surface."""

    kg: float
    money: float
    hours: float


def stock_price_m2(material: Material) -> float:
    """Price of one square metre of stock, in the shelf's currency; 0 for what is sold by length."""
    stock = material.stock
    if stock.form in ("sheet", "roll") and stock.width_mm and stock.length_mm:
        return stock.price / (stock.width_mm * stock.length_mm / 1e6)
    return 0.0


def line_metres(size: Areas) -> float:
    """Metres of tape, seal or sealant a surface takes: its perimeter once."""
    return size.perimeter_m


def load_of(surface: Surface, layers: tuple[StackLayerIn, ...], shelf: Shelf, cut: bool = True) -> Load:
    """Mass (kg), material (money) and work (hours) of layers on all copies of a surface; ``cut``: in pieces cut for it."""
    size = areas(surface)
    kg = money = minutes = 0.0
    for layer in layers:
        material = shelf.material(layer.material)
        covered = (laid_share(surface, layer, material) if cut else layer.coverage) * size.treatable_m2
        if material.family == "line":
            if material.stock.covers_m:
                money += material.stock.price * line_metres(size) / material.stock.covers_m
            minutes += material.minutes_per_m2 * line_metres(size) / 4
            continue
        if material.family == "damping" and material.stock.covers_m:
            money += material.stock.price * covered / tin_m2(material, layer.thickness_mm)
        kg += layer_mass(to_layer(material, layer.thickness_mm)) * covered
        money += stock_price_m2(material) * covered
        minutes += material.minutes_per_m2 * covered
    return Load(kg * surface.count, money * surface.count, minutes * surface.count / 60)


def tin_m2(material: Material, thickness_mm: float) -> float:
    """Area a tin covers at a thickness, m²; ``covers_m`` is given at the thinnest."""
    thinnest = material.thicknesses_mm[0] if material.thicknesses_mm else thickness_mm
    return (material.stock.covers_m or 1.0) * thinnest / thickness_mm


def added_load(surface: Surface, layers: tuple[StackLayerIn, ...], shelf: Shelf) -> Load:
    """What layers add to a surface: the mass of what comes off goes off, its price and hours are paid already."""
    new, old = load_of(surface, layers, shelf), load_of(surface, surface.present, shelf, cut=False)
    return Load(new.kg - old.kg, new.money, new.hours)


def job_load(doc: JobDocument, shelf: Shelf) -> Load:
    """What the whole plan adds: chosen stacks, extra pieces, cures of rattles; material as used, not as bought."""
    loads = [added_load(s, a.layers, shelf) for s in doc.surfaces if (a := doc.chosen(s.id)) is not None]
    for row in doc.pieces:
        material = shelf.material(row.material)
        area = row.width_mm * row.height_mm / 1e6 * row.quantity
        kg = layer_mass(to_layer(material, row.thickness_mm or first_thickness_mm(material))) * area
        loads.append(Load(kg, stock_price_m2(material) * area, material.minutes_per_m2 * area / 60))
    for rattle in doc.rattles:
        cure = None if rattle.done else shelf.offers.cure(rattle.kind, rattle.cure)
        if cure is not None:
            stock = shelf.material(cure.material).stock
            loads.append(Load(0.0, stock.price * cure.metres / (stock.covers_m or 1.0), 0.0))
    return Load(*(sum(x) for x in zip(*loads, strict=True))) if loads else Load(0.0, 0.0, 0.0)


def first_thickness_mm(material: Material) -> float:
    """The thinnest a material is sold in, mm; 1 where none is known."""
    return material.thicknesses_mm[0] if material.thicknesses_mm else 1.0
