"""One long recording of a series, cut by its silences into the readings that are to come."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import BadInput
from ..levels.bands import NOMINAL_HZ, Floats
from ..levels.bank import STEP_S
from ..levels.recording import History
from ..schema import Strict
from ..words import plural
from .model import octaves_apart

CLEAR_DB = 10.0
"""A stretch of sound stands out of the silences by so much."""
OVER_DB = 5.0
"""Sound is what is over the silences by so much."""
LEAST_SOUND_S, LEAST_SILENCE_S = 1.5, 1.0
"""So long; of bands played at once half the silence is enough, for nothing pauses within a reading. Filters ring on for 0.4 s."""
EDGE_S = 0.375
"""Of each stretch so much is left out at both ends: hands, clicks, filters that settle."""
IN_TURN_DB = 8.0
"""Of bands played one after another a band counts where it is no further below its loudest."""
QUIETEST_SHARE = 0.05
ABOVE_FULL_SCALE_DB = 100.0
"""Differences alone count, so that any level of full scale serves: what most meters would show."""


class ReadingFound(Strict):
    """A reading found in a recording: from when to when, s, and its level per band, dB; None where it drowns in the silence."""

    from_s: float
    to_s: float
    level_db: tuple[float | None, ...]


def stretches(history: History, bands_hz: Sequence[float], in_turn: bool, to_come: int) -> tuple[ReadingFound, ...]:
    """The readings in a recording, in order; at most ``to_come``. ``in_turn``: its bands are played one after another.

    Bands an octave apart are read as octaves, nearer ones as thirds. BadInput where no silences part it, where more stretches
    of sound are in it than readings are to come, and for bands no third covers.
    """
    power = np.array([_band(history, f, octaves_apart(bands_hz)) for f in bands_hz])
    whole = 10 * np.log10(np.maximum(power.sum(axis=0), 1e-20))
    quiet = float(np.quantile(whole, QUIETEST_SHARE))
    if float(np.quantile(whole, 0.95)) - quiet < CLEAR_DB:
        raise BadInput("no silences part this recording", "recording",
                       f"leave it silent for two seconds before, between and after, {CLEAR_DB:g} dB below the signal")
    found = _runs(whole > quiet + OVER_DB, LEAST_SILENCE_S if in_turn else LEAST_SILENCE_S / 2)
    if len(found) > to_come:
        raise BadInput(f"{plural(len(found), 'stretch', 'stretches')} of sound in it, and {plural(to_come, 'reading')} to come",
                       "recording", "cut it so that it begins with the reading that is next, and knock on nothing between")
    silence = power[:, whole <= quiet + OVER_DB / 2].mean(axis=1)
    return tuple(_read(power, silence, a, b, in_turn) for a, b in found)


def _band(history: History, hz: float, octave: bool) -> Floats:
    """Mean square of a band per step, full scale 1."""
    at = int(np.argmin(np.abs(np.log2(np.array(NOMINAL_HZ) / hz))))
    if abs(np.log2(NOMINAL_HZ[at] / hz)) > 0.1:
        raise BadInput(f"no third-octave band lies at {hz:g} Hz", "bands_hz", "name bands from 25 to 16000 Hz")
    rows = history.bands[max(at - 1, 0):at + 2] if octave else history.bands[at:at + 1]
    return np.asarray(np.nan_to_num(rows).sum(axis=0))


def _runs(loud: np.typing.NDArray[np.bool_], silence_s: float) -> list[tuple[int, int]]:
    """Stretches of sound as steps [from, to): silences shorter than ``silence_s`` do not part them."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], loud, [False]]).astype(np.int8)))
    found: list[tuple[int, int]] = []
    for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        if found and (a - found[-1][1]) * STEP_S < silence_s:
            found[-1] = found[-1][0], b
        else:
            found.append((a, b))
    return [(a, b) for a, b in found if (b - a) * STEP_S >= LEAST_SOUND_S]


def _read(power: Floats, silence: Floats, a: int, b: int, in_turn: bool) -> ReadingFound:
    edge = min(round(EDGE_S / STEP_S), (b - a - 4) // 2)
    inside = power[:, a + edge:b - edge]
    levels: list[float | None] = []
    for row, still in zip(inside, silence, strict=True):
        kept = row[row >= np.max(row) * 10 ** (-IN_TURN_DB / 10)] if in_turn else row
        clear = float(kept.mean()) - float(still)  # what is heard in the silence is in the reading too
        levels.append(None if clear <= float(still) else round(10 * float(np.log10(clear)) + ABOVE_FULL_SCALE_DB, 2))
    return ReadingFound(from_s=round(a * STEP_S, 2), to_s=round(b * STEP_S, 2), level_db=tuple(levels))
