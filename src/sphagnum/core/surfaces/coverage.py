"""How much of a panel a layer really covers: what is kept clear stays bare, and pieces reach only so far."""

from __future__ import annotations

from functools import lru_cache

from ..materials.model import Material
from .geometry import areas, plain
from .pieces import inside_pieces
from .rows import StackLayerIn, Surface


@lru_cache(maxsize=8192)
def laid_share(surface: Surface, layer: StackLayerIn, material: Material) -> float:
    """Share of the treatable area a layer covers as it is cut, 0–1: damping sheets by the pieces that fit inside it."""
    sheet = sheet_of(material, layer.thickness_mm)
    if material.acts != "damping" or sheet is None:
        return layer.coverage
    return inside_pieces(plain(surface), sheet, layer.coverage).share


def sheet_of(material: Material, thickness_mm: float) -> tuple[float, float] | None:
    """Width and length (mm) of the sheet or roll a thickness is first sold in; None where it is sold in none."""
    for form in material.stock:
        fits = form.thickness_mm is None or abs(form.thickness_mm - thickness_mm) < 0.01
        if fits and form.form in ("sheet", "roll") and form.width_mm and form.length_mm:
            return form.width_mm, form.length_mm
    return None


def panel_share(surface: Surface, laid: float) -> float:
    """Share of the whole panel under a layer that covers ``laid`` of what may be covered, 0–1."""
    size = areas(surface)
    return laid * size.treatable_m2 / size.gross_m2
