"""How long work says how far it is, with the best it has so far; and how it is told to stop."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol


class Report(Protocol):
    """Called by work now and then. ``share`` done, 0–1; ``words`` for a person; ``so_far`` makes the best result yet.

    It may raise ``Stop``, which the work lets through.
    """

    def __call__(self, share: float, words: str, so_far: Callable[[], Any] | None = None, /) -> None: ...


class Stop(Exception):
    """Whoever asked for the work no longer wants it."""


def silent(_share: float, _words: str, _so_far: Callable[[], Any] | None = None, /) -> None:
    """A report nobody reads."""
