"""A live capture: a thread that reads an instrument, knows what is steady, logs, survives a loss, and works hands-free."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Literal

import numpy as np

from ..core.levels.bands import NOMINAL_HZ
from ..core.levels.bank import STEP_S
from ..core.levels.decibels import energy_mean
from ..core.schema import Strict
from .protocol import Identity, Instrument, LostInstrument, Sample

RANGE_S, STEADY_S, STEADY_SPREAD_DB = 5.0, 10.0, 1.2
RETRIES, RETRY_S = 20, 0.5
MOST_STEPS = int(4 * 3600 / STEP_S)
State = Literal["live", "lost", "ended"]


class LiveView(Strict):
    """What the screen shows: large digits, the trace of the last seconds, their range, and how the link is."""

    state: State
    said: str
    identity: Identity
    settings: dict[str, str]
    unit: str
    level_db: float | None
    low_db: float | None
    high_db: float | None
    overload: bool
    steady: bool
    trace_db: tuple[float, ...]
    bands_hz: tuple[float, ...]
    bands_db: tuple[float | None, ...]
    logging_s: float | None
    losses: int
    armed: bool
    kept: int
    mean_db: float | None


class Logged(Strict):
    """What a log gathered: energy means, history, bands."""

    seconds: float
    mean_dba: float
    mean_dbc: float
    history_db: tuple[float, ...]
    bands_db: tuple[float, ...]
    losses: int
    overloads: int


class Capture:
    """Reads an instrument in a thread. ``on_steady`` is called with what was logged when armed and steady long enough."""

    def __init__(self, instrument: Instrument, on_steady: Callable[[Logged], object] | None = None) -> None:
        self.instrument, self.on_steady = instrument, on_steady
        self.identity, self.settings = instrument.identify(), instrument.settings()
        self.lock = threading.Lock()
        self.state: State = "live"
        self.said = ""
        self.samples: list[Sample] = []
        self.log_from: int | None = None
        self.losses, self.losses_at_log, self.kept = 0, 0, 0
        self.armed = False
        self.quiet_until = 0
        self.stopping = False
        self.begun = self.touched = time.monotonic()
        self.thread = threading.Thread(target=self._run, daemon=True)
        self.thread.start()

    def _run(self) -> None:
        tries = 0
        while not self.stopping and tries <= RETRIES:
            try:
                for sample in self.instrument.samples():
                    tries = 0
                    self._take(sample)
                    if self.stopping:
                        break
                break
            except LostInstrument as error:
                with self.lock:
                    if tries == 0:
                        self.losses += 1
                        self.state, self.said = "lost", f"{error}; what came is kept, trying again"
                tries += 1
                time.sleep(RETRY_S)
        with self.lock:
            self.state = "ended"
            self.said = self.said if tries > RETRIES else ""
        self.instrument.close()

    def _take(self, sample: Sample) -> None:
        keep = None
        with self.lock:
            self.samples.append(sample)
            del self.samples[: max(0, len(self.samples) - MOST_STEPS)]
            if self.state == "lost":
                self.said = f"the instrument is back; {self.losses} gap{'s' if self.losses > 1 else ''} in this log"
            self.state = "live"
            if self.armed and len(self.samples) >= self.quiet_until and self._steady():
                count = round(STEADY_S / STEP_S)
                keep = self._gathered(self.samples[-count:], 0)
                self.quiet_until = len(self.samples) + 2 * count
                self.kept += 1
        if keep is not None and self.on_steady is not None:
            self.on_steady(keep)

    def _steady(self) -> bool:
        count = round(STEADY_S / STEP_S)
        last = np.array([s.mean_dba for s in self.samples[-count:]])
        if last.size < count:
            return False
        quarters = [energy_mean(q) for q in np.array_split(last, 4)]
        return float(np.ptp(quarters)) <= STEADY_SPREAD_DB

    def arm(self, on: bool) -> None:
        """Hands-free: keep a reading by itself each time the level has been steady long enough."""
        with self.lock:
            self.armed = on
            self.quiet_until = len(self.samples) + round(STEADY_S / STEP_S)

    def start_log(self) -> None:
        """Begin a log here."""
        with self.lock:
            self.log_from, self.losses_at_log = len(self.samples), self.losses

    def stop_log(self) -> Logged | None:
        """End the log; None when nothing came."""
        with self.lock:
            begun, self.log_from = self.log_from, None
            logged = self.samples[begun:] if begun is not None else []
            return self._gathered(logged, self.losses - self.losses_at_log) if logged else None

    def _gathered(self, samples: list[Sample], losses: int) -> Logged:
        banded = [s.bands_db for s in samples if s.bands_db]
        bands = 10 * np.log10(np.mean(10 ** (np.array(banded) / 10), axis=0)) if banded else np.array([])
        return Logged(
            seconds=round(len(samples) * STEP_S, 3), mean_dba=round(energy_mean([s.mean_dba for s in samples]), 2),
            mean_dbc=round(energy_mean([s.mean_dbc for s in samples]), 2),
            history_db=tuple(round(s.mean_dba, 2) for s in samples), bands_db=tuple(round(float(b), 2) for b in bands),
            losses=losses, overloads=sum(s.overload for s in samples),
        )

    def view(self) -> LiveView:
        """The screen's state now."""
        self.touched = time.monotonic()
        with self.lock:
            recent = self.samples[-round(RANGE_S / STEP_S):]
            fast = [s.fast_dba for s in recent]
            bands = next((s.bands_db for s in reversed(recent) if s.bands_db), ())
            logged = self.samples[self.log_from:] if self.log_from is not None else []
            return LiveView(
                state=self.state, said=self.said, identity=self.identity, settings=self.settings,
                unit="dB(A)" if self.identity.calibrated else "dB(A) re full scale",
                level_db=round(fast[-1], 1) if fast else None, low_db=round(min(fast), 1) if fast else None,
                high_db=round(max(fast), 1) if fast else None, overload=any(s.overload for s in recent),
                steady=self._steady(), trace_db=tuple(round(s.fast_dba, 1) for s in self.samples[-240:]),
                bands_hz=NOMINAL_HZ if bands else (), bands_db=tuple(None if b < -200 else round(b, 1) for b in bands),
                logging_s=round(len(logged) * STEP_S, 1) if self.log_from is not None else None, losses=self.losses,
                armed=self.armed, kept=self.kept,
                mean_db=round(energy_mean([s.mean_dba for s in logged]), 1) if logged else None,
            )

    def stop(self) -> None:
        """End the capture."""
        self.stopping = True
        if self.state != "ended":
            self.instrument.close()
        self.thread.join(2)
