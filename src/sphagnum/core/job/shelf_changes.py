"""Materials that come in from a file: patches merged into what the shelf has, all or nothing, and what that changes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any, NamedTuple

from ..errors import BadInput
from ..materials.model import Material, composed
from ..materials.older import upgraded_material
from ..schema import numbered, parse
from ..worded import in_mm
from .operations import differences, path_words

SIZE = ("thickness_mm", "form", "width_mm", "length_mm", "covers_m")
MERGED = ("properties", "sources", "references", "limits")
Content = dict[str, Any]


class Patch(NamedTuple):
    """What a file says of one material: of those keys alone that it has. ``where`` is its place in the file."""

    content: Content
    where: str


class Merged(NamedTuple):
    """What came of patches: materials added and changed, whole; how many stay as they are; order numbers nothing here has."""

    added: tuple[Material, ...]
    changed: tuple[Material, ...]
    same: int
    unknown: tuple[str, ...] = ()


def merged(shelf: Mapping[str, Material], patches: Sequence[Patch]) -> Merged:
    """Patches merged into a shelf by id. BadInput naming the place of the first that cannot be."""
    out: dict[str, tuple[Material, Material | None]] = {}
    for patch in patches:
        name = patch.content.get("id")
        if not isinstance(name, str) or not name:
            raise BadInput("is missing", f"{patch.where}, id", "give every material its id")
        if name in out:
            raise BadInput(f"the id '{name[:60]}' stands twice", patch.where, "give each material one entry")
        before = shelf.get(name)
        old = {} if before is None else before.model_dump(mode="json")
        try:
            content = _put_together(old, upgraded_material(patch.content))
        except BadInput as error:
            raise error.at(patch.where) from None
        out[name] = parse(Material, content, patch.where), before
    whole = {**shelf, **{name: new for name, (new, _) in out.items()}}
    for patch in patches:
        try:
            composed(whole, [patch.content["id"]])
        except BadInput as error:
            raise error.at(patch.where) from None
    added = tuple(new for new, before in out.values() if before is None)
    changed = tuple(new for new, before in out.values() if before is not None and plain(new) != plain(before))
    return Merged(added, changed, len(out) - len(added) - len(changed))


def plain(material: Material) -> Content:
    """A material as it is written down."""
    return material.model_dump(mode="json")


def _put_together(old: Content, new: Mapping[str, Any]) -> Content:
    out = dict(old)
    for key, value in new.items():
        if key in MERGED and isinstance(value, Mapping):
            both = {**out.get(key, {}), **value}
            out[key] = {k: v for k, v in both.items() if v is not None or key in ("properties", "limits")}
            if key == "properties" and both.get("poisson", 0) is None:
                out[key].pop("poisson")
        elif key == "stock" and isinstance(value, Sequence) and not isinstance(value, str) and old.get("stock"):
            out[key] = _stock(old["stock"], value)
        else:
            out[key] = value
    return out


def _stock(old: Sequence[Content], new: Sequence[Any]) -> list[Any]:
    """Forms as they come merged into those there are: told apart by thickness and size, else by their order number."""
    forms, taken = [dict(f) for f in old], set[int]()
    unclear = next((f for f in new if isinstance(f, Mapping) and not any(k in f for k in (*SIZE, "order_number"))), None)
    if unclear is not None and len(old) > 1:
        raise BadInput(f"it is sold in {len(old)} forms, and this does not say which", "stock",
                       "add the column stock.thickness_mm, or its size")
    free = [f for f in new if not isinstance(f, Mapping)]
    for form in (f for f in new if isinstance(f, Mapping)):
        given = {k: v for k, v in form.items() if k != "id"}
        at = next((i for i, f in enumerate(forms) if i not in taken and _same(f, given)), None)
        if at is None:
            number = given.get("order_number")
            at = next((i for i, f in enumerate(forms) if i not in taken and number and f.get("order_number") == number), None)
        if at is None:
            free.append(given)
            continue
        forms[at] |= given
        taken.add(at)
    left = [i for i in range(len(old)) if i not in taken]
    if len(left) == len(free) == 1 and len(new) == len(old) and isinstance(free[0], Mapping):  # one form was given another size
        forms[left[0]] |= free.pop()
    whole: Any = numbered([*forms, *free])
    return [*whole]


def _same(form: Content, given: Mapping[str, Any]) -> bool:
    keys = [k for k in SIZE if k in given]
    if not keys and "price" not in given and not given:
        return True
    return all(_alike(form.get(k), given[k]) for k in keys)


def _alike(a: Any, b: Any) -> bool:
    if isinstance(a, int | float) and isinstance(b, int | float):
        return abs(a - b) < 0.005
    return bool(a == b)


STORE_KEEPING = ("supplier", "order_number", "priced_on", "on_hand", "counted_at")
"""Of a stock form: what no plan rests on."""


@lru_cache(maxsize=1024)
def said_changes(old: Material, new: Material, of_plans: bool = False) -> tuple[str, ...]:
    """What differs between two versions of a material, in words: "price of 2 mm 11.50 → 12.80". ``of_plans``: of that alone
    on which a plan rests."""
    before, after = plain(old), plain(new)
    return tuple(f"{_named(after, before, path)} {_shown(a)} → {_shown(b)}"
                 for path, (a, b) in sorted(differences(before, after).items(), key=str)
                 if path[-1] != "counted_at" and not (of_plans and path[0] == "stock" and path[-1] in STORE_KEEPING))


def _named(after: Content, before: Content, path: Sequence[Any]) -> str:
    if path[0] == "stock" and len(path) == 3:
        form: Content = next((f for f in (*after["stock"], *before["stock"]) if f["id"] == path[1]), {})
        mm = form.get("thickness_mm")
        return f"{str(path[2]).replace('_', ' ')}" + (f" of {in_mm(mm)}" if mm is not None else "")
    return path_words(tuple(path)).replace("_", " ")


def _shown(value: Any) -> str:
    if value is None or value == "":
        return "nothing"
    if not isinstance(value, str | int | float):
        return "…"
    return f"{value:.2f}" if isinstance(value, float) and abs(value) < 1e5 and round(value) != value else str(value)[:60]
