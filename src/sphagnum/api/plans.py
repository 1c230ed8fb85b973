"""The search for a plan: begun behind the page, and a plan of it taken into Build as one edit."""

from __future__ import annotations

from typing import Any

from flask import Response
from pydantic import Field

from ..core.errors import BadInput
from ..core.figures.path_levels import leaks_cm2
from ..core.job.document import JobDocument
from ..core.schema import Strict
from ..core.stages.plan.model import FoundPlan, OptionView, PlansAsked, PlansFound, UnitView
from ..store.documents import Missing
from ..work.desk import Entry, State, result_of
from ..work.kinds import PlanWork
from . import schemas as s
from .behind import hands
from .edits import done
from .shared import answer, api, job_figures, load, store


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


class PlanTaken(Strict):
    """A plan to take into Build: the search it is from, and its place there."""

    work: str = Field(pattern=r"^[0-9a-f]{32}$")
    plan: int = Field(ge=0, le=1000)


@api.post("/jobs/<int:job_id>/plan", responses={200: PlanState})
def begin_plan(path: s.JobPath, body: PlansAsked) -> Response:
    """Begin to look for a plan of a job as it is now, or find that search under way or done."""
    job = job_figures(path.job_id)
    return _state(hands().start("plan", PlanWork(document=job.doc.model_copy(update={"photos": ()}), shelf=job.base, asked=body)))


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


@api.post("/jobs/<int:job_id>/plan-taken", responses={200: s.Rows})
def take_plan(path: s.JobPath, body: PlanTaken) -> Response:
    """Take a plan into Build: new stacks as alternatives, chosen; the rest as the plan has it. One edit, undone as one."""
    found = result_of(entry) if (entry := hands().find(body.work)) is not None else None
    if not isinstance(found, PlansFound):
        raise Missing("there is no such search (any more); find a plan again")
    if body.plan >= len(found.plans):
        raise BadInput(f"the search found {len(found.plans)} plans", "plan", "choose one of them")
    with store()() as session:
        doc = load(session, path.job_id)[0]
    steps = steps_of(doc, found, found.plans[body.plan])
    if not steps:
        raise BadInput("the job stands as this plan has it already", "plan", "choose another plan")
    return done(path.job_id, *steps)


def steps_of(doc: JobDocument, found: PlansFound, plan: FoundPlan) -> list[s.Step]:
    """What has to be done to a job for a plan of it to stand."""
    steps: list[s.Step] = []
    chosen = {m.id: m.id in plan.measures for m in doc.measures if m.at != "path"}
    for unit, k in zip(found.units, plan.choice, strict=True):
        option = unit.options[k]
        steps += _stacks(doc, unit, option) + _openings(doc, unit, option)
        chosen |= {m.id: m.id in option.measures for m in doc.measures if m.path_id in unit.path_ids}
    for measure in doc.measures:
        if measure.id in chosen and measure.chosen is not chosen[measure.id]:
            steps.append(s.Step(collection="measures", row=measure.id, version=measure.version,
                                values={"chosen": chosen[measure.id]}))
    return steps


def _stacks(doc: JobDocument, unit: UnitView, option: OptionView) -> list[s.Step]:
    """What lies on each patch of a unit's surface, as the option has it."""
    if unit.surface_id is None:
        return []
    surface = next((x for x in doc.surfaces if x.id == unit.surface_id), None)
    if surface is None or any(w.zone not in ("", *(z.id for z in surface.zones)) for w in option.ways):
        raise BadInput(f"'{unit.name}' is not what it was when the search began", "plan", "find a plan again")
    steps = []
    for way in option.ways:
        now = doc.chosen(surface.id, way.zone)
        if now is not None and way.layers is not None and now.layers == way.layers and not now.takes_out:
            continue  # it stands so already
        if now is not None and now.id != way.alternative_id:
            steps.append(s.Step(collection="alternatives", row=now.id, version=now.version, values={"chosen": False}))
        if way.layers is not None:
            layers = [x.model_dump(mode="json") for x in way.layers]
            steps.append(s.Step(collection="alternatives", values={
                "surface_id": surface.id, "zone": way.zone, "name": _short(f"Found: {option.name}"), "layers": layers,
                "chosen": True}))
        elif way.alternative_id is not None:
            one = next((a for a in doc.alternatives if a.id == way.alternative_id), None)
            if one is None:
                raise BadInput(f"a stack of '{unit.name}' is gone since the search began", "plan", "find a plan again")
            if not one.chosen:
                steps.append(s.Step(collection="alternatives", row=one.id, version=one.version, values={"chosen": True}))
    return steps


def _openings(doc: JobDocument, unit: UnitView, option: OptionView) -> list[s.Step]:
    """Openings that the option leaves as they are though they were to be closed, or closes though they were to stay."""
    steps = []
    for path in doc.paths:
        if path.id not in unit.path_ids or option.sealed is None:
            continue
        open_now, open_then = leaks_cm2(doc, path)
        if option.sealed:
            if path.planned_leak_cm2 is not None and open_then >= open_now > 0:
                steps.append(s.Step(collection="paths", row=path.id, version=path.version, values={"planned_leak_cm2": None}))
            continue
        values: dict[str, Any] = {"planned_leak_cm2": open_now} if open_now != open_then else {}
        if path.level_dba is not None and path.planned_level_dba is not None:
            values["planned_level_dba"] = None
        if path.planned_transmission_loss_db is not None:
            values["planned_transmission_loss_db"] = None
        if values:
            steps.append(s.Step(collection="paths", row=path.id, version=path.version, values=values))
    return steps


def _short(name: str) -> str:
    return name if len(name) <= 80 else f"{name[:79].rstrip(' ,;')}…"
