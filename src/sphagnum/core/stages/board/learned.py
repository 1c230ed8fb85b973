"""What the repeats in all jobs say about each method."""

from __future__ import annotations

import math
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


class Repeats(Strict):
    """What a job's repeats add to the repeatability of its method: squared deviations (dB²) and degrees of freedom."""

    method: str
    squares_db2: float
    degrees_of_freedom: int


def repeats_of(doc: JobDocument) -> Repeats:
    """The repeats of one job, of levels at a place in a condition of a round."""
    groups = [[level for r in readings_at(doc, n.id, p.id, c.id, "LAeq") if (level := level_of(r, "LAeq")) is not None]
              for n in doc.rounds for p in doc.positions for c in doc.conditions]
    own, freedom = pooled_deviation(groups)
    return Repeats(method=doc.job.method, squares_db2=own**2 * freedom if own is not None else 0.0, degrees_of_freedom=freedom)


def learned(jobs: Sequence[Repeats], shelf: Shelf) -> tuple[Learned, ...]:
    """What the repeats in all jobs say about each method, pooled."""
    out = []
    for method in shelf.methods.values():
        own = [r for r in jobs if r.method == method.id]
        squares, freedom = sum(r.squares_db2 for r in own), sum(r.degrees_of_freedom for r in own)
        out.append(Learned(method=method.id, table_db=method.repeatability_db, degrees_of_freedom=freedom,
                           own_db=round(math.sqrt(squares / freedom), 2) if freedom >= LEAST_FREEDOM else None))
    return tuple(out)
