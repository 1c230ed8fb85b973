"""A box round a machine as one: its walls, openings and inner faces belong to one balance of power per band."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from ..job.document import JobDocument
from ..job.shelf import Shelf
from ..levels.bands import PREDICTED_HZ, Floats
from ..materials.families.porous import Porous
from ..materials.model import to_layers
from ..materials.table import family
from ..paths.enclosure import BARE_ALPHA, BARE_ALPHA_RANGE, HoodIn, box_area_m2, box_loss_db, close_fit_below, let_out, parse_hood
from ..paths.rows import Measure, Path
from ..stacks.absorption import LiningLayer, before_a_wall, face_alpha
from ..surfaces.geometry import areas
from ..surfaces.patches import Patch, patches
from ..surfaces.rows import Surface
from ..worded import of
from ..words import listed
from .job_figures import JobFigures, once
from .lays import Lay, Placed, panel_loss, planned_lay, present_lay
from .ways import cap_of, is_opening, leaks_cm2

Instead = tuple[int, str, Lay]
"""A surface's number, a zone of it, and what lies there instead of what is planned."""


class Wall(NamedTuple):
    """A part of a box: its area, what it lets out and takes up inside (m², 21 bands), and what its close fit lets out as a share
    of its area (21); whether it lets anything be judged of its inner face, m²."""

    area_m2: float
    leaving_m2: Floats
    absorbed_m2: Floats
    close: Floats
    bare_m2: float


class BoxFigures(NamedTuple):
    """The places of a box's paths among those of the job, what leaves by each now and as planned, dB of what its machine gives
    off (paths, 21); and how little is known of the whole because the absorption of bare faces is judged, dB."""

    paths: tuple[int, ...]
    now_db: Floats
    planned_db: Floats
    judged_db: float


def box_paths(doc: JobDocument) -> tuple[int, ...]:
    """Places of the paths that make up a box: of an enclosure all its walls and openings; none where it has no wall."""
    if doc.job.kind != "enclosure" or not any(p.surface_id is not None for p in doc.paths):
        return ()
    return tuple(i for i, p in enumerate(doc.paths) if p.level_dba is None and not p.unknown)


@once
def box_of(job: JobFigures) -> BoxFigures | None:
    """The balance of a job's box; None where it has none. Raises BadInput naming a layer no model covers.

    Power balance of a diffuse field: of what goes in τᵢ·Sᵢ/(A + Στ·S) leaves by each part, so that the whole lets out
    IL = 10·lg(1 + A/Στ·S) less than goes in. Walls that do not stand have R = 0 and take up nothing: what was read is then shared
    by the area each shows.
    """
    places = box_paths(job.doc)
    if not places:
        return None
    refuse_twice(job)
    now, then = ([wall_of(job, i, planned) for i in places] for planned in (False, True))
    rest = rest_m2(job)
    stands = [any(w.absorbed_m2.any() for w in walls) for walls in (now, then)]
    return BoxFigures(places, out_db(now, BARE_ALPHA * rest * stands[0]), out_db(then, BARE_ALPHA * rest * stands[1]),
                      _judged_db(then, rest * stands[1]))


@once
def rest_m2(job: JobFigures) -> float:
    """Inner faces of the box that are no way out of it, as its floor, m²: known where the desk knows its size."""
    given = hood_kept(job.doc)
    if given is None:
        return 0.0
    return max(box_area_m2(given) - sum(wall_of(job, i, True).area_m2 for i in box_paths(job.doc)), 0.0)


def rest_absorbed_m2(job: JobFigures) -> float:
    """What those faces take up once the box stands, m²."""
    return BARE_ALPHA * rest_m2(job)


TWICE = 1.5
"""Walls of so many times the faces the desk knows of are those of two boxes."""


def refuse_twice(job: JobFigures) -> None:
    """Raises BadInput where one box is counted more than once: by its walls, and by a measure of the desk, or by other walls."""
    measure = next((m for m in job.doc.measures if m.chosen and (m.calculation == "hood" or _as_kept(job.doc, m))), None)
    if measure is not None:
        raise BadInput(f"the box is counted twice: by its walls, and by '{measure.name}'", "measures",
                       "leave that measure out of the plan, or take the walls out of the ways in")
    given = hood_kept(job.doc)
    walls = {s.id: areas(s).gross_m2 * s.count for s in job.doc.surfaces if any(p.surface_id == s.id for p in job.doc.paths)}
    planned = [s.name for s in job.doc.surfaces if s.planned and s.id in walls]
    stand = [s.name for s in job.doc.surfaces if not s.planned and s.id in walls]
    if given is not None and planned and stand and sum(walls.values()) > TWICE * box_area_m2(given):
        raise BadInput(f"the box is counted twice: walls of {of(sum(walls.values()), 'm²', '.1f')} are listed, and it has "
                       f"{of(box_area_m2(given), 'm²', '.1f')}", "paths", f"take out {listed(stand)} or {listed(planned)}")


def _as_kept(doc: JobDocument, measure: Measure) -> bool:
    """Whether a measure takes off what the box kept from the desk does."""
    given = hood_kept(doc)
    if given is None or measure.effect_bands_db is None or measure.at == "path":
        return False
    return bool(np.allclose(measure.effect_bands_db, box_loss_db(given, np.array([given.vent_cm2 / 1e4]))[0], atol=0.02))


def out_db(walls: list[Wall], more_m2: float = 0.0) -> Floats:
    """What leaves by each part of a box, dB of what its machine gives off, (parts, 21); ``more_m2``: taken up besides."""
    leaving = np.array([w.leaving_m2 for w in walls])
    stands = sum(w.area_m2 for w in walls if w.close.any())
    close = np.array([w.close * w.area_m2 / stands if stands else w.close for w in walls])
    return let_out(leaving, np.sum([w.absorbed_m2 for w in walls], axis=0) + more_m2, close)


def _judged_db(walls: list[Wall], rest_m2: float) -> float:
    """What the range of the absorption of bare faces makes of the whole, standard uncertainty, dB, the mean over the bands."""
    bare = sum(w.bare_m2 for w in walls)
    if bare + rest_m2 == 0:
        return 0.0
    low, high = (float(np.mean(10 * np.log10(np.sum(10 ** (
        out_db(walls, (alpha - BARE_ALPHA) * bare + alpha * rest_m2) / 10), axis=0))))
                 for alpha in BARE_ALPHA_RANGE)
    return abs(low - high) / math.sqrt(12)


@once
def wall_of(job: JobFigures, i: int, planned: bool, instead: Instead | None = None) -> Wall:
    """A part of a box by the place of its path, now or as planned; ``instead`` lies something else on a zone of it."""
    path = job.doc.paths[i]
    open_m2 = leaks_cm2(job.doc, path)[planned] / 1e4
    nothing = np.zeros(len(PREDICTED_HZ))
    if is_opening(path):
        return Wall(open_m2, nothing + open_m2, nothing, nothing, 0.0)
    if path.transmission_loss_db is not None:
        given = (path.planned_transmission_loss_db if planned else None) or path.transmission_loss_db
        area = path.area_m2 or 1.0
        return Wall(area, _through(job, path, np.array(given), area, open_m2), nothing + BARE_ALPHA * area, nothing, area)
    surface = next(s for s in job.doc.surfaces if s.id == path.surface_id)
    whole = path.area_m2 or areas(surface).gross_m2 * surface.count
    parts = [(patch, instead[2] if instead is not None and instead[:2] == (surface.id, patch.zone)
              else planned_lay(job.doc, patch) if planned else present_lay(job.doc, patch)) for patch in patches(surface)]
    tau = absorbed = close = nothing
    bare = 0.0
    for patch, lay in parts:
        loss, found = panel_loss(patch, lay, job.shelf)
        tau = tau + patch.share * 10 ** ((patch.excitation_db - loss) / 10)
        if not lay.nothing:
            face, open_share = inner_face(patch, lay, job.shelf)
            absorbed = absorbed + whole * patch.share * face
            bare += whole * patch.share * open_share
            close = close + patch.share * close_fit(job, found.surface_mass_kg_m2)
    return Wall(whole, _through(job, path, -10 * np.log10(tau), whole, open_m2), absorbed, close, bare)


def walls_with(job: JobFigures, surface: Surface, zone: str, lay: Lay) -> Floats:
    """What leaves by each part of a job's box as planned, dB (paths of the box, 21), with another lay on a zone of a wall."""
    walls = [wall_of(job, i, True, (surface.id, zone, lay)) if job.doc.paths[i].surface_id == surface.id
             else wall_of(job, i, True) for i in box_paths(job.doc)]
    return out_db(walls, rest_absorbed_m2(job))


def _through(job: JobFigures, path: Path, loss_db: Floats, area_m2: float, open_m2: float) -> Floats:
    """What a wall lets out by itself and by what is open in it, m², held by what comes round it and weighed by how much louder it
    is there."""
    share = min(open_m2 / area_m2, 1.0)
    tau = 10 ** (-loss_db / 10) * (1 - share) + share
    cap = cap_of(job, path).db
    return np.asarray(np.maximum(tau, 10 ** (-cap / 10) if cap is not None else 0.0) * area_m2)


def inner_face(patch: Patch, lay: Lay, shelf: Shelf) -> tuple[Floats, float]:
    """Absorption of the face of a wall that looks into its box (21 bands, 0–1), and the share of it that is bare and hard.

    That is the source's side where something is laid there, else the side that is lined. What is kept clear stays bare.
    """
    found = face_absorption(lay, shelf, inside=True)
    if found is None:
        return np.full(len(PREDICTED_HZ), BARE_ALPHA), 1.0
    top = _face(lay, inside=True)[0]
    covered = lay.share(patch, top, shelf)
    return covered * found + (1 - covered) * BARE_ALPHA, 1 - covered


def _face(lay: Lay, inside: bool) -> list[Placed]:
    """What lies on the inner side (or the listener's) from its face down."""
    far = [p for p in lay.placed if p.far]
    return far if inside and far else [p for p in reversed(lay.placed) if not p.far]


def face_absorption(lay: Lay, shelf: Shelf, inside: bool = False) -> Floats | None:
    """Diffuse absorption of the open face on the listener's side, or ``inside`` a box, 21 bands; None where it is no absorber."""
    face: list[LiningLayer] = []
    for one in _face(lay, inside):
        material = shelf.material(one.layer.material)
        if material.acts in ("line", "thing"):
            continue
        if not material.lies or not all(family(p.family).absorbs for p, _ in material.each_part()):
            break
        for made in reversed(to_layers(material, one.layer.thickness_mm)):
            face.append(before_a_wall(made) if isinstance(made, Porous) else made)  # type: ignore[arg-type]
    return face_alpha(tuple(face))


def hood_kept(doc: JobDocument) -> HoodIn | None:
    """The box last worked out on the desk and kept with the job; None where there is none that can be read."""
    kept = next((c for c in reversed(doc.calculations) if c.calculation == "hood"), None)
    if kept is None:
        return None
    try:
        return parse_hood(dict(kept.form))
    except BadInput:
        return None


@once
def _gap_m(job: JobFigures) -> float | None:
    found = hood_kept(job.doc)
    return None if found is None else found.gap_mm / 1e3


@once
def _longest_m(job: JobFigures) -> float:
    walls = {p.surface_id for p in job.doc.paths}
    return max(max(areas(s).width_mm, areas(s).height_mm) for s in job.doc.surfaces if s.id in walls) / 1e3


def close_fit(job: JobFigures, mass_kg_m2: float) -> Floats:
    """What a wall close to its machine lets out below the limit of that, a share of its area; nothing where no gap is known."""
    gap = _gap_m(job)
    return np.zeros(len(PREDICTED_HZ)) if gap is None else (
        close_fit_below(np.array(PREDICTED_HZ), mass_kg_m2, gap, _longest_m(job)))
