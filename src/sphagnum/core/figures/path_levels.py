"""The budget in bands: what arrives by each path now and as planned, held to what was read and to what tests say."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from ..job.document import JobDocument
from ..levels.bands import PREDICTED_A_DB, PREDICTED_HZ, Floats
from ..levels.decibels import a_weighted, energy, energy_sums
from ..levels.rows import QUANTITIES
from ..paths.correct import MODEL_DB, Corrected, corrected
from ..paths.flanking import FlankFigures
from ..paths.measured import PathTest, path_tests
from ..paths.rows import Path
from ..surfaces.geometry import areas
from ..surfaces.patches import patches
from ..surfaces.rows import Surface
from .boxes import BoxFigures, box_of, box_paths, walls_with
from .builds import with_builds
from .flanks import flank_of
from .job_figures import JobFigures, once, once_of_surface
from .lays import MOUNTED_LOSS, Lay, mounted_loss, panel_loss, planned_lay, present_lay, shaken_change_db, surface_loss
from .measures import with_measures
from .readings import repeatability
from .rounds import heard_at
from .sources import Source, bands_read, source_of
from .ways import cap_of, leaks_cm2

MOST_SHAPING_DB = 15.0
"""How far a band of an assumed spectrum may be moved from its neighbours to meet what was read."""


class Rows(NamedTuple):
    """Band levels at the listener per path, shape (paths, 21), dB, now and planned; NaN rows are unknown."""

    now: Floats
    planned: Floats
    problems: list[str]
    offset_db: float
    calibrated: bool
    by_band: bool
    model: Floats
    """A-weighted levels before tests corrected them."""
    tests: list[PathTest]
    correction: Corrected | None
    model_db: Floats
    """How sure the model is of each path, standard uncertainty, dB: of a stack half its expected error."""
    bare_planned: Floats
    """As planned without what measures take off, (paths, 21)."""


@once
def path_rows(job: JobFigures) -> Rows:
    """Levels of every path: modelled, scaled to the reading as found, corrected by tests; planned with measures chosen."""
    source, boxed = source_of(job), bool(box_paths(job.doc))
    now, planned, problems = [], [], []
    for path in job.doc.paths:
        try:
            a, b = _path_levels(job, path, source.levels) if boxed else _own_levels(job, path)
            problem = ""
        except BadInput as error:
            a = b = np.full(len(PREDICTED_HZ), math.nan)
            problem = error.sentence
        now.append(a)
        planned.append(b)
        problems.append(problem)
    shape = (len(job.doc.paths), len(PREDICTED_HZ))
    first, then = np.array(now).reshape(shape), np.array(planned).reshape(shape)
    given = np.array([p.level_dba is not None or p.unknown for p in job.doc.paths], dtype=bool)
    shaping, by_band = _shaping(job.doc, first, given, source)
    first[~given], then[~given] = first[~given] + shaping, then[~given] + shaping
    offset = _offset(job, first, given)
    if offset is not None:
        first[~given], then[~given] = first[~given] + offset, then[~given] + offset
    model = a_levels(first)
    known = len(model) and np.isfinite(model).any()
    tests = path_tests(job.doc.paths, job.doc.block_offs, job.doc.substitutions, repeatability(job),
                       10 * math.log10(float(energy(model).sum())) if known else None)
    sure = np.array([_model_db(job, p) for p in job.doc.paths])
    found = corrected(model, tests, sure) if tests and offset is not None else None
    if found is not None:
        first, then = first + found.shift_db[:, None], then + found.shift_db[:, None]
    bare = then
    then = with_builds(job, with_measures(job.doc, then))
    shift = float(np.mean(shaping)) if by_band else 0.0
    return Rows(first, then, problems, (offset or 0.0) + shift, offset is not None, by_band, model, tests, found, sure, bare)


@once_of_surface
def _own_levels(job: JobFigures, path: Path) -> tuple[Floats, Floats]:
    """Levels of a path that is part of no box."""
    return _path_levels(job, path, source_of(job).levels)


@once_of_surface
def _model_db(job: JobFigures, path: Path) -> float:
    surface = job.doc.surface(path.surface_id)
    if surface is None:
        return MODEL_DB
    try:
        stands = planned_lay(job.doc, surface) if surface.planned else present_lay(job.doc, surface)
        return panel_loss(surface, stands, job.shelf)[1].expected_error_db / 2
    except BadInput:
        return MODEL_DB


def change_db(job: JobFigures, path: Path, lay: Lay, zone: str = "") -> Floats:
    """By how much the level through a path changes per band with a lay on its surface (on a zone of it), dB; measures
    elsewhere are not counted."""
    before, after = _path_levels(job, path, source_of(job).levels, (zone, lay))
    return np.asarray(after - before)


class Through(NamedTuple):
    """How a path through a surface carries sound on: what meets it, its area, its cap, what of it is shaken, dB and m²."""

    incident_db: Floats
    area_m2: float
    absorption_m2: float
    cap_db: float | None
    shaken_share: float = 0.0
    flank: FlankFigures | None = None
    """Of a way round a wall: what its leaf's R makes of it."""

    def levels(self, loss_db: Floats, leak_cm2: float) -> Floats:
        """Levels at the listener, dB, of losses of its surface with an open area; any shape of bands last."""
        if self.flank is not None:
            loss_db = self.flank.loss(loss_db)
        open_share = min(leak_cm2 / 1e4 / self.area_m2, 1.0)
        tau = 10 ** (-loss_db / 10) * (1 - open_share) + open_share
        most = 10 ** (-self.cap_db / 10) if self.cap_db is not None else 0.0
        loss = -10 * np.log10(np.maximum(tau, most))
        return np.asarray(self.incident_db - loss + 10 * math.log10(self.area_m2 / self.absorption_m2))


def shaken(now_db: Floats, then_db: Floats, less_db: Floats, share: float) -> Floats:
    """Levels with the share of them that is shaken, which falls by ``less_db`` from what it is now."""
    return np.asarray(10 * np.log10((1 - share) * 10 ** (then_db / 10) + share * 10 ** ((now_db - less_db) / 10)))


def through_surface(job: JobFigures, path: Path, surface: Surface) -> Through:
    """How a path through a surface of the job carries what meets it."""
    if path.flank is not None:
        flank = flank_of(job, path, path.flank)
        return Through(source_of(job).levels + path.incident_offset_db, flank.area_m2, job.doc.job.absorption_m2, path.cap_db,
                       flank=flank)
    return Through(source_of(job).levels + path.incident_offset_db, path.area_m2 or areas(surface).gross_m2 * surface.count,
                   job.doc.job.absorption_m2, cap_of(job, path).db, 0.0 if surface.planned else path.shaken_share)


def _path_levels(
    job: JobFigures, path: Path, incident: Floats, instead: tuple[str, Lay] | None = None
) -> tuple[Floats, Floats]:
    source = incident + path.incident_offset_db
    box = box_of(job)
    if box is not None and (i := job.doc.paths.index(path)) in box.paths:
        return _box_levels(job, path, source, box, box.paths.index(i), instead)
    absorption = job.doc.job.absorption_m2
    if path.unknown:
        silent = np.full(len(PREDICTED_HZ), -math.inf)
        return silent, silent
    if path.level_dba is not None:
        planned = path.level_dba if path.planned_level_dba is None else path.planned_level_dba
        return _at_low_bands(path.level_dba), _at_low_bands(planned)
    open_now, open_then = leaks_cm2(job.doc, path)
    if path.transmission_loss_db is not None:
        through = Through(source, path.area_m2 or 1.0, absorption, cap_of(job, path).db)
        then = path.planned_transmission_loss_db or path.transmission_loss_db
        return (through.levels(np.array(path.transmission_loss_db), open_now), through.levels(np.array(then), open_then))
    if path.surface_id is None and path.flank is not None:
        flank = flank_of(job, path, path.flank)
        through = Through(source, flank.area_m2, absorption, path.cap_db, flank=flank)
        level = through.levels(flank.leaf_db, 0.0)
        return level, level
    if path.surface_id is None:
        return _leak(source, open_now, absorption), _leak(source, open_then, absorption)
    surface = job.doc.surface(path.surface_id)
    assert surface is not None  # a path's surface is one of its job
    through = through_surface(job, path, surface)
    before = through.levels(surface_loss(job.doc, surface, job.shelf, False), open_now)
    after = through.levels(surface_loss(job.doc, surface, job.shelf, True, instead), open_then)
    if through.shaken_share:
        after = shaken(before, after, _shaken(job, surface, instead), through.shaken_share)
    return before, after


def _box_levels(
    job: JobFigures, path: Path, source: Floats, box: BoxFigures, k: int, instead: tuple[str, Lay] | None
) -> tuple[Floats, Floats]:
    """Levels by a part of a box, now and as planned."""
    before, after = source + box.now_db[k], source + box.planned_db[k]
    if path.surface_id is None:
        return before, after
    surface = job.doc.surface(path.surface_id)
    assert surface is not None  # a path's surface is one of its job
    if instead is not None:
        after = source + walls_with(job, surface, *instead)[k]
    share = 0.0 if surface.planned else path.shaken_share
    return before, shaken(before, after, _shaken(job, surface, instead), share) if share else after


def _shaken(job: JobFigures, surface: Surface, instead: tuple[str, Lay] | None) -> Floats:
    """By how much less a shaken surface radiates as planned, dB: of its patches by their area."""
    mounted = mounted_loss(job.doc, surface) or MOUNTED_LOSS
    energies = []
    for patch in patches(surface):
        then = instead[1] if instead is not None and instead[0] == patch.zone else planned_lay(job.doc, patch)
        less = shaken_change_db(patch, present_lay(job.doc, patch), then, job.shelf, mounted)
        energies.append(patch.share * 10 ** (-less / 10))
    return np.asarray(-10 * np.log10(np.sum(energies, axis=0)))


def _leak(source: Floats, cm2: float, absorption: float) -> Floats:
    if cm2 == 0:
        return np.full(source.shape, -math.inf)
    return np.asarray(source + 10 * math.log10(cm2 / 1e4 / absorption))


LOW_BANDS_HZ = (50.0, 250.0)
"""Where the energy of a level known only in dB(A) is taken to lie, evenly as the ear weighs it: of structure-borne sound."""


def _at_low_bands(level_dba: float) -> Floats:
    """A level known only as dB(A), spread over the low bands so that it weighs what it is."""
    low = [i for i, f in enumerate(PREDICTED_HZ) if LOW_BANDS_HZ[0] <= f <= LOW_BANDS_HZ[1]]
    out = np.full(len(PREDICTED_HZ), -math.inf)
    out[low] = level_dba - 10 * math.log10(len(low)) - np.array(PREDICTED_A_DB)[low]
    return out


def _shaping(doc: JobDocument, now: Floats, given: np.typing.NDArray[np.bool_], source: Source) -> tuple[Floats, bool]:
    """dB per band by which an assumed source must differ from its shape, where bands were read at the listener."""
    none = np.zeros(len(PREDICTED_HZ))
    goal, airborne = doc.goal, now[~np.isnan(now).any(axis=1) & ~given]
    between = goal is not None and QUANTITIES[goal.quantity].between_rooms  # the difference read, band by band, is what is known
    read = None if goal is None or (source.measured and not between) else bands_read(doc, goal.position_id, goal.condition_id)
    if read is None or not airborne.size:
        return none, False
    total = 10 * np.log10(np.maximum(np.sum(10 ** (airborne / 10), axis=0), 1e-30))
    off = read - total
    middle = float(np.median(off))
    return np.clip(off, middle - MOST_SHAPING_DB, middle + MOST_SHAPING_DB), True


ADDS_UP_DB = 1.0


def _offset(job: JobFigures, now: Floats, given: np.typing.NDArray[np.bool_]) -> float | None:
    """dB to add to all airborne paths so that the whole meets the level as found; None where that is not possible."""
    goal = job.doc.goal
    if goal is None or not len(now):
        return None
    read = heard_at(job, goal, job.doc.round_in("as found"))
    known = ~np.isnan(now).any(axis=1)
    airborne, fixed = now[known & ~given], now[known & given]
    if read is None:
        return None
    if not airborne.size:  # ways known by their levels are held to the reading where they add up to it
        whole = float(10 * np.log10(np.sum(energy(a_levels(fixed))))) if fixed.size else -math.inf
        return 0.0 if abs(whole - read[0]) <= ADDS_UP_DB else None
    rest = 10 ** (read[0] / 10) - (float(np.sum(energy([a_weighted(r) for r in fixed]))) if fixed.size else 0.0)
    total = a_weighted(airborne)
    return 10 * math.log10(rest) - total if rest > 0 and math.isfinite(total) else None


def a_levels(rows: Floats) -> Floats:
    """A-weighted level per path; −inf where unknown, so that unknown paths add nothing."""
    return np.where(np.isnan(rows).any(axis=-1), -math.inf, energy_sums(rows + PREDICTED_A_DB))
