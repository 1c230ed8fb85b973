"""How the layers of a patch are cut, and what the lines on it take: one reckoning for Build, Cut, Fit and the plan."""

from __future__ import annotations

from functools import lru_cache

from ..cutting.stock import price_m2
from ..job.document import JobDocument
from ..job.shelf import Shelf
from ..surfaces.coverage import pieces_of
from ..surfaces.geometry import areas
from ..surfaces.patches import Patch
from ..surfaces.pieces import Cover
from ..surfaces.rows import StackLayerIn


def is_boxed(doc: JobDocument) -> bool:
    """Whether the surfaces of a job meet at corners."""
    return doc.job.kind == "enclosure"


@lru_cache(maxsize=2048)
def cuts_of(patch: Patch, layers: tuple[StackLayerIn, ...], shelf: Shelf, boxed: bool) -> tuple[Cover | None, ...]:
    """The pieces of each layer laid on a patch, in order; None of what is not cut. Seams are staggered against those of the
    layer under them; ``boxed``: its neighbours meet it at corners, where what lies under a lining lies on them too."""
    habits, under, seams = shelf.habits, 0.0, False
    out = []
    for layer in layers:
        material = shelf.material(layer.material)
        price = price_m2(material, layer.thickness_mm)
        found = pieces_of(
            patch, layer, material, staggered=seams, inset_mm=under if boxed else 0.0,
            price_m=habits.seam_price_m / price if habits.seam_price_m is not None and price else None,
            largest=(habits.largest_mm, habits.largest_kg))
        if found is not None and material.acts != "damping":
            seams = found.seam_m > 0 and not seams
            under += layer.thickness_mm if material.acts != "plate" else 0.0
        out.append(found)
    return tuple(out)


def line_amount(patch: Patch, layers: tuple[StackLayerIn, ...], k: int, shelf: Shelf, boxed: bool) -> float:
    """What the line at place ``k`` of the layers on one copy of a patch takes, before laps and waste.

    Metres once round its edge; by seams those of the cut layer it lies on as well; by the void litres as they stand, of
    ``thickness_mm`` under ``coverage`` of what may be covered.
    """
    layer, size = layers[k], areas(patch)
    by = shelf.material(layer.material).goes_by
    if by == "void":
        return layer.thickness_mm * layer.coverage * size.treatable_m2
    seams = 0.0
    if by == "seam":
        # damping lies in patches and parts nothing over it: left out here, the same linings are cut once whatever it is
        under = tuple(x for x in layers[:k] if shelf.material(x.material).acts != "damping")
        cut = [c for c in cuts_of(patch, under, shelf, boxed) if c is not None]
        seams = cut[-1].seam_m if cut else 0.0
    return size.perimeter_m + seams
