"""What ``cut`` reads and prints: stock, pieces, placements, offcuts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..schema import Count, NotNegative, Number, Share, Strict

Millimetres = Annotated[float, Field(ge=0.1, le=100_000, strict=True, allow_inf_nan=False)]
Point = tuple[Number, Number]
Outline = Annotated[tuple[Point, ...], Field(min_length=3, max_length=2000)]
Name = Annotated[str, Field(min_length=1, max_length=200)]


class StockItem(Strict):
    """A sheet, a roll or an offcut to cut from. ``quantity`` None: as many as needed."""

    id: Name
    width_mm: Millimetres | None = None
    length_mm: Millimetres | None = None
    outline_mm: Outline | None = None
    roll: bool = False
    sold_whole: bool = False
    quantity: Count | None = None
    price: NotNegative = 0.0

    @model_validator(mode="after")
    def _one_shape(self) -> StockItem:
        if (self.outline_mm is None) == (self.width_mm is None or self.length_mm is None):
            raise ValueError("stock needs either width_mm and length_mm or outline_mm; give one of the two")
        return self


class CutPiece(Strict):
    """A shape to cut, ``quantity`` times."""

    id: Name
    outline_mm: Outline
    holes_mm: tuple[Outline, ...] = ()
    quantity: Count = 1
    rotate: Literal["any", "quarter", "half", "none"] = "any"
    mirror: bool = False


class Fixed(Strict):
    """A piece that stays where it is: on which stock (by id and number), turned how, its bounds' lower left at (x, y)."""

    piece: Name
    number: Count = 1
    stock: Name
    stock_number: Count = 1
    mirrored: bool = False
    turned_deg: Annotated[float, Field(ge=0, lt=360, strict=True, allow_inf_nan=False)] = 0.0
    x_mm: Number
    y_mm: Number


class CutInput(Strict):
    """What ``cut`` reads. ``across``: quarter turns and cuts right across only, as a knife along a rule makes them; ``square``:
    quarter turns only, unless turning otherwise saves a sheet or a metre of roll."""

    gap_mm: Annotated[float, Field(ge=0, le=1000, strict=True, allow_inf_nan=False)] = 0.0
    seconds: Annotated[float, Field(gt=0, le=3600, strict=True, allow_inf_nan=False)] = 10.0
    stock: tuple[StockItem, ...] = Field(min_length=1, max_length=200)
    pieces: tuple[CutPiece, ...] = Field(min_length=1, max_length=2000)
    across: bool = False
    square: bool = False
    fixed: tuple[Fixed, ...] = Field(default=(), max_length=2000)


class Placement(Strict):
    """A piece on its stock, in the stock's own coordinates."""

    piece: str
    number: int
    mirrored: bool
    turned_deg: float = 0.0
    """Turned by so much, counter-clockwise, after it was turned over if it was."""
    outline_mm: tuple[tuple[float, float], ...]
    holes_mm: tuple[tuple[tuple[float, float], ...], ...]


class UsedStock(Strict):
    """One opened sheet, roll or offcut and what is cut from it."""

    stock: str
    number: int
    length_used_mm: float
    placements: tuple[Placement, ...]


class Unplaced(Strict):
    """A piece that found no place, and why."""

    piece: str
    number: int
    why: str


class Offcut(Strict):
    """A remaining rectangle worth keeping."""

    stock: str
    number: int
    outline_mm: tuple[tuple[float, float], ...]
    area_m2: float


class CutResult(Strict):
    """What ``cut`` prints; areas in m², price in the stock's currency."""

    used: tuple[UsedStock, ...]
    unplaced: tuple[Unplaced, ...]
    piece_area_m2: float
    stock_area_m2: float
    utilisation: Share
    price: float
    area_bound_price: float | None
    offcuts: tuple[Offcut, ...]
