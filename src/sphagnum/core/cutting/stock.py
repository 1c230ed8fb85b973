"""Small sums over how a material is sold: price per area, metres of a line, area of a tin."""

from __future__ import annotations

from ..materials.model import Material
from ..surfaces.geometry import Areas


def stock_price_m2(material: Material) -> float:
    """Price of one square metre of stock, in the shelf's currency; 0 for what is sold by length."""
    stock = material.stock
    if stock.form in ("sheet", "roll") and stock.width_mm and stock.length_mm:
        return stock.price / (stock.width_mm * stock.length_mm / 1e6)
    return 0.0


def line_metres(size: Areas) -> float:
    """Metres of tape, seal or sealant a surface takes: its perimeter once."""
    return size.perimeter_m


def tin_m2(material: Material, thickness_mm: float) -> float:
    """Area a tin covers at a thickness, m²; ``covers_m`` is given at the thinnest."""
    thinnest = material.thicknesses_mm[0] if material.thicknesses_mm else thickness_mm
    return (material.stock.covers_m or 1.0) * thinnest / thickness_mm


def first_thickness_mm(material: Material) -> float:
    """The thinnest a material is sold in, mm; 1 where none is known."""
    return material.thicknesses_mm[0] if material.thicknesses_mm else 1.0
