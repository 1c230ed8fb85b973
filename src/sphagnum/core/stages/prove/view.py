"""Prove: what changed between rounds, how sure it is, whether it was fair and whether the goal is met."""

from __future__ import annotations

from ...figures.between import between_words
from ...figures.goal import GoalState, Judged, judge
from ...figures.job_figures import JobFigures, once
from ...figures.outlook import predicted_at_ear
from ...figures.path_levels import a_levels, path_rows
from ...figures.readings import readings_at, source_place
from ...figures.rounds import Drift, band_halves, baseline, compare_rounds, controls, drift, fairness, latest, standard_db
from ...job.document import JobDocument
from ...levels.comparison import Comparison
from ...levels.context import FairView
from ...levels.decibels import Spectrum, band_means
from ...levels.meaning import Response, SpectrumChange, ear_and_meter, response, spectrum_change
from ...levels.rows import QUANTITIES, Goal, Round
from ...paths.budget import split
from ...schema import Strict
from ...words import percent, signed
from ...working import Working, inputs
from ..fit.done import was_done
from ..fit.model import WasDone
from .drum_note import RingChange, ring_changes, ring_goal_met, ring_sentence
from .echo import EchoChange, echo_change, echo_sentence, echo_state
from .promise import promised_words
from .side_effects import SideEffectView, side_effects
from .stairs import Rivals, Stair, one_at_a_time, rivals, stairs


class CellProof(Strict):
    """The change at one position in one condition; at a control place it is the drift."""

    position_id: int
    condition_id: int
    position: str
    condition: str
    unit: str
    is_goal: bool
    control: bool
    verdict: str
    """In words that suit the quantity: a loudspeaker gives more, not louder."""
    good: bool | None
    comparison: Comparison


class RunLine(Strict):
    """The history of a reading, for laying over another: levels, seconds they span, and the window that counted."""

    name: str
    level_db: tuple[float, ...]
    length_s: float
    window_s: tuple[float, float] | None


class LoudNow(Strict):
    """A path after the work, predicted."""

    name: str
    share: float
    ceiling_db: float | None


class ProveView(Strict):
    """The whole stage for two rounds."""

    sentence: str
    detail: str
    goal_state: GoalState | None
    goal_words: str
    """How sure that is, in words."""
    unit: str
    up_is_good: bool
    before_id: int | None
    after_id: int | None
    before: str
    after: str
    cells: tuple[CellProof, ...]
    stairs: tuple[Stair, ...]
    rivals: tuple[Rivals, ...]
    fair: FairView
    one_change: str
    drift_db: float | None
    """At the control places, in the goal's condition."""
    control_notes: tuple[str, ...]
    """Why a control place tells no drift."""
    spectrum: SpectrumChange | None
    response: Response | None
    runs: tuple[RunLine, ...]
    ear: tuple[str, ...]
    side_effects: tuple[SideEffectView, ...]
    rings: tuple[RingChange, ...]
    echo: EchoChange | None
    next_step: str
    predicted_db: float | None
    promised: str
    """What was promised before the work, as it was kept then."""
    was_done: WasDone | None
    loudest_now: tuple[LoudNow, ...]
    remarks: tuple[tuple[str, str, str], ...]
    working: tuple[Working, ...]


@once
def prove(job: JobFigures, before_id: int | None = None, after_id: int | None = None) -> ProveView:
    """Two rounds against each other; those not named are the latest and the baseline it is judged by."""
    after = next((r for r in job.doc.rounds if r.id == after_id), latest(job.doc))
    before = next((r for r in job.doc.rounds if r.id == before_id), baseline(job.doc, after))
    if before is not None and after is not None and before.id == after.id:
        after = None
    goal = job.doc.goal
    quantity = goal.quantity if goal else "LAeq"
    moved = {c.id: drift(job, before, after, c.id, quantity) if before and after else Drift() for c in job.doc.conditions}
    cells = _cells(job, before, after, quantity, moved) if before and after else ()
    head = next((c for c in cells if c.is_goal), None)
    headline = moved.get(goal.condition_id, Drift()) if goal else Drift()
    fair = _fair(job, before, after)
    judged = judge(job, goal, head.comparison, after) if (
        goal and head and after and fair.fairness != "not comparable") else None
    spectra = _spectra(job.doc, before, after)
    halves = band_halves(job, before, after, goal.position_id, goal.condition_id, quantity) if (
        spectra and goal and before and after) else ()
    change = spectrum_change(*spectra, QUANTITIES[quantity].up_is_good, halves) if spectra else None
    span = QUANTITIES[quantity].bands_hz
    loud = _loudest_now(job)
    rings = ring_changes(job.doc, before, after)
    promised = promised_words(job.doc, head.comparison if head else None)
    ring_met = ring_goal_met(goal, rings) if quantity == "ring time" else None
    state: GoalState | None = judged.state if judged else None if ring_met is None else "met" if ring_met else "not met"
    echo = echo_change(job.doc, before, after)
    if goal is not None and quantity == "T":
        state = echo_state(goal, job.doc, before, after)
    said = {"ring time": ring_sentence(rings, goal, ring_met), "T": echo_sentence(echo, goal, state)}.get(quantity)
    return ProveView(
        sentence=said or _sentence(job.doc, before, after, head, judged, fair),
        detail=_detail(job, goal, head, quantity, after), goal_state=state, goal_words=judged.words if judged else state or "",
        unit=QUANTITIES[quantity].unit, up_is_good=QUANTITIES[quantity].up_is_good,
        before_id=before.id if before else None, after_id=after.id if after else None,
        before=before.name if before else "", after=after.name if after else "",
        cells=cells, stairs=stairs(job, goal), rivals=rivals(job, goal), fair=fair,
        one_change=one_at_a_time(job.doc, before, after) if before and after else "",
        drift_db=None if headline.reduction_db is None else round(headline.reduction_db, 2) + 0.0,
        control_notes=headline.said,
        spectrum=change,
        response=response(*spectra, span) if spectra and span and QUANTITIES[quantity].up_is_good else None,
        runs=_runs(job.doc, before, after, head), ear=_ear(job.doc, after, head, change),
        side_effects=side_effects(job.doc, before, after), rings=rings, echo=echo, next_step=_next_step(judged, loud),
        predicted_db=predicted_at_ear(job), promised=promised, was_done=was_done(job),
        loudest_now=loud, remarks=_remarks(job.doc),
        working=tuple(_working(c) for c in cells),
    )


def _cells(
    job: JobFigures, before: Round, after: Round, quantity: str, moved: dict[int, Drift]
) -> tuple[CellProof, ...]:
    goal, still = job.doc.goal, controls(job.doc)
    out = []
    for p in job.doc.positions:
        for c in job.doc.conditions:
            taken_off = Drift() if p.id in still else moved[c.id]
            found = compare_rounds(job, before, after, p.id, c.id, quantity, taken_off)
            if found is not None:
                is_goal = goal is not None and (goal.position_id, goal.condition_id) == (p.id, c.id)
                better = "louder" if QUANTITIES[quantity].up_is_good else "quieter"
                out.append(CellProof(
                    position_id=p.id, condition_id=c.id, position=p.name, condition=c.name, unit=QUANTITIES[quantity].unit,
                    is_goal=is_goal, control=p.id in still, verdict=_way(quantity, found),
                    good=found.verdict == better if found.verdict in WAYS else None, comparison=found))
    return tuple(out)


def _fair(job: JobFigures, before: Round | None, after: Round | None) -> FairView:
    if before is None or after is None:
        return FairView(fairness=None, words="", items=())
    return fairness(job, before, after)


def _spectra(doc: JobDocument, before: Round | None, after: Round | None) -> tuple[Spectrum, Spectrum] | None:
    """Energy means of the bands at the goal's place in both rounds; None unless both were read with bands."""
    if before is None or after is None or doc.goal is None:
        return None
    at = doc.goal.position_id, doc.goal.condition_id
    means: list[Spectrum] = []
    for r in (before, after):
        rows = [x.bands_db for x in readings_at(doc, r.id, *at, doc.goal.quantity) if x.bands_db]
        if not rows:
            return None
        means.append([None if v is None else round(v, 2) for v in band_means(rows)])
    return means[0], means[1]


def _runs(doc: JobDocument, before: Round | None, after: Round | None, head: CellProof | None) -> tuple[RunLine, ...]:
    if head is None or doc.goal is None:
        return ()
    out = []
    for r in (before, after):
        found = readings_at(doc, r.id, head.position_id, head.condition_id, doc.goal.quantity) if r else ()
        kept = next((x for x in found if len(x.history_db) > 1), None)
        if kept is not None and r is not None:
            out.append(RunLine(name=r.name, level_db=kept.history_db, length_s=kept.history_s, window_s=kept.window_s))
    return tuple(out) if len(out) == 2 else ()


def _ear(doc: JobDocument, after: Round | None, head: CellProof | None, change: SpectrumChange | None) -> tuple[str, ...]:
    """Where somebody's ear and the meter disagree, by role, and why that may be."""
    if after is None or head is None:
        return ()
    c = head.comparison
    said = [(r.role, ear_and_meter(r.heard, c.reduction_db, c.verdict, change)) for r in doc.remarks if r.round_id == after.id]
    return tuple(f"{role.capitalize()}: {words}" for role, words in said if words)


def _next_step(judged: Judged | None, loud: tuple[LoudNow, ...]) -> str:
    """What to do where the goal is not met."""
    if judged is None or judged.state != "not met":
        return ""
    missing = judged.missing_db
    if not loud or loud[0].ceiling_db is None:
        return f"{missing:.1f} dB are missing."
    most = loud[0].ceiling_db
    enough = "" if most >= missing else ", which alone is not enough: take the next one with it"
    return (f"{missing:.1f} dB are missing. {loud[0].name} is now the loudest ({percent(loud[0].share)}): closing it gives "
            f"{most:.1f} dB at most{enough}.")


def _sentence(doc: JobDocument, before: Round | None, after: Round | None, head: CellProof | None,
              judged: Judged | None, fair: FairView) -> str:
    if before is None:
        return "There is no round as found to compare with."
    if after is None:
        return "The work is not read yet: take the same readings again."
    if head is None:
        return "The goal's place is not read in both rounds yet."
    got, low, high = head.comparison.reduction_db, *head.comparison.interval95_db
    made_up = "Simulated: " if any(c.rule == "simulated" for c in head.comparison.cautions) else ""
    if head.comparison.verdict == "not comparable":
        return "These rounds cannot be compared: the background is too near, or the quantities differ."
    if fair.fairness == "not comparable":
        return f"{fair.words} The difference of {signed(-got)} dB says nothing about the work."
    if head.comparison.verdict == "no change shown":
        return f"{made_up}No change shown: {signed(-got)} dB lies within the scatter ({signed(-high)} to {signed(-low)})."
    span = f"{min(abs(low), abs(high)):.1f} to {max(abs(low), abs(high)):.1f}"
    place = f"{head.position[0].lower()}{head.position[1:]}"
    change = f"{made_up}{abs(got):.1f} dB {head.verdict} at {place}, {head.condition} (95 %: {span})."
    goal = doc.goal
    if judged is None or goal is None:
        return change
    if judged.state == "about":
        return f"{change[:-1]}: {judged.words}."
    amount = f"{goal.value:g} {QUANTITIES[goal.quantity].unit}" if goal.aim == "reach" else f"{goal.value:g} dB"
    return f"{change} Goal of {amount} {judged.words}."


WAYS = {"louder": "more", "quieter": "less"}


def _way(quantity: str, result: Comparison) -> str:
    """The verdict; of a loudspeaker or a difference between rooms 'more' or 'less'."""
    return WAYS.get(result.verdict, result.verdict) if QUANTITIES[quantity].up_is_good else result.verdict


def _detail(job: JobFigures, goal: Goal | None, head: CellProof | None, quantity: str, after: Round | None) -> str:
    doc = job.doc
    if head is None or head.comparison.verdict == "not comparable":
        return ""
    result = head.comparison
    if QUANTITIES[quantity].between_rooms:
        source = source_place(doc, goal) if goal else None
        rooms = f" ({source.name} against {head.position[0].lower()}{head.position[1:]})" if source else ""
        by_bands = "" if goal is None or after is None else between_words(job, goal, after)
        return (f"This is the difference of one signal's level between two rooms{rooms}, not a rating of the wall between them. "
                f"{by_bands}").strip()
    if QUANTITIES[quantity].up_is_good:
        return f"{10 ** (abs(result.reduction_db) / 10):.1f} times the energy." if result.verdict == "louder" else ""
    if QUANTITIES[quantity].only_change:
        return ("The same knocks before and after: this is a change, not a rating of the floor"
                + ("." if goal is None or after is None or standard_db(doc, after, quantity) is None
                   else ", as in a room that rings for half a second (L'nT)."))
    gone = 1 - result.energy_ratio
    energy = f"{percent(gone)} of the sound energy is gone. " if gone > 0 and result.verdict == "quieter" else ""
    halved = 2.5 <= result.reduction_db <= 3.5 and result.verdict == "quieter"
    half = " Half the energy is not half as loud." if halved else ""
    return energy + result.loudness_words + half


def _loudest_now(job: JobFigures) -> tuple[LoudNow, ...]:
    if not job.doc.paths:
        return ()
    rows = path_rows(job)
    shares = split([p.name for p in job.doc.paths], a_levels(rows.planned)).paths
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
