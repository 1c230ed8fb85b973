"""Stored rows that cannot be used are set aside and named, so that the rest of their job still opens."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import Any, NamedTuple

from ..errors import BadInput
from ..materials.model import Material
from ..schema import Row, Strict, parse
from .owners import Owner
from .pins import NAMING, named_by
from .words import named

Content = Mapping[str, Any]


class Broken(Strict):
    """A stored row set aside: in words, what is wrong with it, and what would mend it."""

    collection: str
    row: int
    version: int
    name: str
    what: str
    mend: str
    changes: dict[str, Any] | None = None
    """Values of its fields with which it could be used again, where there is a near guess, ``instead`` in words."""
    instead: str = ""


class Sound(NamedTuple):
    """An owner's own row, its rows that can be used, by collection, and those that cannot."""

    itself: Row
    rows: dict[str, tuple[Row, ...]]
    broken: tuple[Broken, ...]


def sound(owner: Owner, itself: Content, kept: Mapping[str, Sequence[Content]],
          materials: Callable[[], Mapping[str, Material]], same: Mapping[str, Sequence[Row]] = MappingProxyType({})) -> Sound:
    """Rows as stored (content with id and version), parted into those that can be used and those that cannot; ``same``: rows of
    the collections that are not among them, found usable before.

    An owner's own row that is not valid is begun anew with what of it can be used. A row cannot be used where it is not valid,
    where it belongs to one that cannot, or where it names a material that neither its job nor the shelf has (``materials``,
    asked for only where the job's copies do not hold it).
    """
    rows: dict[str, tuple[Row, ...]] = {}
    own, broken = usable(owner, itself)
    for name, kind in owner.collections.items():
        good: list[Row] = list(same.get(name, ()))
        for content in kept.get(name, ()):
            try:
                good.append(parse(kind.stored, content))
            except BadInput as error:
                broken.append(set_aside(name, content, error))
        rows[name] = tuple(good)
    if "material_copies" in rows:
        broken += _without_material(rows, materials)
    broken += _hanging(owner, rows)
    return Sound(own, rows, tuple(broken))


def usable(owner: Owner, content: Content) -> tuple[Any, list[Broken]]:
    """An owner's own row; where it is not valid, begun anew with those of its fields that are."""
    try:
        return parse(owner.stored, content), []
    except BadInput as error:
        said = set_aside(owner.itself, content, error)
    whole: dict[str, Any] = {"id": said.row, "version": said.version, "name": f"{owner.field} {said.row}"}
    for field, value in content.items():
        try:
            parse(owner.stored, {**whole, field: value})
        except BadInput:
            continue
        whole[field] = value
    return parse(owner.stored, whole), [said]


class Unknown(BadInput):
    """A material nobody has, by its id; ``near`` is the id most like it."""

    def __init__(self, wrong: str, near: str) -> None:
        super().__init__(f"no material '{wrong[:40]}' on the shelf", "material",
                         f"did you mean '{near}'?" if near else "put one on the shelf")
        self.wrong, self.near = wrong, near


def unknown_materials(contents: Sequence[Content], copies: Collection[str],
                      materials: Callable[[], Mapping[str, Material]]) -> Iterator[tuple[Content, Unknown]]:
    """Rows that name a material nobody has, with the sentence that says so."""
    for content in contents:
        strange = [n for n in named_by([content]) if n not in copies]
        wrong = next((n for n in strange if n not in materials()), None)
        if wrong is not None:
            near = difflib.get_close_matches(wrong, materials(), n=1, cutoff=0.0)
            yield content, Unknown(wrong, near[0] if near else "")


def _without_material(rows: dict[str, tuple[Row, ...]], materials: Callable[[], Mapping[str, Material]]) -> list[Broken]:
    copies = {c.material.id for c in rows["material_copies"]}  # type: ignore[attr-defined]
    out: list[Broken] = []
    for name in (n for n in NAMING if n in rows):
        contents = [r.model_dump(mode="json") for r in rows[name]]
        found = list(unknown_materials(contents, copies, materials))
        gone = {c["id"] for c, _ in found}
        rows[name] = tuple(r for r in rows[name] if r.id not in gone)
        for content, error in found:
            one = set_aside(name, content, BadInput(error.what))
            out.append(one if not error.near else one.model_copy(update={
                "changes": _with(content, error.wrong, error.near), "instead": materials()[error.near].name}))
    return out


def _with(content: Content, wrong: str, instead: str) -> dict[str, Any]:
    """The fields of a row that name a material, with another in its place."""
    def put(value: Any) -> Any:
        if isinstance(value, Mapping):
            return {k: instead if k == "material" and v == wrong else put(v) for k, v in value.items()}
        return [put(v) for v in value] if isinstance(value, list | tuple) else value

    mended = put(content)
    return {k: v for k, v in mended.items() if v != content[k]}


def _hanging(owner: Owner, rows: dict[str, tuple[Row, ...]]) -> list[Broken]:
    """Takes out rows that belong to one that is not there, until none is left."""
    out: list[Broken] = []
    while True:
        there = {name: {r.id for r in found} for name, found in rows.items()}
        lost = [(name, r) for name, kind in owner.collections.items() for r in rows[name]
                if any((to := getattr(r, field)) is not None and to not in there[target]
                       for field, target in kind.points_to.items())]
        if not lost:
            return out
        for name, row in lost:
            rows[name] = tuple(r for r in rows[name] if r is not row)
            out.append(set_aside(name, row.model_dump(mode="json"), BadInput("what it belongs to cannot be read", "",
                                                                              "mend that first")))


def set_aside(collection: str, content: Content, error: BadInput) -> Broken:
    """A row that cannot be used, by what is wrong with it; what is no text in its words is shown as missing."""
    said = f"{error.where.replace('_', ' ')}: {error.what}" if error.where else error.what
    what, mend, name = (x.encode("utf-8", "replace").decode() for x in (said, error.mend, named(collection, content)))
    return Broken(collection=collection, row=int(content["id"]), version=int(content["version"]), name=name, what=what, mend=mend)
