"""The rounds of a job as a tree: which may be compared, what each step changed, and the steps as stairs."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

from ..job.document import JobDocument
from ..levels.bands import NOMINAL_HZ
from ..levels.comparison import SETUP_DOF, BudgetLine, Caution, Comparison, Terms, compare, compared
from ..levels.context import FairView, compare_context
from ..levels.rows import QUANTITIES, Goal, Round
from .cells import cell
from .job_figures import JobFigures, once
from .readings import Group, group_at, repeatability, setup_of, source_place
from .rings import room_time_s


def context_kind(doc: JobDocument) -> str:
    """Which context matters: that of the job's kind, or of a loudspeaker's response where that is the goal."""
    return "response" if doc.goal is not None and doc.goal.quantity == "bass gain" else doc.job.kind


def read_rounds(doc: JobDocument) -> set[int]:
    """Numbers of the rounds in which something was read."""
    read = {r.round_id for r in doc.readings if not r.background}
    return read | {k.round_id for k in doc.knocks} | {d.round_id for d in doc.decays}


def latest(doc: JobDocument) -> Round | None:
    """The finished round last read, else the last one read that is no baseline."""
    read = read_rounds(doc)
    later = [r for r in doc.rounds if r.state != "as found" and r.id in read and (r.follows_id or r.state != "stripped")]
    return next((r for r in reversed(later) if r.state == "finished"), later[-1] if later else None)


def ancestry(doc: JobDocument, last: Round) -> tuple[Round, ...]:
    """A round and all it follows, newest first; a ring of rounds is cut where it closes."""
    by_id = {r.id: r for r in doc.rounds}
    out = [last]
    while (before := by_id.get(out[-1].follows_id or 0)) is not None and before not in out:
        out.append(before)
    return tuple(out)


def baseline(doc: JobDocument, after: Round | None) -> Round | None:
    """The round a later one is judged by: as found, else the first read of those it follows."""
    found = doc.round_in("as found")
    read = read_rounds(doc)
    if found is not None and found.id in read:
        return found
    if after is None:
        return found
    return next((r for r in reversed(ancestry(doc, after)) if r.id in read and r.id != after.id), found)


def controls(doc: JobDocument) -> set[int]:
    """Places where nothing should change."""
    return {p.id for p in doc.positions if p.control}


def fairness(job: JobFigures, before: Round, after: Round) -> FairView:
    """Whether two rounds' circumstances allow a comparison."""
    items = job.shelf.context_items(context_kind(job.doc))
    return compare_context(items, before.context, after.context, (before.taken_on, after.taken_on))


class Drift(NamedTuple):
    """What moved at the control places in a condition: mean reduction in dB and its budget, None where no place tells; and
    why a place does not."""

    reduction_db: float | None = None
    lines: tuple[BudgetLine, ...] = ()
    said: tuple[str, ...] = ()


@once
def drift(job: JobFigures, before: Round, after: Round, condition_id: int, quantity: str) -> Drift:
    """Drift in one condition, of control places that were themselves comparable in it."""
    still, condition = controls(job.doc), next((c.name for c in job.doc.conditions if c.id == condition_id), "?")
    found, said = [], []
    for place in (p for p in job.doc.positions if p.id in still):
        got = compare_rounds(job, before, after, place.id, condition_id, quantity)
        if got is None:
            said.append(f"{place.name} was not read in both rounds at {condition}: it tells no drift there.")
        elif got.verdict == "not comparable" or any(c.rule in NO_CONTROL for c in got.cautions):
            said.append(f"{place.name} is too near its background at {condition} to tell a drift.")
        else:
            found.append(got)
    if not found:
        return Drift(said=tuple(said))
    n = len(found)
    lines = tuple(line.model_copy(update={"source": f"control place, {line.source}",
                                          "standard_uncertainty_db": line.standard_uncertainty_db / n})
                  for c in found for line in c.budget)
    shares = BudgetLine(source="control place, whether it shares the drift", degrees_of_freedom=SETUP_DOF,
                        standard_uncertainty_db=job.shelf.control_setup_db)
    return Drift(sum(c.reduction_db for c in found) / n, (*lines, shares), tuple(said))


NO_CONTROL = ("background-bound", "mixed-scales", "different-quantities")


@once
def compare_rounds(
    job: JobFigures, before: Round, after: Round, position_id: int, condition_id: int, quantity: str,
    moved: Drift = Drift(),  # noqa: B008
) -> Comparison | None:
    """Two rounds compared at one place, the control's drift taken off; None where either was not read.

    Of a level difference both rooms count: up is good.
    """
    if QUANTITIES[quantity].between_rooms:
        return _rooms_compared(job, before, after, position_id, condition_id, quantity)
    groups = [_of_half_s(job.doc, r, group_at(job.doc, r.id, position_id, condition_id, quantity), quantity)
              for r in (before, after)]
    return _groups_compared(job, before, after, groups, moved)


def _of_half_s(doc: JobDocument, chosen: Round, group: Group, quantity: str) -> Group:
    """What was read as it would be in a room that rings for half a second, where that is asked and T known."""
    rung = standard_db(doc, chosen, quantity)
    if not rung:
        return group
    items = tuple(i._replace(level_db=i.level_db + rung) for i in group.items)
    return group._replace(items=items, background_db=None if group.background_db is None else group.background_db + rung)


_compared = lru_cache(maxsize=2048)(compare)
"""What was read stays while the plan is worked on: the same groups are compared once."""


def _groups_compared(
    job: JobFigures, before: Round, after: Round, groups: list[Group], moved: Drift = Drift()  # noqa: B008
) -> Comparison | None:
    if not all(g.items for g in groups):
        return None
    instruments = {r.context.get("instrument", "") for r in (before, after)} - {""}
    setup = setup_of(job)
    # one estimate that stands in for both groups is known no better for being used twice
    in_one_go = sum(len(g.items) > 1 and len({i.set_up for i in g.items}) == 1 for g in groups)
    got = _compared(groups[0].items, groups[1].items, Terms(
        background_db=groups[0].background_db, background_after_db=groups[1].background_db, own_backgrounds=True,
        repeatability_db=repeatability(job),
        different_instrument_db=job.shelf.different_instrument_db if len(instruments) > 1 else None,
        drift_db=moved.reduction_db, drift_lines=moved.lines,
        setup_db=setup.db if moved.reduction_db is None else min(setup.db, job.shelf.control_setup_db),
        setup_dof=setup.dof / (in_one_go if setup.own and in_one_go else 1),
    ))
    if not any(r.simulated for g in groups for r in g.readings):
        return got
    made_up = Caution(rule="simulated", text="A simulated meter gave some of these readings: they are for trying out and prove "
                                             "nothing.")
    return got.model_copy(update={"cautions": (made_up, *got.cautions)})


@once
def band_halves(job: JobFigures, before: Round, after: Round, position_id: int, condition_id: int, quantity: str
                ) -> tuple[float | None, ...]:
    """Half of the 95 % interval of the change in each of the 33 bands, dB, by the same budget as that of the level; None where a
    band was not read in both rounds."""
    groups = [group_at(job.doc, r.id, position_id, condition_id, quantity) for r in (before, after)]
    out: list[float | None] = []
    for i in range(len(NOMINAL_HZ)):
        banded = [Group((), tuple(item._replace(level_db=band, bands_db=None) for item in g.items if item.bands_db
                                  and (band := item.bands_db[i]) is not None), None) for g in groups]
        got = _groups_compared(job, before, after, banded)
        out.append(None if got is None else round((got.interval95_db[1] - got.interval95_db[0]) / 2, 2))
    return tuple(out)


def _rooms_compared(
    job: JobFigures, before: Round, after: Round, position_id: int, condition_id: int, quantity: str
) -> Comparison | None:
    """The level difference between two rooms, in two rounds; a source room read once stands for both."""
    goal = job.doc.goal
    source = source_place(job.doc, goal) if goal is not None else None
    if source is None or source.id == position_id:
        return None
    rung = [standard_db(job.doc, r, quantity) for r in (before, after)]
    if rung[0] is None or rung[1] is None:
        return None
    loud = [group_at(job.doc, r.id, source.id, condition_id, quantity) for r in (before, after)]
    once = sum(bool(g.items) for g in loud) == 1
    if once:
        loud = [next(g for g in loud if g.items)] * 2
    quiet = [group_at(job.doc, r.id, position_id, condition_id, quantity) for r in (before, after)]
    pair = [_groups_compared(job, before, after, g) for g in (loud, quiet)]
    if pair[0] is None or pair[1] is None:
        return None
    lines = [*(() if once else _of_room(source.name, pair[0])), *_of_room("the room listened in", pair[1])]
    cautions = [*pair[0].cautions, *pair[1].cautions]
    if once:
        cautions.append(Caution(rule="source-read-once", text=f"{source.name} was read in one of the rounds only: its level is "
                                                              "taken to be the same in both."))
    bounded = any(c.rule == "background-bound" for c in pair[0].cautions)
    return compared(
        (pair[0].before_db - pair[1].before_db + rung[0], pair[0].after_db - pair[1].after_db + rung[1]), lines, cautions,
        apart=bounded or "not comparable" in (pair[0].verdict, pair[1].verdict),
        corrections=pair[1].background_correction_db)


def standard_db(doc: JobDocument, chosen: Round, quantity: str) -> float | None:
    """What is added to a figure to make it that of a room that rings for half a second, dB: 10·lg(T/0.5) to a standardised level
    difference (ISO 16283-1:2014, 3.15), less it for steps (ISO 16283-2:2020, 3.12, recalled), else 0; None where nobody knows
    T."""
    times = QUANTITIES[quantity].to_half_s
    if not times:
        return 0.0
    time = room_time_s(doc, chosen.id)
    return None if time is None else times * 10 * math.log10(time / HALF_S)


HALF_S = 0.5


def _of_room(name: str, found: Comparison) -> list[BudgetLine]:
    return [line.model_copy(update={"source": f"{name}, {line.source}"}) for line in found.budget]


@once
def value_at(job: JobFigures, goal: Goal, chosen: Round) -> tuple[float, float] | None:
    """The goal's quantity as read in a round, with the 95 % half-width, dB; None when not read. A difference needs both rooms."""
    got = _read_in(job, goal, chosen, goal.position_id)
    if got is None or not QUANTITIES[goal.quantity].between_rooms:
        return None if got is None else (round(got[0] + (standard_db(job.doc, chosen, goal.quantity) or 0.0), 2), got[1])
    source = source_place(job.doc, goal)
    rounds = [] if source is None else [chosen, *(r for r in job.doc.rounds if r.id != chosen.id)]
    loud = next((x for r in rounds if (x := _read_in(job, goal, r, source.id if source else 0)) is not None), None)
    rung = standard_db(job.doc, chosen, goal.quantity)
    if loud is None or rung is None:
        return None
    return round(loud[0] - got[0] + rung, 2), round(math.hypot(loud[1], got[1]), 2)


def _read_in(job: JobFigures, goal: Goal, chosen: Round, position_id: int) -> tuple[float, float] | None:
    found = cell(job, chosen.id, position_id, goal.condition_id, goal.quantity)
    return None if found.level_db is None or found.half_width_db is None else (found.level_db, found.half_width_db)


@once
def heard_at(job: JobFigures, goal: Goal, chosen: Round | None) -> tuple[float, float] | None:
    """The A-weighted level at the listener behind a goal's value in a round, and half of its interval; None when not read, or
    where the goal does not follow from it."""
    if chosen is None or not QUANTITIES[goal.quantity].heard:
        return None
    return _read_in(job, goal, chosen, goal.position_id)
