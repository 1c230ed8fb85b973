"""Many lays of one patch predicted together: their losses with gaps counted, and what damps them."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from ..job.shelf import Shelf
from ..levels.bands import Floats
from ..stacks.known import predict_ahead
from ..stacks.model import Stack
from ..stacks.predict import curves_of
from ..surfaces.patches import Patch
from .lays import Lay, beside_gaps, stack_of, with_gaps


class Losses(NamedTuple):
    """Of lays: R (lays, 21) dB, the loss factor of the first leaf (lays, 21; NaN where it has none), mass (lays,), and resonances
    of cavities, Hz (lays, MOST_CAVITIES; NaN where there is none). NaN rows of R are lays no model covers."""

    loss_db: Floats
    loss_factor: Floats
    mass_kg_m2: Floats
    cavities_hz: Floats


def losses_of(patch: Patch, lays: Sequence[Lay], shelf: Shelf) -> Losses:
    """R of a patch with each of many lays, as ``panel_loss`` gives it one by one, predicted in batches."""
    stacks: list[Stack] = []
    place: dict[Hashable, int] = {}  # by which layers they are: those of the lays, which live as long
    whole = [_place(patch, lay, shelf, stacks, place) for lay in lays]
    beside_each = {at: beside_gaps(patch, lay, shelf) for at, lay in dict(zip(whole, lays, strict=True)).items() if at >= 0}
    gaps = [beside_each.get(at) for at in whole]
    rest = [(-1, -1) if x is None else tuple(_place(patch, y, shelf, stacks, place) for y in (x.shared, x.bare)) for x in gaps]
    curves, damped, masses, cavities = (np.concatenate([x, np.full((1, *x.shape[1:]), np.nan)]) for x in curves_of(stacks))
    at, beside = np.array(whole), np.array(rest).reshape(len(lays), 2)
    loss = curves[at]
    gappy = beside[:, 0] >= 0
    if gappy.any():
        known = [x for x in gaps if x is not None]
        shared, bare = curves[beside[gappy, 0]], curves[beside[gappy, 1]]
        loss[gappy] = with_gaps(loss[gappy], shared, bare, np.array([x.alone for x in known]),
                                np.array([x.covered for x in known])[:, None])
    return Losses(loss, damped[at], masses[at], cavities[at])


def known_ahead(patch: Patch, lays: Iterable[Lay], shelf: Shelf) -> None:
    """Has what ``panel_loss`` needs of many lays predicted together, so that it finds it when asked one by one."""
    stacks: list[Stack] = []
    place: dict[Hashable, int] = {}
    kept = [*lays]
    gaps = [beside_gaps(patch, lay, shelf) for lay in kept if _place(patch, lay, shelf, stacks, place) >= 0]
    beside = [y for x in gaps if x is not None for y in (x.shared, x.bare)]
    for lay in beside:
        _place(patch, lay, shelf, stacks, place)
    predict_ahead(stacks)


def _place(patch: Patch, lay: Lay, shelf: Shelf, stacks: list[Stack], place: dict[Hashable, int]) -> int:
    """Where a lay's stack stands among those to predict; −1 where there is none."""
    key = (tuple((id(p.layer), p.new, p.far) for p in lay.placed), *lay[1:])
    if key not in place:
        try:
            stack = stack_of(patch, lay, shelf)
            stacks.append(stack)
            place[key] = len(stacks) - 1
        except BadInput:
            place[key] = -1
    return place[key]
