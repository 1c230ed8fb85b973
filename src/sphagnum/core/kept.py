"""What is kept in memory so as not to work it out twice: each kind bounded, and let go of when nobody asks any more."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, TypeVar

T = TypeVar("T")
Key = Hashable


class Kept:
    """Values by key, worked out once however many ask at one time; the ones not asked for longest are let go.

    ``most``: how much is kept, as ``size`` counts it (by number, if left out); ``age_s``: how long after it was asked for last.
    """

    def __init__(self, most: float, size: Callable[[Any], float] = lambda _: 1.0, age_s: float = float("inf")) -> None:
        self.most, self._size, self._age_s = most, size, age_s
        self._lock, self._held = Lock(), 0.0
        self._kept: OrderedDict[Key, tuple[Any, float]] = OrderedDict()
        self._making: dict[Key, Lock] = {}

    def get(self, key: Key, make: Callable[[], T]) -> T:
        """The value under a key, made if it is not there; who asks while it is being made waits for it."""
        return self.renewed(key, lambda _: True, lambda _: make())

    def renewed(self, key: Key, fresh: Callable[[T], bool], make: Callable[[T | None], T]) -> T:
        """The value under a key while it is fresh; else one made from it (None: there is none), kept in its place."""
        with self._lock:
            before = self._found(key)
            if before is not None and fresh(before):
                return before  # type: ignore[no-any-return]
            making = self._making.setdefault(key, Lock())
        with making:
            with self._lock:
                before = self._found(key)
                if before is not None and fresh(before):
                    return before  # type: ignore[no-any-return]
            try:
                value = make(before)
            except BaseException:
                with self._lock:
                    self._making.pop(key, None)
                raise
            with self._lock:  # at once, or whoever asks in between would make it again
                self._making.pop(key, None)
                self._held += self._size(value) - (self._size(self._kept[key][0]) if key in self._kept else 0.0)
                self._kept[key] = value, time.monotonic()
                self._kept.move_to_end(key)
                self._let_go()
        return value

    def __contains__(self, key: Key) -> bool:
        """Whether there is a value under a key."""
        with self._lock:
            return key in self._kept

    def held(self) -> tuple[int, float]:
        """How many values, and how much they come to as they are counted."""
        with self._lock:
            return len(self._kept), self._held

    def _found(self, key: Key) -> Any:
        if key not in self._kept:
            return None
        value, _ = self._kept[key]
        self._kept[key] = value, time.monotonic()
        self._kept.move_to_end(key)
        return value

    def _let_go(self) -> None:
        old = time.monotonic() - self._age_s
        while self._kept and (self._held > self.most or next(iter(self._kept.values()))[1] < old):
            _, (value, _) = self._kept.popitem(last=False)
            self._held -= self._size(value)


class Bounded(dict[str, str]):
    """The last few hundred names by name."""

    def __setitem__(self, key: str, value: str) -> None:
        super().__setitem__(key, value)
        while len(self) > 300:
            del self[next(iter(self))]
