"""A surface of a job as stacks: what is on it now, what is planned, and their transmission with gaps counted."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..job import JobDocument, StackLayerIn, Surface
from ..levels.bands import Floats
from ..materials.model import to_layer
from ..materials.shelf import Shelf
from ..stacks.model import Stack
from ..stacks.predict import Prediction, predict
from .geometry import areas

predict_cached = lru_cache(maxsize=4096)(predict)


def stack_of(surface: Surface, layers: tuple[StackLayerIn, ...], shelf: Shelf) -> Stack:
    """The physical stack of a surface: substrate, then layers; seals and isolators are no layers of it.

    The panel is taken as a rectangle of the outline's proportions and area. Raises BadInput for unknown materials.
    """
    size = areas(surface)
    scale = (size.gross_m2 / (size.width_mm * size.height_mm / 1e6)) ** 0.5
    physical = []
    for i, layer in enumerate((surface.substrate, *layers)):
        material = shelf.material(layer.material)
        if material.family != "line":
            join = "fixed" if material.family == "plate" and i > 0 else None
            physical.append(to_layer(material, layer.thickness_mm, layer.coverage, join))
    for before, after in zip([None, *physical[:-1]], physical, strict=True):
        if after.kind == "plate" and after.join and (before is None or before.kind != "plate"):
            physical[physical.index(after)] = after.model_copy(update={"join": None})
    return Stack(
        width_m=max(size.width_mm * scale / 1e3, 0.02), height_m=max(size.height_mm * scale / 1e3, 0.02),
        layers=tuple(physical),
    )


def transmission(surface: Surface, layers: tuple[StackLayerIn, ...], shelf: Shelf) -> tuple[Floats, Prediction]:
    """R per band of a surface with gaps in its linings counted, dB, and the prediction of the whole stack.

    A lining of coverage c leaves 1 − c of the panel without it; the two parts add by area. Raises BadInput
    naming the layer.
    """
    whole = predict_cached(stack_of(surface, layers, shelf))
    loss = np.array(whole.transmission_loss_db)
    gaps = [(i, layer) for i, layer in enumerate(layers)
            if layer.coverage < 1 and shelf.material(layer.material).family not in ("damping", "line")]
    if not gaps:
        return loss, whole
    covered = min(layer.coverage for _, layer in gaps)
    rest = tuple(layer for i, layer in enumerate(layers) if i not in {g for g, _ in gaps})
    bare = np.array(predict_cached(stack_of(surface, rest, shelf)).transmission_loss_db)
    return -10 * np.log10(covered * 10 ** (-loss / 10) + (1 - covered) * 10 ** (-bare / 10)), whole


def planned_layers(doc: JobDocument, surface: Surface) -> tuple[StackLayerIn, ...]:
    """What will be on a surface: its chosen alternative's layers, else what is there now."""
    chosen = doc.chosen(surface.id)
    return chosen.layers if chosen is not None else surface.present


