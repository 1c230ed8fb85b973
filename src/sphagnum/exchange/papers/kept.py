"""What papers ask for by its name: photographs, and stretches of recordings as loud as they were recorded."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

Photograph = Callable[[str], bytes | None]
"""The bytes of a kept picture; None where it is not there."""
Sound = Callable[[str, float, float], bytes | None]
"""A stretch of a kept recording as a WAV, from when to when, s; None where it is not there."""
LONGEST_S = 8.0


def stretch(file: Path, from_s: float, to_s: float) -> bytes | None:
    """A WAV, 16 bit, one channel, of so much of a recording, 8 s at most; None where there is nothing of it."""
    if not file.is_file():
        return None
    with soundfile.SoundFile(file) as sound:
        rate = int(sound.samplerate)
        first = min(int(max(from_s, 0.0) * rate), int(sound.frames))
        sound.seek(first)
        samples = sound.read(int(min(to_s - from_s, LONGEST_S) * rate), dtype="float32", always_2d=True)
    if not len(samples):
        return None
    out = io.BytesIO()
    soundfile.write(out, np.clip(samples.mean(axis=1), -1.0, 1.0), rate, format="WAV", subtype="PCM_16")
    return out.getvalue()
