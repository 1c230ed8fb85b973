"""How panels ring before and after: decay times and loss factors of the same knocks in two rounds."""

from __future__ import annotations

import math

from ...figures.rings import knocks_at
from ...job.document import JobDocument
from ...levels.rows import Goal, Knock, Round
from ...schema import Strict
from ...words import in_a_row, percent, signed


class RingChange(Strict):
    """A place knocked in both rounds (or one): frequency Hz, decay time s, loss factor; mean over its recordings."""

    position: str
    frequency_hz: tuple[float | None, float | None]
    decay_time_s: tuple[float | None, float | None]
    loss_factor: tuple[float | None, float | None]
    shown: bool
    words: str
    struck: str
    """Peak, low and high share of the blow itself (a slam, a knock), where the recordings tell."""


def ring_changes(doc: JobDocument, before: Round | None, after: Round | None) -> tuple[RingChange, ...]:
    """Every place where somebody knocked in either round."""
    out = []
    for p in doc.positions:
        pair = [knocks_at(doc, r.id, p.id) if r is not None else [] for r in (before, after)]
        if any(pair):
            out.append(_change(p.name, pair[0], pair[1]))
    return tuple(out)


def _change(name: str, a: list[Knock], b: list[Knock]) -> RingChange:
    def mean(rows: list[Knock], field: str) -> float | None:
        known = [v for k in rows if (v := getattr(k, field)) is not None]
        return round(sum(known) / len(known), 4) if known else None
    times = mean(a, "decay_time_s"), mean(b, "decay_time_s")
    shown, words = False, "knock in both rounds"
    if times[0] is not None and times[1] is not None:
        spread = math.hypot(*(max(k.deviation_s or 0.1 * k.decay_time_s for k in rows) for rows in (a, b)))
        shown = abs(times[0] - times[1]) > 2 * spread
        words = (f"rings {times[1]:.2f} s instead of {times[0]:.2f} s" if shown
                 else f"no change shown: {times[0]:.2f} s, then {times[1]:.2f} s")
    return RingChange(position=name, frequency_hz=(mean(a, "frequency_hz"), mean(b, "frequency_hz")), decay_time_s=times,
                      loss_factor=(mean(a, "loss_factor"), mean(b, "loss_factor")), shown=shown, words=words,
                      struck=_struck([(mean(r, "peak_db"), mean(r, "low_share"), mean(r, "high_share")) for r in (a, b)]))


def _struck(pair: list[tuple[float | None, float | None, float | None]]) -> str:
    parts = []
    (peak_a, low_a, high_a), (peak_b, low_b, high_b) = pair
    if peak_a is not None and peak_b is not None:
        parts.append(f"peak {signed(peak_b - peak_a)} dB")
    for name, before, after in (("up to 250 Hz", low_a, low_b), ("from 1 kHz on", high_a, high_b)):
        if before is not None and after is not None:
            parts.append(f"{name} {percent(before)}, then {percent(after)}")
    return "; ".join(parts)


def ring_goal_met(goal: Goal | None, rings: tuple[RingChange, ...]) -> bool | None:
    """Whether the first place that was knocked in both rounds reaches the goal (ms, or shorter by ms)."""
    first = next((r for r in rings if None not in r.decay_time_s), None)
    if goal is None or first is None or first.decay_time_s[0] is None or first.decay_time_s[1] is None:
        return None
    before, after = (1e3 * t for t in (first.decay_time_s[0], first.decay_time_s[1]))
    return after <= goal.value if goal.aim == "reach" else before - after >= goal.value


def ring_sentence(rings: tuple[RingChange, ...], goal: Goal | None, met: bool | None) -> str:
    """The headline where the goal is a shorter ring."""
    first = next((r for r in rings if None not in r.decay_time_s), None)
    if first is None:
        return "Knock on the same panels before and after, and record it."
    tail = "" if met is None or goal is None else f" Goal of {goal.value:g} ms {'met' if met else 'not met'}."
    return f"{in_a_row([first.position])} {first.words}.{tail}"
