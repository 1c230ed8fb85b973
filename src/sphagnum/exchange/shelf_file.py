"""The workshop's materials as a file: JSON as they are kept, or CSV with one row per material and stock form."""

from __future__ import annotations

import csv
import difflib
import io
import json
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, NamedTuple

from pydantic import BaseModel

from ..core.errors import BadInput
from ..core.job.shelf_changes import SIZE, Merged, Patch, merged, plain
from ..core.materials.model import Material, StockForm, UseLimits
from ..core.materials.properties import Properties
from ..core.schema import parse, read_number
from .files import read_json

MOST_MATERIALS = 5000
LISTS = ("roles", "parts", "hazards", "sure", "stands_mm", "limits.places")
GROUPS: dict[str, type[BaseModel]] = {"properties": Properties, "limits": UseLimits, "stock": StockForm}
BY_PROPERTY = ("sources", "references")
FORMULA = ("=", "+", "-", "@", "\t", "\r", "'")
"""What a spreadsheet takes for a formula at the start of a text, and the guard itself."""
_OWN = [n for n in Material.model_fields if n not in (*GROUPS, *BY_PROPERTY, "made_of")]
COLUMNS: tuple[str, ...] = (
    *_OWN, *(f"{g}.{n}" for g, kind in GROUPS.items() for n in kind.model_fields),
    *(f"{g}.{n}" for g in BY_PROPERTY for n in Properties.model_fields))
"""Every column there can be."""
TEXTS = {"id", "name", "family", "source_class", "hold", "note", "stock.id", "stock.form", "stock.supplier",
         "stock.order_number", "stock.priced_on", "stock.counted_at", "limits.flame_class"}
FLAGS = {n for n, f in Material.model_fields.items() if "bool" in str(f.annotation)} | {
    f"{g}.{n}" for g, kind in GROUPS.items() for n, f in kind.model_fields.items() if "bool" in str(f.annotation)}


class Cell(NamedTuple):
    """A cell of a row: its column and its text, without the guard."""

    column: str
    text: str


def write_shelf(materials: Sequence[Material], as_csv: bool) -> bytes:
    """Materials as UTF-8 JSON (a list), or as CSV: commas, decimal points, a row per stock form, the first one whole."""
    if not as_csv:
        return (json.dumps([plain(m) for m in materials], ensure_ascii=False, indent=1) + "\n").encode()
    rows = [row for m in materials for row in _rows(m)]
    used = [c for c in COLUMNS if c == "id" or any(row.get(c) for row in rows)]
    out = io.StringIO()
    writer = csv.DictWriter(out, used, restval="", lineterminator="\n")
    writer.writeheader()
    writer.writerows({c: row.get(c, "") for c in used} for row in rows)
    return out.getvalue().encode()


def _rows(material: Material) -> Iterable[dict[str, str]]:
    content = plain(material)
    first: dict[str, str] = {n: _cell(n, content[n]) for n in _OWN}
    for group in ("properties", "limits", *BY_PROPERTY):
        first |= {f"{group}.{n}": _cell(f"{group}.{n}", v) for n, v in content[group].items()}
    forms = [{f"stock.{n}": _cell(f"stock.{n}", v) for n, v in form.items()} for form in content["stock"]] or [{}]
    yield {**first, **forms[0]}
    for form in forms[1:]:
        yield {"id": first["id"], **form}


def _cell(column: str, value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list | tuple):
        return _guarded("|".join(_cell(column, v) for v in value))
    if isinstance(value, float):
        return repr(round(value, 9)).removesuffix(".0")
    return _guarded(str(value)) if isinstance(value, str) else str(value)


def _guarded(text: str) -> str:
    return f"'{text}" if text.startswith(FORMULA) else text


def read_shelf(data: bytes, name: str, shelf: Mapping[str, Material], match: bool = False) -> Merged:
    """What a file of materials makes of a shelf; ``match``: by the supplier's order numbers. BadInput names row and column."""
    patches, unknown = _patches(data, name, shelf, match)
    return merged(shelf, patches)._replace(unknown=tuple(unknown))


def _patches(data: bytes, name: str, shelf: Mapping[str, Material], match: bool) -> tuple[list[Patch], list[str]]:
    if not data.strip():
        raise BadInput("the file is empty", name, "give JSON or CSV as 'shelf export' writes it")
    entries = _from_json(data, name) if data.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] in (b"[", b"{") else _from_csv(data, name, match)
    if len(entries) > MOST_MATERIALS:
        raise BadInput(f"{len(entries)} materials are more than {MOST_MATERIALS}", name, "split the file")
    return _by_number(entries, shelf) if match else (entries, [])


def _from_json(data: bytes, name: str) -> list[Patch]:
    body = read_json(data, name)
    if not isinstance(body, list):
        raise BadInput("this is no list of materials", name, "put it in square brackets")
    out = []
    for i, one in enumerate(body):
        if not isinstance(one, dict):
            raise BadInput("is no material", f"{name}: [{i}]", "give an object with id, name, family")
        known = {*Material.model_fields, "thicknesses_mm", "closed_to_water", "most_c", *StockForm.model_fields}
        wrong = next((k for k in one if k not in known), None)
        if wrong is not None:
            near = difflib.get_close_matches(str(wrong), known, n=1, cutoff=0.0)
            raise BadInput(f"unknown key '{str(wrong)[:60]}'", f"{name}: [{i}]", f"did you mean '{near[0]}'?")
        flat = {k: one[k] for k in StockForm.model_fields if k in one and k not in Material.model_fields}
        content = {k: v for k, v in one.items() if k not in flat}
        out.append(Patch({**content, "stock": [flat]} if flat else content, f"{name}: [{i}]"))
    return out


def _from_csv(data: bytes, name: str, match: bool) -> list[Patch]:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput("this is not UTF-8 text", name, "save the table as CSV in UTF-8") from None
    head = text.split("\n", 1)[0]
    parted = max(";,\t", key=head.count)
    try:
        table = list(csv.reader(io.StringIO(text.replace("\0", "\ufffd")), delimiter=parted, strict=True))
    except csv.Error as error:
        raise BadInput(f"this is no CSV ({error})", name, "save the table again as CSV") from None
    if not table:
        raise BadInput("the file is empty", name, "give JSON or CSV as 'shelf export' writes it")
    columns = _columns([h.strip() for h in table[0]], f"{name}: row 1", match)
    found: dict[str, Patch] = {}
    for number, row in enumerate(table[1:], start=2):
        where = f"{name}: row {number}"
        if not any(c.strip() for c in row):
            continue
        if len(row) != len(columns):
            raise BadInput(f"{len(row)} cells under {len(columns)} columns", where, "look for a comma too many or too few")
        _add_row(found, [Cell(c, _unguarded(x)) for c, x in zip(columns, row, strict=True)], where, number, match)
    return list(found.values())


def _columns(header: list[str], where: str, match: bool) -> list[str]:
    out = []
    for column in header:
        known = column if column in COLUMNS else f"stock.{column}" if f"stock.{column}" in COLUMNS else ""
        if not known:
            near = difflib.get_close_matches(column, COLUMNS, n=1, cutoff=0.0)
            raise BadInput(f"the column '{column[:60]}' is not known", where, f"did you mean '{near[0]}'?")
        if known in out:
            raise BadInput(f"the column '{known}' stands twice", where, "keep one of the two")
        out.append(known)
    needed = "stock.order_number" if match else "id"
    if needed not in out:
        raise BadInput(f"there is no column '{needed}'", where, "add it: it says which material a row is of")
    return out


def _unguarded(text: str) -> str:
    text = text.strip()
    return text[1:] if text[:1] == "'" and text[1:2] in FORMULA and len(text) > 1 else text


def _add_row(found: dict[str, Patch], cells: list[Cell], where: str, number: int, match: bool) -> None:
    by_column = dict(cells)
    key = by_column.get("id", "")
    if not key and not match:
        raise BadInput("is missing", f"{where}, column id", "every row says which material it is of")
    sold = any(x for c, x in cells if c.startswith("stock."))
    stock = {c.removeprefix("stock."): v for c, x in cells if sold and c.startswith("stock.")
             and ((v := _value(c, x, where)) is not None or c not in ("stock.form", "stock.id"))}
    if sold:
        _checked(StockForm, stock, where, "stock")
    own = {c: _value(c, x, where) for c, x in cells if not c.startswith("stock.")}
    place = key or f"\0{number}"
    if place not in found:
        found[place] = Patch(_nested(own, where), where)
    else:
        first = found[place].content
        again = {c: v for c, v in own.items() if by_column[c] != ""}
        for column, value in _nested(again, where).items():
            if column != "id" and value not in ({}, None) and not _within(value, first.get(column)):
                raise BadInput(f"'{column}' differs from that of an earlier row of '{key}'", where, "say it once")
    if sold:
        found[place].content.setdefault("stock", []).append(stock)


def _within(value: Any, first: Any) -> bool:
    if isinstance(value, Mapping) and isinstance(first, Mapping):
        return all(first.get(k) == v for k, v in value.items() if v is not None)
    return bool(value == first)


def _nested(cells: Mapping[str, Any], where: str) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for column, value in cells.items():
        group, _, field = column.partition(".")
        if not field:
            if value is not None or column not in ("name", "family"):
                out[column] = value
        elif group in BY_PROPERTY:
            out.setdefault(group, {})
            if value:
                out[group][field] = value
        else:
            out.setdefault(group, {})[field] = value
    for group in ("properties", "limits"):
        if group in out:
            _checked(GROUPS[group], {k: v for k, v in out[group].items() if v is not None}, where, group)
    return {k: v for k, v in out.items() if v is not None}


def _value(column: str, text: str, where: str) -> Any:
    if column in LISTS:
        parts = [x.strip() for x in text.split("|") if x.strip()]
        return [_number(x, column, where) for x in parts] if column == "stands_mm" else parts
    if column in FLAGS:
        if text.lower() not in YES_NO:
            raise BadInput(f"'{text[:40]}' is neither true nor false", f"{where}, column {column}", "give true or false")
        given = YES_NO[text.lower()]
        return False if given is None and column in NO_UNLESS_SAID else given
    if column in TEXTS or column.split(".")[0] in BY_PROPERTY:
        return None if text == "" and column in ("name", "family", "source_class", "stock.form", "stock.id") else text
    if text == "":
        return DEFAULTS.get(column)
    if any(c.isalpha() for c in text) or "/" in text:
        return text  # a quantity with its unit: the field reads it
    number = _number(text, column, where)
    return int(number) if column == "stock.per_pack" and isinstance(number, float) and number == int(number) else number


def _number(text: str, column: str, where: str) -> object:
    try:
        return read_number(text)
    except BadInput as error:
        raise error.at(f"{where}, column {column}") from None


NO_UNLESS_SAID = ("rigid", "crushable", "retired", "facing_on_listener_side", "limits.wet", "limits.fill", "limits.lying",
                  "limits.bears", "limits.sheds", "stock.sold_whole")
YES_NO: dict[str, bool | None] = {"true": True, "yes": True, "1": True, "false": False, "no": False, "0": False, "": None}
DEFAULTS: dict[str, Any] = {"minutes_per_m2": 0.0, "minutes_each": 0.0, "cure_minutes": 0.0, "stock.per_pack": 1,
                            "properties.poisson": 0.3}
"""What a blank cell means where unknown is no value of the field."""


def _checked(kind: type[BaseModel], values: Mapping[str, Any], where: str, group: str) -> None:
    try:
        parse(kind, dict(values))
    except BadInput as error:
        raise BadInput(error.what, f"{where}, column {group}.{error.where}", error.mend) from None


def _by_number(entries: Sequence[Patch], shelf: Mapping[str, Material]) -> tuple[list[Patch], list[str]]:
    """Entries of a supplier's list found on the shelf by its order numbers; what has none here and no name is told."""
    known: dict[str, list[tuple[Material, StockForm]]] = {}
    for material in shelf.values():
        for form in material.stock:
            if form.order_number:
                known.setdefault(form.order_number, []).append((material, form))
    out: dict[str, Patch] = {}
    unknown: list[str] = []
    for entry in entries:
        for given in entry.content.get("stock") or []:
            number = str(given.get("order_number") or "")
            there = [(m, f) for m, f in known.get(number, []) if not given.get("supplier") or given["supplier"] == f.supplier]
            if len(there) > 1:
                raise BadInput(f"the order number '{number[:60]}' stands on {len(there)} stock forms", f"{entry.where}, column "
                               "stock.order_number", "add the column stock.supplier, or give each its own number")
            if not there:
                whole = entry.content.get("id") and entry.content.get("name")
                if whole:
                    out[entry.content["id"]] = entry
                else:
                    unknown.append(number)
                continue
            material, form = there[0]
            size = {k: getattr(form, k) for k in SIZE}
            patch = out.setdefault(material.id, Patch({"id": material.id, "stock": []}, entry.where))
            patch.content["stock"].append({**{k: v for k, v in given.items() if k not in (*SIZE, "id")}, **size})
    return list(out.values()), unknown
