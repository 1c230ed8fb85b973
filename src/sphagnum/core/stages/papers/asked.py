"""Which plans an offer holds: what each needs of the job to stand, said place by place, so that it can be had again."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from ...errors import BadInput
from ...figures.job_figures import JobFigures
from ...forms import RowId, RowVersion
from ...job.broken import unknown_materials
from ...job.document import JobDocument
from ...job.preview import Tried, tried
from ...schema import Row, Strict
from ...surfaces.patches import patches
from ..plan.model import PlansFound
from ..plan.taking import steps_of

AS_PLANNED = "as planned"
PLACE = re.compile(r"\d{1,12}(/.{1,80})?\Z")
PlannedOf = Literal["alternatives", "measures", "paths", "builds"]
PLANNED: dict[PlannedOf, frozenset[str]] = {
    "alternatives": frozenset({"surface_id", "zone", "layers", "name", "chosen"}),
    "measures": frozenset({"chosen"}),
    "paths": frozenset({"planned_leak_cm2", "planned_level_dba", "planned_transmission_loss_db"}),
    "builds": frozenset({"chosen", "given"}),
}
"""What a plan may change of a job: never what was found."""


class PlanChange(Strict):
    """A row of a job that a plan needs: a stack laid anew (no ``row``), a measure done or left, an opening closed, something
    built, and as what."""

    collection: PlannedOf
    row: RowId | None = None
    values: Annotated[dict[str, Any], Field(max_length=8)]


class PlanAsked(Strict):
    """A plan to offer: its name, per surface, or surface/zone, which alternative (0: as found; others as chosen), and what else
    it needs."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    chosen: Annotated[dict[str, RowVersion], Field(max_length=500)] = {}
    changes: Annotated[tuple[PlanChange, ...], Field(max_length=1000)] = ()

    @field_validator("chosen")
    @classmethod
    def _places(cls, value: dict[str, int]) -> dict[str, int]:
        wrong = next((k for k in value if not PLACE.match(k)), None)
        if wrong is not None:
            raise ValueError(f"'{wrong[:40]}' names no surface; write it as 2 or 3/lower")
        return value

    @field_validator("changes")
    @classmethod
    def _of_a_plan(cls, value: tuple[PlanChange, ...]) -> tuple[PlanChange, ...]:
        for change in value:
            wrong = next((k for k in change.values if k not in PLANNED[change.collection]), None)
            if wrong is not None:
                raise ValueError(f"a plan does not change '{wrong[:40]}' of {change.collection}")
            if change.row is None and change.collection != "alternatives":
                raise ValueError(f"a plan adds nothing to {change.collection}")
        return value


def job_of(job: JobFigures, asked: PlanAsked) -> JobFigures:
    """The job as a plan has it. BadInput for what is not there."""
    for _, unknown in unknown_materials([c.values for c in asked.changes], (), lambda: job.shelf.materials):
        raise unknown
    return job.of(planned(job.doc, asked)) if asked.chosen or asked.changes else job


def planned(doc: JobDocument, asked: PlanAsked) -> JobDocument:
    """The document as a plan has it; stacks laid anew get numbers below zero. BadInput for what is not there."""
    places = [place_of(s.id, p.zone) for s in doc.surfaces for p in patches(s)]
    for place, wanted in asked.chosen.items():
        own = [str(a.id) for a in doc.alternatives if place_of(a.surface_id, a.zone) == place]
        if place not in places:
            raise BadInput(f"there is no surface {place}", f"--plan {asked.name}", _there_are(places))
        if wanted and str(wanted) not in own:
            raise BadInput(f"surface {place} has no alternative {wanted}", f"--plan {asked.name}", _there_are(["0", *own]))
    laid = tuple(a if (place := place_of(a.surface_id, a.zone)) not in asked.chosen
                 else a.model_copy(update={"chosen": a.id == asked.chosen[place]}) for a in doc.alternatives)
    for new in (c.values for c in asked.changes if c.row is None):
        if (place := place_of(new.get("surface_id", 0), new.get("zone", ""))) not in places:
            raise BadInput(f"there is no surface {place}", f"--plan {asked.name}", _there_are(places))
    there = {name: {r.id for r in getattr(doc, name)} for name in PLANNED}
    return tried(doc.model_copy(update={"alternatives": laid}), [
        Tried(c.collection, c.row, c.values) for c in asked.changes
        if c.row is None or c.row in there[c.collection] or any(c.values.values())])  # what is gone and was left out is no loss


def place_of(surface_id: int, zone: str) -> str:
    """A surface, or a zone of it, as a plan names it."""
    return f"{surface_id}/{zone}" if zone else str(surface_id)


def whole_plan(name: str, doc: JobDocument) -> PlanAsked:
    """All that is planned by now, said place by place and row by row, so that it can be had again whatever is planned later."""
    places = {place_of(a.surface_id, a.zone): 0 for a in doc.alternatives}
    kept = {place_of(a.surface_id, a.zone): a.id for a in doc.alternatives if a.chosen and a.id > 0}
    new = [_change("alternatives", a) for a in doc.alternatives if a.id < 0]
    return PlanAsked(name=name, chosen=places | kept, changes=(
        *new, *(_change("measures", m) for m in doc.measures), *(_change("paths", p) for p in doc.paths),
        *(_change("builds", b) for b in doc.builds)))


def _change(of: PlannedOf, row: Row) -> PlanChange:
    values = row.model_dump(mode="json", include=set(PLANNED[of]))
    return PlanChange(collection=of, row=row.id if row.id > 0 else None, values=values)


def found_plan(doc: JobDocument, found: PlansFound, at: int) -> PlanAsked:
    """A plan of a search, to be offered beside what is planned now. BadInput where the job is no longer what it was."""
    name = "enough" if at == found.cheapest else "quietest" if at == found.best else "in between"
    return PlanAsked(name=name, changes=tuple(
        PlanChange.model_validate({"collection": x.collection, "row": x.row, "values": dict(x.values)})
        for x in steps_of(doc, found, found.plans[at])))


def _there_are(names: Sequence[str]) -> str:
    return f"there are: {', '.join(names[:12])}"
