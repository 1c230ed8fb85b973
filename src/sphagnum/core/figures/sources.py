"""Spectra of a job: what was read in bands at a place, and what meets the paths in a condition."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..job.document import JobDocument
from ..job.shelf import Shelf
from ..levels.bands import SPAN, Floats
from ..levels.decibels import band_means
from ..levels.rows import Condition
from .job_figures import JobFigures, once


class Source(NamedTuple):
    """What meets the paths, dB per band, in which condition, from where; whether it was read near the source."""

    levels: Floats
    condition: str
    name: str
    measured: bool


def bands_read(doc: JobDocument, position_id: int, condition_id: int) -> Floats | None:
    """Energy mean of the bands read as found at a place in a condition, 21 bands; None where not all were read."""
    found = doc.round_in("as found")
    return None if found is None else bands_in(doc, found.id, position_id, condition_id)


def bands_in(
    doc: JobDocument, round_id: int, position_id: int, condition_id: int, background: bool = False
) -> Floats | None:
    """Energy mean of the bands read in a round at a place in a condition, 21 bands; None where not all were read."""
    rows = [r.bands_db[SPAN] for r in doc.readings if r.bands_db and r.background is background and not r.relative
            and (r.round_id, r.position_id, r.condition_id) == (round_id, position_id, condition_id)]
    full = [row for row in rows if None not in row]
    return np.array(band_means(full), dtype=float) if full else None


def levels_in(shelf: Shelf, condition: Condition | None) -> Floats:
    """A condition's spectrum as it was typed, else a shipped one at its speed, dB in 21 bands; of none the usual one."""
    if condition is None:
        return shelf.source("", None)
    return np.array(condition.spectrum_db) if condition.spectrum_db is not None else shelf.source(
        condition.spectrum, condition.speed_km_h)


@once
def source_of(job: JobFigures) -> Source:
    """The spectrum that meets the paths in the headline's condition: as typed, as read near the source, else a shipped one."""
    goal = job.doc.goal
    condition = next((c for c in job.doc.conditions if goal and c.id == goal.condition_id), None)
    condition = condition or (job.doc.conditions[0] if job.doc.conditions else None)
    if condition is None:
        return Source(job.shelf.spectra["pink"].levels(), "", job.shelf.spectra["pink"].name, False)
    if condition.spectrum_db is not None:
        return Source(levels_in(job.shelf, condition), condition.name, "spectrum as typed", False)
    for position in job.doc.positions:
        read = bands_read(job.doc, position.id, condition.id) if position.at_source else None
        if read is not None:
            return Source(read, condition.name, f"read at {position.name}", True)
    spectrum = job.shelf.spectra.get(condition.spectrum, job.shelf.spectra["pink"])
    speed = condition.speed_km_h or spectrum.at_km_h
    at = "" if speed is None else f" at {speed:g} km/h"
    return Source(levels_in(job.shelf, condition), condition.name, f"{spectrum.name}{at}", False)
