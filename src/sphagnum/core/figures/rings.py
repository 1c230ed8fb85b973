"""How long a panel rings in a round, from its knocks, and a room, from its decays."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..job.document import JobDocument
from ..levels.bands import Floats
from ..levels.rows import Decay, Knock
from ..paths.room import SABINE


def ring_value_ms(doc: JobDocument, round_id: int, position_id: int) -> float | None:
    """Decay time at a place in a round, ms: mean over its recordings of knocks; None when none was made."""
    rows = knocks_at(doc, round_id, position_id)
    return round(1e3 * sum(k.decay_time_s for k in rows) / len(rows), 1) if rows else None


def knocks_at(doc: JobDocument, round_id: int, position_id: int) -> list[Knock]:
    return [k for k in doc.knocks if (k.round_id, k.position_id) == (round_id, position_id)]


class Ringing(NamedTuple):
    """T per octave 125 Hz to 4 kHz, s, NaN where nothing tells, and its standard uncertainty."""

    t_s: Floats
    uncertainty_s: Floats


MIDDLE = slice(2, 4)
"""500 Hz and 1 kHz: what one figure of T is the mean of (ISO 3382-1:2009, A.1)."""
TYPED_SHARE = 0.05
"""How well a T is known that was typed, standard, of itself: a judgement."""


def ringing_in(doc: JobDocument, round_id: int, position_id: int | None = None) -> Ringing | None:
    """How long a room rings in a round: mean over its decays (at a place, or at all); None where none was read."""
    rows = [d for d in doc.decays if d.round_id == round_id and position_id in (None, d.position_id)]
    if not rows:
        return None
    t = np.array([[math.nan if x is None else x for x in d.t_s] for d in rows])
    u = np.array([_unsure(d) for d in rows])
    known = np.isfinite(t)
    n = known.sum(axis=0)
    mean = np.where(n > 0, np.nansum(np.where(known, t, 0), axis=0) / np.maximum(n, 1), math.nan)
    own = np.sqrt(np.sum(np.where(known, u, 0) ** 2, axis=0)) / np.maximum(n, 1)
    spread = np.sqrt(np.sum(np.where(known, (t - mean) ** 2, 0), axis=0) / np.maximum(n - 1, 1) / np.maximum(n, 1))
    return Ringing(mean, np.where(n > 0, np.maximum(own, spread), math.nan))


def _unsure(row: Decay) -> list[float]:
    given = row.uncertainty_s or (None,) * 6
    return [math.nan if t is None else u if u is not None else TYPED_SHARE * t for t, u in zip(row.t_s, given, strict=True)]


def ring_widths(row: Decay) -> tuple[float | None, ...]:
    """Half of the 95 % interval of each T of one decay, s; None where there is none."""
    return tuple(None if math.isnan(u) else round(1.96 * u, 3) for u in _unsure(row))


def reverberation(doc: JobDocument, round_id: int, position_id: int | None = None) -> tuple[float, float] | None:
    """T in the middle octaves and half of its 95 % interval, s; None where neither was read."""
    found = ringing_in(doc, round_id, position_id)
    if found is None or not np.isfinite(found.t_s[MIDDLE]).any():
        return None
    known = np.isfinite(found.t_s[MIDDLE])
    t, u = found.t_s[MIDDLE][known], found.uncertainty_s[MIDDLE][known]
    return round(float(t.mean()), 3), round(1.96 * float(np.sqrt(np.sum(u**2))) / t.size, 3)


def room_time_s(doc: JobDocument, round_id: int) -> float | None:
    """T of the room listened in, s: as read in a round, else in any, else by its volume and absorption; None unknown."""
    read = reverberation(doc, round_id) or next((x for r in doc.rounds if (x := reverberation(doc, r.id)) is not None), None)
    if read is not None:
        return read[0]
    return None if doc.job.volume_m3 is None else SABINE * doc.job.volume_m3 / doc.job.absorption_m2
