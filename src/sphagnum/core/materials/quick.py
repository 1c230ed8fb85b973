"""A material by what a fitter knows of it: name, kind, thickness, weight, price; the rest as its kind usually is, marked so."""

from __future__ import annotations

from collections.abc import Iterable
from statistics import median
from typing import Annotated, Literal

from pydantic import Field

from ..errors import BadInput
from ..quantities import LENGTHS, read_quantity
from ..schema import Strict, read_number
from ..worded import in_mm, of
from .model import FamilyName, Material, Role, StockForm
from .properties import Properties
from .usual import NEEDS

Typed = Annotated[str, Field(max_length=120)]
Kind = Literal["damping", "limp", "foam", "porous", "plate"]
ROLES: dict[str, tuple[Role, ...]] = {"damping": ("damping",), "limp": ("barrier",), "foam": ("decoupler",),
                                      "porous": ("absorber",), "plate": ("substrate",)}
OF_THE_KIND = "usual of its kind: the middle of the shelf"
FIELDS = {"name": "its name", "thickness": "its thickness", "weight": "its weight"}


class QuickForm(Strict):
    """What is typed; sizes and price may stay open."""

    id: Annotated[str, Field(min_length=1, max_length=80)]
    name: Typed = ""
    kind: Kind
    thickness: Typed = ""
    weight: Typed = ""
    per: Literal["m2", "m3"] = "m2"
    width: Typed = ""
    length: Typed = ""
    price: Typed = ""


def quick_material(form: QuickForm, shelf: Iterable[Material]) -> Material:
    """The material a form means. Raises BadInput naming the field that is missing or no quantity."""
    missing = next((name for name in FIELDS if not getattr(form, name).strip()), None)
    if missing is not None:
        raise BadInput(f"{FIELDS[missing]} is missing", missing, "fill it in")
    thick = _length(form.thickness, "thickness")
    weight = _number(form.weight, "weight")
    if not 0 < thick <= 1000:
        raise BadInput(f"{in_mm(thick)} is no thickness", "thickness", "give millimetres, such as 2")
    density = weight / (thick / 1e3) if form.per == "m2" else weight
    if not 1 <= density <= 20_000:
        raise BadInput(f"{of(density, 'kg/m³')} is no weight of a material", "weight",
                       "look whether it is per square or per cubic metre")
    usual = _usual(form.kind, [m for m in shelf if m.family == form.kind])
    sized = {"width_mm": _length(form.width, "width") if form.width.strip() else None,
             "length_mm": _length(form.length, "length") if form.length.strip() else None}
    price = _number(form.price, "price") if form.price.strip() else None
    family: FamilyName = form.kind
    return Material(
        id=form.id, name=form.name.strip(), family=family, roles=ROLES[form.kind],
        properties=Properties.model_validate({**usual, "density_kg_m3": round(density, 1)}),
        source_class="typical", sources={"density_kg_m3": "measured"}, references=dict.fromkeys(usual, OF_THE_KIND),
        stock=(StockForm(thickness_mm=thick, form="sheet", price=price, **sized),))


def _usual(kind: str, alike: list[Material]) -> dict[str, float]:
    """The middle of each property that a kind needs, and of its poisson and heat, over the shelf."""
    out = {}
    for name in (*NEEDS[kind], "conductivity_w_mk", "vapour_mu", *(("loss_peak_c", "loss_width_c", "modulus_decade_c")
                                                                   if kind == "damping" else ())):
        known = [v for m in alike if (v := getattr(m.properties, name)) is not None]
        if known and name != "density_kg_m3":
            out[name] = float(median(known))
    return out


def _number(text: str, field: str) -> float:
    try:
        value = read_number(text)
    except BadInput as error:
        raise BadInput(error.what, field, "give a number, such as 3,2") from None
    if not isinstance(value, int | float):
        raise BadInput(f"'{text[:40]}' is no number", field, "give a number, such as 3,2")
    return float(value)


def _length(text: str, field: str) -> float:
    try:
        value = read_quantity(text, LENGTHS)
    except BadInput as error:
        raise BadInput(error.what, field, "give a length, such as ⟨2 mm⟩") from None
    if not isinstance(value, int | float):
        raise BadInput(f"'{text[:40]}' is no length", field, "give a length, such as ⟨2 mm⟩")
    return float(value)
