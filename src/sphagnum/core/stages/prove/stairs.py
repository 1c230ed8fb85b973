"""The rounds as stairs: what each step changed, and set-ups tried from one baseline against each other."""

from __future__ import annotations

from ...figures.job_figures import JobFigures, once
from ...figures.readings import readings_at
from ...figures.rounds import (
    ancestry,
    compare_rounds,
    drift,
    fairness,
    value_at,
)
from ...job.document import JobDocument
from ...levels.context import things_changed
from ...levels.rows import Goal, Round
from ...schema import Strict
from ...words import listed, signed


class Stair(Strict):
    """One round at the goal's place; ``change_db`` and its interval against the round it follows."""

    round_id: int
    follows_id: int | None
    depth: int
    name: str
    state: str
    changed: str
    level_db: float
    half_width_db: float
    change_db: float | None
    interval95_db: tuple[float, float] | None
    shown: bool
    assigned: bool
    comparable: bool
    """Whether the contexts of the two rounds allow the step to be read as the work's."""


class Rivals(Strict):
    """Two set-ups tried from one baseline, set against each other at the goal's place."""

    base: str
    first: str
    second: str
    words: str


@once
def stairs(job: JobFigures, goal: Goal | None) -> tuple[Stair, ...]:
    """Every round read at the goal's place, each with its step from the round it follows."""
    if goal is None:
        return ()
    by_id = {r.id: r for r in job.doc.rounds}
    out = []
    for r in job.doc.rounds:
        here = value_at(job, goal, r)
        if here is None:
            continue
        before = by_id.get(r.follows_id or 0)
        step = None if before is None else compare_rounds(
            job, before, r, goal.position_id, goal.condition_id, goal.quantity,
            drift(job, before, r, goal.condition_id, goal.quantity))
        out.append(Stair(
            round_id=r.id, follows_id=r.follows_id, depth=len(ancestry(job.doc, r)) - 1, name=r.name, state=r.state,
            changed=r.changed, level_db=here[0], half_width_db=here[1],
            change_db=None if step is None else -step.reduction_db + 0.0,
            interval95_db=None if step is None else (-step.interval95_db[1] + 0.0, -step.interval95_db[0] + 0.0),
            shown=step is not None and step.verdict in ("quieter", "louder"), assigned=len(things_changed(r.changed)) <= 1,
            comparable=before is None or fairness(job, before, r).fairness != "not comparable",
        ))
    return tuple(out)


def rivals(job: JobFigures, goal: Goal | None) -> tuple[Rivals, ...]:
    """Each pair of rounds that follow the same one, compared at the goal's place."""
    if goal is None:
        return ()
    read = [r for r in job.doc.rounds if r.follows_id is not None
            and readings_at(job.doc, r.id, goal.position_id, goal.condition_id, goal.quantity)]
    names = {r.id: r.name for r in job.doc.rounds}
    out = []
    for i, one in enumerate(read):
        for two in read[i + 1 :]:
            if one.follows_id != two.follows_id or fairness(job, one, two).fairness == "not comparable":
                continue
            got = compare_rounds(job, one, two, goal.position_id, goal.condition_id, goal.quantity,
                                 drift(job, one, two, goal.condition_id, goal.quantity))
            if got is None:
                continue
            span = f"({signed(-got.interval95_db[1])} to {signed(-got.interval95_db[0])} dB)"
            if got.verdict == "no change shown":
                words = f"No difference shown between {one.name} and {two.name} {span}."
            elif got.verdict == "not comparable":
                words = f"{one.name} and {two.name} cannot be compared."
            else:
                words = f"{two.name} is {abs(got.reduction_db):.1f} dB {got.verdict} than {one.name} {span}."
            out.append(Rivals(base=names.get(one.follows_id or 0, "?"), first=one.name, second=two.name, words=words))
    return tuple(out)


def one_at_a_time(doc: JobDocument, before: Round, after: Round) -> str:
    """What to say when several things changed in one step on the way between two rounds; '' when none did."""
    way = ancestry(doc, after)
    steps = way[: way.index(before)] if before in way else way[:1]
    for step in reversed(steps):
        things = things_changed(step.changed)
        if len(things) > 1:
            count = {2: "Two", 3: "Three", 4: "Four"}.get(len(things), str(len(things)))
            return (f"{count} things changed at once before “{step.name}” ({listed(list(things))}): its effect cannot be "
                    "assigned to one of them. A round read in between would part them.")
    return ""
