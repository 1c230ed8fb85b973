"""What is kept of pieces wanted beside those that follow from the stacks."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator
from shapely import Polygon

from ..forms import FormLength, FormMillimetres, FormNumber, FormThickness, Name, Optional, Words
from ..schema import Row, Strict, Typed, told_apart


class PieceIn(Strict):
    """A piece wanted beside those that follow from the stacks."""

    material: Annotated[str, Field(min_length=1, max_length=80)]
    name: Name
    width_mm: FormMillimetres
    height_mm: FormMillimetres
    thickness_mm: Annotated[FormThickness | None, Optional] = None
    """None takes the thinnest sold."""
    quantity: Annotated[int, Field(ge=1, le=1000)] = 1
    rotate: Literal["quarter", "half", "none"] = "quarter"


class GoodIn(Strict):
    """Goods wanted beside those that follow from the stacks: metres, or pieces of what is sold by the piece."""

    material: Annotated[str, Field(min_length=1, max_length=80)]
    amount: Annotated[float, Field(gt=0, le=100_000, strict=True, allow_inf_nan=False), Typed]
    note: Annotated[str, Field(max_length=200)] = ""


class LaidByHand(Strict):
    """A piece where a hand put it: on which stock (by its form or offcut, and number), turned how, its lower left at (x, y)."""

    id: Annotated[str, Field(min_length=1, max_length=120)]
    """Its label."""
    stock: Annotated[str, Field(min_length=1, max_length=80)]
    number: Annotated[int, Field(ge=1, le=10_000)] = 1
    mirrored: bool = False
    turned_deg: Annotated[FormNumber, Field(ge=0, lt=360)] = 0.0
    x_mm: FormLength
    y_mm: FormLength
    locked: bool = False
    """Whether it stays when the rest is laid again."""
    area_mm2: Annotated[FormNumber, Field(ge=0)] = 0.0
    """Its area when it was laid, so that another piece of its label is not taken for it; 0 unknown."""


class LayoutIn(Strict):
    """How the pieces of a material were last laid by hand; what no longer lies well is laid anew."""

    material: Annotated[str, Field(min_length=1, max_length=80)]
    thickness_mm: FormThickness
    pieces: Annotated[tuple[LaidByHand, ...], AfterValidator(told_apart), Field(max_length=1000)] = ()


class OffcutIn(Strict):
    """A rest that is kept, or that a job takes: of which material and thickness, its rectangle, where it lies."""

    material: Annotated[str, Field(min_length=1, max_length=80)]
    thickness_mm: FormThickness
    width_mm: FormMillimetres
    length_mm: FormMillimetres
    outline_mm: tuple[tuple[FormLength, FormLength], ...] = Field(default=(), max_length=200)
    """Where it is no rectangle; within its width and length, from its lower left."""
    place: Words = ""
    code: Annotated[str, Field(max_length=24)] = ""
    """What is written on it."""

    @model_validator(mode="after")
    def _whole(self) -> OffcutIn:
        if self.outline_mm:
            shape = Polygon(self.outline_mm) if len(self.outline_mm) > 2 else None
            if shape is None or not shape.is_valid or shape.area < 1:
                raise ValueError("the outline is no plain shape; list its corners in order round the edge")
        return self


class Habits(Strict):
    """How a workshop cuts. Sizes in mm; None where it does not mind."""

    gap_mm: float = 0.0
    across: bool = False
    """Knife and rule: quarter turns, and cuts right across the sheet only."""
    least_offcut_mm: float = 150.0
    """A rest is kept from this shorter side on."""
    seam_price_m: float | None = None
    """What a metre of seam costs; None: as much as 0.15 m² of the layer."""
    largest_mm: float | None = None
    largest_kg: float | None = None
    """The largest piece one person handles."""


USUAL = Habits()


class Piece(PieceIn, Row): ...
class GoodWanted(GoodIn, Row): ...
class Offcut(OffcutIn, Row): ...
class HandLayout(LayoutIn, Row): ...
