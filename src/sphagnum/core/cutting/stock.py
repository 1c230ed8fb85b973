"""Small sums over how a material is sold: which form at which thickness, price per area, metres of a line, area of a tin."""

from __future__ import annotations

from ..materials.model import Material, StockForm
from ..surfaces.geometry import Areas

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
    """Price of one metre (of one piece where it is sold by the piece) of what is no layer; None where unknown."""
    form = form_at(material, None)
    return None if form is None or form.price is None else form.price / (form.covers_m or 1.0)


def line_metres(size: Areas) -> float:
    """Metres of tape, seal or sealant a surface takes: its perimeter once."""
    return size.perimeter_m


def first_thickness_mm(material: Material) -> float:
    """The thinnest a material comes in, mm; 1 where none is known."""
    return material.thicknesses_mm[0] if material.thicknesses_mm else 1.0
