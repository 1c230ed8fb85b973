"""What tests at the job say of single paths: block-off and a substituted source, as shares with their uncertainty."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from ..levels.comparison import Item, group_lines, interval
from ..levels.decibels import energy_mean
from .budget import BlockOffTest, MeasuredShare, block_off
from .rows import BlockOff, Path, Substitution

CROWD_DB = 1.0
"""Standard uncertainty of putting a loudspeaker where the source was: place, direction, how many. Assumed."""


class PathTest(NamedTuple):
    """A test of one path. ``share`` of all energy with its 95 % interval; ``bound`` marks a lower bound (cover unknown)."""

    kind: str
    row_id: int
    path_index: int
    level_db: float | None
    share: float
    low: float
    high: float
    resolved: bool
    bound: bool
    needed_drop_db: float | None
    """The drop that would have been resolved, for a block-off."""


def needed_drop_db(test: BlockOffTest, repeatability_db: float) -> float:
    """The smallest drop this many readings can tell from their scatter, dB: the half-width of the drop's interval."""
    lines = [*group_lines("open", [Item(x) for x in test.open_db], repeatability_db),
             *group_lines("blocked", [Item(x) for x in test.blocked_db], repeatability_db)]
    low, high = interval(0.0, lines)
    return (high - low) / 2


def substituted(row: Substitution, repeatability_db: float, total_dba: float) -> tuple[float, float, float]:
    """Level at the listener by a path from a substituted source, and its 95 % interval, dB.

    L = in service at the path − (loudspeaker at the path − heard): the path's own loss, applied to the source in service.
    """
    groups = ("loudspeaker", row.source_db), ("heard", row.heard_db), ("service", row.service_db)
    lines = [line for name, levels in groups for line in group_lines(name, [Item(x) for x in levels], repeatability_db)]
    level = energy_mean(row.service_db) - energy_mean(row.source_db) + energy_mean(row.heard_db)
    low, high = interval(level, lines)
    widen = math.hypot((high - low) / 2, 1.96 * CROWD_DB)
    return level, level - widen, level + widen


def path_tests(
    paths: Sequence[Path], blocked: Sequence[BlockOff], substitutions: Sequence[Substitution], repeatability_db: float,
    total_dba: float | None,
) -> list[PathTest]:
    """All tests of a job's paths, in the order they were kept; a substituted source tells only where the total is known."""
    places = {p.id: i for i, p in enumerate(paths)}
    out = []
    for row in blocked:
        test = BlockOffTest(path=str(row.path_id), open_db=row.open_db, blocked_db=row.blocked_db,
                        cover_insertion_loss_db=row.cover_insertion_loss_db)
        got: MeasuredShare = block_off(test, repeatability_db)
        out.append(PathTest("block-off", row.id, places[row.path_id], got.level_db, got.share, *got.interval, got.resolved,
                            row.cover_insertion_loss_db is None, needed_drop_db(test, repeatability_db)))
    if total_dba is None:
        return out
    for sub in substitutions:
        levels = substituted(sub, repeatability_db, total_dba)
        share, low, high = (min(10 ** ((x - total_dba) / 10), 1.0) for x in levels)
        out.append(PathTest("substituted source", sub.id, places[sub.path_id], round(levels[0], 2), share, low, high,
                            high - low < 0.8, False, None))
    return out
