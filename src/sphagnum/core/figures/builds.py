"""The builds of a job, worked out: their parts and goods, what they add, what they take off, how long a room rings with them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..builds.absorbers import AbsorbersIn, absorbers
from ..builds.model import Built, Part
from ..builds.rows import Build
from ..builds.windows import window
from ..errors import BadInput
from ..levels.bands import Floats
from ..levels.decay import OCTAVES_HZ
from ..paths.rows import Path
from .goods import Good
from .job_figures import JobFigures, once
from .rings import MIDDLE, ringing_in

FRAME_MINUTES, FILL_MINUTES, HANG_MINUTES = 25.0, 15.0, 15.0
"""Of one absorber: boards glued and pinned, filled and covered, hung. House figures, judged."""
MODEL_SHARE = 0.15
"""How well a T is known that is computed with absorbers, standard, of itself: a judgement."""


class Worked(NamedTuple):
    """A build worked out, or the sentence that says why it cannot be."""

    build: Build
    built: Built | None
    problem: str = ""


def worked(job: JobFigures, build: Build) -> Worked:
    """A build of a job. A room that was recorded as found rings as it was read."""
    return _worked(job, build.id)


@once
def _worked(job: JobFigures, number: int) -> Worked:
    build = next(b for b in job.doc.builds if b.id == number)
    given = build.given
    try:
        if isinstance(given, AbsorbersIn):
            return Worked(build, absorbers(_as_read(job, given), job.shelf.materials, job.shelf.rooms))
        return Worked(build, window(given, job.shelf.materials))
    except BadInput as error:
        return Worked(build, None, error.sentence)


def _as_read(job: JobFigures, given: AbsorbersIn) -> AbsorbersIn:
    found = job.doc.round_in("as found")
    read = None if found is None else ringing_in(job.doc, found.id)
    if read is None:
        return given
    times = {f"{f:g}": round(float(t), 3) for f, t in zip(OCTAVES_HZ, read.t_s, strict=True) if np.isfinite(t)}
    return given.model_copy(update={"measured_t_s": {**given.measured_t_s, **times}})


@once
def chosen_builds(job: JobFigures) -> tuple[Worked, ...]:
    """Builds of the plan that can be built."""
    return tuple(w for b in job.doc.builds if b.chosen for w in (worked(job, b),) if w.built is not None and not w.built.refused)


def parts_of(one: Worked) -> tuple[Part, ...]:
    """The parts of a build, in the order they are numbered."""
    return () if one.built is None else one.built.parts or ()


def label_of(one: Worked, part: Part) -> str:
    """How a part is labelled among all pieces of a job."""
    return f"B{one.build.id}-{part.id}"


def goods_of_build(one: Worked) -> tuple[Good, ...]:
    """What is bought by the metre or piece for it; a window's seal is priced with its remedy."""
    if one.built is None or one.built.remedies is not None:
        return ()
    return tuple(Good(g.material, g.amount, one.build.name) for g in one.built.goods)


def minutes_of(one: Worked) -> tuple[float, ...]:
    """Minutes of each of its steps: absorbers framed, filled, hung; a window's remedies fitted."""
    count = 0 if one.built is None else one.built.count or 0
    if count:
        return FRAME_MINUTES * count, FILL_MINUTES * count, HANG_MINUTES * count
    return (60.0 * len(one.built.remedies or ()),) if one.built is not None and one.built.remedies else ()


def with_builds(job: JobFigures, planned: Floats) -> Floats:
    """Levels of paths, dB per band, less what the builds of the plan take off: absorbers of all that is heard in the room, a
    window of what comes through it. A standardised difference is of a room that rings for half a second, whatever hangs there."""
    goal = job.doc.goal
    for one in chosen_builds(job):
        effect = None if one.built is None else one.built.effect_db
        if effect is None:
            continue
        if goal is not None and goal.quantity == "DnT" and one.build.path_id is None:
            continue
        planned = np.array([row - np.array(effect) if acts_on(one, path) else row
                            for path, row in zip(job.doc.paths, planned, strict=True)]).reshape(planned.shape)
    return planned


def acts_on(one: Worked, path: Path) -> bool:
    """Whether a build takes something off what comes by a path: absorbers off all, a window off the way in it is."""
    if one.build.path_id is not None:
        return path.id == one.build.path_id
    return one.built is not None and one.built.count is not None


@once
def time_ahead(job: JobFigures) -> tuple[float, float] | None:
    """T in the middle octaves with the absorbers of the plan, s, and half of its 95 % interval; None without any."""
    built = [w.built for w in chosen_builds(job) if w.built is not None and w.built.reverberation_s is not None]
    goal = job.doc.goal
    if not built or goal is None or goal.quantity != "T":
        return None
    times = [then for _, then in (built[0].reverberation_s or {}).values()]  # one room, one set of absorbers
    mean = float(np.mean(times[MIDDLE]))
    return round(mean, 3), round(1.96 * MODEL_SHARE * mean, 3)
