"""The hole a surface is reached through: what passes it, and where it lies."""

from __future__ import annotations

from pydantic import model_validator
from shapely import Point

from ..forms import FormLength, FormMillimetres
from ..schema import Strict
from ..worded import in_mm
from .geometry import Shape, areas

CLEARANCE_MM = 10.0
"""So much narrower than the opening a strip is, to pass it."""
LEAST_MM = 40.0


class Opening(Strict):
    """An access opening: its size, and where its lower left lies before the surface (its middle where nobody says)."""

    width_mm: FormMillimetres
    height_mm: FormMillimetres
    x_mm: FormLength | None = None
    y_mm: FormLength | None = None

    @model_validator(mode="after")
    def _passable(self) -> Opening:
        if self.widest_strip_mm < LEAST_MM:
            raise ValueError(f"nothing that is worth cutting passes {in_mm(self.width_mm, self.height_mm)}; give an opening "
                             f"with a side of at least {in_mm(LEAST_MM + CLEARANCE_MM)}, or none")
        return self

    @property
    def widest_strip_mm(self) -> float:
        """The widest strip that passes it, mm: its longer side less what a hand needs."""
        return max(self.width_mm, self.height_mm) - CLEARANCE_MM

    def middle(self, surface: Shape) -> Point:
        """Where it lies, mm."""
        size = areas(surface)
        left, low = (min(p[k] for p in surface.outline_mm) for k in (0, 1))
        x = left + size.width_mm / 2 if self.x_mm is None else self.x_mm + self.width_mm / 2
        y = low + size.height_mm / 2 if self.y_mm is None else self.y_mm + self.height_mm / 2
        return Point(x, y)


def pass_through(opening: Opening | None, sheet_mm: tuple[float, float]) -> tuple[float, float]:
    """The largest piece of a sheet or roll that passes an opening; all of it where there is none."""
    if opening is None:
        return sheet_mm
    short, long = sorted(sheet_mm)
    return min(short, opening.widest_strip_mm), long
