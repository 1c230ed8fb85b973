"""What was promised before the work: the plan's prediction as it stood, kept so that no later model rewrites it."""

from __future__ import annotations

import math

import numpy as np

from ...figures.goal import value_in
from ...figures.job_figures import JobFigures
from ...figures.outlook import outlook, predicted_at_ear
from ...figures.path_levels import a_levels, path_rows
from ...job.document import JobDocument, Promise, PromisedPath, PromiseIn
from ...words import signed


def promise_of(job: JobFigures, occasion: str, at: str, model: str, shelf: str) -> PromiseIn | None:
    """The plan's prediction at the listener as a row to keep; None where nothing is predicted."""
    predicted = predicted_at_ear(job)
    if predicted is None or job.doc.goal is None or job.doc.goal.quantity != "LAeq":
        return None
    rows, ahead = path_rows(job), outlook(job)
    now, planned = a_levels(rows.now), a_levels(rows.planned)
    half = 0.0 if ahead is None or ahead.level_within_db is None else ahead.level_within_db
    return PromiseIn.model_validate({
        "at": at, "occasion": occasion, "model": model, "shelf": shelf,
        "as_found_dba": value_in(job, job.doc.goal, job.doc.round_in("as found")), "predicted_dba": round(predicted, 2),
        "low_dba": round(predicted - half, 2), "high_dba": round(predicted + half, 2),
        "paths": [PromisedPath(name=p.name, now_dba=_known(a), planned_dba=_known(b))
                  for p, a, b in zip(job.doc.paths, now, planned, strict=True)],
    })


def _known(level: np.floating) -> float | None:
    return round(float(level), 2) if math.isfinite(level) else None


def is_new(promise: PromiseIn, doc: JobDocument) -> bool:
    """Whether a promise says anything the last one kept did not."""
    return not doc.promises or _figures(doc.promises[-1]) != _figures(promise)


def _figures(promise: PromiseIn) -> tuple[object, ...]:
    return promise.predicted_dba, promise.low_dba, promise.high_dba, promise.paths


def promised_words(doc: JobDocument) -> str:
    """What was promised first, in a sentence; empty where nothing was."""
    first: Promise | None = next(iter(doc.promises), None)
    if first is None:
        return ""
    change = "" if first.as_found_dba is None else f", {signed(first.predicted_dba - first.as_found_dba)} dB"
    when = f" on {first.at[:10]}" if first.at else ""
    by = f"; by model {first.model[:8]}" if first.model else ""  # a later one would say otherwise
    return (f"Promised before the work{when}: {first.predicted_dba:.1f} dB(A){change} "
            f"(95 %: {first.low_dba:.1f} to {first.high_dba:.1f}{by}).")
