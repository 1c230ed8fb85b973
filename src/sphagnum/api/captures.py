"""Live capture: instruments opened for a browser, their levels looked at, logged, kept as readings."""

from __future__ import annotations

import io
import secrets
import threading
import time
from datetime import UTC, datetime
from typing import Any, Literal, NamedTuple

import soundfile
from flask import Response, current_app, request
from pydantic import BaseModel, Field

from ..core.errors import BadInput
from ..core.forms import RowId
from ..core.levels.run_view import thinned
from ..core.schema import Strict
from ..instruments.capture import Capture, LiveView, Logged
from ..instruments.meter_link import MeterLink, meter_port
from ..instruments.microphone import Microphone
from ..instruments.protocol import Identity, LostInstrument
from ..instruments.simulated_meter import SCENES
from ..store.documents import Missing
from ..store.edits import Editor
from . import schemas as s
from .runs import HISTORY_POINTS, keep_recording
from .shared import answer, api, editor, load, store

FORGOTTEN_S = 120.0
ARMED_FORGOTTEN_S = 900.0
"""Hands-free goes on while the page's screen is off for a while, not for ever."""
LONGEST_S = 4 * 3600.0
SWEEP_S = 15.0
MOST_OPEN = 8


class CaptureIn(Strict):
    """What to open, and where its readings go. ``drop_s`` breaks the simulated link once, ``rate`` plays it faster."""

    instrument: Literal["meter", "microphone"]
    position_id: RowId
    condition_id: RowId
    round_id: RowId
    background: bool = False
    scene: str = "steady run"
    sample_rate_hz: float = 48_000.0
    rate: float = Field(default=1.0, ge=1, le=100)
    drop_s: float = Field(default=0.0, ge=0, le=3600)


class Opened(Strict):
    capture: str
    scenes: tuple[str, ...]
    live: LiveView


class Switch(Strict):
    on: bool


class CapturePath(BaseModel):
    capture: str = Field(pattern=r"^[0-9a-f]{32}$")


class Open(NamedTuple):
    """An open capture and where its readings go."""

    job_id: int
    at: dict[str, Any]
    capture: Capture
    microphone: Microphone | None


class Captures:
    """The captures that are open; those no browser asks about any more are closed."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.open: dict[str, Open] = {}
        threading.Thread(target=self._watch, name="captures", daemon=True).start()

    def add(self, one: Open) -> str:
        """Keep a capture; returns its key."""
        self.sweep()
        with self.lock:
            if len(self.open) >= MOST_OPEN:
                raise BadInput(f"{MOST_OPEN} instruments are open already", "instrument", "close one of them")
            key = secrets.token_hex(16)
            self.open[key] = one
            return key

    def get(self, key: str) -> Open:
        """An open capture. Missing when it was closed."""
        with self.lock:
            found = self.open.get(key)
        if found is None:
            raise Missing("this instrument is closed")
        return found

    def close(self, key: str) -> None:
        """Close one."""
        with self.lock:
            found = self.open.pop(key, None)
        if found is not None:
            found.capture.stop()

    def sweep(self, now: float | None = None) -> None:
        """Close what no page asks about any more, sooner where it does nothing by itself, and what has been open too long."""
        now = time.monotonic() if now is None else now
        with self.lock:
            old = [k for k, o in self.open.items() if now - o.capture.begun > LONGEST_S or
                   now - o.capture.touched > (ARMED_FORGOTTEN_S if o.capture.armed else FORGOTTEN_S)]
        for key in old:
            self.close(key)

    def close_of(self, job_id: int) -> None:
        """Close those of a job that goes."""
        with self.lock:
            own = [k for k, o in self.open.items() if o.job_id == job_id]
        for key in own:
            self.close(key)

    def close_all(self) -> None:
        """Close every one; what was being logged ends with it."""
        for key in list(self.open):
            self.close(key)

    def _watch(self) -> None:
        while True:
            time.sleep(SWEEP_S)
            self.sweep()


def captures() -> Captures:
    """Those of the running application."""
    found: Captures = current_app.extensions.setdefault("captures", Captures())
    return found


@api.post("/jobs/<int:job_id>/captures", responses={201: Opened})
def open_capture(path: s.JobPath, body: CaptureIn) -> Response:
    """Open an instrument for a cell of the board."""
    with store()() as session:
        job = load(session, path.job_id)[0].job
    at = body.model_dump(include={"position_id", "condition_id", "round_id", "background"})
    microphone = None
    try:
        if body.instrument == "microphone":
            microphone = Microphone(body.sample_rate_hz, job.full_scale_db)
        instrument = microphone or MeterLink(meter_port(), body.scene, body.rate, body.drop_s)
    except LostInstrument as error:
        raise BadInput(str(error), "instrument", "check the cable and the power, then try again") from None
    except ValueError as error:
        if isinstance(error, BadInput):
            raise
        raise BadInput(str(error), "scene", f"use one of: {', '.join(SCENES)}") from None
    writer, job_id = editor(), path.job_id
    simulated = _simulated(instrument.identify())
    capture = Capture(instrument, lambda logged: _keep(writer, job_id, at, logged, simulated, "hands-free"))
    key = captures().add(Open(job_id, at, capture, microphone))
    return answer(Opened(capture=key, scenes=tuple(SCENES), live=capture.view()), 201)


def _simulated(identity: Identity) -> bool:
    """Whether an instrument says of itself that it is made up."""
    return "simulated" in f"{identity.name} {identity.kind}".lower()


def _keep(
    writer: Editor, job_id: int, at: dict[str, Any], logged: Logged, simulated: bool, note: str = ""
) -> dict[str, Any]:
    """A reading from what was logged."""
    gaps = f"{logged.losses} gap{'s' if logged.losses > 1 else ''}: the link was lost" if logged.losses else ""
    over = "overload" if logged.overloads else ""
    return writer.create(job_id, "readings", [{
        **at, "quantity": "LAeq", "level_db": logged.mean_dba, "source": "meter", "simulated": simulated,
        "taken_at": datetime.now(UTC).isoformat(timespec="seconds"),
        "levels": {"LAeq": logged.mean_dba, "LCeq": logged.mean_dbc}, "bands_db": logged.bands_db,
        "history_db": thinned(logged.history_db, HISTORY_POINTS), "history_s": logged.seconds,
        "note": "; ".join(x for x in (note, gaps, over) if x)}])[0]


@api.get("/captures/<string:capture>", responses={200: LiveView})
def get_capture(path: CapturePath) -> Response:
    """What the instrument says now."""
    return answer(captures().get(path.capture).capture.view())


@api.post("/captures/<string:capture>/samples", responses={200: LiveView})
def take_samples(path: CapturePath) -> Response:
    """A block of float32 samples from the browser's microphone."""
    found = captures().get(path.capture)
    if found.microphone is None:
        raise BadInput("this instrument takes no samples", "instrument", "open the microphone")
    found.microphone.take(request.get_data(cache=False))
    return answer(found.capture.view())


@api.post("/captures/<string:capture>/log", responses={200: s.Rows})
def switch_log(path: CapturePath, body: Switch) -> Response:
    """Begin a log, or end it and keep it as a reading."""
    found = captures().get(path.capture)
    if body.on:
        if found.microphone is not None:
            found.microphone.record(True)
        found.capture.start_log()
        return answer(s.Rows(rows=()))
    logged = found.capture.stop_log()
    if found.microphone is not None:
        samples = found.microphone.record(False)
        wav = io.BytesIO()
        soundfile.write(wav, samples, round(found.microphone.rate_hz), format="WAV", subtype="FLOAT")
        wav.seek(0)
        row, _ = keep_recording(found.job_id, wav, "microphone", found.at, "microphone")
        return answer(s.Rows(rows=(row,)))
    if logged is None:
        raise BadInput("nothing came while it logged", "instrument", "check that it is on, then log again")
    return answer(s.Rows(rows=(_keep(editor(), found.job_id, found.at, logged, _simulated(found.capture.identity)),)))


@api.post("/captures/<string:capture>/arm", responses={200: LiveView})
def arm(path: CapturePath, body: Switch) -> Response:
    """Hands-free: keep a reading by itself whenever the level has been steady long enough."""
    found = captures().get(path.capture)
    found.capture.arm(body.on)
    return answer(found.capture.view())


@api.delete("/captures/<string:capture>", responses={200: s.Rows})
def close_capture(path: CapturePath) -> Response:
    """Close the instrument."""
    captures().close(path.capture)
    return answer(s.Rows(rows=()))
