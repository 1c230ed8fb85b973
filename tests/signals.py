"""Signals and level logs whose contents are known because they are made here, and waiting for what comes live."""

from __future__ import annotations

import io
import time
from collections.abc import Callable
from typing import Any

import numpy as np
import soundfile


def tone(frequency_hz: float, seconds: float, rate_hz: int, peak: float = 0.1) -> np.ndarray:
    return peak * np.sin(2 * np.pi * frequency_hz * np.arange(round(seconds * rate_hz)) / rate_hz)


def as_wav(samples: np.ndarray, rate_hz: int, subtype: str = "PCM_24", kind: str = "WAV") -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples, rate_hz, format=kind, subtype=subtype)
    return out.getvalue()


DIALECTS = {
    "semicolons and decimal commas": ("Zeit;LAeq (dB)\n10:00:01;71,2\n10:00:02;71,9\n10:00:03;70,5\n", 1.0),
    "tabs, ISO stamps": ("time\tSPL\n2026-09-14T10:00:01\t71.2\n2026-09-14T10:00:02\t71.9\n2026-09-14T10:00:03\t70.5\n", 1.0),
    "preamble, units in cells": ("Meter log\nclass 2; serial 1\n\nTime,Level\n0 s,71.2 dB\n0.5 s,71.9 dB\n1.0 s,70.5 dB\n", 0.5),
    "am and pm": ("Time,dBA\n11:59:59 AM,71.2\n12:00:00 PM,71.9\n12:00:01 PM,70.5\n", 1.0),
    "no header": ("0,71.2\n2,71.9\n4,70.5\n", 2.0),
    "index beside the level": ("No.,Date,Time,Lp dB(A)\n1,14.09.2026,10:00:01,71.2\n2,14.09.2026,10:00:02,71.9\n"
                               "3,14.09.2026,10:00:03,70.5\n", 1.0),
    "past midnight": ("clock,level\n23:59:58,71.2\n23:59:59,71.9\n00:00:00,70.5\n", 1.0),
    "a gap and a closing line": ("seconds,LAF\n0,71.2\n1,71.9\n2,\n3,70.5\nend of log,---\n", 1.5),
    "quoted, carriage returns": ('"t [s]","Level [dB]"\r\n"0","71.2"\r\n"1","71.9"\r\n"2","70.5"\r\n', 1.0),
}


def until(done: Callable[[], Any], seconds: float = 30.0) -> Any:
    """Wait for something to hold; gives it back."""
    end = time.monotonic() + seconds
    while not (found := done()):
        assert time.monotonic() < end, "it never came"
        time.sleep(0.05)
    return found
