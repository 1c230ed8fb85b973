"""A loudspeaker as the goal: what closing the opening beside it would give."""

from __future__ import annotations

from ...builds.baffle import BaffleIn, door_of
from ...errors import BadInput
from ...figures.builds import chosen_builds
from ...figures.job_figures import JobFigures
from ...paths.loudspeaker import (
    CLOSE_WITH,
    RANGE_HZ,
    DoorIn,
    gain_range,
)
from ...schema import Strict, parse
from ...worded import of
from ...words import signed

UNKNOWN = (None,) * len(RANGE_HZ)


class GainView(Strict):
    """What closing the panel round a loudspeaker may give per band (None: it does not play there), against the goal."""

    line: str = ""
    """In a few words; empty where nothing is known yet."""
    sentence: str
    detail: str
    frequency_hz: tuple[float, ...] = RANGE_HZ
    least_db: tuple[float | None, ...] = UNKNOWN
    most_db: tuple[float | None, ...] = UNKNOWN
    goal_db: float | None


def gain_view(job: JobFigures) -> GainView | None:
    """The build that closes the loudspeaker's panel, else the last calculation kept of it, against the goal; None where the goal
    is no loudspeaker's."""
    doc, goal = job.doc, job.doc.goal
    if goal is None or goal.quantity != "bass gain":
        return None
    goal_db = goal.value if goal.aim == "change by" else None
    cancels = "What is open beside the loudspeaker cancels its bass."
    closed = next((door_of(one.build.given, (one.built.added_kg if one.built else None) or 0.0) for one in chosen_builds(job)
                   if isinstance(one.build.given, BaffleIn)), None)
    kept = next((c for c in reversed(doc.calculations) if c.calculation == "door"), None)
    if kept is None and closed is None:
        how = "Work out on the desk what closing it can give, and keep that with the job."
        return GainView(sentence=cancels, detail=how, goal_db=goal_db)
    try:
        given = closed if closed is not None or kept is None else parse(DoorIn, kept.form)
    except BadInput as error:
        name = "" if kept is None else kept.name
        return GainView(sentence=cancels, detail=f"{name} cannot be worked out: {error.sentence}.", goal_db=goal_db)
    if given is None:
        return None
    now, left = of(given.open_cm2, "cm²"), of(given.left_cm2, "cm²")
    opening = f"Open beside it: {now} now, {left} when done; close it with {CLOSE_WITH}."
    found = gain_range(given)
    if found.bass is None:
        return GainView(sentence="It does not play low enough to gain by closing what is open.", detail=opening, goal_db=goal_db)
    least, most = (tuple(round(float(v), 1) if p else None for v, p in zip(x, found.plays, strict=True))
                   for x in (found.least, found.most))
    span = f"{signed(found.bass[0], 0)} to {signed(found.bass[1], 0)} dB"
    return GainView(line=f"closing it: {span}", sentence=f"Closing the panel can give {span} of bass.",
                    detail=f"{_against(found.bass, goal_db)}{opening}", least_db=least, most_db=most, goal_db=goal_db)


def _against(bass: tuple[float, float], goal_db: float | None) -> str:
    if goal_db is None:
        return ""
    if bass[1] < goal_db:
        return f"Out of reach by closing alone: the goal is {goal_db:g} dB more. "
    sure = "to be expected" if bass[0] >= goal_db else "possible, not sure"
    return f"The goal of {goal_db:g} dB more is {sure}. "
