"""Edits as operations on a row's content, what two contents differ in, and three contents brought together. No storage here."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Annotated, Any, Literal

from pydantic import Field

from ..errors import BadInput
from ..forms import FormMillimetres
from ..schema import Strict, parse

Key = Annotated[str, Field(min_length=1, max_length=80)]
At = Annotated[tuple[Key, ...], Field(min_length=1, max_length=4)]
"""The way to a field: names of fields, ids of list items."""
Path = tuple[str, ...]
Content = dict[str, Any]


class Gone(Exception):
    """The item an operation means is no longer there; ``path`` leads to it."""

    def __init__(self, path: Path) -> None:
        super().__init__(".".join(path))
        self.path = path


class SetField(Strict):
    """Give one field a value."""

    op: Literal["set"] = "set"
    at: At
    value: Any = None


class AddItem(Strict):
    """Put an item into a list: after another, first (``after`` empty), or last (``after`` left out)."""

    op: Literal["add"]
    at: At
    item: Any
    after: Annotated[str, Field(max_length=80)] | None = None


class MoveItem(Strict):
    """Put an item of a list after another, or first (``after`` empty)."""

    op: Literal["move"]
    at: At
    id: Key
    after: Annotated[str, Field(max_length=80)] = ""


class RemoveItem(Strict):
    """Take an item out of a list."""

    op: Literal["remove"]
    at: At
    id: Key


class Stretch(Strict):
    """Stretch an outline along x (axis 0) or y (axis 1) to a size in mm, its lower left corner staying."""

    op: Literal["stretch"]
    at: At
    axis: Literal[0, 1]
    to_mm: Annotated[FormMillimetres, Field(le=50_000)]


Operation = Annotated[SetField | AddItem | MoveItem | RemoveItem | Stretch, Field(discriminator="op")]
Operations = Annotated[tuple[Operation, ...], Field(max_length=200)]


def setting(changes: Mapping[str, Any]) -> tuple[SetField, ...]:
    """Whole fields given values, as operations."""
    return tuple(parse(SetField, {"op": "set", "at": (name,), "value": value}) for name, value in changes.items())


def identity(item: Any) -> str | None:
    """What an item of a list is known by: its id, or a plain text itself; None for items without one."""
    if isinstance(item, Mapping):
        found = item.get("id")
        return found if isinstance(found, str) and found else None
    return item if isinstance(item, str) else None


def _listed(value: Any) -> bool:
    """Whether a value is a list whose items are told apart by an identity."""
    return isinstance(value, list | tuple) and all(identity(i) is not None for i in value)


def apply(content: Content, operation: Operation) -> Content:
    """The content with one operation done. Gone when what it means is not there; BadInput when it fits no such field."""
    def make(old: Any) -> Any:
        return operation.value if isinstance(operation, SetField) else _in_list(old, operation)

    out: Content = _changed(content, operation.at, make)
    return out


def _in_list(old: Any, operation: AddItem | MoveItem | RemoveItem | Stretch) -> Any:
    items = list(old or ())
    if isinstance(operation, Stretch):
        return _stretched(items, operation)
    if isinstance(operation, AddItem):
        name = identity(operation.item)
        if name is not None and name in map(identity, items):
            return items  # sent twice, or somebody put the same in already
        return _placed(items, operation.item, operation.after)
    found = next((i for i in items if identity(i) == operation.id), None)
    if found is None:
        raise Gone((*operation.at, operation.id))
    items.remove(found)
    return _placed(items, found, operation.after) if isinstance(operation, MoveItem) else items


def _placed(items: list[Any], item: Any, after: str | None) -> list[Any]:
    names = [identity(i) for i in items]
    place = 0 if after == "" else names.index(after) + 1 if after in names else len(items)
    return [*items[:place], item, *items[place:]]


def _stretched(points: list[Any], operation: Stretch) -> list[Any]:
    axis = operation.axis
    try:
        values = [float(p[axis]) for p in points]
        low, size = min(values), max(values) - min(values)
        factor = operation.to_mm / size
    except (TypeError, ValueError, IndexError, ZeroDivisionError):
        raise BadInput("this is no outline that can be stretched", ".".join(operation.at), "draw it by points") from None
    return [[round((v - low) * factor + low, 1) if i == axis else v for i, v in enumerate(p)] for p in points]


def _changed(value: Any, at: Sequence[str], make: Any) -> Any:
    """A copy of ``value`` with what lies at a path made anew from what was there."""
    if not at:
        return make(value)
    name, rest = at[0], at[1:]
    if isinstance(value, Mapping) or value is None:
        return {**(value or {}), name: _changed((value or {}).get(name), rest, make)}
    if isinstance(value, list | tuple):
        if name not in map(identity, value):
            raise Gone((name,))
        return [_changed(i, rest, make) if identity(i) == name else i for i in value]
    raise BadInput("there is no such field", ".".join(at), "name a field of the row")


def touched(operations: Iterable[Operation]) -> set[Path]:
    """The fields operations write, as paths; adding and moving items touches none."""
    out: set[Path] = set()
    for o in operations:
        if isinstance(o, SetField | Stretch):
            out.add(tuple(o.at))
        elif isinstance(o, RemoveItem):
            out.add((*o.at, o.id))
    return out


def overlap(one: Iterable[Path], two: Iterable[Path]) -> set[Path]:
    """The paths of ``one`` that lead to, into or around one of ``two``."""
    others = list(two)
    return {a for a in one if any(a[: len(b)] == b[: len(a)] for b in others)}


MISSING: Any = object()
Differences = dict[Path, tuple[Any, Any]]


def differences(before: Any, after: Any, at: Path = ()) -> Differences:
    """Each field in which two contents differ: path → (before, after); MISSING where it is not there. Order is not told."""
    if before == after and type(before) is type(after):
        return {}
    if isinstance(before, Mapping) and isinstance(after, Mapping):
        names: Iterable[str] = dict.fromkeys([*before, *after])
        pairs = {n: (before.get(n, MISSING), after.get(n, MISSING)) for n in names}
    elif _listed(before) and _listed(after) and (before or after):
        one, two = ({identity(i): i for i in x} for x in (before, after))
        pairs = {str(n): (one.get(n, MISSING), two.get(n, MISSING)) for n in dict.fromkeys([*one, *two])}
    else:
        return {} if before == after else {at: (before, after)}
    out: Differences = {}
    for name, (a, b) in pairs.items():
        out |= {(*at, name): (a, b)} if a is MISSING or b is MISSING else differences(a, b, (*at, name))
    return out


def value_at(content: Any, path: Path) -> Any:
    """What lies at a path; MISSING where there is nothing."""
    for name in path:
        if isinstance(content, Mapping):
            content = content.get(name, MISSING)
        elif isinstance(content, list | tuple):
            content = next((i for i in content if identity(i) == name), MISSING)
        else:
            return MISSING
    return content


def merge(current: Content, base: Content, wanted: Content, force: bool = False) -> tuple[Content, list[Path]]:
    """``current`` with what leads from ``base`` to ``wanted`` done to it, and the fields where ``current`` has moved on.

    A field that is neither as in ``base`` nor as in ``wanted`` is left alone and named, or overwritten with ``force``.
    """
    out, blocked = current, []
    for path, (was, will) in differences(base, wanted).items():
        here = value_at(out, path)
        if here == will or (here is MISSING and will is MISSING):
            continue
        if here != was and not force:
            blocked.append(path)
            continue
        try:
            out = _put(out, path, will, wanted)
        except Gone:
            blocked.append(path)
    return _ordered(out, base, wanted), blocked


def _put(content: Content, path: Path, value: Any, wanted: Content) -> Content:
    *way, name = path
    holder = value_at(content, tuple(way)) if way else content
    if isinstance(holder, list | tuple):
        if value is MISSING:
            return apply(content, RemoveItem(op="remove", at=tuple(way), id=name))
        if value_at(content, path) is not MISSING:
            return apply(content, SetField(at=path, value=value))
        names = [identity(i) for i in value_at(wanted, tuple(way))]
        before = next((n for n in reversed(names[: names.index(name)]) if n in map(identity, holder)), "")
        return apply(content, AddItem(op="add", at=tuple(way), item=value, after=before))
    if holder is MISSING:
        raise Gone(path)
    if value is MISSING:
        out: Content = _changed(content, way, lambda old: {k: v for k, v in old.items() if k != name})
        return out
    return apply(content, SetField(at=path, value=value))


def _ordered(current: Content, base: Content, wanted: Content) -> Content:
    """Lists of a row put in the wanted order, where that order was changed between ``base`` and ``wanted``."""
    out = dict(current)
    for name, items in current.items():
        lists = [base.get(name), items, wanted.get(name)]
        if not all(_listed(x) and x for x in lists):
            continue
        was, now, will = ([identity(i) for i in x] for x in lists if x is not None)
        shared = [n for n in will if n in was]
        if shared == [n for n in was if n in will]:
            continue
        by_name = dict(zip(now, items, strict=True))
        order = [n for n in will if n in by_name]
        for i, n in enumerate(now):
            if n not in order:  # put in by somebody else: it stays after what it stood behind
                before = next((m for m in reversed(now[:i]) if m in order), None)
                order.insert(order.index(before) + 1 if before is not None else 0, n)
        out[name] = [by_name[n] for n in order]
    return out


def path_words(path: Path) -> str:
    """A path in words, for a sentence."""
    return ", ".join(p.replace("_", " ") for p in path)
