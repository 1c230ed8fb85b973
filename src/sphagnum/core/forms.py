"""Numbers as forms send them: text with a decimal comma is read, then held to the same ranges as files."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BeforeValidator, Field

from .quantities import TypedKg, TypedMm
from .schema import Level, NotNegative, Number, Share, ThicknessMm, Typed

FormNumber = Annotated[Number, Typed]
FormLevel = Annotated[Level, Typed]
FormShare = Annotated[Share, Typed]
FormThickness = Annotated[ThicknessMm, TypedMm]
FormNotNegative = Annotated[NotNegative, Typed]
FormMillimetres = Annotated[float, Field(ge=1, le=50_000, strict=True, allow_inf_nan=False), TypedMm]


def _blank_to_none(value: object) -> object:
    return None if isinstance(value, str) and not value.strip() else value


Optional = BeforeValidator(_blank_to_none)
"""Marks an optional field of a form: an empty text means unknown."""

Asked = Annotated[float, Field(strict=True, allow_inf_nan=False), Typed]
"""A number a calculation asks for; ``asked`` says how."""


def asked(
    default: float | None, title: str, unit: str, *, gt: float | None = None, ge: float | None = None, lt: float | None = None,
    le: float | None = None,
) -> Any:
    """A form's number with a usual value, its title and unit, and its range."""
    return Field(default=default, title=title, json_schema_extra={"unit": unit}, gt=gt, ge=ge, lt=lt, le=le)


Name = Annotated[str, Field(min_length=1, max_length=120)]
Words = Annotated[str, Field(max_length=2000)]

OptionalLevel = Annotated[FormLevel | None, Optional]
OptionalNumber = Annotated[FormNotNegative | None, Optional]
FormLength = Annotated[Number, TypedMm]
"""A length or a place in mm, of either sign."""
OptionalKg = Annotated[NotNegative | None, TypedKg, Optional]
OptionalMm = Annotated[NotNegative | None, TypedMm, Optional]
MOST_NUMBER = 2**31 - 1
RowId = Annotated[int, Field(ge=1, le=MOST_NUMBER)]
RowVersion = Annotated[int, Field(ge=0, le=MOST_NUMBER)]
FormShareOfDb = Annotated[float, Field(gt=0, le=20, strict=True, allow_inf_nan=False), Typed]


Moment = Annotated[str, Field(pattern=r"^(\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}(\.\d{1,6})?(Z|[+-]\d{2}:\d{2}))?$")]
"""A time, ISO 8601 with its zone; empty where nobody noted it."""
