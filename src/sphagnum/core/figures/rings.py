"""How long a place rings in a round, from its knocks."""

from __future__ import annotations

from ..job.document import JobDocument
from ..levels.rows import Knock


def ring_value_ms(doc: JobDocument, round_id: int, position_id: int) -> float | None:
    """Decay time at a place in a round, ms: mean over its recordings of knocks; None when none was made."""
    rows = knocks_at(doc, round_id, position_id)
    return round(1e3 * sum(k.decay_time_s for k in rows) / len(rows), 1) if rows else None


def knocks_at(doc: JobDocument, round_id: int, position_id: int) -> list[Knock]:
    return [k for k in doc.knocks if (k.round_id, k.position_id) == (round_id, position_id)]
