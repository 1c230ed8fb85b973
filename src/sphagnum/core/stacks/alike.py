"""What many stacks have in common: each sort of a part is computed once, and given back to the stacks that have it."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from threading import Lock
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


class Again:
    """What was made of sorts before, to be found again: all of it is let go once it comes to more than ``most`` bytes."""

    def __init__(self, most: float) -> None:
        self.most, self._lock, self._held = most, Lock(), 0.0
        self._kept: dict[Hashable, tuple[dict[bytes, int], Any]] = {}

    def get(self, kind: Hashable, rows: Floats, make: Callable[[Ints], Made]) -> tuple[Made, Ints]:
        """What is made of rows of numbers, of one kind, (rows, numbers), and where in it that of each row stands; ``make``
        makes it of the places of those that are not known."""
        keys = [row.tobytes() for row in rows]
        with self._lock:
            at, made = self._kept.get(kind, (dict[bytes, int](), None))
            new = [i for i, key in enumerate(keys) if key not in at]
            if new:
                more = make(np.array(new))
                made = joined(made, len(at), more, len(new)) if at else more
                at.update({keys[i]: len(at) + k for k, i in enumerate(new)})
                self._kept[kind] = at, made
                self._held += bytes_of(more)
            places = np.array([at[key] for key in keys])
            if self._held > self.most:
                self._kept.clear()
                self._held = 0.0
        return made, places

    def held(self) -> tuple[int, float]:
        """How many sorts, and their bytes."""
        with self._lock:
            return sum(len(at) for at, _ in self._kept.values()), self._held


def by_sort(
    layers: Sequence[Place], sizes: tuple[Floats, ...], make: Callable[[list[Place], Any], Made], known: Again | None = None,
    beside: Hashable = None,
) -> tuple[Made, Ints]:
    """What is made of layers and columns beside them, once for each sort there is, and where in it that of each stack stands; of
    sorts that are ``known`` it is found again, by what it hangs on ``beside`` them."""
    rows = np.concatenate([*(x for layer in layers for x in layer.values.values()), *sizes], axis=1)
    sorts = sorts_of(rows)

    def made_of(places: Ints) -> Made:
        some = [Place(x.kind, x.variant, {name: values[places] for name, values in x.values.items()}) for x in layers]
        return make(some, tuple(x[places] for x in sizes))
    if known is None:
        return made_of(sorts.first), sorts.of
    kind = beside, tuple((x.kind, x.variant, *x.values) for x in layers)
    made, at = known.get(kind, rows[sorts.first], lambda new: made_of(sorts.first[new]))
    return made, at[sorts.of]


def spread(made: Made, of: Ints) -> Made:
    """What was made for each sort, for each stack: arrays within tuples, whose first axis is the sort (or 1: alike for all)."""
    if isinstance(made, np.ndarray):
        return made if len(made) == 1 and of.any() else made[of]  # type: ignore[return-value]
    if isinstance(made, tuple):
        return type(made)(*(spread(x, of) for x in made))
    return made


def joined(one: Made, rows: int, other: Made, more: int) -> Made:
    """What was made of so many rows, and of more of them, in a row; what is no array is alike for all."""
    if isinstance(one, tuple) and isinstance(other, tuple):
        return type(one)(*(joined(a, rows, b, more) for a, b in zip(one, other, strict=True)))
    if isinstance(one, np.ndarray) and isinstance(other, np.ndarray):
        return np.concatenate([np.broadcast_to(x, (n, *x.shape[1:])) for x, n in ((one, rows), (other, more))])  # type: ignore[return-value]
    return one


def bytes_of(made: Any) -> float:
    """The bytes of what was made: arrays within tuples."""
    return float(made.nbytes) if isinstance(made, np.ndarray) else sum(map(bytes_of, made)) if isinstance(made, tuple) else 8.0
