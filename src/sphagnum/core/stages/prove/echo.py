"""How long a room rang before and rings after: T per octave with its interval, how well speech stands out, what that means."""

from __future__ import annotations

import math

import numpy as np

from ...builds.rooms import clarity_db
from ...figures.goal import GoalState
from ...figures.rings import Ringing, reverberation, ringing_in
from ...job.document import JobDocument
from ...levels.bands import Floats
from ...levels.decay import OCTAVES_HZ
from ...levels.rows import Goal, Round
from ...schema import Strict


class EchoChange(Strict):
    """T of a room in two rounds, s, per octave 125 Hz to 4 kHz, each with half of its 95 % interval; C50, dB; None unknown."""

    frequency_hz: tuple[float, ...]
    before_s: tuple[float | None, ...]
    after_s: tuple[float | None, ...]
    before_within_s: tuple[float | None, ...]
    after_within_s: tuple[float | None, ...]
    before_clarity_db: tuple[float | None, ...]
    after_clarity_db: tuple[float | None, ...]
    words: str
    shown: bool
    """Whether the change in the middle octaves is more than both intervals."""


def echo_change(doc: JobDocument, before: Round | None, after: Round | None) -> EchoChange | None:
    """How a room rings in two rounds; None where neither was recorded."""
    pair = [None if r is None else ringing_in(doc, r.id) for r in (before, after)]
    if pair[0] is None and pair[1] is None:
        return None
    middle = [None if r is None else reverberation(doc, r.id) for r in (before, after)]
    shown, words = False, "clap in both rounds"
    if middle[0] is not None and middle[1] is not None:
        (a, ua), (b, ub) = middle[0], middle[1]
        shown = abs(a - b) > math.hypot(ua, ub)
        words = (f"rings for {b:.2f} ± {ub:.2f} s instead of {a:.2f} ± {ua:.2f} s" if shown
                 else f"no change shown: {a:.2f} ± {ua:.2f} s, then {b:.2f} ± {ub:.2f} s")
    return EchoChange(
        frequency_hz=OCTAVES_HZ, before_s=_known(pair[0], "t"), after_s=_known(pair[1], "t"),
        before_within_s=_known(pair[0], "u"), after_within_s=_known(pair[1], "u"), before_clarity_db=_known(pair[0], "c"),
        after_clarity_db=_known(pair[1], "c"), words=words, shown=shown)


def _known(found: Ringing | None, what: str) -> tuple[float | None, ...]:
    if found is None:
        return (None,) * len(OCTAVES_HZ)
    values: Floats = {"t": found.t_s, "u": 1.96 * found.uncertainty_s, "c": clarity_db(found.t_s)}[what]
    return tuple(round(float(v), 1 if what == "c" else 3) if np.isfinite(v) else None for v in values)


def echo_state(goal: Goal, doc: JobDocument, before: Round | None, after: Round | None) -> GoalState | None:
    """Whether a goal of T is met: for certain, as read, or not; None while nobody can tell."""
    a, b = (None if r is None else reverberation(doc, r.id, goal.position_id) for r in (before, after))
    if b is None or (goal.aim == "change by" and a is None):
        return None
    margin, half = (goal.value - b[0], b[1]) if goal.aim == "reach" or a is None else (
        a[0] - b[0] - goal.value, math.hypot(a[1], b[1]))
    return "met" if margin >= half else "met as read" if margin >= 0 else "not met"


def echo_sentence(found: EchoChange | None, goal: Goal | None, state: GoalState | None) -> str:
    """The headline where the goal is a shorter ring of the room."""
    if found is None:
        return "Record a clap, a balloon or a noise that stops in the room, before and after."
    tail = "" if state is None or goal is None else f" Goal of {goal.value:g} s {state}."
    return f"The room {found.words}.{tail}" if found.shown else f"{found.words[:1].upper()}{found.words[1:]}.{tail}"
