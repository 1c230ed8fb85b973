"""Small sums over how a material is sold: which form at which thickness, price per area and amount, area of a tin."""

from __future__ import annotations

from typing import Literal

from ..materials.model import Material, StockForm

FLAT = ("sheet", "roll")


def forms_at(material: Material, thickness_mm: float | None) -> tuple[StockForm, ...]:
    """The forms in which a thickness is sold: those of that thickness, else those that name none; empty where nobody sells it."""
    sold = [s for s in material.stock if s.form != "none"]
    exact = tuple(s for s in sold if s.thickness_mm is not None and thickness_mm is not None
                  and abs(s.thickness_mm - thickness_mm) < 0.01)
    return exact or tuple(s for s in sold if s.thickness_mm is None or thickness_mm is None)


def form_at(material: Material, thickness_mm: float | None) -> StockForm | None:
    """The form a thickness is sold in first; None where nobody sells it."""
    return next(iter(forms_at(material, thickness_mm)), None)


def area_m2(form: StockForm) -> float | None:
    """Area of one sheet or roll, m²; of a tin what it covers; None of what has none."""
    if form.form in FLAT and form.width_mm and form.length_mm:
        return form.width_mm * form.length_mm / 1e6
    return form.covers_m if form.form == "piece" and form.covers_m else None


def price_m2(material: Material, thickness_mm: float) -> float | None:
    """Price of one square metre of stock at a thickness, in the shelf's currency: the cheapest form; None where unknown."""
    found = [f.price / area for f in forms_at(material, thickness_mm) if f.price is not None and (area := area_m2(f))]
    return min(found, default=None)


def price_m(material: Material) -> float | None:
    """Price of one metre, litre or piece of what is no layer, as ``measure`` has it; None where unknown."""
    form = form_at(material, None)
    return None if form is None or form.price is None else form.price / goes_for(material, form)


def goes_for(material: Material, form: StockForm) -> float:
    """How much of an amount one unit goes for: litres as they stand of what is spread or foamed, metres, else one piece."""
    if form.litres is not None:
        return form.litres * (material.expands or 1.0)
    return form.covers_m or 1.0


def measure(material: Material) -> Literal["l", "m", ""]:
    """What amounts of a material that is no layer are in: litres, metres, or pieces."""
    form = form_at(material, None)
    if form is not None and form.litres is not None:
        return "l"
    return "m" if form is not None and (form.form == "length" or form.covers_m is not None) else ""


def first_thickness_mm(material: Material) -> float:
    """The thinnest a material comes in, mm; 1 where none is known."""
    return material.thicknesses_mm[0] if material.thicknesses_mm else 1.0
