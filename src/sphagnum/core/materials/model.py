"""A material of the shelf: roles, properties with their source class, limits, how it holds and how it is sold."""

from __future__ import annotations

import difflib
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BeforeValidator, Field, WithJsonSchema, model_validator

from ..errors import BadInput
from ..forms import FormMillimetres, FormNotNegative, FormThickness, Moment, Optional
from ..schema import DayOrNone, ItemId, Positive, Strict, Temperature, Typed, numbered, told_apart
from .families.damping import at_temperature
from .families.plate import Interlayer, Plate
from .family import Acts, Laid, Layer
from .older import upgraded_material
from .properties import Properties
from .table import FAMILIES, family, layer_mass

FamilyName = Annotated[str, AfterValidator(lambda name: family(name).name),
                       WithJsonSchema({"enum": [*FAMILIES], "type": "string"})]
Role = Literal["substrate", "damping", "decoupler", "barrier", "absorber", "seal", "isolator"]
SourceClass = Literal["typical", "data sheet", "measured"]
ROLE_LETTER: dict[str, str] = {"substrate": "·", "damping": "D", "decoupler": "C", "barrier": "B", "absorber": "A",
                               "seal": "S", "isolator": "I"}
OptionalMm = Annotated[FormMillimetres | None, Optional]
OptionalAmount = Annotated[FormNotNegative | None, Optional]
OptionalTemperature = Annotated[Temperature | None, Optional, Typed]
GoesBy = Literal["edge", "seam", "void"]
Text = Annotated[str, Field(max_length=400)]


class StockForm(Strict):
    """One way a material is sold. ``length_mm`` of a sheet or roll; ``covers_m`` the metres (of a tin the square metres at
    ``thickness_mm``) one unit goes for; ``litres`` what is in one unit of what is spread or foamed; ``kg`` the weight of a unit
    that is no layer; ``price`` of one unit, None unknown."""

    id: ItemId = ""
    thickness_mm: Annotated[FormThickness | None, Optional] = None
    form: Literal["sheet", "roll", "length", "piece", "none"] = "none"
    width_mm: OptionalMm = None
    length_mm: OptionalMm = None
    covers_m: Annotated[Positive | None, Optional, Typed] = None
    litres: Annotated[Positive | None, Optional, Typed] = None
    kg: OptionalAmount = None
    per_pack: int = Field(default=1, ge=1, le=100_000)
    price: OptionalAmount = None
    sold_whole: bool = False
    supplier: Annotated[str, Field(max_length=120)] = ""
    order_number: Annotated[str, Field(max_length=60)] = ""
    priced_on: DayOrNone = ""
    on_hand: OptionalAmount = None
    """Units in the store when they were counted; None where nobody did."""
    counted_at: Moment = ""
    """When that was; kept by the store, not typed."""


class UseLimits(Strict):
    """What it stands; None where nobody knows."""

    most_c: OptionalTemperature = None
    least_c: OptionalTemperature = None
    wet: bool = False
    """Closed to water."""
    salt: bool | None = None
    food: bool | None = None
    outdoors: bool | None = None
    flame_class: Annotated[str, Field(max_length=40)] = ""
    places: tuple[Literal["floor", "wall", "overhead", "pipe", "rail"], ...] = ()
    """Where alone it may go; empty: wherever its other limits let it."""
    fill: bool = False
    """Poured or blown: it stays only in a closed cavity."""
    lying: bool = False
    """Laid by heat or poured out: only on what lies under it."""
    bears: bool = False
    """Holds up under feet with nothing over it."""
    sheds: bool = False
    """Sheds, soils or tears where it is seen or touched: it wants a face there."""


class MadeOf(Strict):
    """A layer a combined material is made of."""

    material: Material
    thickness_mm: float


class Material(Strict):
    """One material, generic, with the class of its source per property."""

    id: Annotated[str, Field(min_length=1, max_length=80, pattern=r"^[A-Za-z0-9][\w.-]*$")]
    name: Annotated[str, Field(min_length=1, max_length=120)]
    family: FamilyName
    roles: tuple[Role, ...] = ()
    properties: Properties = Properties()
    source_class: SourceClass = "typical"
    """Of the properties that ``sources`` does not name."""
    sources: dict[str, SourceClass] = Field(default_factory=dict)
    references: dict[str, str] = Field(default_factory=dict)
    """Where a property's value is from, in words."""
    sure: tuple[str, ...] = ()
    """Properties out of the family's usual range that somebody looked at and stands by."""
    parts: tuple[Annotated[str, Field(pattern=r"^[^@]+@[0-9.]+$", max_length=120)], ...] = Field(default=(), max_length=12)
    """Of a combined material: its layers from the panel outwards, each "id@mm"."""
    stands_mm: tuple[FormThickness, ...] = Field(default=(), max_length=40)
    """Thicknesses in which it is found standing, beside those it is sold in."""
    stock: Annotated[tuple[StockForm, ...], BeforeValidator(numbered), AfterValidator(told_apart), Field(max_length=40)] = ()
    limits: UseLimits = UseLimits()
    goes_by: GoesBy = "edge"
    """What an amount of a line follows from: the edge of its surface, that and the seams of what it lies on, or the void it
    fills."""
    expands: Annotated[Positive | None, Optional, Typed] = None
    """How many times its volume it foams up to."""
    solids: Annotated[float, Field(gt=0, le=1)] = 1.0
    """The share of its weight that stays once it is dry."""
    crushable: bool = False
    facing_on_listener_side: bool = False
    rigid: bool = False
    hold: Text = ""
    holds_overhead: bool | None = None
    holds_curved: bool | None = None
    comes_off: bool | None = None
    minutes_per_m2: FormNotNegative = 0.0
    minutes_each: FormNotNegative = 0.0
    """Of what is no layer: minutes per metre, or per piece of what is sold by the piece."""
    working_minutes: OptionalAmount = None
    tack_minutes: OptionalAmount = None
    cure_minutes: FormNotNegative = 0.0
    hazards: tuple[str, ...] = ()
    note: Annotated[str, Field(max_length=2000)] = ""
    retired: bool = False
    made_of: tuple[MadeOf, ...] = Field(default=(), exclude=True, repr=False)
    """The parts, found on the shelf; never written down."""

    @model_validator(mode="before")
    @classmethod
    def _of_any_version(cls, data: Any) -> Any:
        return upgraded_material(data) if isinstance(data, Mapping) else data

    @model_validator(mode="after")
    def _whole(self) -> Material:
        if (self.family == "combined") != bool(self.parts):
            raise ValueError("'parts' goes with the family \"combined\"; give both or neither")
        if not self.roles and self.family not in ("goods", "consumable"):
            raise ValueError(f"'roles' is empty; say what a {self.family} material does in a stack")
        unknown = next((n for n in (*self.sources, *self.references, *self.sure) if n not in Properties.model_fields), None)
        if unknown is not None:
            raise ValueError(f"'{unknown[:40]}' is no property; name one of its properties")
        return self

    def __hash__(self) -> int:
        return hash(self.id)

    @property
    def acts(self) -> Acts:
        """What it does in a stack."""
        return FAMILIES[self.family].acts

    @property
    def lies(self) -> bool:
        """Whether it is a layer of a stack."""
        return self.acts not in ("line", "thing")

    @property
    def thicknesses_mm(self) -> tuple[float, ...]:
        """Thicknesses it comes in, thinnest first."""
        if self.made_of:
            return (round(sum(p.thickness_mm for p in self.made_of), 2),)
        sold = {s.thickness_mm for s in self.stock if s.thickness_mm is not None}
        return tuple(sorted(sold | set(self.stands_mm)))

    @property
    def letter(self) -> str:
        """The letter of its first role; empty where it has none."""
        return ROLE_LETTER[self.roles[0]] if self.roles else ""

    def each_part(self) -> tuple[tuple[Material, float | None], ...]:
        """What it is made of, with thicknesses; itself where it is one thing (its thickness then is as laid, None)."""
        return tuple((p.material, p.thickness_mm) for p in self.made_of) or ((self, None),)


AS_SOLD = 0.07
"""A sheet's true thickness is off what it is sold as by no more of itself: 18 is 17.6."""


def sold_mm(material: Material, thickness_mm: float) -> float:
    """What a thickness off the caliper is sold as, mm; itself where nothing is near it."""
    near = min(material.thicknesses_mm, key=lambda t: abs(t - thickness_mm), default=thickness_mm)
    return near if abs(near - thickness_mm) <= AS_SOLD * thickness_mm else thickness_mm


def known_material(name: str, materials: Mapping[str, Material], where: str) -> Material:
    """A material by id; BadInput naming the nearest one where it is not among them."""
    if name not in materials:
        near = difflib.get_close_matches(name, materials, n=1, cutoff=0.0)
        raise BadInput(f"no material '{name[:80]}' on the shelf", where, f"did you mean '{near[0]}'?" if near else "add it")
    return materials[name]


def to_layer(
    material: Material, thickness_mm: float, coverage: float = 1.0, join: str | None = None, temperature_c: float = 20.0
) -> Layer:
    """The physical layer of a material at a thickness and temperature. Raises BadInput if it does not act as a layer."""
    make = family(material.family).of_material
    if make is None:
        raise BadInput(f"'{material.name}' is no layer of a stack", "", "use it as a seal or an isolator")
    return make(material.properties, Laid(thickness_mm, coverage, join, temperature_c))


def screwed(layers: Sequence[Layer]) -> tuple[Layer, ...]:
    """Layers as they are built by hand: plates that touch and are not joined yet are screwed together, and bend as two."""
    return tuple(x.model_copy(update={"join": "fixed"}) if isinstance(x, Plate) and x.join is None and isinstance(before, Plate)
                 else x for before, x in zip([None, *layers], layers, strict=False))


def to_layers(
    material: Material, thickness_mm: float, coverage: float = 1.0, join: str | None = None, temperature_c: float = 20.0
) -> list[Layer]:
    """As ``to_layer``; of a combined material its parts, plates bonded to plates. Its thickness is the sum of theirs."""
    out: list[Layer] = []
    viscous: Material | None = None
    parts = material.each_part()
    for i, (part, mm) in enumerate(parts):
        if _between_plates(parts, i):
            viscous = part
            continue
        joined = join if not out else "bonded" if part.acts == "plate" and family(out[-1].kind).acts == "plate" else None
        layer = to_layer(part, thickness_mm if mm is None else mm, coverage, joined if part.acts == "plate" else None,
                         temperature_c)
        if viscous is not None:
            layer = layer.model_copy(update={"join": "viscous", "interlayer": interlayer_of(
                viscous.properties, parts[i - 1][1] or thickness_mm, temperature_c)})
            viscous = None
        out.append(layer)
    return out


def _between_plates(parts: Sequence[tuple[Material, float | None]], i: int) -> bool:
    """Whether a part is a viscous film that joins the plates on both sides of it."""
    return (0 < i < len(parts) - 1 and parts[i][0].acts == "damping" and parts[i][0].properties.facing_thickness_mm is None
            and parts[i - 1][0].acts == parts[i + 1][0].acts == "plate")


def interlayer_of(known_: Properties, thickness_mm: float, temperature_c: float) -> Interlayer:
    """A viscous layer between two plates, of a viscous material at a temperature; shear modulus E/(2(1 + ν))."""
    modulus, loss = at_temperature(known_, temperature_c)
    return Interlayer(thickness_mm=thickness_mm, shear_modulus_mpa=modulus / (2 * (1 + known_.poisson)), loss_factor=loss)


@lru_cache(maxsize=4096)
def kg_per_m2(material: Material, thickness_mm: float) -> float:
    """Mass of a layer of it, kg/m²; 0 of what is no layer."""
    return sum(layer_mass(x) for x in to_layers(material, thickness_mm)) if material.lies else 0.0


def composed(materials: Mapping[str, Material], own: Sequence[str] | None = None) -> dict[str, Material]:
    """The materials with the parts of combined ones found among them. BadInput for a part that is not there."""
    out = dict(materials)
    for name in own if own is not None else materials:
        material = materials[name]
        if not material.parts:
            continue
        made = []
        for i, text in enumerate(material.parts):
            part, _, mm = text.partition("@")
            found = materials.get(part)
            if found is None or not found.lies or found.parts:
                raise BadInput(f"'{part}' is no single layer of the shelf", f"{material.id}: parts[{i}]",
                               "name a material that is a layer, such as vinyl-5@2.5")
            made.append(MadeOf(material=found, thickness_mm=float(mm)))
        out[name] = material.model_copy(update={"made_of": tuple(made)})
    return out


MadeOf.model_rebuild()
