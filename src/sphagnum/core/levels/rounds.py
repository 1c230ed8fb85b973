"""The rounds of a job as a tree: which may be compared, what each step changed, and the steps as stairs."""

from __future__ import annotations

from typing import NamedTuple

from ..job import Goal, JobDocument, Round
from ..materials.shelf import Shelf
from ..schema import Strict
from ..words import listed, signed
from .board import background_at, cell, context_kind, item_of, read_rounds, readings_at, repeatability
from .comparison import BudgetLine, Comparison, Terms, compare
from .context import FairView, compare_context, things_changed


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


def fairness(doc: JobDocument, shelf: Shelf, before: Round, after: Round) -> FairView:
    """Whether two rounds' circumstances allow a comparison."""
    items = shelf.context_items(context_kind(doc))
    return compare_context(items, before.context, after.context, (before.taken_on, after.taken_on))


class Drift(NamedTuple):
    """What moved at the control places: mean reduction in dB, and its budget."""

    reduction_db: float
    lines: tuple[BudgetLine, ...]


def drift(doc: JobDocument, shelf: Shelf, before: Round, after: Round, quantity: str) -> Drift | None:
    """Reduction at the control places (mean, dB) and its budget lines; None when none was read in both rounds."""
    found = [c for p in sorted(controls(doc)) for k in doc.conditions
             if (c := compare_rounds(doc, shelf, before, after, p, k.id, quantity)) is not None]
    if not found:
        return None
    n = len(found)
    lines = tuple(line.model_copy(update={"source": f"control place, {line.source}",
                                          "standard_uncertainty_db": line.standard_uncertainty_db / n})
                  for c in found for line in c.budget)
    return Drift(sum(c.reduction_db for c in found) / n, lines)


def compare_rounds(
    doc: JobDocument, shelf: Shelf, before: Round, after: Round, position_id: int, condition_id: int, quantity: str,
    moved: Drift | None = None,
) -> Comparison | None:
    """Two rounds compared at one place, the control's drift taken off; None where either was not read."""
    groups = [readings_at(doc, r.id, position_id, condition_id, quantity) for r in (before, after)]
    if not all(groups):
        return None
    instruments = {r.context.get("instrument", "") for r in (before, after)} - {""}
    known = [b for r in (before, after) if (b := background_at(doc, r.id, position_id, quantity)) is not None]
    return compare(
        [item_of(r, quantity) for r in groups[0]],
        [item_of(r, quantity) for r in groups[1]],
        Terms(
            background_db=max(known) if known else None,
            repeatability_db=repeatability(doc, shelf),
            different_instrument_db=shelf.different_instrument_db if len(instruments) > 1 else None,
            drift_db=moved.reduction_db if moved else None, drift_lines=moved.lines if moved else (),
        ),
    )


def stairs(doc: JobDocument, shelf: Shelf, goal: Goal | None) -> tuple[Stair, ...]:
    """Every round read at the goal's place, each with its step from the round it follows."""
    if goal is None:
        return ()
    by_id = {r.id: r for r in doc.rounds}
    out = []
    for r in doc.rounds:
        here = cell(doc, shelf, r.id, goal.position_id, goal.condition_id, goal.quantity)
        if here.level_db is None or here.half_width_db is None:
            continue
        before = by_id.get(r.follows_id or 0)
        step = None if before is None else compare_rounds(
            doc, shelf, before, r, goal.position_id, goal.condition_id, goal.quantity,
            drift(doc, shelf, before, r, goal.quantity))
        out.append(Stair(
            round_id=r.id, follows_id=r.follows_id, depth=len(ancestry(doc, r)) - 1, name=r.name, state=r.state,
            changed=r.changed, level_db=here.level_db, half_width_db=here.half_width_db,
            change_db=None if step is None else -step.reduction_db + 0.0,
            interval95_db=None if step is None else (-step.interval95_db[1] + 0.0, -step.interval95_db[0] + 0.0),
            shown=step is not None and step.verdict in ("quieter", "louder"), assigned=len(things_changed(r.changed)) <= 1,
            comparable=before is None or fairness(doc, shelf, before, r).fairness != "not comparable",
        ))
    return tuple(out)


def rivals(doc: JobDocument, shelf: Shelf, goal: Goal | None) -> tuple[Rivals, ...]:
    """Each pair of rounds that follow the same one, compared at the goal's place."""
    if goal is None:
        return ()
    read = [r for r in doc.rounds if r.follows_id is not None
            and readings_at(doc, r.id, goal.position_id, goal.condition_id, goal.quantity)]
    names = {r.id: r.name for r in doc.rounds}
    out = []
    for i, one in enumerate(read):
        for two in read[i + 1 :]:
            if one.follows_id != two.follows_id or fairness(doc, shelf, one, two).fairness == "not comparable":
                continue
            got = compare_rounds(doc, shelf, one, two, goal.position_id, goal.condition_id, goal.quantity,
                                 drift(doc, shelf, one, two, goal.quantity))
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
