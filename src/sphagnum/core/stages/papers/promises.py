"""What a plan is expected to give and what it will not do, in the words a customer is told."""

from __future__ import annotations

import math

import numpy as np

from ...figures.builds import time_ahead
from ...figures.goal import value_in
from ...figures.job_figures import JobFigures
from ...figures.outlook import better, outlook
from ...figures.path_levels import a_levels, path_rows
from ...levels.comparison import loudness_words
from ...levels.decibels import energy_sum
from ...levels.rows import QUANTITIES
from ...papers.blocks import PathShare
from ...paths.budget import split
from ...paths.rank import ceiling_db
from ...planning.plan import weights_db
from ...words import listed, percent, signed

LEAST_SHARE = 0.05
"""A way in that is left counts from this share of what is then heard on."""
MOST_LEFT = 4
LITTLE = 0.6
"""Low notes are warned of where they change by less than this share of what is promised."""


def change_range(job: JobFigures) -> tuple[float, float, float] | None:
    """Low, middle and high of the expected change of the goal's value, planned less as found, ascending: to 0.1 dB, or 0.01 s."""
    ahead, goal, time = outlook(job), job.doc.goal, time_ahead(job)
    if goal is not None and time is not None:
        now = value_in(job, goal, job.doc.round_in("as found"))
        middle_s = 0.0 if now is None else time[0] - now
        return None if now is None else (round(middle_s - time[1], 2), round(middle_s, 2), round(middle_s + time[1], 2))
    if ahead is None or goal is None:
        return None
    middle = better(goal) * ahead.change_db
    return round(middle - ahead.within_db, 1) + 0.0, round(middle, 1) + 0.0, round(middle + ahead.within_db, 1) + 0.0


def change_words(job: JobFigures) -> str:
    """The promise in decibels and for an ear; empty where nothing is predicted."""
    found, goal = change_range(job), job.doc.goal
    if found is None or goal is None:
        return ""
    low, middle, high = found
    if not QUANTITIES[goal.quantity].level:
        return (f"We expect {signed(middle, 2)} s; in 95 of 100 such rooms it comes to between {signed(low, 2)} and "
                f"{signed(high, 2)} s.")
    unit = QUANTITIES[goal.quantity].unit
    best, least = (_heard(better(goal) * x) for x in ((low, high) if better(goal) > 0 else (high, low)))
    heard = best if best == least else f"At least: {least[:1].lower()}{least[1:]} At best: {best[:1].lower()}{best[1:]}"
    return (
        f"We expect {signed(middle)} {unit}; in 95 of 100 such jobs it comes to between {signed(low)} and {signed(high)} "
        f"{unit}. {heard}"
    )


def _heard(change_db: float) -> str:
    """What a change means to an ear, in one sentence."""
    words = loudness_words(-change_db, "quieter" if change_db < 0 else "louder")
    return words.partition(";")[0].rstrip(".") + "."


def ways_in(job: JobFigures) -> tuple[PathShare, ...]:
    """Every way in with its level at the listener now and as planned, dB(A), the loudest first."""
    rows = path_rows(job)
    if not job.doc.paths or any(rows.problems):
        return ()
    now, then = a_levels(rows.now), a_levels(rows.planned)
    shares = split([str(p.id) for p in job.doc.paths], now).paths
    found = [
        PathShare(
            name=p.name, now=_known(a), then=_known(b), share=s.share, treated=not np.array_equal(rows.now[i], rows.planned[i])
        )
        for i, (p, a, b, s) in enumerate(zip(job.doc.paths, now, then, shares, strict=True))
    ]
    return tuple(sorted(found, key=lambda p: -p.share))


def _known(level: float) -> float | None:
    return round(float(level), 1) if math.isfinite(level) else None


def does_not(job: JobFigures) -> tuple[str, ...]:
    """What the plan will not do: ways in that are left, the cap by what stays, low notes, rattles."""
    out: list[str] = []
    ways = ways_in(job)
    left = [i for i, w in enumerate(ways) if not w.treated]
    if ways and left and len(left) < len(ways):
        now, then = (np.array([-np.inf if x is None else x for x in levels]) for levels in (
            [w.now for w in ways], [w.then for w in ways]))
        shares = [s.share for s in split([w.name for w in ways], then).paths]
        loud = sorted((i for i in left if shares[i] >= LEAST_SHARE), key=lambda i: -shares[i])[:MOST_LEFT]
        if loud:
            told = listed([f"{ways[i].name} ({percent(shares[i])} of what is then heard)" for i in loud])
            out.append(f"Left as they are: {told}.")
        most = ceiling_db(now, np.array([w.treated for w in ways]))
        if most is not None:
            out.append(f"However well the rest is done, what is left lets it become no more than {most:.1f} dB(A) quieter.")
    out += _low_notes(job)
    rattles = [f"{r.kind} at {r.place}" for r in job.doc.rattles if not r.done and not r.cure]
    if rattles:
        out.append(f"Rattles that are found and not cured: {listed(rattles[:6])}.")
    if job.doc.job.kind == "vehicle":
        out.append("Rattles nobody has found are not promised: with less noise round them they may be heard for the first time.")
    return tuple(out)


def _low_notes(job: JobFigures) -> list[str]:
    """What becomes of low notes, where that is much less than what is promised."""
    ahead, goal = outlook(job), job.doc.goal
    if ahead is None or goal is None or not QUANTITIES[goal.quantity].heard or ahead.change_db >= 0:
        return []
    rows, weight = path_rows(job), weights_db("low")
    now, then = (10 * np.log10(sum(10 ** (energy_sum(r + weight) / 10) for r in levels)) for levels in (rows.now, rows.planned))
    change = float(then - now)
    if not math.isfinite(change) or change <= LITTLE * ahead.change_db:
        return []
    return [f"Low notes, below 160 Hz, change by about {signed(change)} dB only: they want mass and stiffness this plan has not."]
