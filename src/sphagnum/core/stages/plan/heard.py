"""A plan to hear: what arrives at the listener per band now and with it, and how that is best listened to."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ...errors import BadInput
from ...figures.job_figures import JobFigures
from ...figures.outlook import outlook
from ...figures.path_levels import path_rows
from ...figures.sources import source_of
from ...levels.bands import PREDICTED_HZ, Floats
from ...levels.decibels import a_weighted, energy
from ...levels.hearing import FULL_SCALE_DB, Character, HearInput
from ...schema import Strict

LOUDEST_DB = 75.0
"""A band of what is not calibrated stands at most here."""
QUIETEST_DB = -20.0
HARMFUL_DBA = 80.0
"""From here on hours of it a day harm hearing (the lower action value of working places in Europe, recalled)."""
LOW_HZ = 200.0


class BandsHeard(NamedTuple):
    """Levels at the listener before and after, dB (21 bands); ``level`` whether they are as loud as they were read."""

    before_db: Floats
    after_db: Floats
    calibrated: bool


class Listening(Strict):
    """What can be listened to: levels before and after, which sound is nearest to the source, and what to mind."""

    sentence: str
    before_dba: float | None
    after_dba: float | None
    character: Character
    tone_hz: float
    room: str
    """How to listen at the level of the room; empty where that is not known."""
    cautions: tuple[str, ...]


def bands_heard(before: JobFigures, after: JobFigures) -> BandsHeard:
    """What arrives now by a job, and as planned by another state of it. BadInput where no way in has a level."""
    rows, then = path_rows(before), path_rows(after)
    known = ~np.isnan(rows.now).any(axis=1)
    if not known.any() or not energy(rows.now[known]).sum() > 0:
        raise BadInput("there is nothing to hear: no way in has a level yet", "paths", "list the ways in under Trace")
    ahead = outlook(after)
    less = 0.0 if ahead is None else ahead.lean_db  # what is heard is what is to be expected
    first, last = (10 * np.log10(np.maximum(energy(x[known]).sum(axis=0), 1e-12)) for x in (rows.now, then.planned))
    shift = 0.0 if rows.calibrated else LOUDEST_DB - float(first.max())
    return BandsHeard(np.maximum(first + shift, QUIETEST_DB), np.maximum(last + shift + less, QUIETEST_DB), rows.calibrated)


CHARACTERS: tuple[tuple[str, Character], ...] = (
    ("road", "road"), ("compressor", "hum"), ("diesel", "hum"), ("drums", "impulses"), ("generator", "hum"), ("engine", "hum"),
    ("transformer", "hum"), ("thump", "impulses"), ("impact", "impulses"), ("press", "impulses"), ("steps", "impulses"))


def listening(job: JobFigures, heard: BandsHeard) -> Listening:
    """How a change is best listened to."""
    goal = job.doc.goal
    condition = next((c for c in job.doc.conditions if goal and c.id == goal.condition_id), None)
    named = f"{condition.spectrum} {condition.name}".lower() if condition else ""
    levels = [round(a_weighted(x), 1) for x in (heard.before_db, heard.after_db)]
    low = np.array(PREDICTED_HZ) <= LOW_HZ
    share = energy(heard.before_db)[low].sum() / energy(heard.before_db).sum()
    cautions = ["Begin with the volume down; both are played at the same gain."]
    if share > 0.5:
        cautions.append("Most of it lies below 200 Hz: small loudspeakers and phones leave that out. Use headphones, or believe "
                        "the figures there.")
    if heard.calibrated and levels[0] >= HARMFUL_DBA:
        cautions.append(f"At the level of the room it is {levels[0]:.0f} dB(A): minutes, not hours.")
    room = f"Turn the volume up until a meter at your ear reads {levels[0]:.1f} dB(A) with “Before”." if heard.calibrated else ""
    change = levels[1] - levels[0]
    words = f"{abs(change):.1f} dB(A) {'quieter' if change <= 0 else 'louder'}." if abs(change) >= 0.05 else "No change to hear."
    return Listening(
        sentence=words,
        before_dba=levels[0] if heard.calibrated else None, after_dba=levels[1] if heard.calibrated else None,
        character=next((c for word, c in CHARACTERS if word in named), "noise"), tone_hz=_tone(source_of(job).levels), room=room,
        cautions=tuple(cautions))


def _tone(levels: Floats) -> float:
    """The band a source stands out in below 300 Hz: the tone of its hum."""
    low = [i for i, f in enumerate(PREDICTED_HZ) if f <= 315]
    return float(PREDICTED_HZ[max(low, key=lambda i: levels[i])])


def to_hear(heard: BandsHeard, character: Character, tone_hz: float, seconds: float, recorded: bool) -> HearInput:
    """What ``hear`` is asked: the spectra as sound of a character, or the change on a recording."""
    def bands(levels: Floats) -> dict[str, float]:
        return {f"{f:g}": round(float(x), 2) for f, x in zip(PREDICTED_HZ, levels, strict=True)}
    if recorded:
        return HearInput(recording="recording", reduction_db=bands(heard.before_db - heard.after_db), seconds=seconds)
    # what is louder than full scale is lowered alike; what is far above it says nothing to an ear
    over = max(float(heard.before_db.max()) - FULL_SCALE_DB, 0.0)
    lowered = math.ceil(over)
    return HearInput(before_db=bands(heard.before_db - lowered), after_db=bands(heard.after_db - lowered), character=character,
                     tone_hz=tone_hz, seconds=seconds)
