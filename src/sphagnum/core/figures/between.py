"""What a wall and all round it keep apart, as read: differences per band, their single numbers, what a voice is to an ear."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..builds.rooms import OCTAVE_OF
from ..levels.bands import Floats
from ..levels.decibels import a_weighted, subtract_background
from ..levels.rating import rate_predicted
from ..levels.rows import QUANTITIES, Goal, Round
from ..words import signed
from .job_figures import JobFigures, once
from .readings import group_at, source_place
from .rings import ringing_in, room_time_s
from .rounds import HALF_S
from .sources import bands_in

VOICE_DBA = 68.0
"""A raised voice in the room it is raised in (ISO 9921:2003, table A.1, recalled)."""


class BetweenRooms(NamedTuple):
    """D per band, dB, 21 bands; the ratings of it, and of D_nT where T is known, after ISO 717-1."""

    difference_db: Floats
    weighted: int | None
    standardised_weighted: tuple[int, int, int] | None
    time_s: float | None


@once
def between_rooms(job: JobFigures, goal: Goal, chosen: Round) -> BetweenRooms | None:
    """Of a round in which both rooms were read in bands; None else."""
    source = source_place(job.doc, goal) if QUANTITIES[goal.quantity].between_rooms else None
    if source is None:
        return None
    loud, quiet = (bands_in(job.doc, chosen.id, p, goal.condition_id) for p in (source.id, goal.position_id))
    if loud is None or quiet is None:
        return None
    difference = loud - _less(job, goal, chosen, quiet)
    time, read = room_time_s(job.doc, chosen.id), ringing_in(job.doc, chosen.id)
    standard = None
    if time is not None:
        octaves = np.full(6, time) if read is None else np.where(np.isfinite(read.t_s), read.t_s, time)
        standard = difference + 10 * np.log10(octaves[OCTAVE_OF] / HALF_S)
    rated = [rate_predicted(np.round(x, 1)[None, :])[0] for x in (difference, difference if standard is None else standard)]
    rw, c, ctr = rated[1][:3]
    numbers = None if standard is None or rw is None or c is None or ctr is None else (rw, c, ctr)
    return BetweenRooms(difference, rated[0][0], numbers, time)


def _less(job: JobFigures, goal: Goal, chosen: Round, quiet: Floats) -> Floats:
    """The room listened in freed of its background, where that was read in bands."""
    still = bands_in(job.doc, chosen.id, goal.position_id, goal.condition_id, background=True)
    return quiet if still is None else np.array([subtract_background(a, b)[0] for a, b in zip(quiet, still, strict=True)])


def between_words(job: JobFigures, goal: Goal, chosen: Round) -> str:
    """The single numbers of a round, and what a raised voice is understood of; empty where rooms were not read in bands."""
    found = between_rooms(job, goal, chosen)
    if found is None:
        return ""
    said = []
    if found.weighted is not None:
        said.append(f"D_w {found.weighted} dB")
    if found.standardised_weighted is not None and found.time_s is not None:
        rw, c, ctr = found.standardised_weighted
        said.append(f"D_nT,w (C; Ctr) {rw} ({signed(c, 0)}; {signed(ctr, 0)}) dB at T {found.time_s:.2f} s")
    heard = f"By bands {', '.join(said)} (ISO 16283-1, ISO 717-1)." if said else ""
    return f"{heard} {voice_words(job, goal, chosen, found)}".strip()


def voice_words(job: JobFigures, goal: Goal, chosen: Round, found: BetweenRooms) -> str:
    """What of a raised voice next door is understood, by how far it stands over the background there: classes judged."""
    still = group_at(job.doc, chosen.id, goal.position_id, goal.condition_id, goal.quantity).background_db
    voice = job.shelf.spectra["voices"].levels()
    heard = a_weighted(voice + VOICE_DBA - a_weighted(voice) - found.difference_db)
    if still is None:
        return f"A raised voice is heard there at about {heard:.0f} dB(A); read the background to know what of it is understood."
    over = heard - still
    classes = ((-10.0, "nobody hears it"), (-3.0, "it is heard as a murmur, words are not understood"),
               (3.0, "single words are understood"))
    words = next((w for most, w in classes if over < most), "every word is understood")
    way = "over" if over >= 0 else "under"
    return f"A raised voice stands {abs(over):.0f} dB {way} the background there: {words} (judged)."


def swapped(job: JobFigures, goal: Goal, chosen: Round) -> bool:
    """Whether the room the sound comes from was read lower than the one listened in."""
    source = source_place(job.doc, goal)
    groups = [] if source is None else [group_at(job.doc, chosen.id, p, goal.condition_id, goal.quantity)
                                        for p in (source.id, goal.position_id)]
    levels = [[i.level_db for i in g.items] for g in groups]
    return len(levels) == 2 and all(levels) and math.fsum(levels[0]) / len(levels[0]) < math.fsum(levels[1]) / len(levels[1])
