"""A material of the shelf: roles, properties with their source class, limits, stock form and price."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, WithJsonSchema

from ..errors import BadInput
from ..schema import NotNegative, Positive, Strict, ThicknessMm
from .family import Acts, Laid, Layer
from .properties import Properties
from .table import FAMILIES, family

FamilyName = Annotated[str, AfterValidator(lambda name: family(name).name),
                       WithJsonSchema({"enum": [*FAMILIES], "type": "string"})]
Role = Literal["substrate", "damping", "decoupler", "barrier", "absorber", "seal", "isolator"]
SourceClass = Literal["typical", "data sheet", "measured"]
ROLE_LETTER: dict[str, str] = {"substrate": "·", "damping": "D", "decoupler": "C", "barrier": "B", "absorber": "A",
                               "seal": "S", "isolator": "I"}


class StockForm(Strict):
    """How a material is sold. ``length_mm`` of a sheet or roll; ``covers_m`` of a cartridge, tape or strip."""

    form: Literal["sheet", "roll", "length", "piece", "none"]
    width_mm: Positive | None = None
    length_mm: Positive | None = None
    covers_m: Positive | None = None
    per_pack: int = Field(default=1, ge=1)
    price: NotNegative = 0.0
    sold_whole: bool = False


class Material(Strict):
    """One material, generic, with the class of its source per property."""

    id: str
    name: str
    family: FamilyName
    roles: tuple[Role, ...]
    thicknesses_mm: tuple[ThicknessMm, ...] = ()
    properties: Properties = Properties()
    source_class: SourceClass = "typical"
    sources: dict[str, str] = Field(default_factory=dict)
    stock: StockForm
    closed_to_water: bool = False
    crushable: bool = False
    facing_on_listener_side: bool = False
    rigid: bool = False
    most_c: float | None = None
    hold: str = ""
    minutes_per_m2: NotNegative = 0.0
    cure_minutes: NotNegative = 0.0
    hazards: tuple[str, ...] = ()
    note: str = ""

    def __hash__(self) -> int:
        return hash(self.id)

    @property
    def acts(self) -> Acts:
        """What it does in a stack."""
        return family(self.family).acts


def to_layer(
    material: Material, thickness_mm: float, coverage: float = 1.0, join: str | None = None, temperature_c: float = 20.0
) -> Layer:
    """The physical layer of a material at a thickness and temperature. Raises BadInput if it does not act as a layer."""
    make = family(material.family).of_material
    if make is None:
        raise BadInput(f"'{material.name}' is no layer of a stack", "", "use it as a seal or an isolator")
    return make(material.properties, Laid(thickness_mm, coverage, join, temperature_c))
