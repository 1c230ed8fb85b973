"""What the plan as it stands promises at the listener, and how sure that is: one figure for stages, search and promises."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.decibels import energy_sums
from ..levels.rows import QUANTITIES, Goal
from ..paths.prospect import Unsure, causes, prospect
from ..paths.rows import Path
from ..planning.plan import weights_db
from ..surfaces.patches import patches
from ..surfaces.rows import Surface
from .boxes import box_of
from .builds import acts_on, chosen_builds, time_ahead
from .goal import Ahead, Reaches, value_in
from .job_figures import JobFigures, once, once_of_surface
from .lays import Lay, panel_loss, planned_lay, present_lay, without_gaps
from .measures import less_measure
from .path_levels import Rows, path_rows, through_surface
from .readings import repeatability
from .rounds import heard_at, value_at

QUANTITY = {"LAeq": "dBA", "LCeq": "dBC", "low band": "low", "level difference": "dBA", "DnT": "dBA"}
"""Goals that are, or follow from, sums of energies over paths, and what their weighting is called."""
LEAST_DB = 1.0
"""No stack's change is known better than this, standard uncertainty."""
JUDGED_DB = 1.5
"""Standard uncertainty of a change that is typed or judged: what a seal leaves open, the usual effect of a measure."""
MEASURE_SHARE = 0.5
"""A measure's usual effect is not known better than to this share of it, where that is less."""
GAPS_SHARE = 0.3
"""How well the bare share of a lining as fitted is known, relative: a judgement."""
MOUNTED_DB = 1.5
"""What not knowing a panel's own loss, 0.01 to 0.03, does to how much less it radiates shaken, standard uncertainty."""
DB_PER_NEPER = 10 / math.log(10)


class Outlook(NamedTuple):
    """A plan against what is there: the change to expect at the listener (dB, negative is less), half of its 95 % interval, how
    far that is from the sum as computed; the goal's value it leaves (a level, or a difference between rooms) and half of that
    one's interval, which holds the reading's own error; the level it leaves at the listener; None unread. All to 0.01 dB, so
    that they are the same wherever they are rounded further."""

    change_db: float
    within_db: float
    lean_db: float
    level_db: float | None
    level_within_db: float | None
    heard_db: float | None = None


@once
def outlook(job: JobFigures) -> Outlook | None:
    """What the chosen plan promises in the headline goal's quantity; None where that is no sum over paths, where a path's level
    cannot be worked out, and without a plan."""
    goal = job.doc.goal
    if goal is None or goal.quantity not in QUANTITY or not job.doc.paths:
        return None
    rows = path_rows(job)
    if any(rows.problems):
        return None
    weight = _weight_db(job)
    found = prospect(energy_sums(rows.now + weight), energy_sums(rows.planned + weight), unsure(job, rows))
    if found is None:
        return None
    read, sign = _read(job, goal), better(goal)
    level, half = (None, None) if read is None else (read[0] + sign * found.change_db, math.hypot(read[1], found.within_db))
    there = heard_at(job, goal, job.doc.round_in("as found"))
    heard = level if not QUANTITIES[goal.quantity].heard else None if there is None else there[0] + found.change_db
    change, within, lean, level, half, heard = (None if x is None else round(x, 2) + 0.0 for x in (*found, level, half, heard))
    return Outlook(change or 0.0, within or 0.0, lean or 0.0, level, half, heard)


@once
def _weight_db(job: JobFigures) -> Floats:
    """What each band counts for in the headline goal, which is one of sums over paths, dB."""
    goal = job.doc.goal
    assert goal is not None  # nothing is expected of a job without one
    return weights_db(QUANTITY[goal.quantity])


def better(goal: Goal) -> int:
    """What a change of the level at the listener is to the goal's value: 1, or −1 of a difference that rises as that falls."""
    return -1 if QUANTITIES[goal.quantity].between_rooms else 1


def _read(job: JobFigures, goal: Goal) -> tuple[float, float] | None:
    """The level as found and half its interval; None where nothing was read, or the budget is not held to it."""
    as_found = job.doc.round_in("as found")
    if value_in(job, goal, as_found) is None or as_found is None:
        return None
    if QUANTITIES[goal.quantity].heard and not path_rows(job).calibrated:
        return None
    return value_at(job, goal, as_found)


@once
def predicted_at_ear(job: JobFigures) -> float | None:
    """Level at the listener the plan is expected to leave, in the goal's quantity; None where that is not known."""
    ahead = outlook(job)
    return None if ahead is None else ahead.level_db


@once
def ahead_of(job: JobFigures) -> Ahead | None:
    """What the plan promises, for the goal rule; None where nothing is predicted, or nothing was read."""
    found, goal, time = outlook(job), job.doc.goal, time_ahead(job)
    if goal is not None and time is not None:
        now = value_in(job, goal, job.doc.round_in("as found"))
        wanted = goal.value if goal.aim == "reach" else None if now is None else now - goal.value
        sure: Reaches | None = None if wanted is None else "short" if time[0] > wanted else (
            "sure" if time[0] + time[1] <= wanted else "likely")
        return Ahead(time[0], time[1], sure)
    if found is None or goal is None or found.level_db is None or found.level_within_db is None:
        return None
    return Ahead(round(found.level_db, 2), found.level_within_db, reaches(goal, found))


def reaches(goal: Goal, ahead: Outlook) -> Reaches | None:
    """A plan judged by the goal: one to change by something by its change, one to reach a level by its level."""
    if goal.aim == "change by":
        margin, half = -ahead.change_db - goal.value, ahead.within_db
    elif ahead.level_db is not None and ahead.level_within_db is not None:
        margin, half = better(goal) * (goal.value - ahead.level_db), ahead.level_within_db
    else:
        return None
    return "short" if round(margin, 2) < 0 else "sure" if margin >= half else "likely"


def unsure(job: JobFigures, rows: Rows) -> Unsure:
    """How sure each path's share and each treated path's change is."""
    share = rows.correction.half_width_db / 1.96 if rows.correction is not None else rows.model_db
    untouched = np.all(rows.bare_planned == rows.now, axis=1)
    found = [(0.0, "") if same else _change(job, path) for path, same in zip(job.doc.paths, untouched, strict=True)]
    error = np.array([e for e, _ in found])
    together = [*_measures(job, rows), *_builds(job), *_box(job)]
    shared = np.array(together).reshape(len(together), len(found)).T
    return Unsure(np.asarray(share), causes(error, [m for _, m in found], shared))


@once_of_surface
def _change(job: JobFigures, path: Path) -> tuple[float, str]:
    """Standard uncertainty of what is done to a path, dB, without measures, and the model it is from."""
    surface = job.doc.surface(path.surface_id)
    if surface is None:
        return JUDGED_DB, "opening" if path.level_dba is None and path.transmission_loss_db is None else ""
    found = [_of_stack(job, patch, lay) for patch in patches(surface)
             if (lay := planned_lay(job.doc, patch)) != present_lay(job.doc, patch)]
    if not found:
        return JUDGED_DB, "opening"
    error, model = max(found)
    shaken = 0.0
    if path.shaken_share and not any(k.surface_id == surface.id for k in job.doc.knocks):
        shaken = MOUNTED_DB * path.shaken_share
    return math.hypot(error, shaken, _gaps(job, path, surface)), model


def _of_stack(job: JobFigures, patch: Surface, lay: Lay) -> tuple[float, str]:
    prediction = panel_loss(patch, lay, job.shelf)[1]
    model = "cavity" if prediction.resonances.mass_air_mass_hz else "leaf"
    return max(prediction.expected_error_db / 2, LEAST_DB), model


def _gaps(job: JobFigures, path: Path, surface: Surface) -> float:
    """What the gaps of a lining are known too little by, dB: by the share of the path's energy that comes through them."""
    through, weight_db = through_surface(job, path, surface), _weight_db(job)
    whole = bare = 0.0
    for patch in patches(surface):
        lay = planned_lay(job.doc, patch)
        try:
            losses = panel_loss(patch, lay, job.shelf)[0], without_gaps(patch, lay, job.shelf)
        except BadInput:
            return 0.0
        weight = patch.share * 10 ** ((patch.excitation_db + through.incident_db + weight_db) / 10)
        whole += float(np.sum(weight * 10 ** (-losses[0] / 10)))
        bare += float(np.sum(weight * np.maximum(10 ** (-losses[0] / 10) - 10 ** (-losses[1] / 10), 0.0)))
    return GAPS_SHARE * DB_PER_NEPER * bare / whole if whole > 0 else 0.0


def _measures(job: JobFigures, rows: Rows) -> list[Floats]:
    """What each chosen measure is unsure by on each path, (measures, paths), dB: one that acts on several is off on all alike."""
    flat = np.zeros(len(PREDICTED_HZ))
    out = []
    for m in job.doc.measures:
        if m.chosen:
            less = np.array([-float(np.mean(less_measure(flat, p, m))) for p in job.doc.paths])
            usual = np.minimum(JUDGED_DB, MEASURE_SHARE * np.abs(less))
            out.append(np.where(np.abs(less) > 0, repeatability(job), 0.0) if m.measured else usual)
    return out


def _builds(job: JobFigures) -> list[Floats]:
    """What is judged of a build acts on all it takes sound off."""
    return [np.array([JUDGED_DB * acts_on(one, p) for p in job.doc.paths])
            for one in chosen_builds(job) if one.built is not None and one.built.effect_db is not None]


def _box(job: JobFigures) -> list[Floats]:
    """What is judged of a box acts on all that leaves it."""
    box = box_of(job)
    if box is None or box.judged_db == 0:
        return []
    return [np.array([box.judged_db * (i in box.paths) for i in range(len(job.doc.paths))])]
