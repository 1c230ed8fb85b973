"""The browser's microphone as an instrument: blocks of samples come in over HTTP, levels come out."""

from __future__ import annotations

import queue
import threading
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..core.errors import BadInput
from ..core.levels.bands import Floats
from ..core.levels.bank import STEP_S
from ..core.levels.recording import SINE_OFFSET_DB, Meter, decibels
from .protocol import Identity, LostInstrument, Sample

PATIENCE_S = 15.0
MOST_BLOCK = 4 * 192_000
LIVE_BLOCK = 2048
MOST_RECORDED_S = 900  # a quarter of an hour of 32-bit samples; what comes later counts in the levels only


class Microphone:
    """Levels of a stream of float32 samples. ``full_scale_db``: what a sine of peak 1 reads; None: relative."""

    def __init__(self, rate_hz: float, full_scale_db: float | None) -> None:
        if not 8_000 <= rate_hz <= 192_000:
            raise BadInput(f"a sampling rate of {rate_hz:g} Hz is out of range", "microphone", "use 8000 to 192000 Hz")
        self.rate_hz, self.full_scale_db = rate_hz, full_scale_db
        self.meter = Meter(rate_hz, 1, least=LIVE_BLOCK)
        self.blocks: queue.Queue[Floats | None] = queue.Queue(400)
        self.recorded: list[NDArray[np.float32]] | None = None
        self.lock = threading.Lock()
        self.done = 0  # steps given so far; goes on where it was after a silence

    def record(self, on: bool) -> NDArray[np.float32]:
        """Begin to keep the samples, or end it and give what was kept, shape (samples,)."""
        with self.lock:
            kept, self.recorded = self.recorded, [] if on else None
        return np.concatenate(kept) if kept else np.zeros(0, dtype="<f4")

    def take(self, data: bytes) -> None:
        """Take a block of little-endian float32 samples in. BadInput for what is none."""
        if not data or len(data) % 4 or len(data) > 4 * MOST_BLOCK:
            raise BadInput("the block is no run of 32-bit samples", "microphone", "send float32 samples")
        block = np.frombuffer(data, dtype="<f4").astype(np.float64)
        if not np.isfinite(block).all():
            raise BadInput("the block holds samples that are no numbers", "microphone", "start the microphone again")
        with self.lock:
            if self.recorded is not None and sum(b.size for b in self.recorded) < MOST_RECORDED_S * self.rate_hz:
                self.recorded.append(np.frombuffer(data, dtype="<f4"))
        try:
            self.blocks.put_nowait(block)
        except queue.Full:
            raise BadInput("the samples come faster than they are read", "microphone", "start the microphone again") from None

    def identify(self) -> Identity:
        """Who it is."""
        return Identity(name="Microphone of this device", kind="not classified", serial="",
                        calibrated=self.full_scale_db is not None)

    def settings(self) -> dict[str, str]:
        """How it is set."""
        return {"sampling rate": f"{self.rate_hz:g} Hz", "gain control": "asked to be off"}

    def samples(self) -> Iterator[Sample]:
        """Levels as blocks come in, until the stream is closed or falls silent."""
        gain = SINE_OFFSET_DB + (self.full_scale_db or 0.0)
        while True:
            try:
                block = self.blocks.get(timeout=PATIENCE_S)
            except queue.Empty:
                raise LostInstrument("the microphone fell silent") from None
            if block is None:
                return
            clipped = self.meter.clipped
            self.meter.feed(block[None, :])
            whole = int(self.meter.samples / self.rate_hz / STEP_S + 1e-9)
            if whole <= self.done:
                continue
            fast, a, c = (decibels(steps.result(), gain) for steps in (
                self.meter.fast_end, self.meter.means["A"], self.meter.means["C"]))
            bands = decibels(self.meter.bands()[:, -1], gain)
            for k in range(self.done, whole):
                yield Sample((k + 1) * STEP_S, float(fast[k]), float(a[k]), float(c[k]), self.meter.clipped > clipped,
                             tuple(round(float(b), 2) if np.isfinite(b) else -999.0 for b in bands) if k == whole - 1 else ())
            self.done = whole

    def close(self) -> None:
        """No more samples come."""
        self.blocks.put(None)
