"""Trace: the budget of a job's paths in figures and words, what tests say of it, and the ranked plan that follows."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

import numpy as np
from pydantic import Field

from ...figures.builds import chosen_builds, takes_off, with_builds
from ...figures.goal import goal_words, instead_of_a_plan, value_in
from ...figures.job_figures import JobFigures, once
from ...figures.measures import after_measure, measure_effect, with_measures
from ...figures.outlook import outlook
from ...figures.path_levels import Rows, a_levels, path_rows
from ...figures.rounds import heard_at
from ...figures.sources import source_of
from ...figures.ways import cap_of
from ...job.document import JobDocument
from ...levels.decibels import energy, energy_sum
from ...levels.rows import QUANTITIES
from ...paths.measured import PathTest
from ...paths.rank import DEEPEST_DB, ceiling_db, rank
from ...paths.rows import Path
from ...schema import Strict
from ...worded import of
from ...words import in_a_row, listed, percent, plain, signed
from ...working import Working, inputs
from .gain import GainView, gain_view
from .gates import OthersView, PathView, easy_part, gates, leading, others, total_dba
from .planned import JunctionView, junction_views, planned_words
from .structure import Statement, statement
from .survey import LeakView, RattleView, SurveyView, leak_view, rattle_view, survey_views


class TestView(Strict):
    """A test of a path in figures and words."""

    id: int
    kind: str
    path_id: int
    level_db: float | None
    share: float
    interval: tuple[float, float]
    resolved: bool
    needed_drop_db: float | None
    words: str


class WishView(Strict):
    """A line of the ranked plan: treat this path by so much."""

    path_id: int
    surface_id: int | None
    name: str
    depth_db: float
    """How much less is to come through it."""
    at_ear_db: float
    """What that takes off at the listener, after what stands before it in the order; negative is less. All add up."""
    level_dba: float
    words: str


class MeasureView(Strict):
    """A measure that is no stack, with what it alone would give at the listener."""

    id: int
    name: str
    gain_db: float | None
    words: str


class RankingView(Strict):
    """The ranked plan against the goal; ``sent`` tells whether Build has it as it stands."""

    sentence: str
    reached: bool
    total_dba: float | None
    change_db: float
    """What all of it takes off at the listener; negative is less."""
    wishes: tuple[WishView, ...]
    counted: tuple[str, ...]
    """Measures of the plan that are taken off before the paths are ranked."""
    sent: bool


class SetView(Strict):
    """What vanishing paths together would give."""

    path_ids: tuple[int, ...]
    gain_db: float | None
    words: str


class TraceView(Strict):
    """The budget: shares now, ceilings, total now, as planned and with gates pulled; tests, plan and what was found."""

    sentence: str
    detail: str
    condition: str
    source: str
    total_dba: float | None
    planned_dba: float | None
    """What the plan is expected to leave."""
    change_db: float | None
    """What it is expected to change, negative is less, in the goal's quantity."""
    within_db: float | None
    """Half of the 95 % interval of that change."""
    planned_interval_dba: tuple[float, float] | None
    """95 % of what it will leave: of the change, and of the reading it starts from."""
    planned_words: str
    """How sure the plan's prediction is, and by how much less is to be expected than computed."""
    pulled_dba: float | None
    let_through: tuple[float, ...]
    """The share of its energy a gate lets through that is pulled down by 0, 1, 2 … dB."""
    calibrated: bool
    mismatch: str
    paths: tuple[PathView, ...]
    tests: tuple[TestView, ...]
    odd: tuple[str, ...]
    closed: SetView | None
    ranking: RankingView | None
    measures: tuple[MeasureView, ...]
    statement: Statement
    surveys: tuple[SurveyView, ...]
    leaks: tuple[LeakView, ...]
    rattles: tuple[RattleView, ...]
    gain: GainView | None
    working: tuple[Working, ...]
    junctions: tuple[JunctionView, ...] = ()
    """How a wall between rooms may meet what runs on past it; none for other kinds of job."""
    others: Annotated[OthersView | None, Field(exclude_if=lambda x: x is None)] = None
    """Those of the paths that share one gate in the picture; left out where each has its own."""
    not_ranked: str = ""
    """Why nothing is ranked, and what to do instead; empty where something is, or what is missing is said elsewhere."""


MOST_PULL_DB = 30
LET_THROUGH = tuple(round(float(share), 4) for share in energy(-np.arange(MOST_PULL_DB + 1.0)))


@once
def trace_view(
    job: JobFigures, pulls: dict[int, float] | None = None, gone: tuple[int, ...] = (),
    condition_id: int | None = None,
) -> TraceView:
    """The whole stage; ``pulls`` are dB taken off paths to try what that gives, ``gone`` paths to think away together.

    ``condition_id`` looks at the budget in another condition than the headline's, by that one's spectrum and readings.
    """
    pulls, job = pulls or {}, job.of(job.doc.seen_in(condition_id))
    rows, ranked = path_rows(job), ranking(job)
    ordered = tuple(p.model_copy(update={"pulled_db": pulls.get(p.id, 0.0)}) for p in gates(job))
    now, planned = a_levels(rows.now), a_levels(rows.planned)
    pulled = now - np.array([pulls.get(p.id, 0.0) for p in job.doc.paths])
    planned_total = total_dba(planned) if len(planned) else None
    ahead, source, gain = outlook(job), source_of(job), gain_view(job)
    said = (gain.sentence, gain.detail) if gain and not ordered else (_sentence(ordered), _detail(ordered, ranked))
    return TraceView(
        sentence=said[0], detail=" ".join(x for x in (said[1], _wall_alone(job, ordered)) if x),
        condition=source.condition, source=source.name,
        total_dba=total_dba(now), planned_dba=planned_total if ahead is None else _r(ahead.heard_db),
        change_db=None if ahead is None else _r(ahead.change_db), within_db=None if ahead is None else _r(ahead.within_db),
        planned_interval_dba=None if ahead is None or ahead.heard_db is None or ahead.level_within_db is None else (
            round(ahead.heard_db - ahead.level_within_db, 1), round(ahead.heard_db + ahead.level_within_db, 1)),
        planned_words=planned_words(ahead, job.doc.goal),
        pulled_dba=total_dba(pulled) if pulls else None,
        let_through=LET_THROUGH,
        calibrated=rows.calibrated, mismatch=_mismatch(job.doc.paths, rows, source.measured),
        paths=ordered, others=others(ordered), tests=tuple(_test_view(job.doc, t) for t in rows.tests),
        odd=rows.correction.odd if rows.correction else (),
        closed=_closed(job.doc, now, gone), ranking=ranked,
        measures=tuple(_measure_view(job.doc, rows, i) for i in range(len(job.doc.measures))),
        statement=statement(job.doc, rows, job.shelf.offers.hints),
        surveys=survey_views(job), leaks=tuple(leak_view(job, x) for x in job.doc.leaks),
        rattles=tuple(rattle_view(job, x) for x in job.doc.rattles), gain=gain,
        working=_working(job, rows, ordered, source.name), not_ranked=instead_of_a_plan(job.doc.goal),
        junctions=junction_views(job),
    )


def _sentence(paths: tuple[PathView, ...]) -> str:
    if not paths:
        return "List the ways the noise can take; then the loud one shows."
    lead = leading(paths)
    share = sum(p.share for p in lead)
    if share == 0:
        return "No path has a figure yet: give each a surface, an opening or a level."
    several = len(lead) > 1 or lead[0].name.endswith("s")
    carry = "carry" if several else "carries"
    return f"{in_a_row([p.name for p in lead])} {carry} {percent(share)} of what the listener hears."


def _detail(paths: tuple[PathView, ...], ranking: RankingView | None) -> str:
    if not paths:
        return "Then tests and readings hold the budget to what is heard."
    if ranking is not None and not ranking.reached:
        return ranking.sentence
    easy = easy_part(paths)
    if easy is None or easy in leading(paths):
        return "Pull a gate down to see what closing that path would give."
    most = f"{easy.ceiling_db:.1f} dB at most" if easy.ceiling_db is not None and easy.ceiling_db >= 0.1 else "next to nothing"
    return f"{easy.name}, the easy part, can give {most}. Pull a gate down to try it."


def _wall_alone(job: JobFigures, paths: tuple[PathView, ...]) -> str:
    """Where something goes round a wall: the most that the wall alone can give. Empty elsewhere."""
    round_it = {p.id for p in job.doc.paths if p.flank is not None}
    through = [p for p in paths if p.id not in round_it and any(q.id == p.id and q.surface_id for q in job.doc.paths)]
    if not round_it or len(through) != 1 or through[0].ceiling_db is None:
        return ""
    return f"The wall alone cannot give more than {plain(through[0].ceiling_db)} dB: what goes round it stays."


def _mismatch(paths: Sequence[Path], rows: Rows, measured: bool) -> str:
    if not rows.calibrated:
        return "not held to a reading"
    if all(p.level_dba is not None or p.unknown for p in paths):
        return "its ways, known by their levels, add up to what was read"
    if measured:
        where = "under" if rows.offset_db > 0 else "over"
        return f"read near the source; the model's sum lay {abs(rows.offset_db):.1f} dB {where} what was read at the listener"
    how = "shaped band by band and scaled" if rows.by_band else "scaled"
    return f"an assumed spectrum, {how} by {signed(rows.offset_db)} dB to the level as found"


def _r(value: float | None) -> float | None:
    return None if value is None else round(value, 2) + 0.0


def _goal_level(job: JobFigures, total: float | None) -> float | None:
    """Level at the listener the goal asks for, dB(A); None where it does not follow from that."""
    goal = job.doc.goal
    if goal is None or not QUANTITIES[goal.quantity].heard or total is None:
        return None
    as_found = job.doc.round_in("as found")
    there, value = heard_at(job, goal, as_found), value_in(job, goal, as_found)
    heard = total if there is None else there[0]
    if goal.aim == "change by":
        return heard - goal.value
    if not QUANTITIES[goal.quantity].between_rooms:
        return goal.value
    return None if value is None else heard - (goal.value - value)


def most_depth_db(doc: JobDocument) -> list[float]:
    """How much less each path can usually be made to let through, dB; 0 for one that may not be treated."""
    kinds = ["surface" if p.surface_id is not None or p.transmission_loss_db is not None else
             "leak" if p.leak_cm2 else "level" for p in doc.paths]
    return [DEEPEST_DB[k] if p.allowed else 0.0 for k, p in zip(kinds, doc.paths, strict=True)]


@once
def ranking(job: JobFigures) -> RankingView | None:
    """What to treat, and how deeply, for the goal; None where nothing tells."""
    rows = path_rows(job)
    now, total = a_levels(with_builds(job, with_measures(job.doc, rows.now))), total_dba(a_levels(rows.now))
    target = _goal_level(job, total)
    if target is None or total is None:
        return None
    found = rank(now, np.array(most_depth_db(job.doc)), target)
    counted = [m.name for m in job.doc.measures if m.chosen and measure_effect(m).any()]
    counted += [one.build.name for one in chosen_builds(job) if any(takes_off(one, path) for path in job.doc.paths)]
    then, totals = now.copy(), [round(energy_sum(now), 1)]
    for w in found.wishes:
        then[w.path] -= w.depth_db
        totals.append(round(energy_sum(then), 1))
    wishes = tuple(
        WishView(path_id=job.doc.paths[w.path].id, surface_id=job.doc.paths[w.path].surface_id, name=job.doc.paths[w.path].name,
                 depth_db=round(w.depth_db, 1), at_ear_db=round(totals[i] - totals[i - 1], 1) + 0.0,
                 level_dba=round(w.level_db, 1), words=f"{w.level_db:.1f} dB(A) now, {w.depth_db:.1f} dB less through it wanted")
        for i, w in enumerate(found.wishes, start=1))
    sent = [(p.id, p.order, round(p.wanted_db, 1)) for p in job.doc.paths if p.order is not None and p.wanted_db is not None]
    asked = [(w.path_id, i, w.depth_db) for i, w in enumerate(wishes, start=1)]
    return RankingView(
        sentence=_ranking_words(job.doc, found.reached, found.total_db, target, [w.name for w in wishes], counted),
        reached=found.reached, counted=tuple(counted), change_db=round(totals[-1] - totals[0], 1) + 0.0,
        total_dba=round(found.total_db, 1), wishes=wishes, sent=bool(asked) and sorted(sent) == sorted(asked),
    )


def _ranking_words(
    doc: JobDocument, reached: bool, total: float, target: float, names: list[str], counted: list[str]
) -> str:
    goal = goal_words(doc).rstrip(".")
    if not reached:
        barred = [p.name for p in doc.paths if not p.allowed]
        why = f" while {listed(barred)} may not be treated" if barred else ""
        return (f"Out of reach: the goal is {target:.1f} dB(A); all that can usually be done leaves {total:.1f} dB(A){why}. "
                "Say so now, or look at the source.")
    after = f", after {listed([n[0].lower() + n[1:] for n in counted])}," if counted else ", in this order,"
    if not names and counted:
        return f"{in_a_row(counted)} alone meet{'s' if len(counted) == 1 else ''} the goal: {goal}."
    if not names:
        return f"Nothing need be treated for the goal: {goal}."
    return f"{in_a_row(names)}{after} meet{'s' if len(names) == 1 else ''} the goal: {goal}."


def _closed(doc: JobDocument, now: np.typing.NDArray[np.float64], gone: tuple[int, ...]) -> SetView | None:
    marks = np.array([p.id in gone for p in doc.paths], dtype=bool)
    if not marks.any():
        return None
    gain = ceiling_db(now, marks)
    names = [p.name for p in doc.paths if p.id in gone]
    words = f"Without {listed(names)}: " + (f"{signed(-gain)} dB, and no more." if gain is not None else "nothing else is left.")
    return SetView(path_ids=tuple(p.id for p in doc.paths if p.id in gone), gain_db=None if gain is None else round(gain, 2),
                   words=words)


def _measure_view(doc: JobDocument, rows: Rows, index: int) -> MeasureView:
    """What one measure alone takes off what is heard now."""
    measure = doc.measures[index]
    changed = after_measure(doc, rows.now, measure)
    totals = [total_dba(a_levels(x)) if len(x) else None for x in (rows.now, changed)]
    gain = None if totals[0] is None or totals[1] is None else round(totals[0] - totals[1], 2)
    place = {"source": "at the source", "listener": "at the listener"}.get(
        measure.at, next((p.name for p in doc.paths if p.id == measure.path_id), ""))
    how = "measured" if measure.measured else "typical"
    shaken = any(p.level_dba is not None or p.shaken_share for p in doc.paths)
    if measure.at == "source" and not measure.structure_borne and shaken:
        how += ", airborne sound only"
    effect = f": {signed(-gain)} dB at the ear" if gain is not None else ""
    return MeasureView(id=measure.id, name=measure.name, gain_db=gain, words=f"{place[0].lower()}{place[1:]}, {how}{effect}")


def _test_view(doc: JobDocument, test: PathTest) -> TestView:
    span = f"{100 * test.low:.0f} to {100 * test.high:.0f} %"
    bound = "at least " if test.bound else ""
    if test.resolved:
        words = f"carries {bound}{percent(test.share)} ({span}). Resolved."
    elif test.needed_drop_db is not None:
        words = (f"not resolved: the drop is inside the scatter ({span}). It would take a drop of {test.needed_drop_db:.1f} dB, "
                 "or more repeats.")
    else:
        words = f"not resolved ({span}): repeat it."
    return TestView(id=test.row_id, kind=test.kind, path_id=doc.paths[test.path_index].id, level_db=test.level_db,
                    share=test.share,
                    interval=(test.low, test.high), resolved=test.resolved,
                    needed_drop_db=None if test.needed_drop_db is None else round(test.needed_drop_db, 2), words=words)


def _working(job: JobFigures, rows: Rows, paths: tuple[PathView, ...], source: str) -> tuple[Working, ...]:
    shaken = {p.id: p.shaken_share for p in job.doc.paths}
    scale = f"{signed(rows.offset_db)} dB on every airborne path, to meet the level as found" if rows.calibrated else (
        "not scaled: no reading as found")
    caps = {p.id: cap_of(job, p) for p in job.doc.paths}
    return tuple(
        Working(
            figure=f"{p.name}: {p.level_dba} dB(A), {percent(p.share)}",
            formula="L = incident − R + 10·lg(S/A), A-weighted and summed over 21 bands; share of the energy; tests averaged "
            "with the model by precision; what a panel radiates because it is shaken falls by 10·lg of its loss factor",
            inputs=inputs(source_spectrum=source, absorption=of(job.doc.job.absorption_m2, "m²"), scaled=scale,
                          by_the_model_alone=percent(p.model_share), tested="yes" if p.tested else "no",
                          easy_to_reach="yes" if p.easy else "no",
                          radiated_because_shaken=percent(shaken[p.id]),
                          held_by_what_comes_round_it=caps[p.id].words),
            source="diffuse field on both sides; A weighting of IEC 61672-1",
            accuracy=f"± {p.half_width_db:g} dB (95 %), so {percent(p.share_low)} to {percent(p.share_high)}",
        )
        for p in paths if p.level_dba is not None
    )
