"""What could lie in a layer's place: materials that do the same, each with what comes through then, its weight and price."""

from __future__ import annotations

from ...errors import BadInput
from ...figures.job_figures import JobFigures, once
from ...figures.lays import planned_lay
from ...figures.loads import added_load
from ...figures.many import known_ahead
from ...materials.model import Material
from ...schema import Strict
from ...surfaces.patches import patch_of
from .curves import a_total, levels_through

MOST = 24


class Swap(Strict):
    """A material in a layer's place: change through the surface (dB(A), None where no model covers it), kg and money of the whole
    stack on all copies."""

    material: str
    name: str
    thickness_mm: float
    through_db: float | None
    kg: float
    money: float
    unpriced: bool
    now: bool


class Swaps(Strict):
    """The materials that do the same as a layer's, the present one among them, the quietest first."""

    swaps: tuple[Swap, ...]


@once
def swaps(job: JobFigures, surface_id: int, alternative_id: int, layer_id: str) -> Swaps:
    """What could lie in place of a layer. BadInput where it is not there."""
    surface = job.doc.surface(surface_id)
    one = next((a for a in job.doc.alternatives if a.id == alternative_id and a.surface_id == surface_id), None)
    layer = None if one is None else next((x for x in one.layers if x.id == layer_id), None)
    if surface is None or one is None or layer is None:
        raise BadInput("there is no such layer", "layer", "look at the job anew")
    patch, present = patch_of(surface, one.zone), job.shelf.material(layer.material)
    others = []
    for material in _alike(job, present):
        mm = layer.thickness_mm if material.id == present.id or not material.thicknesses_mm else min(
            material.thicknesses_mm, key=lambda t: abs(t - layer.thickness_mm))
        other = layer.model_copy(update={"material": material.id, "thickness_mm": mm})
        then = one.model_copy(update={"layers": tuple(other if x is layer else x for x in one.layers)})
        others.append((material, mm, then, planned_lay(job.doc, patch, then)))
    known_ahead(patch, (lay for *_, lay in others), job.shelf)
    out = []
    for material, mm, then, lay in others:
        load = added_load(job.doc, patch, then, job.shelf)
        try:
            now, after = levels_through(job, patch, lay)
            through: float | None = round(a_total(after) - a_total(now), 2)
        except BadInput:
            through = None
        out.append(Swap(material=material.id, name=material.name, thickness_mm=mm, through_db=through, kg=round(load.kg, 2),
                        money=round(load.money, 2), unpriced=bool(load.unpriced), now=material.id == present.id))
    return Swaps(swaps=tuple(sorted(out, key=lambda x: (x.through_db is None, x.through_db or 0.0))))


def _alike(job: JobFigures, present: Material) -> list[Material]:
    """Materials on the shelf that do what one does: share its first role, and are layers where it is one."""
    role = present.roles[0] if present.roles else ""
    found = [m for m in job.shelf.materials.values()
             if m.lies == present.lies and not m.retired and m.id != present.id and role in m.roles]
    return [present, *sorted(found, key=lambda m: m.acts != present.acts)[: MOST - 1]]
