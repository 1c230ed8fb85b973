"""How warm it gets in the box that is being built: its machine's heat against planned walls, vents and fan."""

from __future__ import annotations

from typing import NamedTuple

from ...figures.boxes import box_paths, hood_kept
from ...figures.job_figures import JobFigures, once
from ...figures.lays import planned_lay
from ...figures.ways import leaks_cm2
from ...paths.enclosure import box_area_m2, rise_in_box_k
from ...surfaces.geometry import areas
from ...surfaces.patches import patches
from .heat import heat_of


class Warmth(NamedTuple):
    """How much warmer than outside it gets in the box, K, and how much it may (None: nobody said); the vents (cm², of both
    together) and the air a fan moves (m³/h) that go with it."""

    rise_k: float
    limit_k: float | None
    vents_cm2: float
    fan_m3_h: float

    @property
    def cooks(self) -> bool:
        """Whether it gets warmer than the machine stands, as far as that is known."""
        return self.limit_k is not None and self.rise_k > self.limit_k


@once
def warmth(job: JobFigures) -> Warmth | None:
    """How warm it gets in the box with the plan as it stands; None where no heat of a machine was said at the desk.

    The heat and what is allowed are those of the box last kept there; walls by their U as planned, as far as it is known, vents
    are the openings as planned, half of them low and half high, fans those of the measures chosen.
    """
    given = hood_kept(job.doc)
    if given is None or "heat_w" not in given.model_fields_set:
        return None
    walls = sum(_carries_w_k(job, given.wall_u)) or given.wall_u * box_area_m2(given)
    opened = [leaks_cm2(job.doc, job.doc.paths[i])[1] for i in box_paths(job.doc)]
    vents = sum(opened) if opened else given.vent_cm2
    fan = max((m.air_m3_h or 0.0 for m in job.doc.measures if m.chosen), default=0.0)
    rise = rise_in_box_k(given.heat_w, walls, vents / 2e4, given.height_m * 0.8, fan_m3_s=fan / 3600)
    return Warmth(rise, given.rise_k if "rise_k" in given.model_fields_set else None, vents, fan)


def _carries_w_k(job: JobFigures, usual: float) -> list[float]:
    out = []
    box = {job.doc.paths[i].surface_id for i in box_paths(job.doc)}
    for surface in job.doc.surfaces:
        if box and surface.id not in box:
            continue
        for patch in patches(surface):
            answer = heat_of(patch, planned_lay(job.doc, patch), job.shelf)
            known = None if answer is None else next((f.value for f in answer.figures if f.label == "U"), None)
            out.append((usual if known is None else known) * areas(patch).gross_m2 * patch.count)
    return out
