"""What many stacks have in common: each sort of a part is computed once, and given back to the stacks that have it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple, TypeVar

import numpy as np

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


def by_sort(
    layers: Sequence[Place], sizes: tuple[Floats, ...], make: Callable[[list[Place], Any], Made]
) -> tuple[Made, Ints]:
    """What is made of layers and columns beside them, once for each sort there is, and the sort of each stack."""
    columns = [*(x for layer in layers for x in layer.values.values()), *sizes]
    sorts = sorts_of(np.concatenate(columns, axis=1))
    some = [Place(x.kind, x.variant, {name: values[sorts.first] for name, values in x.values.items()}) for x in layers]
    return make(some, tuple(x[sorts.first] for x in sizes)), sorts.of


def spread(made: Made, of: Ints) -> Made:
    """What was made for each sort, for each stack: arrays within tuples, whose first axis is the sort (or 1: alike for all)."""
    if isinstance(made, np.ndarray):
        return made if len(made) == 1 and of.any() else made[of]  # type: ignore[return-value]
    if isinstance(made, tuple):
        return type(made)(*(spread(x, of) for x in made))
    return made
