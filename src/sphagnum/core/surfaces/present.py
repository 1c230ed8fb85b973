"""A surface of a job as stacks: what is on it now, what is planned, and their transmission with gaps counted."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ..job import Alternative, JobDocument, StackLayerIn, Surface
from ..levels.bands import PREDICTED_HZ, Floats
from ..materials.model import to_layer
from ..materials.shelf import Shelf
from ..stacks.columns import SOFT
from ..stacks.leaf import first_mode_hz
from ..stacks.model import Frame, PhysicalLayer, Plate, Stack
from ..stacks.modes import plate_stiffness
from ..stacks.predict import Prediction, layer_mass, predict
from .geometry import areas

predict_cached = lru_cache(maxsize=4096)(predict)


class Lay(NamedTuple):
    """What lies on a surface, how its leaves are tied, and how warm it is there (°C)."""

    layers: tuple[StackLayerIn, ...]
    frame: Frame = Frame()
    temperature_c: float = 20.0


def present_lay(doc: JobDocument, surface: Surface) -> Lay:
    """What lies on a surface now."""
    return Lay(surface.present, surface.frame, doc.job.temperature_c)


def planned_lay(doc: JobDocument, surface: Surface, alternative: Alternative | None = None) -> Lay:
    """What will be on a surface: an alternative's layers (the chosen one's if none is named), else what is there now."""
    one = alternative or doc.chosen(surface.id)
    if one is None:
        return present_lay(doc, surface)
    return Lay(one.layers, one.frame or surface.frame, doc.job.temperature_c)


def stack_of(surface: Surface, lay: Lay, shelf: Shelf) -> Stack:
    """The physical stack of a surface: substrate, then layers; seals and isolators are no layers of it.

    The panel is taken as a rectangle of the outline's proportions and area; its frame counts once there is a cavity to
    bridge. Raises BadInput for unknown materials.
    """
    size = areas(surface)
    scale = (size.gross_m2 / (size.width_mm * size.height_mm / 1e6)) ** 0.5
    physical = []
    for i, layer in enumerate((surface.substrate, *lay.layers)):
        material = shelf.material(layer.material)
        if material.family != "line":
            join = "fixed" if material.family == "plate" and i > 0 else None
            physical.append(to_layer(material, layer.thickness_mm, layer.coverage, join, lay.temperature_c))
    for before, after in zip([None, *physical[:-1]], physical, strict=True):
        if after.kind == "plate" and after.join and (before is None or before.kind != "plate"):
            physical[physical.index(after)] = after.model_copy(update={"join": None})
    return Stack(
        width_m=max(size.width_mm * scale / 1e3, 0.02), height_m=max(size.height_mm * scale / 1e3, 0.02),
        layers=tuple(physical), frame=lay.frame if _has_cavity(physical) else Frame(), temperature_c=lay.temperature_c,
    )


def _has_cavity(layers: list[PhysicalLayer]) -> bool:
    soft = [layer.kind in SOFT for layer in layers]
    return any(soft[i] and not all(soft[i:]) for i in range(1, len(soft)))


def transmission(surface: Surface, lay: Lay, shelf: Shelf) -> tuple[Floats, Prediction]:
    """R per band of a surface with gaps in its linings counted, dB, and the prediction of the whole stack.

    A lining of coverage c leaves 1 − c of the panel without it; the two parts add by area. Raises BadInput naming the layer.
    """
    whole = predict_cached(stack_of(surface, lay, shelf))
    loss = np.array(whole.transmission_loss_db)
    gaps = {i: layer for i, layer in enumerate(lay.layers)
            if layer.coverage < 1 and shelf.material(layer.material).family not in ("damping", "line")}
    if not gaps:
        return loss, whole
    covered = min(layer.coverage for layer in gaps.values())
    rest = lay._replace(layers=tuple(layer for i, layer in enumerate(lay.layers) if i not in gaps))
    bare = np.array(predict_cached(stack_of(surface, rest, shelf)).transmission_loss_db)
    return -10 * np.log10(covered * 10 ** (-loss / 10) + (1 - covered) * 10 ** (-bare / 10)), whole


def shaken_change_db(surface: Surface, before: Lay, after: Lay, shelf: Shelf) -> Floats:
    """By how much less a shaken panel radiates with ``after`` on it than with ``before``, dB per band.

    Its motion at resonance falls with its loss factor, 10·lg(η_after/η_before), from its first mode up. Whatever lies over it
    and is no damping takes off what it adds to R: a lining does not know what moves the panel (assumed).
    """
    losses = [transmission(surface, lay, shelf)[1].loss_factor for lay in (before, after)]
    hung = [transmission(surface, _without_damping(lay, shelf), shelf)[0] for lay in (before, after)]
    change: Floats = hung[1] - hung[0]
    if losses[0] is None or losses[1] is None:
        return change
    rings = np.array(PREDICTED_HZ) >= _first_mode_hz(stack_of(surface, Lay(()), shelf))
    return np.asarray(change + np.where(rings, 10 * np.log10(np.array(losses[1]) / np.array(losses[0])), 0.0))


def _without_damping(lay: Lay, shelf: Shelf) -> Lay:
    return lay._replace(layers=tuple(x for x in lay.layers if shelf.material(x.material).family != "damping"))


def _first_mode_hz(bare: Stack) -> float:
    panel = bare.layers[0]
    if not isinstance(panel, Plate):
        return 0.0
    stiffness = plate_stiffness(panel.youngs_modulus_gpa, panel.thickness_mm, panel.poisson)
    return float(first_mode_hz(np.array(stiffness / layer_mass(panel)), bare.width_m, bare.height_m))
