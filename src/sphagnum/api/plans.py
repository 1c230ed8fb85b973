"""The search for a plan: begun behind the page, and a plan of it taken into Build as one edit."""

from __future__ import annotations

from flask import Response, current_app
from pydantic import Field

from ..core.errors import BadInput
from ..core.schema import Strict
from ..core.stages.papers.asked import PLANNED, PlanAsked, found_plan
from ..core.stages.plan.model import PlansAsked, PlansFound
from ..core.stages.plan.offered import PlanOffered, offered
from ..core.stages.plan.taking import steps_of
from ..store.documents import Missing
from ..store.searched import FOLDER
from ..work.desk import Entry, State, result_of
from ..work.kinds import PlanWork
from . import schemas as s
from .behind import hands
from .edits import done
from .shared import answer, api, files, job_figures, load, store

AHEAD_S = 60.0
"""How long stacks are compared before anybody asks for a plan, at most."""


class PlanState(Strict):
    """How far a search is, and the best it has found so far, final when done."""

    id: str
    state: State
    share: float
    words: str
    open: bool
    found: PlansFound | None


class SearchPath(s.JobPath):
    work_id: str = Field(pattern=r"^[0-9a-f]{32}$")


class PlanAhead(Strict):
    """A search ahead, by which it can be stopped."""

    id: str


class PlanTaken(Strict):
    """A plan to take into Build: the search it is from, and its place there."""

    work: str = Field(pattern=r"^[0-9a-f]{32}$")
    plan: int = Field(ge=0, le=1000)


@api.get("/jobs/<int:job_id>/plan-offered", responses={200: PlanOffered})
def plan_offered(path: s.JobPath) -> Response:
    """What a search for a plan may be told before it begins."""
    return answer(offered(job_figures(path.job_id)))


@api.post("/jobs/<int:job_id>/plan", responses={200: PlanState})
def begin_plan(path: s.JobPath, body: PlansAsked) -> Response:
    """Begin to look for a plan of a job as it is now, or find that search under way or done."""
    _let_go(path.job_id)  # what was found ahead by now is kept: the search goes on from there
    return _state(hands().start("plan", _work(path.job_id, body)))


def _work(job_id: int, asked: PlansAsked) -> PlanWork:
    job = job_figures(job_id)
    return PlanWork(document=job.doc.model_copy(update={"photos": ()}), shelf=job.base, asked=asked,
                    folder=str(files().folder.parent / FOLDER))


@api.post("/jobs/<int:job_id>/plan-ahead", responses={200: PlanAhead})
def begin_ahead(path: s.JobPath, body: PlansAsked) -> Response:
    """Compare the stacks that a search for a plan would begin with, while nobody waits for one. The newest of a job takes the
    place of the one before."""
    begun = hands().start("ahead", _work(path.job_id, body.model_copy(update={"seconds": AHEAD_S, "kinds": None})))
    if _aheads().get(path.job_id) != begun.id:
        _let_go(path.job_id)
    _aheads()[path.job_id] = begun.id
    return answer(PlanAhead(id=begun.id))


def _aheads() -> dict[int, str]:
    """By job what is searched ahead for it."""
    found: dict[int, str] = current_app.extensions["aheads"]
    return found


def _let_go(job_id: int) -> None:
    if (key := _aheads().pop(job_id, None)) is not None:
        hands().cancel(key)


@api.get("/jobs/<int:job_id>/plan/<work_id>", responses={200: PlanState})
def see_plan(path: SearchPath) -> Response:
    """How far a search is, with the best it has found so far."""
    return _state(hands().find(path.work_id))


def _state(entry: Entry | None) -> Response:
    found = None if entry is None else result_of(entry)
    if entry is None or entry.kind != "plan":
        raise Missing("there is no such search (any more); find a plan again")
    return answer(PlanState(id=entry.id, state=entry.state, share=round(entry.share, 3), words=entry.words, open=entry.open,
                            found=found))


@api.post("/jobs/<int:job_id>/plan-to-offer", responses={200: PlanAsked})
def plan_to_offer(path: s.JobPath, body: PlanTaken) -> Response:
    """A plan of a search as an offer holds it; nothing is kept."""
    with store()() as session:
        doc = load(session, path.job_id)[0]
    return answer(found_plan(doc, _found(body), body.plan))


def _found(body: PlanTaken) -> PlansFound:
    found = result_of(entry) if (entry := hands().find(body.work)) is not None else None
    if not isinstance(found, PlansFound):
        raise Missing("there is no such search (any more); find a plan again")
    if body.plan >= len(found.plans):
        raise BadInput(f"the search found {len(found.plans)} plans", "plan", "choose one of them")
    return found


@api.post("/jobs/<int:job_id>/plan-taken", responses={200: s.Rows})
def take_plan(path: s.JobPath, body: PlanTaken) -> Response:
    """Take a plan into Build: new stacks as alternatives, chosen; the rest as the plan has it. One edit, undone as one."""
    found = _found(body)
    with store()() as session:
        doc = load(session, path.job_id)[0]
    steps = steps_of(doc, found, found.plans[body.plan])
    if not steps:
        raise BadInput("the job stands as this plan has it already", "plan", "choose another plan")
    seen: dict[tuple[str, int], int] = {(name, r.id): r.version for name in PLANNED for r in getattr(doc, name)}
    return done(path.job_id, *(s.Step(collection=x.collection, row=x.row, version=seen.get((x.collection, x.row or 0), 0),
                                      values=dict(x.values)) for x in steps))
