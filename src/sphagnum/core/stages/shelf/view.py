"""A material as the hand asks for it: kilograms, price, thicknesses, what is in stock, and what is doubtful about it."""

from __future__ import annotations

from functools import lru_cache

from ...cutting.stock import forms_at, measure, price_m, price_m2
from ...cutting.store import UsedBy, left_of
from ...job.document import JobDocument
from ...job.shelf import Shelf
from ...job.shelf_changes import plain, said_changes
from ...materials.model import Material, StockForm, kg_per_m2
from ...materials.usual import Doubt, doubts
from ...schema import Strict
from ...worded import in_mm, of
from ...words import listed, plural


class Size(Strict):
    """One thickness of a material: what it weighs and costs per square metre (None unknown), and how it is sold in words."""

    thickness_mm: float
    kg_m2: float
    price_m2: float | None
    sold: str
    on_hand: str


class MaterialCard(Strict):
    """A material with what follows from it."""

    material: Material
    own: bool
    """Whether the workshop made it, or changed it."""
    shipped: bool
    letter: str
    acts: str
    lies: bool
    thicknesses_mm: tuple[float, ...]
    sizes: tuple[Size, ...]
    each: str
    """What one metre, litre or piece costs, of what is no layer."""
    measure: str
    """What amounts of it are in: m, l, or "" for pieces."""
    on_hand: str
    doubts: tuple[Doubt, ...]


@lru_cache(maxsize=8)
def cards(shelf: Shelf, shipped: Shelf, currency: str) -> tuple[MaterialCard, ...]:
    """Every material of a shelf, those in use first, the retired last."""
    return tuple(card(m, shipped, currency, shelf.used) for m in sorted(shelf.materials.values(), key=lambda m: m.retired))


def card(material: Material, shipped: Shelf, currency: str = "€", used: tuple[UsedBy, ...] = ()) -> MaterialCard:
    """One material; ``used``: what jobs have used of the store."""
    base = shipped.materials.get(material.id)
    sizes = tuple(_size(material, mm, used) for mm in material.thicknesses_mm) if material.lies else ()
    price = None if material.lies else price_m(material)
    unit = measure(material)
    each = "" if price is None else f"{currency} " + (of(price, "/m", ".2f") if unit == "m" else f"{price:.2f} {EACH[unit]}")
    return MaterialCard(
        material=material, own=base is None or plain(base) != plain(material), shipped=base is not None, letter=material.letter,
        acts=material.acts, lies=material.lies, measure=measure(material), thicknesses_mm=material.thicknesses_mm, sizes=sizes,
        each=each, on_hand=_here(material, used), doubts=doubts(material))


EACH = {"l": "a litre", "": "each"}


def _size(material: Material, mm: float, used: tuple[UsedBy, ...]) -> Size:
    forms = forms_at(material, mm)
    price = price_m2(material, mm)
    return Size(thickness_mm=mm, kg_m2=round(kg_per_m2(material, mm), 2), price_m2=None if price is None else round(price, 2),
                sold=listed([_sold(f) for f in forms]),
                on_hand=listed([x for x in (_here(material, used, (f,)) for f in forms) if x]))


def _sold(form: StockForm) -> str:
    if form.form in ("sheet", "roll"):
        size = in_mm(form.width_mm, form.length_mm) if form.width_mm and form.length_mm else "of no known size"
        return f"{form.form} {size}" + (f", {form.per_pack} a pack" if form.per_pack > 1 else "")
    if form.form == "length":
        return f"length of {of(form.covers_m or 0, 'm')}"
    if form.litres is not None:
        return f"{form.litres:g} l"
    return "not sold" if form.form == "none" else "tin" if form.covers_m else "piece"


def _here(material: Material, used: tuple[UsedBy, ...], forms: tuple[StockForm, ...] | None = None) -> str:
    """What of a material is in the store, of some of its forms or summed over them; empty where nobody counted."""
    counted = [f for f in (material.stock if forms is None else forms) if f.on_hand is not None]
    if not counted:
        return ""
    kinds = {f.form if f.form in ("sheet", "roll") else "piece" for f in counted}
    there, left = (sum(x) for x in zip(*((f.on_hand or 0.0, left_of(f, material.id, used) or 0.0) for f in counted), strict=True))
    kind = kinds.pop() if len(kinds) == 1 else "piece"
    if there - left < 0.05:
        return plural(int(there), kind)
    return f"{left:.1f} of {plural(int(there), kind)} counted"


class Offer(Strict):
    """A material a job was planned with whose shelf has moved on: what would change."""

    material: str
    name: str
    copy_id: int
    version: int
    changes: tuple[str, ...]


class ShelfOffers(Strict):
    """What the shelf has to say to a job: materials that moved on, and those this shelf does not have."""

    sentence: str
    offers: tuple[Offer, ...]
    unknown: tuple[Offer, ...]


def offers(doc: JobDocument, shelf: Shelf) -> ShelfOffers:
    """What the shelf has by now for the materials a job was planned with."""
    moved, strange = [], []
    for kept in doc.material_copies:
        now = shelf.materials.get(kept.material.id)
        about = {"material": kept.material.id, "name": kept.material.name, "copy_id": kept.id, "version": kept.version}
        if now is None:
            strange.append(Offer(**about, changes=()))
        elif changes := said_changes(kept.material, now, of_plans=True):
            moved.append(Offer(**about, changes=changes))
    said = [f"{o.name}: {', '.join(o.changes[:2])}" for o in moved[:2]]
    words = f"The shelf has moved on for {plural(len(moved), 'material')} of this job. {'; '.join(said)}." if moved else ""
    if strange:
        are = "is" if len(strange) == 1 else "are"
        words = f"{words} {plural(len(strange), 'material')} of it {are} not on this shelf.".strip()
    return ShelfOffers(sentence=words, offers=tuple(moved), unknown=tuple(strange))
