"""How much to cover: what damping gives from none to all of this very surface, and what the next part of it gives."""

from __future__ import annotations

from ...errors import BadInput
from ...figures.job_figures import JobFigures, once
from ...figures.lays import planned_lay
from ...figures.loads import added_load
from ...schema import Strict
from ...stacks.damping import first_mode_share
from ...surfaces.coverage import laid_share
from ...surfaces.geometry import areas
from ...surfaces.patches import Patch, patch_of
from ...surfaces.rows import Alternative
from ...worded import in_mm
from .curves import a_total, levels_through

SHARES = (0.0, 0.1, 0.2, 0.25, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
MARKED = (0.25, 0.6, 1.0)


class CoveragePoint(Strict):
    """A coverage: what pieces reach, how much less comes through (dB(A)), its share of the first mode and of high ones, what it
    weighs and costs, and what the last step to it gave per kilogram and per unit of money (None where it cost nothing)."""

    coverage: float
    reached: float
    less_db: float
    first_mode: float
    high_modes: float
    kg: float
    money: float
    db_per_kg: float | None
    db_per_money: float | None
    marked: bool


class CoverageView(Strict):
    """The school of coverage on one layer; no points where there is no damping in the stack."""

    sentence: str
    layer: str
    material: str
    now: float | None
    points: tuple[CoveragePoint, ...]


@once
def coverage(job: JobFigures, surface_id: int, alternative_id: int, layer: str = "") -> CoverageView:
    """What a damping layer of an alternative gives by its coverage (the first one where none is named)."""
    surface = job.doc.surface(surface_id)
    one = next((a for a in job.doc.alternatives if a.id == alternative_id and a.surface_id == surface_id), None)
    if surface is None or one is None:
        raise BadInput("there is no such alternative of this surface", "alternative_id", "look at the job anew")
    patch = patch_of(surface, one.zone)
    found = next((x for x in one.layers if job.shelf.material(x.material).acts == "damping" and layer in ("", x.id)), None)
    if found is None:
        return CoverageView(sentence="There is no damping in this stack: pick one from the shelf, and see here what each part "
                            "of it gives.", layer="", material="", now=None, points=())
    points: list[CoveragePoint] = []
    for share in SHARES:
        points.append(_point(job, patch, one, found.id, share, points[-1] if points else None))
    name = job.shelf.material(found.material).name
    return CoverageView(sentence=_sentence(points), layer=found.id, material=f"{name} {in_mm(found.thickness_mm)}",
                        now=found.coverage, points=tuple(points))


def _point(
    job: JobFigures, patch: Patch, one: Alternative, layer: str, share: float, before: CoveragePoint | None
) -> CoveragePoint:
    layers = tuple(x if x.id != layer else x.model_copy(update={"coverage": share}) for x in one.layers if x.id != layer or share)
    then = one.model_copy(update={"layers": layers})
    now, after = levels_through(job, patch, planned_lay(job.doc, patch, then))
    less, load, size = a_total(now) - a_total(after), added_load(job.doc, patch, then, job.shelf), areas(patch)
    found = next((x for x in layers if x.id == layer), None)
    reached = laid_share(patch, found, job.shelf.material(found.material)) if found is not None else 0.0
    of_panel = reached * size.treatable_m2 / size.gross_m2
    kg, money = load.kg - (before.kg if before else load.kg), load.money - (before.money if before else load.money)
    gain = less - before.less_db if before else 0.0
    return CoveragePoint(
        coverage=share, reached=round(reached, 3), less_db=round(less, 2), kg=round(load.kg, 3), money=round(load.money, 2),
        first_mode=round(float(first_mode_share(of_panel, size.width_mm / size.height_mm)), 3) if of_panel else 0.0,
        high_modes=round(of_panel, 3), db_per_kg=round(gain / kg, 3) if kg > 1e-3 else None,
        db_per_money=round(gain / money, 3) if money > 1e-2 else None, marked=share in MARKED)


def _sentence(points: list[CoveragePoint]) -> str:
    none, whole = points[0].less_db, points[-1].less_db
    said = [f"{round(100 * p.coverage)} % gives {p.less_db - none:.1f} dB" for p in points if p.marked]
    span = whole - none
    if span < 0.05:
        return f"Damping gives little here at any coverage: {', '.join(said)}."
    most = next((p for p in points if p.less_db - none >= 0.8 * span), points[-1])
    return f"{', '.join(said)}; {round(100 * most.coverage)} % has four fifths of all it can give."
