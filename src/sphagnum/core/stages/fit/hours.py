"""What a plan's steps take, part by part, for a search that adds them up: at this workshop's pace, with what goes on around."""

from __future__ import annotations

from ...figures.job_figures import JobFigures
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative, StackLayerIn
from .laying import about_pieces, is_laid, laid_amount, laying_minutes
from .opening import Group, refit_drafts, strip_drafts
from .preparing import check_draft, patch_drafts


def worked_hours(job: JobFigures, minutes: float) -> float:
    """House minutes of any work as hours here, with its share of what goes on around it."""
    return minutes * (1 + job.shelf.minutes["around"] / 60) * job.shelf.pace / 60


def apply_hours(job: JobFigures, patch: Patch, layers: tuple[StackLayerIn, ...], k: int, laid_m2: float) -> float:
    """Hours of the step that lays the layer at place ``k`` on all copies of a patch, ``laid_m2`` of it where it is no line, in
    about so many pieces; 0 where it has no step. What fastens it is counted with its goods."""
    material = job.shelf.material(layers[k].material)
    if not is_laid(material):
        return 0.0
    laid = laid_amount(job, patch, layers, k) if material.acts == "line" else laid_m2
    pieces = about_pieces(layers[k], material, laid)
    return worked_hours(job, laying_minutes(job, patch, material, laid, pieces, 0.0))


def fixed_hours_of(job: JobFigures, patch: Patch) -> tuple[float, float]:
    """Hours on a patch that do not depend on what is laid: those beside its access, and those that open and close that."""
    one = job.doc.chosen(patch.id, patch.zone) or Alternative(id=0, version=0, surface_id=patch.id, zone=patch.zone)
    group = Group(patch.shares_access, ((patch, one),))
    opening = [*strip_drafts(job, group), *refit_drafts(job, group)]
    access = sum(d.minutes for d in opening if d.ref.phase != "log fixings")
    log = sum(d.minutes for d in opening) - access
    own = sum(d.minutes for d in (*patch_drafts(job, patch, one, 0.0), check_draft(job, patch)))
    return worked_hours(job, own + log), worked_hours(job, access)
