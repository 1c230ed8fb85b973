"""What is kept of pieces wanted beside those that follow from the stacks."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..forms import FormMillimetres, FormThickness, Name, Optional, Words
from ..schema import Row, Strict, Typed


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


class OffcutIn(Strict):
    """A rest that is kept, or that a job takes: of which material and thickness, its rectangle, where it lies."""

    material: Annotated[str, Field(min_length=1, max_length=80)]
    thickness_mm: FormThickness
    width_mm: FormMillimetres
    length_mm: FormMillimetres
    place: Words = ""


class Piece(PieceIn, Row): ...
class GoodWanted(GoodIn, Row): ...
class Offcut(OffcutIn, Row): ...
