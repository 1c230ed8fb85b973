"""What is too narrow to be worth a piece, and what leaving it bare costs at the ear."""

from __future__ import annotations

from shapely import Polygon

from ...figures.job_figures import JobFigures, once
from ...figures.outlook import predicted_at_ear
from ...job.document import JobDocument
from ...surfaces.coverage import form_of
from ...surfaces.geometry import plain
from ...surfaces.patches import Patch, patches
from ...surfaces.pieces import narrow_fields
from ...surfaces.rows import Alternative
from ...worded import in_mm, of
from ...words import plural
from .model import LeftBare

SAID_DB = 0.05


@once
def left_bare(job: JobFigures) -> tuple[LeftBare, ...]:
    """The strips that no layer is laid on, surface by surface."""
    now = predicted_at_ear(job)
    out = []
    for surface in job.doc.surfaces:
        for patch in patches(surface):
            one = job.doc.chosen(patch.id, patch.zone)
            fields = narrow_fields(plain(patch)) if one is not None and _cut(job, one) else ()
            if one is None or not fields:
                continue
            then = predicted_at_ear(job.of(_with_strips(job.doc, one)))
            cost = None if now is None or then is None else round(now - then, 2)
            out.append(LeftBare(surface_id=surface.id, alternative_id=one.id, cost_db=cost,
                                sentence=_sentence(patch, fields, cost)))
    return tuple(out)


def _cut(job: JobFigures, one: Alternative) -> bool:
    """Whether a layer of it would be laid there, and nobody asked for that."""
    return any(job.shelf.material(x.material).acts not in ("damping", "line", "thing") and not x.strips
               and form_of(job.shelf.material(x.material), x.thickness_mm) is not None for x in one.layers)


def _with_strips(doc: JobDocument, one: Alternative) -> JobDocument:
    laid = one.model_copy(update={"layers": tuple(x.model_copy(update={"strips": True}) for x in one.layers)})
    return doc.model_copy(update={"alternatives": tuple(laid if a.id == one.id else a for a in doc.alternatives)})


def _sentence(patch: Patch, fields: tuple[Polygon, ...], cost_db: float | None) -> str:
    areas, sizes = 0.0, []
    for field in fields:
        x1, y1, x2, y2 = field.bounds
        sizes.append(in_mm(round(x2 - x1), round(y2 - y1)))
        areas += field.area / 1e6
    what = f"a strip of {sizes[0]}" if len(sizes) == 1 else f"{plural(len(sizes), 'strip')}, {of(areas, 'm²', '.2f')} in all,"
    each = f" on each of {patch.count}" if patch.count > 1 else ""
    cost = ("" if cost_db is None else f" It costs {cost_db:.1f} dB at the ear." if cost_db >= SAID_DB
            else " It costs less than 0.1 dB at the ear.")
    return f"{patch.name}: {what}{each} too narrow to be worth laying, left bare.{cost}"
