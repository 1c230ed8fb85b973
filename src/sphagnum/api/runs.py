"""Level logs, spectra and recordings as readings: looked at before they are kept, their window chosen and chosen anew."""

from __future__ import annotations

import io
from typing import Annotated, Any

from flask import Response, current_app, request, send_file
from flask_openapi3 import FileStorage
from pydantic import BaseModel, BeforeValidator, Field

from ..core.errors import BadInput
from ..core.forms import RowId, RowVersion
from ..core.job.document import JobDocument
from ..core.levels.bands import A_WEIGHTING_DB
from ..core.levels.decibels import energy_sum
from ..core.levels.logs import Run
from ..core.levels.recording import History
from ..core.levels.rows import QUANTITIES, Reading
from ..core.levels.run_figures import LogAnalysis, RecordingAnalysis
from ..core.levels.run_view import RunView, figures, levels_of, look, samples, thinned
from ..core.levels.typed import HIGH_DB, LOW_DB
from ..core.schema import Strict
from ..exchange.files import is_recording
from ..instruments.log_reader import Column, LevelLog, read_log, read_spectrum
from ..instruments.recordings import full_scale_from, read_history
from ..store.documents import Missing
from ..store.files import FileStore
from . import schemas as s
from .behind import read_behind
from .shared import answer, api, editor, files, load, sends, store

MOST_JOB_FILE = 64 * 2**20
"""Photographs travel in it."""
MOST_RECORDING = 600 * 2**20
HISTORY_POINTS = 240


Text = Annotated[str, BeforeValidator(str)]
"""A field of a form that stays text, though it may look like a number."""


class Upload(BaseModel):
    file: FileStorage


class LookUpload(Upload):
    """A log as it should be read; empty fields leave it to the reader."""

    column: Text = ""
    time_column: Text = ""
    interval_s: Text = ""


class LogUpload(LookUpload):
    position_id: RowId
    condition_id: RowId
    round_id: RowId
    background: bool = False
    from_s: float | None = None
    to_s: float | None = None


class RecordingUpload(Upload):
    position_id: RowId
    condition_id: RowId
    round_id: RowId
    background: bool = False


class CalibrationUpload(Upload):
    level_db: float = 94.0


class Understood(Strict):
    """What the reader made of a log, before anything is kept."""

    columns: tuple[Column, ...]
    column: str
    quantity: str | None
    interval_s: float
    samples: int
    look: RunView
    figures: LogAnalysis


class WindowChoice(Strict):
    version: RowVersion
    start_s: float = Field(ge=0, le=1e7)
    end_s: float = Field(ge=0, le=1e7)


class RunPage(Strict):
    """A kept run with the figures of its window."""

    look: RunView
    levels: dict[str, float]


class ReadingPath(s.JobPath):
    reading_id: RowId


def _read(form: LookUpload) -> LevelLog:
    interval = None
    if form.interval_s.strip():
        try:
            interval = float(form.interval_s.replace(",", "."))
        except ValueError:
            interval = -1.0
        if not 1e-4 <= interval <= 1e6:
            raise BadInput(f"'{form.interval_s[:20]}' is no interval", "interval", "give seconds, such as 0.5")
    name = form.file.filename or "file"
    return read_log(form.file.read(), name, form.column or None, interval, form.time_column or None)


@api.post("/jobs/<int:job_id>/logs/look", responses={200: Understood})
def look_at_log(path: s.JobPath, form: LookUpload) -> Response:
    """What would be understood of a log; nothing is kept."""
    log = _read(form)
    found = figures(log.run, None, (None, None))
    assert isinstance(found, LogAnalysis)
    return answer(Understood(columns=log.columns, column=log.column, quantity=log.quantity,
                             interval_s=round(log.run.interval_s, 4), samples=log.run.level_db.size,
                             look=look(log.run, None, None), figures=found))


def _goal_quantity(job_id: int) -> tuple[JobDocument, str]:
    with store()() as session:
        doc = load(session, job_id)[0]
    return doc, doc.goal.quantity if doc.goal else "LAeq"


@api.post("/jobs/<int:job_id>/logs", responses={201: s.LogImported})
def import_log(path: s.JobPath, form: LogUpload) -> Response:
    """A reading from a level log, or from a table of bands; says what was understood."""
    name = form.file.filename or "file"
    data = form.file.read()
    at = {k: getattr(form, k) for k in ("position_id", "condition_id", "round_id", "background")}
    spectrum = None if form.column or form.time_column else read_spectrum(data, name)
    if spectrum is not None:
        a_weighted = energy_sum([v + w for v, w in zip(spectrum, A_WEIGHTING_DB, strict=True) if v is not None])
        row = editor().create(path.job_id, "readings", [{
            **at, "quantity": "LAeq", "level_db": round(a_weighted, 2), "source": "spectrum", "bands_db": spectrum,
            "file_name": name[:200]}])[0]
        return answer(s.LogImported(row=row, analysis=None, column="bands", interval_s=None), 201)
    form.file.stream = io.BytesIO(data)
    log = _read(form)
    found = figures(log.run, None, (form.from_s, form.to_s))
    assert isinstance(found, LogAnalysis)
    _, wanted = _goal_quantity(path.job_id)
    if log.quantity is not None and log.quantity != wanted and wanted in ("LAeq", "LCeq"):
        raise BadInput(f"the column '{log.column}' holds {log.quantity}, the goal is in {wanted}", name,
                       "choose another column")
    with files().attempt() as kept:
        row = editor().create(path.job_id, "readings", [{
            **at, "quantity": wanted, "source": "log", "file_name": name[:200], "run": kept.put_run(log.run),
            **_content(log.run, None, found, wanted)}])[0]
    return answer(s.LogImported(row=row, analysis=found, column=log.column, interval_s=round(log.run.interval_s, 4)), 201)


def _content(
    run: Run | History, full_scale_db: float | None, found: LogAnalysis | RecordingAnalysis, quantity: str
) -> dict[str, Any]:
    """What a reading keeps of a window of its run."""
    levels, _ = samples(run, full_scale_db)
    out: dict[str, Any] = {
        "history_db": thinned(levels, HISTORY_POINTS), "window_s": found.window_s,
        "history_s": round(levels.size * (run.interval_s if isinstance(run, Run) else 0.125), 3), "levels": levels_of(found),
    }
    if isinstance(found, LogAnalysis):
        return {**out, "level_db": found.Leq}
    bands = [None if v is None else min(max(v, LOW_DB), HIGH_DB) for v in found.bands.level_db]
    kept = quantity if quantity in ("LAeq", "LCeq") else "LAeq"
    return {**out, "quantity": kept, "level_db": getattr(found, kept), "bands_db": bands, "relative": not found.calibrated,
            "levels": {k: min(max(v, LOW_DB), HIGH_DB) for k, v in levels_of(found).items()},
            "history_db": [min(max(v, LOW_DB), HIGH_DB) for v in out["history_db"]]}


@api.post("/jobs/<int:job_id>/recordings", responses={201: s.RecordingImported})
def import_recording(path: s.JobPath, form: RecordingUpload) -> Response:
    """A reading from a WAV or FLAC recording, at the job's calibration or relative; the recording is kept for listening."""
    at = {k: getattr(form, k) for k in ("position_id", "condition_id", "round_id", "background")}
    row, found = keep_recording(path.job_id, form.file, form.file.filename or "recording", at, "recording")
    return answer(s.RecordingImported(row=row, analysis=found), 201)


def read_in(kept: FileStore, stream: Any, name: str, mend: str) -> tuple[str, Run | History, str]:
    """A recording that was sent, kept and read, behind the answer where it is long: its file, its run, and that one's file where
    it has one. BadInput for what is no recording, or cannot be read."""
    start = stream.read(4)
    stream.seek(0)
    if not is_recording(start):
        raise BadInput("this is no WAV or FLAC recording", name, mend)
    sound = kept.put(stream, ".flac" if start == b"fLaC" else ".wav")
    run, run_name = read_behind(kept, sound, name) or (read_history(kept.path(sound), name), "")
    return sound, run, run_name


def keep_recording(
    job_id: int, stream: Any, name: str, at: dict[str, Any], source: str
) -> tuple[dict[str, Any], RecordingAnalysis]:
    """Analyse a recording, keep it and its run, and store the reading."""
    doc, quantity = _goal_quantity(job_id)
    with files().attempt() as kept:
        sound, run, run_name = read_in(kept, stream, name, "bring a level log in as a log")
        found = figures(run, doc.job.full_scale_db, (None, None))
        assert isinstance(found, RecordingAnalysis)
        row = editor().create(job_id, "readings", [{
            **at, "quantity": quantity, "source": source, "file_name": name[:200], "sound": sound,
            "run": run_name or kept.put_run(run),
            **_content(run, doc.job.full_scale_db, found, quantity)}])[0]
    return row, found


def reading_of(job_id: int, reading_id: int) -> tuple[Reading, JobDocument]:
    """A reading and its job. Missing when there is none."""
    with store()() as session:
        doc = load(session, job_id)[0]
    found = next((r for r in doc.readings if r.id == reading_id), None)
    if found is None:
        raise Missing("there is no such reading")
    return found, doc


@api.get("/jobs/<int:job_id>/readings/<int:reading_id>/run", responses={200: RunPage})
def get_run(path: ReadingPath) -> Response:
    """The run of a reading: its line, steady stretches to propose, its window and figures."""
    reading, doc = reading_of(path.job_id, path.reading_id)
    run = files().run(reading.run)
    return answer(RunPage(look=look(run, doc.job.full_scale_db, reading.window_s), levels=dict(reading.levels)))


@api.post("/jobs/<int:job_id>/readings/<int:reading_id>/window", responses={200: s.Rows})
def choose_window(path: ReadingPath, body: WindowChoice) -> Response:
    """Choose another window of a reading's run; its figures follow."""
    reading, doc = reading_of(path.job_id, path.reading_id)
    run = files().run(reading.run)
    # a reading keeps the scale it was made with: relative stays relative
    scale = None if reading.relative else doc.job.full_scale_db
    found = figures(run, scale, (body.start_s, body.end_s))
    content = _content(run, scale, found, reading.quantity)
    if reading.quantity not in QUANTITIES or isinstance(found, LogAnalysis):
        content.pop("quantity", None)
    done = editor().change(path.job_id, "readings", path.reading_id, body.version, content)
    return answer(s.Rows(rows=(done,)))


@api.get("/jobs/<int:job_id>/readings/<int:reading_id>/sound",
         responses=sends("audio/wav", "audio/flac", also=(206, 304, 416)))
def get_sound(path: ReadingPath) -> Response:
    """The recording itself, for listening; parts of it on request."""
    reading, _ = reading_of(path.job_id, path.reading_id)
    kept = files().path(reading.sound)
    return send_file(kept, mimetype="audio/flac" if kept.suffix == ".flac" else "audio/wav", conditional=True)


@api.post("/jobs/<int:job_id>/calibration", responses={200: s.Rows})
def calibrate(path: s.JobPath, form: CalibrationUpload) -> Response:
    """Set the job's scale from a recording of a calibrator."""
    if not 60 <= form.level_db <= 140:
        raise BadInput(f"{form.level_db:g} dB is no calibrator's level", "level", "calibrators give 94 or 114 dB")
    name = form.file.filename or "recording"
    data = form.file.read()
    if not is_recording(data[:4]):
        raise BadInput("this is no WAV or FLAC recording", name, "record the calibrator")
    full_scale = round(full_scale_from(data, name, form.level_db), 2)
    with store()() as session:
        job = load(session, path.job_id)[0].job
    done = editor().change(path.job_id, "jobs", path.job_id, job.version, {"full_scale_db": full_scale})
    return answer(s.Rows(rows=(done,)))


def most_body(path: str, usual: int) -> int:
    """The largest body an address takes: recordings may be larger than other uploads."""
    if path.endswith(("/recordings", "/calibration", "/knocks/recording", "/decays/recording", "/series/recording")):
        return MOST_RECORDING
    return MOST_JOB_FILE if path == "/api/jobs/import" else usual


def allow_large_uploads() -> None:
    """The bound of the address asked for."""
    if request.method == "POST":
        request.max_content_length = most_body(request.path, current_app.config["MAX_CONTENT_LENGTH"])
