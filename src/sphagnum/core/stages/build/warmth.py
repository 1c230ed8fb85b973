"""How warm it gets in the box that is being built: its machine's heat against planned walls and the vents it is to have."""

from __future__ import annotations

from ...errors import BadInput
from ...figures.job_figures import JobFigures
from ...figures.lays import planned_lay
from ...paths.enclosure import HoodIn, box_area_m2, rise_in_box_k
from ...schema import parse
from ...surfaces.geometry import areas
from ...surfaces.patches import patches
from .heat import heat_of


def rise_inside_k(job: JobFigures) -> tuple[float, float] | None:
    """How much warmer than outside it gets in the box, K, and how much it may; None where no box was worked out at the desk.

    Heat, vents and what is allowed are those of the last box kept there; walls those planned, by their U, as far as it is known.
    """
    kept = next((c for c in reversed(job.doc.calculations) if c.calculation == "hood"), None)
    if kept is None:
        return None
    try:
        given = parse(HoodIn, dict(kept.form))
    except BadInput:
        return None
    planned = sum(_carries_w_k(job, given.wall_u))
    walls = planned or given.wall_u * box_area_m2(given)
    return rise_in_box_k(given.heat_w, walls, given.vent_cm2 / 2e4, given.height_m * 0.8), given.rise_k


def _carries_w_k(job: JobFigures, usual: float) -> list[float]:
    out = []
    for surface in job.doc.surfaces:
        for patch in patches(surface):
            answer = heat_of(patch, planned_lay(job.doc, patch), job.shelf)
            known = None if answer is None else next((f.value for f in answer.figures if f.label == "U"), None)
            out.append((usual if known is None else known) * areas(patch).gross_m2 * patch.count)
    return out
