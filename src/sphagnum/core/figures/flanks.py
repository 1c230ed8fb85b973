"""Ways round the wall of a job: the leaves that meet at a joint, and what they carry past it."""

from __future__ import annotations

import numpy as np

from ..errors import BadInput
from ..materials.model import to_layers
from ..paths.flanking import JUNCTIONS, Flank, FlankFigures, Leaf, given, rigid
from ..paths.rows import Path
from ..stacks.model import Stack
from ..surfaces.geometry import areas
from ..surfaces.rows import Surface
from .job_figures import JobFigures, once
from .lays import panel_loss, predict_cached, present_lay, surface_loss

USUAL_HIGH_M = 2.6
"""Of a leaf nobody measured."""


@once
def flank_of(job: JobFigures, path: Path, flank: Flank) -> FlankFigures:
    """What a way round a wall carries. BadInput where there is no wall between the rooms, or two and nobody says which."""
    surface = next((s for s in job.doc.surfaces if s.id == path.surface_id), None)
    found = JUNCTIONS[flank.kind]
    if found.leaf is None:
        return given(flank.kind, None if surface is None else surface_loss(job.doc, surface, job.shelf, False), flank.length_m)
    wall = wall_of(job, path)
    if surface is not None:
        leaf = _leaf(job, surface)
    else:
        material, mm = found.leaf
        stack = Stack(width_m=max(flank.length_m, 0.2), height_m=USUAL_HIGH_M,
                      layers=tuple(to_layers(job.shelf.material(material), mm)))
        usual = predict_cached(stack)
        leaf = Leaf(np.array(usual.transmission_loss_db), usual.surface_mass_kg_m2)
    return rigid(flank.kind, leaf, _leaf(job, wall), areas(wall).gross_m2 * wall.count, flank.length_m)


def wall_of(job: JobFigures, path: Path) -> Surface:
    """The wall a way goes round. BadInput where nobody can say which."""
    between = [s for s in job.doc.surfaces if any(p.surface_id == s.id and p.flank is None for p in job.doc.paths)]
    if path.wall_id is not None:
        named = next((s for s in job.doc.surfaces if s.id == path.wall_id), None)
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
