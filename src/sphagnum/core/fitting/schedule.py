"""When work is ready: steps one after another for one pair of hands, what cures beside them."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from typing import NamedTuple


class Task(NamedTuple):
    """A step: where (what cures there holds up the next step there), minutes of work, minutes it cures, and whether it waits for
    everything."""

    place: Hashable
    minutes: float
    cures: float
    last: bool = False


def ready_minutes(tasks: Sequence[Task]) -> float:
    """Minutes until the last of some steps is done and cured.

    One pair of hands takes of each place its next step, always one it can begin soonest; the order of the steps decides between
    those.

    >>> ready_minutes([Task("door", 30, 600), Task("roof", 30, 600), Task("door", 10, 0)])
    660.0
    """
    now = end = 0.0
    cured: dict[Hashable, float] = {}
    waiting = list(tasks)
    while waiting:
        first: dict[Hashable, Task] = {}
        for task in waiting:
            if not task.last or len(waiting) == 1:
                first.setdefault(task.place, task)
        task = min(first.values() or waiting[:1], key=lambda t: max(cured.get(t.place, 0.0), now))
        now = max(now, end if task.last else cured.get(task.place, 0.0)) + task.minutes
        cured[task.place] = now + task.cures
        end = max(end, now + task.cures)
        waiting.remove(task)
    return float(end)
