"""When work is ready: steps one after another for one pair of hands, what cures beside them."""

from __future__ import annotations

from collections.abc import Sequence
from heapq import heappop, heappush
from typing import NamedTuple


class Task(NamedTuple):
    """A step: minutes of work, minutes it cures, and the places in the list of those that must be done and cured before it."""

    minutes: float
    cures: float
    after: tuple[int, ...] = ()


def ready_minutes(tasks: Sequence[Task]) -> float:
    """Minutes until the last of some steps is done and cured.

    One pair of hands takes always the step it can begin soonest; the order of the steps decides between those. What a step waits
    for that is not in the list counts as done.

    >>> ready_minutes([Task(30, 600), Task(30, 600), Task(10, 0, (0,))])
    660.0
    """
    now = end = 0.0
    holds: list[list[int]] = [[] for _ in tasks]
    open_, ready = [0] * len(tasks), [0.0] * len(tasks)
    for k, task in enumerate(tasks):
        for a in task.after:
            if a < len(tasks):
                holds[a].append(k)
                open_[k] += 1
    later = [(0.0, k) for k in range(len(tasks)) if not open_[k]]  # by when they can begin
    at_once: list[int] = []  # those that can begin now, by their place
    while later or at_once:
        while later and later[0][0] <= now:
            heappush(at_once, heappop(later)[1])
        k = heappop(at_once) if at_once else heappop(later)[1]
        now = max(now, ready[k]) + tasks[k].minutes
        cured = now + tasks[k].cures
        end = max(end, cured)
        for held in holds[k]:
            ready[held], open_[held] = max(ready[held], cured), open_[held] - 1
            if not open_[held]:
                heappush(later, (ready[held], held))
    return float(end)


def in_own_order(keys: Sequence[str], holds: Sequence[tuple[str, ...]], wanted: Sequence[str]) -> list[int]:
    """Places of steps in the order somebody wants, as far as what holds lets them: those that are wanted first, each with what
    holds it before it, then the rest in their own order.

    >>> in_own_order(["a", "b", "c"], [("c",), (), ()], ["c", "a", "b"])
    [0, 2, 1]
    """
    place = {k: i for i, k in enumerate(keys)}
    first = [k for k in dict.fromkeys(wanted) if k in place]
    rank = {k: n for n, k in enumerate([*first, *(k for k in keys if k not in set(first))])}
    out: list[int] = []
    before: dict[str, list[str]] = {k: [] for k in keys}
    for k, names in zip(keys, holds, strict=True):
        for name in names:
            before[name].append(k)
    done: set[str] = set()

    def take(key: str) -> None:
        stack = [key]  # what is wanted pulls what holds it before it
        while stack:
            top = stack[-1]
            waiting = [b for b in before[top] if b not in done]
            if waiting:
                stack.append(min(waiting, key=rank.__getitem__))
                continue
            stack.pop()
            if top not in done:
                done.add(top)
                out.append(place[top])

    for key in sorted(keys, key=rank.__getitem__):
        if key not in done:
            take(key)
    return out

