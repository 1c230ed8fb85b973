"""Measures that are no stack: what they take off per band, as typed or as read between two rounds, and the levels they leave."""

from __future__ import annotations

import numpy as np

from ..errors import BadInput
from ..job.document import JobDocument
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.decibels import a_weighted
from ..paths.rows import Measure, Path
from ..schema import Strict
from ..words import signed
from .sources import bands_in


def measure_effect(measure: Measure) -> Floats:
    """What a measure takes off, dB per band."""
    if measure.effect_bands_db is not None:
        return np.array(measure.effect_bands_db)
    return np.full(len(PREDICTED_HZ), measure.effect_db or 0.0)


def after_measure(doc: JobDocument, levels: Floats, measure: Measure) -> Floats:
    """Levels of paths, dB per band, less what one measure takes off.

    One at the source acts on airborne sound: on a path that is structure-borne, or the part of one that a shaken panel
    radiates, only if it is said to.
    """
    return np.array([less_measure(levels[i], path, measure) for i, path in enumerate(doc.paths)]).reshape(levels.shape)


def less_measure(level_db: Floats, path: Path, measure: Measure) -> Floats:
    """Levels of one path, dB, any shape of bands last, less what a measure takes off."""
    if measure.at == "path" and path.id != measure.path_id:
        return level_db
    spared = 0.0
    if measure.at == "source" and not measure.structure_borne:
        spared = 1.0 if path.level_dba is not None else path.shaken_share
    return np.asarray(level_db + 10 * np.log10((1 - spared) * 10 ** (-measure_effect(measure) / 10) + spared))


def with_measures(doc: JobDocument, planned: Floats) -> Floats:
    """Levels of paths, dB per band, less what the measures chosen take off."""
    for measure in doc.measures:
        if measure.chosen:
            planned = after_measure(doc, planned, measure)
    return planned


class MeasuredEffect(Strict):
    """What changed per band between two rounds at the goal's place, as the effect of what was done between them, dB."""

    effect_bands_db: tuple[float, ...]
    words: str


def effect_between(doc: JobDocument, before_id: int, after_id: int) -> MeasuredEffect:
    """The effect read between two rounds at the headline's place in its condition.

    BadInput without a goal and where a round has no full spectrum there.
    """
    goal = doc.goal
    if goal is None:
        raise BadInput("there is no goal yet, so no place to compare at", "goals", "set the goal first")
    names = {r.id: r.name for r in doc.rounds}
    read = []
    for number in (before_id, after_id):
        if number not in names:
            raise BadInput(f"there is no round {number}", "rounds", "choose two rounds of this job")
        bands = bands_in(doc, number, goal.position_id, goal.condition_id)
        if bands is None:
            raise BadInput(f"'{names[number]}' has no reading in bands at the goal's place", "readings",
                           "read it with a recording, or type what the measure takes off")
        read.append(bands)
    effect = read[0] - read[1]
    gain = a_weighted(read[0]) - a_weighted(read[1])
    return MeasuredEffect(
        effect_bands_db=tuple(round(float(v), 1) + 0.0 for v in effect),
        words=f"{signed(-gain)} dB(A) from {names[before_id]} to {names[after_id]}; {signed(-effect.max())} to "
              f"{signed(-effect.min())} dB per band.")
