"""A plan or a stack to hear: before and after as WAV, made once and kept while they are listened to."""

from __future__ import annotations

import io
from typing import Annotated, Literal

import soundfile
from flask import Response, current_app, make_response, request
from pydantic import BaseModel, Field

from ..core.errors import BadInput
from ..core.figures.job_figures import JobFigures
from ..core.forms import RowVersion
from ..core.job.preview import Tried, tried
from ..core.levels.hearing import Character, Pair, hear
from ..core.levels.signals import RATE_HZ
from ..core.stages.plan.heard import BandsHeard, Listening, bands_heard, listening, to_hear
from ..core.stages.plan.model import PlansFound
from ..core.stages.plan.taking import steps_of
from ..instruments.recordings import read_samples
from ..store.documents import Missing
from ..work.desk import result_of
from . import schemas as s
from .behind import hands
from .runs import reading_of
from .shared import answer, api, files, job_figures, sends, trial_figures


class HearQuery(BaseModel):
    """What to hear: a plan of a search, an alternative, or (neither) the plan as it stands; as which sound, how long."""

    work: str = Field(default="", pattern=r"^([0-9a-f]{32})?$")
    plan: int = Field(default=0, ge=0, le=1000)
    alternative_id: RowVersion = 0
    character: Character = "noise"
    tone_hz: Annotated[float, Field(ge=20, le=5000)] = 100.0
    seconds: Annotated[float, Field(ge=2, le=30)] = 8.0
    reading_id: RowVersion = 0
    """A recorded reading to hear the change on, instead of a made sound."""


class HearPath(s.JobPath):
    which: Literal["before", "after"]


def _heard(job: JobFigures, query: HearQuery) -> BandsHeard:
    """Bands before and after, with what is asked for in the place of the plan as it stands."""
    after = job
    if query.work:
        entry = hands().find(query.work)
        found = None if entry is None else result_of(entry)
        if not isinstance(found, PlansFound) or query.plan >= len(found.plans):
            raise Missing("there is no such plan (any more); find a plan again")
        after = trial_figures(tried(job.doc, steps_of(job.doc, found, found.plans[query.plan])))
    elif query.alternative_id:
        one = next((a for a in job.doc.alternatives if a.id == query.alternative_id), None)
        if one is None:
            raise Missing("there is no such alternative (any more)")
        others = [a for a in job.doc.alternatives if a.surface_id == one.surface_id and a.zone == one.zone and a.chosen]
        after = trial_figures(tried(job.doc, [*(Tried("alternatives", a.id, {"chosen": False}) for a in others),
                                              Tried("alternatives", one.id, {"chosen": True})]))
    return bands_heard(job, after)


@api.get("/jobs/<int:job_id>/hear", responses={200: Listening})
def get_listening(path: s.JobPath, query: HearQuery) -> Response:
    """What there is to hear of a plan, and what to mind."""
    job = job_figures(path.job_id)
    return answer(listening(job, _heard(job, query)))


@api.get("/jobs/<int:job_id>/hear/<string:which>.wav", responses=sends("audio/wav", also=(206,)))
def get_heard(path: HearPath, query: HearQuery) -> Response:
    """The sound before or after, of one gain; both are made together."""
    job = job_figures(path.job_id)
    asked = to_hear(_heard(job, query), query.character, query.tone_hz, query.seconds, bool(query.reading_id))
    recorded = None
    if query.reading_id:
        reading, _ = reading_of(path.job_id, query.reading_id)
        if not reading.sound:
            raise BadInput("no recording is kept of this reading", "reading_id", "choose a recorded one")
        recorded = read_samples(files().path(reading.sound), reading.file_name or "recording", reading.window_s)
    pairs = current_app.extensions["heard"]
    pair: Pair = pairs.get((path.job_id, query.reading_id, asked.model_dump_json()), lambda: hear(asked, recorded))
    out = io.BytesIO()
    soundfile.write(out, pair.before if path.which == "before" else pair.after, RATE_HZ, format="WAV", subtype="PCM_24")
    response = make_response(out.getvalue())
    response.mimetype = "audio/wav"
    response.headers["Content-Disposition"] = f'inline; filename="{path.which}.wav"'
    response.headers["Accept-Ranges"] = "bytes"
    response.make_conditional(request.environ, accept_ranges=True, complete_length=len(out.getvalue()))
    return response
