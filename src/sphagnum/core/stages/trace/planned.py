"""What the plan promises at the listener in words, and what may go round a wall."""

from __future__ import annotations

from ...figures.job_figures import JobFigures
from ...figures.outlook import Outlook
from ...levels.rows import QUANTITIES, Goal
from ...paths.flanking import JUNCTIONS, JunctionKind
from ...schema import Strict
from ...words import plain, signed


def planned_words(ahead: Outlook | None, goal: Goal | None) -> str:
    """The plan's change with its interval, and what it leaves; empty without a plan."""
    if ahead is None or goal is None:
        return ""
    low, high = ahead.change_db - ahead.within_db, ahead.change_db + ahead.within_db
    leaves = "" if ahead.level_db is None or ahead.level_within_db is None else (
        f" It leaves {plain(ahead.level_db)} {_left_unit(goal)}, {plain(ahead.level_db - ahead.level_within_db)} to "
        f"{plain(ahead.level_db + ahead.level_within_db)} with the reading's own error.")
    lean = "" if abs(ahead.lean_db) < 0.05 else (
        f" That is {plain(ahead.lean_db)} dB {'less' if ahead.lean_db > 0 else 'more'} than the sum as computed: what looks "
        "loudest and what looks best owes part of it to luck.")
    return f"The plan gives {signed(ahead.change_db)} dB, 95 %: {signed(low)} to {signed(high)}.{leaves}{lean}"


def _left_unit(goal: Goal) -> str:
    facts = QUANTITIES[goal.quantity]
    return "dB between the rooms" if facts.between_rooms else facts.unit


class JunctionView(Strict):
    """A kind of joint as it is picked: its words, and the figure that stands in until somebody reads it."""

    kind: JunctionKind
    name: str
    words: str
    usual: str


def junction_views(job: JobFigures) -> tuple[JunctionView, ...]:
    """All kinds, for a job of rooms."""
    if job.doc.job.kind != "room":
        return ()
    return tuple(JunctionView(
        kind=kind, name=j.name, words=j.words,
        usual=f"D_n,f about {j.dnf_db:g} dB at 500 Hz, judged" if j.leaf is None else
        f"of {job.shelf.material(j.leaf[0]).name.lower()} {j.leaf[1]:g} mm, unless you name its panel")
        for kind, j in JUNCTIONS.items())
