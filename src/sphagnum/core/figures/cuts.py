"""How the layers of a patch are cut: one reckoning for what is drawn in Build, laid out in Cut, and fitted."""

from __future__ import annotations

from functools import lru_cache

from ..cutting.stock import price_m2
from ..job.shelf import Shelf
from ..surfaces.coverage import pieces_of
from ..surfaces.patches import Patch
from ..surfaces.pieces import Cover
from ..surfaces.rows import StackLayerIn

BOXED = "enclosure"
"""The kind of job whose surfaces meet at corners."""


@lru_cache(maxsize=2048)
def cuts_of(patch: Patch, layers: tuple[StackLayerIn, ...], shelf: Shelf, boxed: bool) -> tuple[Cover | None, ...]:
    """The pieces of each layer laid on a patch, in order; None of what is not cut. Seams are staggered from layer to layer;
    ``boxed``: its neighbours meet it at corners, where what lies under a lining lies on them too."""
    habits, under = shelf.habits, 0.0
    out = []
    for k, layer in enumerate(layers):
        material = shelf.material(layer.material)
        price = price_m2(material, layer.thickness_mm)
        found = pieces_of(
            patch, layer, material, staggered=k % 2 == 1, inset_mm=under if boxed else 0.0,
            price_m=habits.seam_price_m / price if habits.seam_price_m is not None and price else None,
            largest=(habits.largest_mm, habits.largest_kg))
        if found is not None and material.acts not in ("damping", "plate"):
            under += layer.thickness_mm
        out.append(found)
    return tuple(out)
