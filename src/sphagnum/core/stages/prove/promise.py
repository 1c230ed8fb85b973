"""What was promised before the work: the plan's prediction as it stood, kept so that no later model rewrites it."""

from __future__ import annotations

import math

import numpy as np

from ...figures.goal import value_in
from ...figures.job_figures import JobFigures
from ...figures.outlook import outlook, predicted_at_ear
from ...figures.path_levels import a_levels, path_rows
from ...job.document import JobDocument, Promise, PromisedPath, PromiseIn
from ...levels.comparison import Comparison
from ...levels.rows import QUANTITIES
from ...schema import as_level
from ...words import signed


def promise_of(job: JobFigures, occasion: str, at: str, model: str, shelf: str) -> PromiseIn | None:
    """The plan's prediction at the listener as a row to keep; None where nothing is predicted."""
    predicted = predicted_at_ear(job)
    if predicted is None or job.doc.goal is None or not QUANTITIES[job.doc.goal.quantity].heard:
        return None
    rows, ahead = path_rows(job), outlook(job)
    now, planned = a_levels(rows.now), a_levels(rows.planned)
    half = 0.0 if ahead is None or ahead.level_within_db is None else ahead.level_within_db
    return PromiseIn.model_validate({
        "at": at, "occasion": occasion, "model": model, "shelf": shelf, "quantity": job.doc.goal.quantity,
        "unit": QUANTITIES[job.doc.goal.quantity].unit,
        "as_found_dba": value_in(job, job.doc.goal, job.doc.round_in("as found")), "predicted_dba": as_level(predicted),
        "low_dba": as_level(predicted - half), "high_dba": as_level(predicted + half),
        "paths": [PromisedPath(name=p.name, now_dba=_known(a), planned_dba=_known(b))
                  for p, a, b in zip(job.doc.paths, now, planned, strict=True)],
    })


def _known(level: np.floating) -> float | None:
    return as_level(float(level)) if math.isfinite(level) else None


def is_new(promise: PromiseIn, doc: JobDocument) -> bool:
    """Whether a promise says anything the last one kept did not."""
    return not doc.promises or _figures(doc.promises[-1]) != _figures(promise)


def _figures(promise: PromiseIn) -> tuple[object, ...]:
    return promise.predicted_dba, promise.low_dba, promise.high_dba, promise.paths


def judged_promise(doc: JobDocument) -> Promise | None:
    """The promise the work is judged by: of the offer accepted last, else the first that was kept; None without any, or where
    the goal is of another quantity by now."""
    offered = [p for p in doc.promises if p.occasion == "offer"]
    found = offered[-1] if offered else next(iter(doc.promises), None)
    return found if found is not None and doc.goal is not None and doc.goal.quantity == found.quantity else None


def promised_words(doc: JobDocument, got: Comparison | None = None) -> str:
    """What was promised, in a sentence, and of an offer whether it was kept: the measured interval meets the promised range.
    Empty where nothing was."""
    first = judged_promise(doc)
    if first is None:
        return ""
    change = "" if first.as_found_dba is None else f", {signed(first.predicted_dba - first.as_found_dba)} dB"
    when = f" on {first.at[:10]}" if first.at else ""
    by = f"; by model {first.model[:8]}" if first.model else ""  # a later one would say otherwise
    where = f"in offer {first.paper}" if first.paper else "before the work"
    said = (f"Promised {where}{when}: {first.predicted_dba:.1f} {first.unit}{change} "
            f"(95 %: {first.low_dba:.1f} to {first.high_dba:.1f}{by}).")
    return f"{said} {kept_words(first, got)}" if first.paper and got is not None else said


def kept_words(promise: Promise, got: Comparison) -> str:
    """Whether the change as measured meets the change as promised, both with their width."""
    if promise.as_found_dba is None or got.verdict == "not comparable":
        return "Whether it was kept, nobody can tell."
    low, high = promise.low_dba - promise.as_found_dba, promise.high_dba - promise.as_found_dba
    measured = -got.interval95_db[1], -got.interval95_db[0]
    span = f"{signed(-got.reduction_db)} dB ({signed(measured[0])} to {signed(measured[1])}) measured"
    if measured[0] <= high and low <= measured[1]:
        return f"Kept: {span}, {signed(low)} to {signed(high)} promised."
    return f"Not kept: {span}, {signed(low)} to {signed(high)} promised."
