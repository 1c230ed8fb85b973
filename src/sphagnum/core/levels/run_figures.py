"""Figures of a run as ``analyse`` prints them: of a level log, of a recording."""

from __future__ import annotations

from ..schema import Strict
from .comparison import Caution


class LogAnalysis(Strict):
    """What ``analyse`` prints for a log; levels in dB of the log's own quantity."""

    kind: str = "log"
    samples: int
    duration_s: float
    window_s: tuple[float, float]
    Leq: float
    Lmax: float
    Lmin: float
    L10: float
    L50: float
    L90: float
    mean_db: float


class Bands(Strict):
    """Levels per one-third-octave band, dB; None above half the sampling rate."""

    frequency_hz: tuple[float, ...]
    level_db: tuple[float | None, ...]


class RecordingAnalysis(Strict):
    """What ``analyse`` prints for a recording; dB re 20 µPa when calibrated, else re a full-scale sine."""

    kind: str = "recording"
    duration_s: float
    window_s: tuple[float, float]
    calibrated: bool
    channels: int
    LAeq: float
    LCeq: float
    LZeq: float
    LAFmax: float
    LASmax: float
    L10: float
    L50: float
    L90: float
    clipped_samples: int
    bands: Bands
    cautions: tuple[Caution, ...]
