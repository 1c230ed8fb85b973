"""Prove: what changed between rounds, how sure it is, whether it was fair and whether the goal is met."""

from __future__ import annotations

from ..job import QUANTITIES, Goal, JobDocument, Round
from ..materials.shelf import Shelf
from ..paths.budget import split
from ..paths.plan import a_levels, path_rows
from ..schema import Strict
from ..words import percent, plural, signed
from ..working import Working, inputs
from .board import background_at, item_of, readings_at, repeatability
from .comparison import Comparison, Terms, compare


class CellProof(Strict):
    """The change at one position in one condition."""

    position_id: int
    condition_id: int
    position: str
    condition: str
    unit: str
    is_goal: bool
    comparison: Comparison


class Stair(Strict):
    """One round on the way, at the goal's place; ``change_db`` against the round it follows."""

    round_id: int
    name: str
    state: str
    changed: str
    level_db: float
    half_width_db: float
    change_db: float | None


class FairItem(Strict):
    """One item of the context in both rounds; ``same`` None where either is unknown."""

    item: str
    before: str
    after: str
    same: bool | None


class LoudNow(Strict):
    """A path after the work, predicted."""

    name: str
    share: float
    ceiling_db: float | None


class ProveView(Strict):
    """The whole stage."""

    sentence: str
    detail: str
    goal_met: bool | None
    unit: str
    before: str
    after: str
    cells: tuple[CellProof, ...]
    stairs: tuple[Stair, ...]
    fair: str
    fair_items: tuple[FairItem, ...]
    loudest_now: tuple[LoudNow, ...]
    remarks: tuple[tuple[str, str, str], ...]
    working: tuple[Working, ...]


def compare_rounds(
    doc: JobDocument, shelf: Shelf, before: Round, after: Round, position_id: int, condition_id: int, quantity: str
) -> Comparison | None:
    """Two rounds compared at one place; None where either was not read."""
    groups = [readings_at(doc, r.id, position_id, condition_id, quantity) for r in (before, after)]
    if not all(groups):
        return None
    instruments = {r.context.get("instrument", "") for r in (before, after)} - {""}
    backgrounds = [background_at(doc, r.id, position_id, quantity) for r in (before, after)]
    known = [b for b in backgrounds if b is not None]
    return compare(
        [item_of(r, quantity) for r in groups[0]],
        [item_of(r, quantity) for r in groups[1]],
        Terms(
            background_db=max(known) if known else None,
            repeatability_db=repeatability(doc, shelf),
            different_instrument_db=shelf.different_instrument_db if len(instruments) > 1 else None,
        ),
    )


def prove(doc: JobDocument, shelf: Shelf) -> ProveView:
    """The finished round (else the latest read one) against the one as found."""
    before, after = doc.round_in("as found"), _last_read(doc)
    goal = doc.goal
    quantity = goal.quantity if goal else "LAeq"
    unit = QUANTITIES[quantity].unit
    cells: list[CellProof] = []
    if before and after:
        for p in doc.positions:
            for c in doc.conditions:
                found = compare_rounds(doc, shelf, before, after, p.id, c.id, quantity)
                if found is not None:
                    is_goal = goal is not None and (goal.position_id, goal.condition_id) == (p.id, c.id)
                    cells.append(CellProof(position_id=p.id, condition_id=c.id, position=p.name, condition=c.name,
                                           unit=unit, is_goal=is_goal, comparison=found))
    head = next((c for c in cells if c.is_goal), None)
    met = goal_met(goal, head.comparison) if goal and head else None
    items = _fair_items(doc, shelf, before, after)
    return ProveView(
        sentence=_sentence(doc, before, after, head, met), detail=_detail(head), goal_met=met, unit=unit,
        before=before.name if before else "", after=after.name if after else "",
        cells=tuple(cells), stairs=_stairs(doc, shelf, goal), fair=_fair_words(items), fair_items=items,
        loudest_now=_loudest_now(doc, shelf), remarks=_remarks(doc),
        working=tuple(_working(c) for c in cells),
    )


def _last_read(doc: JobDocument) -> Round | None:
    read = {r.round_id for r in doc.readings if not r.background}
    later = [r for r in doc.rounds if r.state != "as found" and r.id in read]
    return next((r for r in reversed(later) if r.state == "finished"), later[-1] if later else None)


def goal_met(goal: Goal, result: Comparison) -> bool | None:
    """Whether the measured value reaches the goal; None where the comparison does not stand."""
    if result.verdict == "not comparable":
        return None
    up = QUANTITIES[goal.quantity].up_is_good
    if goal.aim == "reach":
        return result.after_db >= goal.value if up else result.after_db <= goal.value
    return (-result.reduction_db if up else result.reduction_db) >= goal.value


def _sentence(doc: JobDocument, before: Round | None, after: Round | None, head: CellProof | None,
              met: bool | None) -> str:
    if before is None:
        return "There is no round as found to compare with."
    if after is None:
        return "The work is not read yet: take the same readings again."
    if head is None:
        return "The goal's place is not read in both rounds yet."
    got, low, high = head.comparison.reduction_db, *head.comparison.interval95_db
    if head.comparison.verdict == "not comparable":
        return "These rounds cannot be compared: the background is too near, or the quantities differ."
    if head.comparison.verdict == "no change shown":
        return f"No change shown: {signed(-got)} dB lies within the scatter ({signed(-high)} to {signed(-low)})."
    span = f"95 %: {min(abs(low), abs(high)):.1f} to {max(abs(low), abs(high)):.1f}"
    change = f"{abs(got):.1f} dB {head.comparison.verdict} at {head.condition} ({span})."
    goal = doc.goal
    if met is None or goal is None:
        return change
    amount = f"{goal.value:g} {QUANTITIES[goal.quantity].unit}" if goal.aim == "reach" else f"{goal.value:g} dB"
    return f"{change} Goal of {amount} {'met' if met else 'not met'}."


def _detail(head: CellProof | None) -> str:
    if head is None or head.comparison.verdict == "not comparable":
        return ""
    gone = 1 - head.comparison.energy_ratio
    energy = f"{percent(gone)} of the sound energy is gone. " if gone > 0 else ""
    return energy + head.comparison.loudness_words


def _stairs(doc: JobDocument, shelf: Shelf, goal: Goal | None) -> tuple[Stair, ...]:
    if goal is None:
        return ()
    from .board import cell

    levels = {r.id: cell(doc, shelf, r.id, goal.position_id, goal.condition_id, goal.quantity) for r in doc.rounds}
    out = []
    for r in doc.rounds:
        level, half = levels[r.id].level_db, levels[r.id].half_width_db
        if level is None or half is None:
            continue
        previous = levels[r.follows_id].level_db if r.follows_id in levels else None
        out.append(Stair(round_id=r.id, name=r.name, state=r.state, changed=r.changed, level_db=level,
                         half_width_db=half, change_db=None if previous is None else round(level - previous, 2)))
    return tuple(out)


def _fair_items(doc: JobDocument, shelf: Shelf, before: Round | None, after: Round | None) -> tuple[FairItem, ...]:
    if before is None or after is None:
        return ()
    out = []
    for item in shelf.contexts[doc.job.kind]:
        a, b = before.context.get(item, "").strip(), after.context.get(item, "").strip()
        out.append(FairItem(item=item, before=a, after=b, same=None if not a or not b else a == b))
    return tuple(out)


def _fair_words(items: tuple[FairItem, ...]) -> str:
    differ, unknown = [i.item for i in items if i.same is False], [i.item for i in items if i.same is None]
    if not items:
        return ""
    if not differ and not unknown:
        return "Like for like."
    parts = [f"{', '.join(differ)} changed"] if differ else []
    if unknown:
        parts.append(f"{plural(len(unknown), 'item')} not noted")
    return f"With caution: {'; '.join(parts)}."


def _loudest_now(doc: JobDocument, shelf: Shelf) -> tuple[LoudNow, ...]:
    if not doc.paths:
        return ()
    rows = path_rows(doc, shelf)
    shares = split([p.name for p in doc.paths], a_levels(rows.planned)).paths
    top = sorted(shares, key=lambda s: -s.share)[:3]
    return tuple(LoudNow(name=s.id, share=s.share, ceiling_db=s.ceiling_db) for s in top if s.share > 0)


def _remarks(doc: JobDocument) -> tuple[tuple[str, str, str], ...]:
    names = {r.id: r.name for r in doc.rounds}
    return tuple((names.get(r.round_id, "?"), r.role, r.words) for r in doc.remarks)


def _working(c: CellProof) -> Working:
    result = c.comparison
    lines = {f"u, {line.source}": f"{line.standard_uncertainty_db:.2f} dB, "
             + (f"{line.degrees_of_freedom:g} degrees of freedom" if line.degrees_of_freedom else "no limit of freedom")
             for line in result.budget}
    return Working(
        figure=f"{c.position}, {c.condition}: {result.reduction_db:.2f} dB ({result.verdict})",
        formula="difference of energy means; Student's t at the Welch–Satterthwaite degrees of freedom",
        inputs=inputs(before=f"{result.before_db} {c.unit}", after=f"{result.after_db} {c.unit}",
                      background_taken_off=f"{result.background_correction_db} dB", **lines),
        source="GUM (JCGM 100), G.4; ISO 16283-1, 9.2",
        accuracy=f"95 % interval {result.interval95_db[0]:.2f} to {result.interval95_db[1]:.2f} dB",
    )
