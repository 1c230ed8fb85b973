"""Many lays of one patch predicted together: their losses with gaps counted, and what damps them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from ..job.shelf import Shelf
from ..levels.bands import PREDICTED_HZ, Floats
from ..stacks.model import Stack
from ..stacks.predict import AtStack, Prediction, predict_many
from ..surfaces.patches import Patch
from .lays import Lay, beside_gaps, stack_of, with_gaps


class Losses(NamedTuple):
    """Of lays: R (lays, 21) dB, the loss factor of the first leaf (lays, 21; NaN where it has none), mass (lays,). NaN rows
    of R are lays no model covers."""

    loss_db: Floats
    loss_factor: Floats
    mass_kg_m2: Floats


def losses_of(patch: Patch, lays: Sequence[Lay], shelf: Shelf) -> Losses:
    """R of a patch with each of many lays, as ``panel_loss`` gives it one by one, predicted in batches."""
    stacks: list[Stack] = []
    place: dict[Lay, int] = {}
    whole = [_place(patch, lay, shelf, stacks, place) for lay in lays]
    gaps = [beside_gaps(patch, lay, shelf) if at >= 0 else None for lay, at in zip(lays, whole, strict=True)]
    rest = [(-1, -1) if x is None else tuple(_place(patch, y, shelf, stacks, place) for y in (x.shared, x.bare)) for x in gaps]
    found = _predicted(stacks)
    unknown = np.full(len(PREDICTED_HZ), np.nan)
    curves = np.array([unknown if x is None else x.transmission_loss_db for x in found] + [unknown])
    damped = np.array([unknown if x is None or x.loss_factor is None else x.loss_factor for x in found] + [unknown])
    masses = np.array([np.nan if x is None else x.surface_mass_kg_m2 for x in found] + [np.nan])
    at, beside = np.array(whole), np.array(rest).reshape(len(lays), 2)
    loss = curves[at]
    gappy = beside[:, 0] >= 0
    if gappy.any():
        known = [x for x in gaps if x is not None]
        shared, bare = curves[beside[gappy, 0]], curves[beside[gappy, 1]]
        loss[gappy] = with_gaps(loss[gappy], shared, bare, np.array([x.alone for x in known]),
                                np.array([x.covered for x in known])[:, None])
    return Losses(loss, damped[at], masses[at])


def _place(patch: Patch, lay: Lay, shelf: Shelf, stacks: list[Stack], place: dict[Lay, int]) -> int:
    """Where a lay's stack stands among those to predict; −1 where there is none."""
    if lay not in place:
        try:
            stack = stack_of(patch, lay, shelf)
            stacks.append(stack)
            place[lay] = len(stacks) - 1
        except BadInput:
            place[lay] = -1
    return place[lay]


def _predicted(stacks: list[Stack]) -> list[Prediction | None]:
    out: list[Prediction | None] = [None] * len(stacks)
    left = list(range(len(stacks)))
    while left:
        try:
            for i, found in zip(left, predict_many([stacks[i] for i in left]), strict=True):
                out[i] = found
            break
        except AtStack as error:
            del left[error.index]
    return out
