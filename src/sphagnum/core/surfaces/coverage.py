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
    stock = material.stock
    if material.acts != "damping" or stock.width_mm is None or stock.length_mm is None:
        return layer.coverage
    return inside_pieces(plain(surface), (stock.width_mm, stock.length_mm), layer.coverage).share


def panel_share(surface: Surface, laid: float) -> float:
    """Share of the whole panel under a layer that covers ``laid`` of what may be covered, 0–1."""
    size = areas(surface)
    return laid * size.treatable_m2 / size.gross_m2
