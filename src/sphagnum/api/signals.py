"""Test signals as WAV, and a loop of a reading's own window, so that every round hears the same."""

from __future__ import annotations

import io
from typing import Literal

import numpy as np
import soundfile
from flask import Response, make_response
from pydantic import BaseModel

from ..core.errors import BadInput
from ..core.forms import RowId
from ..core.levels.bands import Floats
from ..core.levels.decay import OCTAVES_HZ, analyse_decay
from ..core.levels.ring import analyse_ring
from ..core.levels.rows import MadeBy
from ..core.levels.signals import RATE_HZ, looped, make
from ..core.stages.build.builds import BuildsView, builds_view
from ..exchange.files import is_recording
from ..instruments.recordings import read_samples
from . import schemas as s
from .runs import ReadingPath, RecordingUpload, Upload, reading_of
from .shared import answer, api, editor, files, job_figures, load, sends, store


class SignalPath(BaseModel):
    kind: Literal["pink", "bands", "tone", "sweep"]


def wav(samples: Floats, rate_hz: int, name: str) -> Response:
    out = io.BytesIO()
    soundfile.write(out, samples, rate_hz, format="WAV", subtype="PCM_16")
    response = make_response(out.getvalue())
    response.mimetype = "audio/wav"
    response.headers["Content-Disposition"] = f'inline; filename="{name}.wav"'
    return response


@api.get("/signals/<string:kind>.wav", responses=sends("audio/wav"))
def get_signal(path: SignalPath, query: s.SignalQuery) -> Response:
    """A test signal: three seconds of pink noise to set the level, a pause, then the signal. The same every time."""
    return wav(make(path.kind, query.seconds, query.frequency_hz), RATE_HZ, path.kind)


@api.get("/jobs/<int:job_id>/readings/<int:reading_id>/loop.wav", responses=sends("audio/wav"))
def get_loop(path: ReadingPath, query: s.SignalQuery) -> Response:
    """The window of a recorded reading, looped without a click."""
    reading, _ = reading_of(path.job_id, path.reading_id)
    if not 1 <= query.seconds <= 600:
        raise BadInput(f"{query.seconds:g} s is out of range", "seconds", "give 1 to 600 s")
    samples, rate_hz = read_samples(files().path(reading.sound), reading.file_name or "recording", reading.window_s)
    top = float(np.abs(samples).max()) or 1.0
    return wav(looped(samples / max(top, 1.0), query.seconds, rate_hz), round(rate_hz), "loop")


def _recorded(form: Upload, mend: str) -> tuple[str, Floats, float]:
    """The name, samples and rate of a recording that was sent."""
    name, data = form.file.filename or "recording", form.file.read()
    if not is_recording(data[:4]):
        raise BadInput("this is no WAV or FLAC recording", name, mend)
    return name, *read_samples(data, name, None)


class DecayUpload(Upload):
    """A recording of a room that rings, and what made it."""

    position_id: RowId
    round_id: RowId
    excitation: MadeBy = "clap"


@api.post("/jobs/<int:job_id>/decays/recording", responses={201: s.Rows})
def import_decay(path: s.JobPath, form: DecayUpload) -> Response:
    """How long a room rings, per octave, from a recording of claps, balloons, or a noise that stops."""
    name, samples, rate_hz = _recorded(form, "record a clap, and wait until it is still again")
    try:
        found = analyse_decay(samples, rate_hz, "stopped noise" if form.excitation == "stopped noise" else "impulse")
    except BadInput as error:
        raise error.at(name) from None
    by = {o.frequency_hz: o for o in found.octaves}
    octaves = [by.get(f) for f in OCTAVES_HZ]
    row = editor().create(path.job_id, "decays", [{
        "round_id": form.round_id, "position_id": form.position_id, "file_name": name[:200], "excitation": form.excitation,
        "decays": found.decays, "t_s": [None if o is None else o.t20_s for o in octaves],
        "uncertainty_s": [None if o is None else o.uncertainty_s for o in octaves],
        "curves_db": [() if o is None or o.t20_s is None else o.curve_db for o in octaves],
        "step_s": [0 if o is None else o.step_s for o in octaves]}])
    return answer(s.Rows(rows=row), 201)


@api.get("/jobs/<int:job_id>/builds-view", responses={200: BuildsView})
def get_builds(path: s.JobPath) -> Response:
    """The builds of a job, worked out and drawn."""
    return answer(builds_view(job_figures(path.job_id)))


@api.post("/jobs/<int:job_id>/knocks/recording", responses={201: s.Rows})
def import_knocks(path: s.JobPath, form: RecordingUpload) -> Response:
    """Ring frequency, decay time and loss factor from a recording of knocks on a panel."""
    name, samples, rate_hz = _recorded(form, "record a few knocks, a second apart")
    with store()() as session:
        job = load(session, path.job_id)[0].job
    try:
        ring = analyse_ring(samples, rate_hz, job.full_scale_db)
    except BadInput as error:
        raise error.at(name) from None
    note = ring.notes[0]
    row = editor().create(path.job_id, "knocks", [{
        "round_id": form.round_id, "position_id": form.position_id, "file_name": name[:200], "knocks": note.knocks,
        **note.model_dump(include={"frequency_hz", "decay_time_s", "loss_factor", "deviation_s"}),
        **ring.model_dump(include={"peak_db", "low_share", "high_share"})}])
    return answer(s.Rows(rows=row), 201)
