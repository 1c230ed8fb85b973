"""The goal rule above all stages, and whether a goal is met: for certain, as read, or not."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

from ..job.document import JobDocument
from ..levels.comparison import Comparison
from ..levels.rows import QUANTITIES, Goal, Round
from ..levels.statistics import repeats_to_settle
from ..schema import Strict
from .job_figures import JobFigures, once
from .readings import repeatability
from .rings import reverberation, ring_value_ms
from .rounds import baseline, compare_rounds, drift, latest, value_at


def goal_words(doc: JobDocument) -> str:
    """The headline goal in words, or an empty text."""
    goal = doc.goal
    if goal is None:
        return ""
    facts = QUANTITIES[goal.quantity]
    way = "reach" if goal.aim == "reach" else "more" if facts.up_is_good else "less"
    amount = f"reach {goal.value:g} {facts.unit}" if way == "reach" else f"{goal.value:g} dB {way}"
    return f"{amount} at {goal_place(doc, goal)}."


def goal_place(doc: JobDocument, goal: Goal) -> str:
    """Where the goal is measured, in words."""
    names = {p.id: p.name for p in doc.positions}, {c.id: c.name for c in doc.conditions}
    place = names[0].get(goal.position_id, "?")
    return f"{place[0].lower()}{place[1:]}, {names[1].get(goal.condition_id, '?')}"

INSTEAD = {
    "bass gain": "What a loudspeaker gains is no sum over ways in: close and stiffen its panel in Build; the desk in Trace says "
                 "what that gives.",
    "ring time": "A ring is no sum over ways in: lay damping on the panel that rings, in Build, and knock on it again.",
    "T": "How long a room rings is no sum over ways in: hang absorbers, under Build, and record a clap again.",
    "impact level": "Steps come through what they strike, not through ways in: lay a floor that gives, part a ceiling from it, "
                    "and knock in the same way again.",
    "rattle": "A rattle is cured, not planned: list it under Found in Trace with its cure.",
}
"""Goals that do not add up over ways in, and what to do instead of a plan."""


def instead_of_a_plan(goal: Goal | None) -> str:
    """What to do where no plan can be searched for a goal; empty where one can, or none is set."""
    return "" if goal is None else INSTEAD.get(goal.quantity, "")


GoalState = Literal["met", "met as read", "about", "not met"]
"""Met: the whole 95 % interval reaches the goal. Not met: the figure that is said lies below the goal as said. About: both are
said alike. Between: met as read, not sure."""


Reaches = Literal["sure", "likely", "short"]
"""Whether a plan reaches the goal: its whole interval does, what is expected of it does, or not even that."""


class Mark(Strict):
    """A value on the goal rule; ``from_target`` is how far above the target it is, below where negative."""

    name: str
    value: float
    from_target: float | None


class GoalRule(Strict):
    """One scale in the quantity of the headline goal; what is unknown is None. ``measured`` is freed of drift."""

    label: str
    unit: str
    up_is_good: bool
    where: str
    as_found: float | None
    target: float | None
    predicted: float | None
    """What the plan is expected to leave."""
    predicted_within: float | None = None
    """Half of its 95 % interval."""
    promise: Reaches | None = None
    """Whether the plan reaches the goal for sure, is likely to, or falls short."""
    measured: float | None
    marks: tuple[Mark, ...]
    """What of the four is known, from the lowest to the highest."""
    low: float
    high: float


class Judged(Strict):
    """A goal judged: its state, what is missing (dB, 0 where none), the readings set up afresh in each round that would make
    it sure (None: more than could be taken), and the words."""

    state: GoalState
    missing_db: float
    readings: int | None
    words: str


@once
def value_in(job: JobFigures, goal: Goal, chosen: Round | None) -> float | None:
    """The goal's value as read in a round, in its quantity; None when not read."""
    if chosen is None:
        return None
    if goal.quantity == "ring time":
        return ring_value_ms(job.doc, chosen.id, goal.position_id)
    if goal.quantity == "T":
        time = reverberation(job.doc, chosen.id, goal.position_id)
        return None if time is None else time[0]
    found = value_at(job, goal, chosen)
    return None if found is None else found[0]


class Ahead(NamedTuple):
    """What a plan is expected to leave in the goal's quantity, half of its interval, and whether that reaches the goal."""

    level: float
    within: float
    promise: Reaches | None


@once
def goal_rule(job: JobFigures, ahead: Ahead | None) -> GoalRule | None:
    """The goal rule; None while no goal is set. ``ahead``: what the plan promises."""
    goal = job.doc.goal
    if goal is None:
        return None
    facts = QUANTITIES[goal.quantity]
    found = value_in(job, goal, job.doc.round_in("as found"))
    target = goal.value if goal.aim == "reach" else None
    if goal.aim == "change by" and found is not None:
        target = round(found + (goal.value if facts.up_is_good else -goal.value), 2)
    measured, predicted = _measured(job, goal), None if ahead is None else ahead.level
    known = [v for v in (found, target, predicted, measured) if v is not None] or [60.0]
    middle, half = (min(known) + max(known)) / 2, max((max(known) - min(known)) * 0.85, facts.least_span / 2)
    return GoalRule(
        label=facts.label, unit=facts.unit, up_is_good=facts.up_is_good, where=goal_place(job.doc, goal),
        as_found=found, target=target, predicted=predicted, measured=measured,
        predicted_within=None if ahead is None else round(ahead.within, 2), promise=None if ahead is None else ahead.promise,
        marks=_marks({"as found": found, "target": target, "predicted": predicted, "measured": measured}),
        low=_even(middle - half, facts.least_span), high=_even(middle + half, facts.least_span) + _step(facts.least_span),
    )


def _step(span: float) -> float:
    return 1.0 if span >= 1 else 0.1


def _even(value: float, span: float) -> float:
    """Down to a whole step of a scale."""
    return round(math.trunc(value / _step(span)) * _step(span), 1)


def _marks(values: dict[str, float | None]) -> tuple[Mark, ...]:
    known = sorted(((v, name) for name, v in values.items() if v is not None))
    target = values["target"]
    return tuple(
        Mark(name=name, value=v, from_target=None if target is None else round(v - target, 2) + 0.0) for v, name in known)


def _measured(job: JobFigures, goal: Goal) -> float | None:
    """The latest value, what the control places drifted taken off, as Prove judges it."""
    after = latest(job.doc)
    before = baseline(job.doc, after)
    raw = value_in(job, goal, after)
    if raw is None or before is None or after is None or not QUANTITIES[goal.quantity].level:
        return raw
    moved = drift(job, before, after, goal.condition_id, goal.quantity)
    got = compare_rounds(job, before, after, goal.position_id, goal.condition_id, goal.quantity, moved)
    return raw if got is None else reached_db(got)


def reached_db(result: Comparison) -> float:
    """The value after the work with the drift taken off, dB."""
    return round(result.after_db + (result.drift_db or 0.0), 2)


def judge(job: JobFigures, goal: Goal, result: Comparison, after: Round) -> Judged | None:
    """A goal judged by a comparison at its place; None where that does not stand."""
    if result.verdict == "not comparable":
        return None
    up = QUANTITIES[goal.quantity].up_is_good
    if goal.aim == "reach":
        level = reached_db(result)
        margin = level - goal.value if up else goal.value - level
        half = _half_of_level(job, goal, result, after)
    else:
        margin = (-result.reduction_db if up else result.reduction_db) - goal.value
        half = (result.interval95_db[1] - result.interval95_db[0]) / 2
    margin = round(margin, 2)
    if margin >= max(half - 1e-9, 0.0):
        return Judged(state="met", missing_db=0.0, readings=None, words="met")
    # judged is the figure that is said, against the goal as it is said: nobody can see more of either
    figure = reached_db(result) if goal.aim == "reach" else abs(result.reduction_db)
    said = round(abs(float(f"{figure:.1f}") - goal.value), 3)
    if said < 0.05:
        return Judged(state="about", missing_db=0.0, readings=None, words=(
            f"about the {_said_goal(goal)} wanted; no number of readings that can be taken would tell them apart"))
    if margin < 0:
        return Judged(state="not met", missing_db=said, readings=None, words="not met")
    # one reading set up afresh scatters by what one scatters in one go and by what setting up again does
    wanted = repeats_to_settle(margin, repeatability(job)) if margin > 0 else None
    how = f"{wanted} readings set up afresh in each round would settle it" if wanted else (
        "so near the goal no number of readings that could be taken would settle it")
    return Judged(state="met as read", missing_db=0.0, readings=wanted, words=f"met as read, but not sure: {how}")


def _said_goal(goal: Goal) -> str:
    return f"{goal.value:g} {QUANTITIES[goal.quantity].unit}" if goal.aim == "reach" else f"{goal.value:g} dB"


def _half_of_level(job: JobFigures, goal: Goal, result: Comparison, after: Round) -> float:
    """Half-width of the level reached (95 %): that of the level as read, and of the drift taken off it."""
    found = value_at(job, goal, after)
    control = sum(x.standard_uncertainty_db**2 for x in result.budget if x.source.startswith("control place"))
    return math.hypot(found[1] if found is not None else 0.0, 1.96 * math.sqrt(control))
