"""When work is ready: steps one after another for one pair of hands, what cures beside them."""

from __future__ import annotations

from collections.abc import Sequence
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
    cured: dict[int, float] = {}
    waiting = list(range(len(tasks)))
    while waiting:
        free = [k for k in waiting if all(a in cured or a >= len(tasks) for a in tasks[k].after)]
        k = min(free, key=lambda i: max([now, *(cured[a] for a in tasks[i].after if a in cured)]))
        task = tasks[k]
        now = max([now, *(cured[a] for a in task.after if a in cured)]) + task.minutes
        cured[k] = now + task.cures
        end = max(end, cured[k])
        waiting.remove(k)
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

