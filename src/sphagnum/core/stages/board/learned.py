"""What the repeats in all jobs say about each method."""

from __future__ import annotations

from collections.abc import Sequence

from ...figures.readings import readings_at
from ...job.document import JobDocument
from ...job.shelf import Shelf
from ...levels.readings import level_of
from ...levels.statistics import pooled_deviation
from ...schema import Strict


class Learned(Strict):
    """Repeatability of a method: the table's, and what the workshop's own repeats tell (None below LEAST_FREEDOM)."""

    method: str
    table_db: float
    own_db: float | None
    degrees_of_freedom: int


LEAST_FREEDOM = 8


def learned(docs: Sequence[JobDocument], shelf: Shelf) -> tuple[Learned, ...]:
    """What the repeats in all jobs say about each method."""
    out = []
    for method in shelf.methods.values():
        groups = [
            [level for r in readings_at(d, n.id, p.id, c.id, "LAeq") if (level := level_of(r, "LAeq")) is not None]
            for d in docs if d.job.method == method.id for n in d.rounds for p in d.positions for c in d.conditions]
        own, freedom = pooled_deviation(groups)
        out.append(Learned(method=method.id, table_db=method.repeatability_db, degrees_of_freedom=freedom,
                           own_db=round(own, 2) if own is not None and freedom >= LEAST_FREEDOM else None))
    return tuple(out)
