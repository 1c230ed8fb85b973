"""The signal a series is read with: its bands at equal level at the empty opening, from the generator of all test signals."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np

from ..levels.bands import Floats, exact_hz
from ..levels.bank import EDGE
from ..levels.signals import FADE_S, PAUSE_S, RATE_HZ, pink, tone
from .model import Run, octaves_apart

EACH_S, NOISE_S = 2.5, 15.0
MOST_CUT_DB = 30.0
"""No band is turned down by more: the loudspeaker gives too little of the weakest then."""


def even_gains_db(bands_hz: Sequence[float], runs: Sequence[Run]) -> dict[str, float]:
    """Gain of each band that makes all alike at the empty opening, dB, at most 0; nothing where that was not read."""
    empty = [[np.nan if v is None else v for v in r.level_db] for r in runs if r.sample is None]
    if not empty:
        return {}
    levels = np.array(empty)
    known = np.isfinite(levels).any(axis=0)
    mean = np.array([np.nanmean(levels[:, i]) if known[i] else np.nan for i in range(len(bands_hz))])
    weakest = max(float(np.nanmin(mean)), float(np.nanmax(mean)) - MOST_CUT_DB) if known.any() else 0.0
    return {f"{f:g}": round(min(weakest - float(m), 0.0), 1) + 0.0 for f, m in zip(bands_hz, mean, strict=True) if np.isfinite(m)}


def bench_signal(bands_hz: Sequence[float], kind: Literal["tones", "bands", "noise"], gains_db: Mapping[str, float]) -> Floats:
    """Samples at 48 kHz, peak under 1: tones or bands one after another, or all bands at once, each by its gain."""
    edge = EDGE**3 if octaves_apart(bands_hz) else EDGE
    parts: list[Floats] = []
    for i, f in enumerate(bands_hz):
        gain = 10 ** (gains_db.get(f"{f:g}", 0.0) / 20)
        seconds = NOISE_S if kind == "noise" else EACH_S
        one = tone(seconds, f) if kind == "tones" else pink(seconds, 1 + i, exact_hz(f) / edge, exact_hz(f) * edge)
        parts.append(one * gain)
    if kind == "noise":
        together = np.sum(parts, axis=0)
        return np.asarray(together * min(1.0, 0.9 / float(np.abs(together).max())))
    pause = np.zeros(round((PAUSE_S - FADE_S) * RATE_HZ))
    return np.concatenate([x for p in parts for x in (p, pause)])
