"""Heat and moisture of a lay on a surface."""

from __future__ import annotations

from ...figures.lays import Lay
from ...job.shelf import Shelf
from ...stacks.heat import Climate, HeatLayer, heat_answer
from ...surfaces.patches import Patch
from ...working import Answer


def heat_of(patch: Patch, lay: Lay, shelf: Shelf) -> Answer | None:
    """Heat and moisture of a lay, the source's side on the outside; None where a conductivity is not known."""
    far = [p.layer for p in lay.placed if p.far]
    out = []
    for layer in (*far, patch.substrate, *(p.layer for p in lay.placed if not p.far)):
        material = shelf.material(layer.material)
        if not material.lies:
            continue
        for part, mm in material.each_part():
            known = part.properties
            if known.conductivity_w_mk is None or known.vapour_mu is None:
                return None
            out.append(HeatLayer(part.name.lower(), (layer.thickness_mm if mm is None else mm) / 1e3, known.conductivity_w_mk,
                                 known.vapour_mu))
    return heat_answer(out, Climate())
