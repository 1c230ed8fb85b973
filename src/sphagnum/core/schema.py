"""Base of every validated type: strict numbers, accepted ranges, and errors as sentences."""

from __future__ import annotations

import difflib
import itertools
import math
import re
from collections.abc import Mapping
from datetime import date
from typing import Annotated, Any, TypeVar

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, model_validator
from pydantic_core import ErrorDetails, PydanticCustomError

from .errors import BadInput


class Strict(BaseModel):
    """A type that refuses unknown keys and names the nearest known one."""

    model_config = ConfigDict(defer_build=True, extra="forbid", frozen=True, from_attributes=True)

    @model_validator(mode="before")
    @classmethod
    def _known_keys_only(cls, data: Any) -> Any:
        if isinstance(data, Mapping):
            fields = cls.model_fields
            for key in data:
                if key not in fields:
                    near = difflib.get_close_matches(str(key), fields, n=1, cutoff=0.0)
                    raise PydanticCustomError(
                        "unknown_key",
                        "unknown key '{key}'; did you mean '{near}'?",
                        {"key": str(key)[:60], "near": near[0] if near else "nothing"},
                    )
        return data


def _range(low: float, high: float) -> Any:
    return Field(ge=low, le=high, strict=True, allow_inf_nan=False)


Number = Annotated[float, Field(strict=True, allow_inf_nan=False)]
Positive = Annotated[float, Field(gt=0, le=1e12, strict=True, allow_inf_nan=False)]
Metres = Annotated[float, _range(0.02, 50)]
ThicknessMm = Annotated[float, _range(0.01, 2000)]
Density = Annotated[float, _range(1, 25_000)]
LossFactor = Annotated[float, _range(0, 3)]
Share = Annotated[float, _range(0, 1)]
LOWEST_LEVEL, HIGHEST_LEVEL = -50.0, 200.0
Level = Annotated[float, _range(LOWEST_LEVEL, HIGHEST_LEVEL)]
Poisson = Annotated[float, _range(0, 0.499)]
NotNegative = Annotated[float, _range(0, 1e9)]
Temperature = Annotated[float, _range(-60, 1000)]
Count = Annotated[int, Field(ge=1, le=10_000, strict=True)]



def _of_the_calendar(text: str) -> str:
    try:
        return text and date.fromisoformat(text).isoformat()
    except ValueError:
        raise PydanticCustomError("no_day", "'{day}' is no day of the calendar; give it as 2026-11-30", {"day": text}) from None


DayOrNone = Annotated[str, Field(pattern=r"^(\d{4}-\d{2}-\d{2})?$"), AfterValidator(_of_the_calendar)]
"""A day as 2026-11-30, or nothing."""
Day = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$"), AfterValidator(_of_the_calendar)]


def as_level(level_db: float) -> float:
    """A level as one is kept: the end of an interval may lie where no level is."""
    return round(min(max(level_db, LOWEST_LEVEL), HIGHEST_LEVEL), 2)


_SPACES = re.compile(r"[\s\u00a0\u2009\u202f']")


def read_number(value: object) -> object:
    """A number as people type it: ``3,5``, ``1 180``, ``−2`` or ``1.180,5``. Other values pass through.

    Raises BadInput for text that is no number.
    """
    if not isinstance(value, str):
        return value
    text = _SPACES.sub("", value).replace("\u2212", "-")
    if text == "":
        return None
    if "," in text and "." in text:
        thousands, decimal = (".", ",") if text.rfind(",") > text.rfind(".") else (",", ".")
        text = text.replace(thousands, "").replace(decimal, ".")
    else:
        text = text.replace(",", ".")
    try:
        number = float(text)
    except ValueError:
        raise BadInput(f"'{value.strip()[:40]}' is not a number", "", "type digits, such as 12.5") from None
    if not math.isfinite(number):
        raise BadInput("a number must be finite", "", "type digits, such as 12.5")
    return number


Typed = BeforeValidator(read_number)
"""Marks a field of a form: text with a decimal comma is accepted."""

def numbered(items: object) -> object:
    """Items of a list with an ``id`` each: those without one get the smallest free number. Other values pass through."""
    if not isinstance(items, list | tuple) or not all(isinstance(i, Mapping) for i in items):
        return items
    taken = {i.get("id") for i in items if i.get("id")}
    free = (str(n) for n in itertools.count(1) if str(n) not in taken)
    return [i if i.get("id") else {**i, "id": next(free)} for i in items]


def told_apart(items: tuple[Any, ...]) -> tuple[Any, ...]:
    """Refuses a list in which an id stands twice."""
    names = [i.id for i in items]
    twice = next((n for n in names if names.count(n) > 1), None)
    if twice is not None:
        raise ValueError(f"the id '{twice}' stands twice; give each its own")
    return items


ItemId = Annotated[str, Field(max_length=40, pattern=r"^[\w.-]*$")]
"""What an item of a list is known by; empty until it is in one."""

T = TypeVar("T", bound=BaseModel)


_NO_TEXT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
"""What no text holds: halves of characters and controls; neither UTF-8, XML nor a PDF can carry them."""


def refuse_no_text(data: object, where: str = "") -> None:
    """BadInput where a text in plain data (mappings, lists, texts) holds what is no text."""
    if isinstance(data, str):
        if _NO_TEXT.search(data):
            raise BadInput("the text holds characters that are no text", where, "type it again")
    elif isinstance(data, Mapping):
        for key, value in data.items():
            refuse_no_text(key, where)
            if not isinstance(value, int | float | None):
                refuse_no_text(value, f"{where}.{key}" if where else str(key))
    elif isinstance(data, list | tuple):
        for i, value in enumerate(data):
            if not isinstance(value, int | float | None):
                refuse_no_text(value, f"{where}[{i}]")


def parse(model: type[T], data: object, where: str = "") -> T:
    """Validate ``data`` as ``model``; raises BadInput with one sentence for the first thing wrong."""
    refuse_no_text(data, where)
    try:
        return model.model_validate(data)
    except ValidationError as error:
        raise refusal(error.errors(include_url=False), where) from None


def refusal(errors: list[ErrorDetails], where: str = "") -> BadInput:
    """The first of pydantic's errors as a BadInput that names its place."""
    first = errors[0]
    place = _place(first["loc"])
    what, mend = _sentence(first)
    more = f" (and {len(errors) - 1} more)" if len(errors) > 1 else ""
    return BadInput(what + more, ": ".join(p for p in (where, place) if p), mend)


def _place(loc: tuple[int | str, ...]) -> str:
    text, after_index = "", False
    for part in loc:
        if isinstance(part, int):
            text, after_index = f"{text}[{part}]", True
        elif after_index and part in LAYER_TAGS:
            after_index = False
        else:
            text, after_index = (f"{text}.{part}" if text else str(part)), False
    return text


LAYER_TAGS = ("plate", "limp", "foam", "porous", "air", "damping", "perforated", "material")


def _sentence(error: ErrorDetails) -> tuple[str, str]:
    got, kind, ctx = _shown(error.get("input")), error["type"], error.get("ctx", {})
    if kind in ("greater_than_equal", "greater_than", "less_than_equal", "less_than"):
        bound = next(iter(ctx.values()))
        word = {"greater_than_equal": "at least", "greater_than": "more than", "less_than_equal": "at most"}
        return f"{got} is out of range", f"give a value of {word.get(kind, 'less than')} {bound:g}"
    if kind == "missing":
        return "is missing", "add it"
    if kind in ("float_type", "int_type", "float_parsing", "int_parsing"):
        return f"{got} is not a number", "give a plain number"
    if kind == "finite_number":
        return "the number is not finite", "give a plain number"
    if kind in ("literal_error", "enum", "union_tag_invalid"):
        expected = ctx.get("expected") or ctx.get("expected_tags") or "another value"
        return f"{got} is not known", f"use {expected}"
    if kind == "unknown_key":
        what, _, mend = error["msg"].partition("; ")
        return what, mend
    if kind in FORMS:
        what, mend = FORMS[kind]
        return f"{got} {what}", mend.format(**{"min_length": "", "max_length": "", **ctx})
    message = error["msg"].removeprefix("Value error, ")
    if _BUILT_IN.match(error["msg"]):
        return f"{got} does not fit here", "look at an example of it in docs/examples or in an export"
    what, _, mend = message.partition("; ")
    return (what[0].lower() + what[1:], mend) if mend else (f"{message[0].lower()}{message[1:]}", f"found {got}")


_BUILT_IN = re.compile(r"(Input|String|Value|List|Tuple|Dictionary|Set|Data|Unable) (should|to)\b")
"""How the validator's own messages begin; those of this program are sentences already."""
FORMS: dict[str, tuple[str, str]] = {
    "string_pattern_mismatch": ("is not written in the form it has here", "look at an example of it, such as an export holds"),
    "string_too_short": ("is too short", "give at least {min_length} characters"),
    "string_too_long": ("is too long", "give at most {max_length} characters"),
    "too_short": ("has too few entries", "give at least {min_length}"),
    "too_long": ("has too many entries", "give at most {max_length}"),
    "string_type": ("is no text", "put it in quotation marks"), "bool_type": ("is neither true nor false", "give true or false"),
    "bool_parsing": ("is neither true nor false", "give true or false"),
    "tuple_type": ("is no list", "put it in square brackets"),
    "list_type": ("is no list", "put it in square brackets"), "dict_type": ("is no object", "put it in braces"),
    "model_type": ("is no object", "put it in braces"), "model_attributes_type": ("is no object", "put it in braces"),
    "int_from_float": ("is no whole number", "leave the decimals out"),
}
"""What is wrong with the form of a value, and its mend, by the validator's name for it: no pattern, no type of a language."""


def _shown(value: object) -> str:
    if value is None or value == "":
        return "nothing"
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, str | int | float):
        return repr(value)[:60]
    return "an object" if isinstance(value, Mapping) else "a list" if isinstance(value, list | tuple) else "this"


class Row(Strict):
    """What every stored row has: its number and the version that guards it against stale writes."""

    id: int
    version: int
