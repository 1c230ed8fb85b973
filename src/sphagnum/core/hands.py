"""Who does works none of which waits for another: the core knows that somebody does, not how many there are."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Protocol, TypeVar

Made = TypeVar("Made")


class Hands(Protocol):
    """Does works and gives what they give in their order; each is told whether it is done in the process that asks."""

    def __call__(self, works: Sequence[Callable[[bool], Made]], /) -> Iterator[Made]: ...


def one_by_one(works: Sequence[Callable[[bool], Made]]) -> Iterator[Made]:
    """Works done here, each when what it gives is asked for."""
    return (work(True) for work in works)
