"""Ways round the wall of a job: the leaves that meet at a joint, and what they carry past it."""

from __future__ import annotations

import math

import numpy as np

from ..errors import BadInput
from ..materials.model import to_layers
from ..paths.flanking import JUNCTIONS, Flank, FlankFigures, Leaf, given, rigid
from ..paths.rows import Path
from ..stacks.known import predict_cached
from ..stacks.model import Stack
from ..surfaces.geometry import areas
from ..surfaces.rows import Surface
from .job_figures import JobFigures, once
from .lays import panel_loss, present_lay, surface_loss

FLOORS = ("floating floor", "common floor")
HEAVY_KG_M2, LIGHT_KG_M2 = 50.0, 120.0
"""A leaf lighter than the first is no heavy one; heavier than the second it stands on no studs. Judged."""
LONGER = 1.1
"""A joint is no longer than its wall, but for how it was taped."""
USUAL_HIGH_M = 2.6
"""Of a leaf nobody measured."""


@once
def flank_of(job: JobFigures, path: Path, flank: Flank) -> FlankFigures:
    """What a way round a wall carries. BadInput where there is no wall between the rooms, or two and nobody says which."""
    surface = job.doc.surface(path.surface_id)
    found = JUNCTIONS[flank.kind]
    wall = None if found.leaf is None else wall_of(job, path)
    _fits_the_others(job, path, flank, surface)
    if found.leaf is None or wall is None:
        return given(flank.kind, None if surface is None else surface_loss(job.doc, surface, job.shelf, False), flank.length_m)
    if surface is not None:
        leaf = _leaf(job, surface)
    else:
        material, mm = found.leaf
        stack = Stack(width_m=max(flank.length_m, 0.2), height_m=USUAL_HIGH_M,
                      layers=tuple(to_layers(job.shelf.material(material), mm)))
        usual = predict_cached(stack)
        leaf = Leaf(np.array(usual.transmission_loss_db), usual.surface_mass_kg_m2)
    return rigid(flank.kind, leaf, _leaf(job, wall), areas(wall).gross_m2 * wall.count, flank.length_m)


def _fits_the_others(job: JobFigures, path: Path, flank: Flank, surface: Surface | None) -> None:
    """BadInput where a joint says another thing than its leaf, its wall or another joint of that wall does."""
    others = [p for p in job.doc.paths if p.id != path.id and p.flank is not None and p.wall_id == path.wall_id]
    twice = next((p for p in others if surface is not None and p.surface_id == surface.id), None)
    if twice is not None and surface is not None:
        raise BadInput(f"'{path.name}' and '{twice.name}' are of one leaf, '{surface.name}'", "surface_id",
                       "a leaf runs past a wall once: take one of them out")
    floor = next((p for p in others if p.flank is not None and p.flank.kind in FLOORS and p.flank.kind != flank.kind), None)
    if flank.kind in FLOORS and floor is not None:
        raise BadInput(f"'{path.name}' and '{floor.name}' cannot both be under one wall", "flank", "say which floor it stands on")
    if surface is not None:
        weighs = _leaf(job, surface).kg_m2
        if JUNCTIONS[flank.kind].leaf is not None and weighs < HEAVY_KG_M2:
            raise BadInput(f"'{surface.name}' weighs {weighs:.0f} kg/m², which is no heavy leaf", "flank", "pick a light joint")
        if flank.kind == "studs" and weighs > LIGHT_KG_M2:
            raise BadInput(f"'{surface.name}' weighs {weighs:.0f} kg/m², which stands on no studs", "flank", "pick a heavy joint")
    between = _walls(job, path)
    longest = max((float(np.ptp(w.outline_mm, axis=0).max()) * w.count / 1e3 for w in between), default=math.inf)
    if flank.length_m > LONGER * longest:
        raise BadInput(f"the joint of '{path.name}' is {flank.length_m:g} m long, its wall {longest:.2g} m", "flank",
                       "measure the joint along the wall")


def _walls(job: JobFigures, path: Path) -> list[Surface]:
    """The walls a way may go round: the one named, or all that are ways in."""
    return [s for s in job.doc.surfaces if (path.wall_id == s.id if path.wall_id is not None else any(
        p.surface_id == s.id and p.flank is None for p in job.doc.paths))]


def wall_of(job: JobFigures, path: Path) -> Surface:
    """The wall a way goes round. BadInput where nobody can say which."""
    between = _walls(job, path)
    if path.wall_id is not None:
        named = next(iter(between), None)
        if named is None or named.id == path.surface_id:
            raise BadInput(f"'{path.name}' goes round a wall that is not there", "wall_id", "name the wall between the rooms")
        return named
    if len(between) != 1:
        said = "there is no wall" if not between else f"there are {len(between)} walls"
        raise BadInput(f"{said} between the rooms for '{path.name}' to go round", "wall_id",
                       "list the wall as a way in" if not between else "name the one it goes round")
    return between[0]


def _leaf(job: JobFigures, surface: Surface) -> Leaf:
    lay = present_lay(job.doc, surface)
    loss, prediction = panel_loss(surface, lay, job.shelf)
    if prediction.surface_mass_kg_m2 <= 0:
        raise BadInput(f"'{surface.name}' weighs nothing", "flank", "say what it is of")
    return Leaf(loss, prediction.surface_mass_kg_m2, bool(prediction.resonances.mass_air_mass_hz))
