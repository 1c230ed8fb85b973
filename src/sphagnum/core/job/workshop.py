"""What the workshop owns beside its jobs: materials of its own, offcuts, templates, settings, methods, house minutes,
series read on the bench."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..bench.rows import SeriesKept, SeriesKeptIn
from ..cutting.rows import Habits, Offcut, OffcutIn
from ..fitting.rows import FixingKept
from ..forms import FormLevel, FormMillimetres, FormNotNegative, FormShareOfDb, Name, OptionalMm, OptionalNumber, Words
from ..materials.model import Material
from ..paths.offers import PathTemplate
from ..schema import DayOrNone, Row, Strict, Typed
from ..surfaces.rows import Layers, SurfaceIn
from ..surfaces.twins import mirrored
from .document import Collection

TermBlock = Literal["excluded", "provided", "deposit", "missed", "withdrawal", "licensed", "rated", "limits"]
TERMS: dict[TermBlock, str] = {
    "excluded": "Not in it", "provided": "The customer provides", "deposit": "Deposit and stages",
    "missed": "If the promised range is missed", "withdrawal": "Withdrawal", "licensed": "Done by somebody licensed",
    "rated": "Walls with a rating", "limits": "Limits of makers",
}
"""Blocks of an offer's terms, and what each is headed by."""


class Term(Strict):
    """A text of the workshop's own in every offer, for one kind of job or for all."""

    kind: Literal["", "vehicle", "enclosure", "room"] = ""
    block: TermBlock
    text: Words = ""

    def suits(self, kind: str) -> bool:
        """Whether it stands in offers of a kind of job."""
        return self.kind in ("", kind)


Key = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^[a-z0-9][a-z0-9-]*$")]


Percent = Annotated[float, Field(ge=0, le=1000, strict=True, allow_inf_nan=False), Typed]


KIND_MONEY = 10.0
"""A judgement: a quarter of an hour of fetching, opening and changing tools."""


class WorkshopIn(Strict):
    """The workshop itself: its name, what it reckons in, what it charges, how it buys and how fast it works."""

    name: Annotated[str, Field(max_length=120)] = ""
    address: Words = ""
    mark: Annotated[str, Field(pattern=r"^([0-9a-f]{64}\.png)?$")] = ""
    """The workshop's mark on its papers, by its name among the files."""
    note: Words = ""
    currency: Annotated[str, Field(min_length=1, max_length=8)] = "€"
    units: Literal["metric", "imperial"] = "metric"
    """What is shown and what a bare number means; kept is metric."""
    labour_per_hour: OptionalNumber = None
    margin_percent: Percent = 0.0
    """Put on material and labour in an offer."""
    tax_percent: Percent = 0.0
    spare_percent: Percent = 5.0
    """Of sheets, one at least from five on."""
    kind_money: FormNotNegative = KIND_MONEY
    """What each kind of material counts beside the money when plans are compared: fetched, stored, tools changed. Never paid."""
    pace: Annotated[float, Field(ge=0.2, le=10, strict=True, allow_inf_nan=False), Typed] = 1.0
    """By what its minutes are multiplied: a learner takes longer."""


    day_hours: Annotated[float, Field(ge=1, le=24, strict=True, allow_inf_nan=False), Typed] = 8.0
    """Hours of work in a day, for saying how many days a job takes."""
    valid_days: Annotated[int, Field(ge=0, le=3660), Typed] = 30
    """So long an offer holds."""
    offer_shows: Literal["one sum", "material and labour"] = "one sum"
    """How a price stands in an offer."""
    terms: Annotated[tuple[Term, ...], Field(max_length=60)] = ()
    """Texts of its own in every offer."""
    cut_gap_mm: Annotated[FormNotNegative, Field(le=50)] = 0.0
    """Left between pieces on a sheet."""
    knife_and_rule: bool = False
    """Whether sheets are cut by knife and rule: quarter turns, and cuts right across only."""
    least_offcut_mm: Annotated[FormMillimetres, Field(ge=20)] = 150.0
    """A rest is kept from this shorter side on."""
    seam_price_m: OptionalNumber = None
    largest_mm: OptionalMm = None
    largest_kg: OptionalNumber = None
    """The largest piece one person handles."""

    @property
    def habits(self) -> Habits:
        """How it cuts."""
        return Habits(gap_mm=self.cut_gap_mm, across=self.knife_and_rule, least_offcut_mm=self.least_offcut_mm,
                      seam_price_m=self.seam_price_m, largest_mm=self.largest_mm, largest_kg=self.largest_kg)


class ShelfMaterialIn(Strict):
    """A material of the workshop's own, or its own version of a shipped one (the same id)."""

    material: Material


class TemplateIn(Strict):
    """A usual way in, with the surface it goes through."""

    template: PathTemplate


class OutlineIn(Strict):
    """A surface kept for the next job alike: its outline and what stays clear, the pieces' layers, and when it was measured."""

    label: Name
    what: Words = ""
    """What it fits: which kind of van, which machine."""
    measured_on: DayOrNone = ""
    surface: SurfaceIn
    layers: Layers = ()
    fixings: tuple[FixingKept, ...] = Field(default=(), max_length=200)

    def drawn(self, mirror: bool) -> SurfaceIn:
        """A surface to add, mirrored if asked; it says from what it is and when that was measured."""
        measured = f", measured {self.measured_on}" if self.measured_on else ""
        said = f"template {self.label}{measured}{', mirrored' * mirror}"[:160]
        return (mirrored(self.surface) if mirror else self.surface).model_copy(update={"made_from": said})


class SettingIn(Strict):
    """A setting by name: a number, or words."""

    name: Key
    number: OptionalNumber = None
    words: Words = ""


class MethodIn(Strict):
    """A way of measuring of the workshop's own, or its own figures of a shipped one (the same id)."""

    method: Key
    name: Name
    repeatability_db: FormShareOfDb
    setup_db: FormLevel = 0.0


class HouseMinutesIn(Strict):
    """How long a phase of the work takes here: minutes per square metre, or per piece of work as the shipped table has it."""

    phase: Annotated[str, Field(min_length=1, max_length=40)]
    minutes: FormNotNegative


class Workshop(WorkshopIn, Row): ...
class ShelfMaterial(ShelfMaterialIn, Row): ...
class OwnTemplate(TemplateIn, Row): ...
class OwnOutline(OutlineIn, Row): ...
class Setting(SettingIn, Row): ...
class OwnMethod(MethodIn, Row): ...
class HouseMinutes(HouseMinutesIn, Row): ...


class WorkshopDocument(Strict):
    """All the workshop owns; the shipped catalogue is its base."""

    def __hash__(self) -> int:
        return hash(self.workshop)

    workshop: Workshop
    shelf_materials: tuple[ShelfMaterial, ...] = ()
    offcuts: tuple[Offcut, ...] = ()
    templates: tuple[OwnTemplate, ...] = ()
    outlines: tuple[OwnOutline, ...] = ()
    settings: tuple[Setting, ...] = ()
    methods: tuple[OwnMethod, ...] = ()
    house_minutes: tuple[HouseMinutes, ...] = ()
    series: tuple[SeriesKept, ...] = ()


WORKSHOP_COLLECTIONS: dict[str, Collection] = {
    "shelf_materials": Collection(editable=ShelfMaterialIn, stored=ShelfMaterial),
    "offcuts": Collection(editable=OffcutIn, stored=Offcut),
    "templates": Collection(editable=TemplateIn, stored=OwnTemplate),
    "outlines": Collection(editable=OutlineIn, stored=OwnOutline),
    "settings": Collection(editable=SettingIn, stored=Setting),
    "methods": Collection(editable=MethodIn, stored=OwnMethod),
    "house_minutes": Collection(editable=HouseMinutesIn, stored=HouseMinutes),
    "series": Collection(editable=SeriesKeptIn, stored=SeriesKept),
}
