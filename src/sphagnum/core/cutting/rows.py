"""What is kept of pieces wanted beside those that follow from the stacks."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..forms import (
    FormMillimetres,
    FormThickness,
    Name,
    Optional,
)
from ..schema import Row, Strict


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
class Piece(PieceIn, Row): ...
