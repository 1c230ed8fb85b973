"""A plan that was found, taken into its job: which rows are added and changed for it to stand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ...errors import BadInput
from ...figures.ways import leaks_cm2
from ...job.document import JobDocument
from ...job.preview import Tried
from ...worded import shortened
from .model import BuildTaken, FoundPlan, OptionView, PlansFound, UnitView


def steps_of(doc: JobDocument, found: PlansFound, plan: FoundPlan) -> list[Tried]:
    """What has to be done to a job for a plan of a search to stand. Raises BadInput where the job is no longer what it was."""
    taken = [(unit, unit.options[k]) for unit, k in zip(found.units, plan.choice, strict=True)]
    return steps_for(doc, taken, plan.measures, plan.builds)


def steps_for(
    doc: JobDocument, taken: Sequence[tuple[UnitView, OptionView]], measures: Sequence[int], builds: Sequence[BuildTaken] = ()
) -> list[Tried]:
    """What has to be done for an option of each unit, and measures and builds elsewhere, to stand."""
    steps: list[Tried] = []
    chosen = {m.id: m.id in measures for m in doc.measures if m.at != "path"}
    for unit, option in taken:
        steps += _stacks(doc, unit, option) + _openings(doc, unit, option)
        chosen |= {m.id: m.id in option.measures for m in doc.measures if m.path_id in unit.path_ids}
    for measure in doc.measures:
        if measure.id in chosen and measure.chosen is not chosen[measure.id]:
            steps.append(Tried("measures", measure.id, {"chosen": chosen[measure.id]}))
    return steps + _builds(doc, [*builds, *(b for _, option in taken for b in option.builds)])


def _builds(doc: JobDocument, wanted: Sequence[BuildTaken]) -> list[Tried]:
    """Builds that are put into the plan or left out, and what is given anew of them."""
    steps = []
    for one in wanted:
        now = next((b for b in doc.builds if b.id == one.build_id), None)
        if now is None:
            raise BadInput("a build is gone since the search began", "plan", "find a plan again")
        values: dict[str, Any] = {} if now.chosen is one.chosen else {"chosen": one.chosen}
        if one.given is not None and one.given != now.given:
            values["given"] = one.given.model_dump(mode="json")
        if values:
            steps.append(Tried("builds", now.id, values))
    return steps


def _stacks(doc: JobDocument, unit: UnitView, option: OptionView) -> list[Tried]:
    """What lies on each patch of a unit's surfaces, as the option has it."""
    steps = []
    for way in option.ways:
        surface = doc.surface(way.surface_id)
        if surface is None or way.zone not in ("", *(z.id for z in surface.zones)):
            raise BadInput(f"'{unit.name}' is not what it was when the search began", "plan", "find a plan again")
        now = doc.chosen(surface.id, way.zone)
        if now is not None and way.layers is not None and now.layers == way.layers and not now.takes_out:
            continue  # it stands so already
        if now is not None and now.id != way.alternative_id:
            steps.append(Tried("alternatives", now.id, {"chosen": False}))
        if way.layers is not None:
            layers = [x.model_dump(mode="json") for x in way.layers]
            steps.append(Tried("alternatives", None, {
                "surface_id": surface.id, "zone": way.zone, "layers": layers,
                "name": shortened(f"Found: {way.name or option.name}", 80),
                "chosen": True}))
        elif way.alternative_id is not None:
            one = next((a for a in doc.alternatives if a.id == way.alternative_id), None)
            if one is None:
                raise BadInput(f"a stack of '{unit.name}' is gone since the search began", "plan", "find a plan again")
            if not one.chosen:
                steps.append(Tried("alternatives", one.id, {"chosen": True}))
    return steps


def _openings(doc: JobDocument, unit: UnitView, option: OptionView) -> list[Tried]:
    """Openings that the option leaves as they are though they were to be closed, or closes though they were to stay."""
    steps = []
    for path in doc.paths:
        if path.id not in unit.path_ids or option.sealed is None or not path.allowed:
            continue
        open_now, open_then = leaks_cm2(doc, path)
        if option.sealed:
            if path.planned_leak_cm2 is not None and open_then >= open_now > 0:
                steps.append(Tried("paths", path.id, {"planned_leak_cm2": None}))
            continue
        values: dict[str, Any] = {"planned_leak_cm2": open_now} if open_now != open_then else {}
        if path.level_dba is not None and path.planned_level_dba is not None:
            values["planned_level_dba"] = None
        if path.planned_transmission_loss_db is not None:
            values["planned_transmission_loss_db"] = None
        if values:
            steps.append(Tried("paths", path.id, values))
    return steps
