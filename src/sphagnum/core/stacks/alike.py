"""What many stacks have in common: each sort of a part is computed once, and given back to the stacks that have it."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from typing import Any, NamedTuple, TypeVar

import numpy as np

from ..kept import Kept
from ..levels.bands import Floats, Ints
from ..materials.elements import Place

Made = TypeVar("Made")


class Sorts(NamedTuple):
    """The first of each sort, (sorts,), and the sort of each, (stacks,)."""

    first: Ints
    of: Ints


def sorts_of(numbers: Floats | Ints) -> Sorts:
    """Sorts of rows of numbers, (stacks, numbers); NaN is like NaN."""
    rows = np.ascontiguousarray(numbers)
    _, first, of = np.unique(rows.view(np.dtype((np.void, rows.itemsize * rows.shape[1]))).ravel(), return_index=True,
                             return_inverse=True)
    return Sorts(first, of)


class Known(NamedTuple):
    """Where it is kept what was made of sorts before, and what that hangs on beside their layers and sizes."""

    kept: Kept
    beside: Hashable


def by_sort(
    layers: Sequence[Place], sizes: tuple[Floats, ...], make: Callable[[list[Place], Any], Made], known: Known | None = None
) -> tuple[Made, Ints]:
    """What is made of layers and columns beside them, once for each sort there is, and the sort of each stack; of sorts that are
    ``known`` it is found again."""
    numbers = np.concatenate([*(x for layer in layers for x in layer.values.values()), *sizes], axis=1)
    sorts = sorts_of(numbers)

    def made_of(places: Ints) -> Made:
        some = [Place(x.kind, x.variant, {name: values[places] for name, values in x.values.items()}) for x in layers]
        return make(some, tuple(x[places] for x in sizes))
    if known is None:
        return made_of(sorts.first), sorts.of
    kinds = tuple((x.kind, x.variant) for x in layers)
    return _again(known.kept, [(known.beside, kinds, numbers[i].tobytes()) for i in sorts.first], sorts.first, made_of), sorts.of


def _again(kept: Kept, keys: Sequence[Hashable], places: Ints, made_of: Callable[[Ints], Made]) -> Made:
    """What is made of places, row by row from what is kept; the rest is made together."""
    new = [i for i, key in enumerate(keys) if key not in kept]
    found: dict[int, Made] = {}
    if new:
        made = made_of(places[new])
        found = {i: spread(made, np.array([k])) for k, i in enumerate(new)}
    rows = [kept.get(key, lambda i=i: found[i] if i in found else made_of(places[[i]]))  # type: ignore[misc]
            for i, key in enumerate(keys)]
    return made if len(new) == len(keys) else _joined(rows)


def _joined(rows: Sequence[Made]) -> Made:
    """Rows as ``spread`` gives them, one after the other."""
    first = rows[0]
    if isinstance(first, np.ndarray):
        return np.concatenate(rows) if len(rows) > 1 else first  # type: ignore[return-value, arg-type]
    if isinstance(first, tuple):
        return type(first)(*(_joined(x) for x in zip(*rows, strict=True)))
    return first


def spread(made: Made, of: Ints) -> Made:
    """What was made for each sort, for each stack: arrays within tuples, whose first axis is the sort (or 1: alike for all)."""
    if isinstance(made, np.ndarray):
        return made if len(made) == 1 and of.any() else made[of]  # type: ignore[return-value]
    if isinstance(made, tuple):
        return type(made)(*(spread(x, of) for x in made))
    return made


def bytes_of(made: Any) -> float:
    """The bytes of what was made: arrays within tuples."""
    return float(made.nbytes) if isinstance(made, np.ndarray) else sum(map(bytes_of, made)) if isinstance(made, tuple) else 8.0
