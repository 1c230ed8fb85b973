"""Where a job stands: the goal rule and one live line per stage, and the line of the job board."""

from __future__ import annotations

from ...figures.goal import GoalRule, goal_rule
from ...figures.job_figures import JobFigures, once
from ...figures.lays import new_layers
from ...figures.loads import job_load
from ...figures.outlook import ahead_of, outlook
from ...figures.rounds import read_rounds
from ...job.document import JobDocument
from ...schema import Strict
from ...surfaces.patches import patches
from ...worded import of
from ...words import in_a_row, percent, plain, plural, signed
from ..cut.laid_out import OpenedStock, bought, opened
from ..fit.standing import standing
from ..listen.view import board
from ..prove.view import prove
from ..trace.gain import gain_view
from ..trace.gates import gates, leading
from ..trace.view import ranking


class StageLine(Strict):
    """A stage's state at a glance: ``done`` is complete, ``enough`` to go on to the next."""

    stage: str
    line: str
    done: bool
    enough: bool = False


class Overview(Strict):
    """Above every stage: the goal rule, the stages' lines, and the stage to enter."""

    goal_rule: GoalRule | None
    stages: tuple[StageLine, ...]
    current: str
    baseline_read: bool
    """Whether anything was read in a round as found, or in one that began stripped with its reason."""


@once
def overview(job: JobFigures) -> Overview:
    """The state of a whole job."""
    rule = goal_rule(job, ahead_of(job))
    lines = (_listen(job), _trace(job), _build(job, rule), _cut(job), _fit(job),
             _prove(job))
    current = "prove" if lines[-1].done else next((line.stage for line in lines if not (line.done or line.enough)), "prove")
    return Overview(goal_rule=rule, stages=lines, current=current, baseline_read=baseline_read(job.doc))


def baseline_read(doc: JobDocument) -> bool:
    """Whether stripping now would lose nothing: a round as found was read, or the answer is on record."""
    read = read_rounds(doc)
    return any((r.state == "as found" and r.id in read) or r.without_baseline for r in doc.rounds)


def _listen(job: JobFigures) -> StageLine:
    found = job.doc.round_in("as found")
    view = board(job, found.id if found else None)
    goal_read = any(c.is_goal and c.repeats for c in view.cells)
    line = f"{view.read} of {view.wanted} places read" if view.wanted else "set positions and goal"
    return StageLine(stage="listen", line=line, done=goal_read and view.read == view.wanted, enough=goal_read)


def _trace(job: JobFigures) -> StageLine:
    if not job.doc.paths:
        gain = gain_view(job)
        line = gain.line if gain else ""
        return StageLine(stage="trace", line=line or "no paths yet", done=bool(line))
    lead, ranked = leading(gates(job)), ranking(job)
    share = sum(p.share for p in lead)
    names = in_a_row([p.name for p in lead])
    moved = ranked is not None and not ranked.sent and any(p.order is not None for p in job.doc.paths)
    return StageLine(stage="trace", line=(f"{names} {percent(share)}" if share else "paths without figures")
                     + ", plan changed since" * moved, done=share > 0 and not moved, enough=share > 0)


def _build(job: JobFigures, rule: GoalRule | None) -> StageLine:
    planned = [(s, p) for s in job.doc.surfaces for p in patches(s) if new_layers(job.doc, p)]
    changed = rule is not None and rule.predicted is not None
    if not planned and not changed:
        return StageLine(stage="build", line="nothing planned", done=False)
    kg = job_load(job).kg
    laid = {s.id for s, _ in planned}
    left = sum(p.order is not None and p.surface_id is not None and p.surface_id not in laid for p in job.doc.paths)
    still = f", {plural(left, 'surface')} to go" if left else ""
    ahead = outlook(job)
    if rule is not None and rule.predicted is not None and ahead is not None:
        cost = f" at {of(kg, 'kg', '.1f')}" if planned else " planned"
        line = f"{signed(ahead.change_db)} ± {plain(ahead.within_db)} dB{cost}{still}"
        return StageLine(stage="build", line=line, done=not left, enough=True)
    line = f"{plural(len(planned), 'stack')}, {of(kg, 'kg', '.1f')}{still}"
    return StageLine(stage="build", line=line, done=not left, enough=True)


def _cut(job: JobFigures) -> StageLine:
    to_buy, there = bought(job), opened(job)
    if not to_buy.buy and not to_buy.work:
        return StageLine(stage="cut", line="nothing to cut yet", done=False)
    if to_buy.work and (to_buy.older or not there.some):
        return StageLine(stage="cut", line="being laid out", done=False)
    unpriced = sum(b.money is None for b in to_buy.buy)
    more = f" and {unpriced} of no known price" if unpriced else ""
    about = "about " if any(b.estimated for b in to_buy.buy) else ""
    return StageLine(stage="cut", done=not to_buy.work and _is_cut(job, there), enough=there.complete and not to_buy.work,
                     line=f"{plural(there.sheets, 'sheet')}, {about}{job.doc.job.currency} {to_buy.money:.0f}{more}")


def _is_cut(job: JobFigures, there: OpenedStock) -> bool:
    """Whether every piece is ticked as cut, or the work order is through: then they were."""
    steps = standing(job)
    through = bool(steps) and all(s.over for s in steps)
    return through or (bool(there.pieces) and there.complete and there.pieces <= set(job.doc.job.cut_pieces))


def _fit(job: JobFigures) -> StageLine:
    steps = standing(job)
    if not steps:
        return StageLine(stage="fit", line="no order yet", done=False)
    changed, done = any(s.asked_then for s in steps), sum(s.history.done for s in steps)
    return StageLine(stage="fit", line=f"{done} of {plural(len(steps), 'step')}" + ", plan changed since" * changed,
                     done=all(s.over for s in steps) and not changed)


def _prove(job: JobFigures) -> StageLine:
    view = prove(job)
    head = next((c for c in view.cells if c.is_goal), None)
    if head is None:
        return StageLine(stage="prove", line="waits for readings", done=False)
    if head.comparison.verdict in ("not comparable", "no change shown"):
        return StageLine(stage="prove", line=head.comparison.verdict, done=False)
    goal = {"about": ", about the goal"}.get(view.goal_state or "", f", goal {view.goal_state}" if view.goal_state else "")
    return StageLine(stage="prove", line=f"{signed(-head.comparison.reduction_db)} dB{goal}",
                     done=view.goal_state == "met")
