"""The builds of a job, worked out: their parts and goods, what they add, what they take off, how long a room rings with them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..builds.absorbers import AbsorbersIn
from ..builds.box_given import BoxIn
from ..builds.kinds import KINDS
from ..builds.model import Built, Part
from ..builds.rows import Build
from ..builds.steps import Step
from ..errors import BadInput
from ..job.document import JobDocument
from ..levels.bands import Floats
from ..levels.decay import OCTAVES_HZ
from ..paths.rows import Path
from .goods import Good
from .job_figures import JobFigures, once
from .rings import MIDDLE, ringing_in

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
    given = _as_read(job, build.given) if isinstance(build.given, AbsorbersIn) else build.given
    try:
        _refuse_twice(job, build)
        return Worked(build, KINDS[given.kind].work(given, job.shelf.materials, job.shelf.rooms))
    except BadInput as error:
        return Worked(build, None, error.sentence)


def counted_twice(doc: JobDocument, build: Build) -> str | None:
    """What counts a box of the plan in another way too: another box before it, the desk, walls among the ways in."""
    if not isinstance(build.given, BoxIn) or not build.chosen:
        return None
    other = next((b.name for b in doc.builds if b.id < build.id and b.chosen and isinstance(b.given, BoxIn)
                  and b.path_id == build.path_id), None)
    if build.path_id is not None:
        return other
    other = other or next((m.name for m in doc.measures if m.chosen and m.calculation == "hood"), None)
    return other or next((s.name for s in doc.surfaces if s.planned and doc.job.kind == "enclosure" and any(
        p.surface_id == s.id for p in doc.paths)), None)


def _refuse_twice(job: JobFigures, build: Build) -> None:
    other = counted_twice(job.doc, build)
    if other is not None:
        raise BadInput(f"the box is counted twice: by '{build.name}', and by '{other}'", "chosen",
                       "leave one of the two out of the plan")


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
    """What is bought by the metre or piece for it, as far as the shelf has it; a window's seal is priced with its remedy."""
    if one.built is None or one.built.remedies is not None:
        return ()
    return tuple(Good(g.material, g.amount, one.build.name) for g in one.built.goods)


def steps_of(one: Worked) -> list[Step]:
    """What is done for it, in order; its parts by the labels they are cut with."""
    if one.built is None:
        return []
    labelled = tuple(p.model_copy(update={"id": label_of(one, p)}) for p in parts_of(one))
    return KINDS[one.build.given.kind].steps(one.build.given, one.built.model_copy(update={"parts": labelled or None}))


def with_builds(job: JobFigures, planned: Floats) -> Floats:
    """Levels of paths, dB per band, less what the builds of the plan take off: absorbers of all that is heard in the room, a
    window of what comes through it."""
    for one in chosen_builds(job):
        planned = np.array([less_built(job.doc, row, path, one)
                            for path, row in zip(job.doc.paths, planned, strict=True)]).reshape(planned.shape)
    return planned


def less_built(doc: JobDocument, level_db: Floats, path: Path, one: Worked) -> Floats:
    """Levels of one path, dB, any shape of bands last, less what a build takes off. A standardised difference is of a room that
    rings for half a second, whatever hangs there."""
    standard = doc.goal is not None and doc.goal.quantity == "DnT" and isinstance(one.build.given, AbsorbersIn)
    return level_db if standard or not takes_off(one, path) else np.asarray(level_db - _off(one, path))


def _off(one: Worked, path: Path) -> Floats:
    """What a build takes off a path, dB per band. A path known by its level alone has no bands to weigh: it gets the whole."""
    built = one.built
    effect = np.array(built.effect_db if built is not None and built.effect_db is not None else 0.0)
    if built is not None and built.change_dba is not None and path.level_dba is not None:
        return np.full(len(effect), -built.change_dba)
    return effect


def acts_on(one: Worked, path: Path) -> bool:
    """Whether a build takes something off what comes by a path: by the way it names, or by all where its kind acts on all."""
    if one.build.path_id is not None:
        return path.id == one.build.path_id
    return KINDS[one.build.given.kind].everywhere


def takes_off(one: Worked, path: Path) -> bool:
    """Whether it has an effect, and has it there."""
    return one.built is not None and one.built.effect_db is not None and acts_on(one, path)


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
