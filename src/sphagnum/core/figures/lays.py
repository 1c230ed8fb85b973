"""A surface of a job as stacks: what is on it now, what is planned, and their transmission with gaps counted."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ..job.document import JobDocument
from ..job.shelf import Shelf
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.rating import rate_predicted
from ..materials.families.plate import Plate
from ..materials.family import Layer
from ..materials.model import to_layer
from ..materials.table import family, layer_mass
from ..stacks.leaf import first_mode_hz
from ..stacks.model import Frame, Stack
from ..stacks.modes import plate_stiffness
from ..stacks.predict import Prediction, predict
from ..surfaces.coverage import laid_share, panel_share
from ..surfaces.geometry import areas
from ..surfaces.rows import Alternative, StackLayerIn, Surface

predict_cached = lru_cache(maxsize=4096)(predict)


class Lay(NamedTuple):
    """What lies on a surface, how its leaves are tied, and how warm it is there (°C); ``cut``: laid in pieces cut for it."""

    layers: tuple[StackLayerIn, ...]
    frame: Frame = Frame()
    temperature_c: float = 20.0
    cut: bool = False

    def share(self, surface: Surface, layer: StackLayerIn, shelf: Shelf) -> float:
        """Share of the whole panel that a layer covers, 0–1."""
        laid = laid_share(surface, layer, shelf.material(layer.material)) if self.cut else layer.coverage
        return panel_share(surface, laid)


def present_lay(doc: JobDocument, surface: Surface) -> Lay:
    """What lies on a surface now."""
    return Lay(surface.present, surface.frame, doc.job.temperature_c)


def planned_lay(doc: JobDocument, surface: Surface, alternative: Alternative | None = None) -> Lay:
    """What will be on a surface: an alternative's layers (the chosen one's if none is named), else what is there now."""
    one = alternative or doc.chosen(surface.id)
    if one is None:
        return present_lay(doc, surface)
    return Lay(one.layers, one.frame or surface.frame, doc.job.temperature_c, cut=True)


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
        if material.acts != "line":
            join = "fixed" if material.acts == "plate" and i > 0 else None
            share = lay.share(surface, layer, shelf) if material.acts == "damping" else 1.0
            physical.append(to_layer(material, layer.thickness_mm, share, join, lay.temperature_c))
    for before, after in zip([None, *physical[:-1]], physical, strict=True):
        if isinstance(after, Plate) and after.join and not isinstance(before, Plate):
            physical[physical.index(after)] = after.model_copy(update={"join": None})
    return Stack(
        width_m=max(size.width_mm * scale / 1e3, 0.02), height_m=max(size.height_mm * scale / 1e3, 0.02),
        layers=tuple(physical), frame=lay.frame if _has_cavity(physical) else Frame(), temperature_c=lay.temperature_c,
    )


def _has_cavity(layers: list[Layer]) -> bool:
    soft = [family(layer.kind).acts == "soft" for layer in layers]
    return any(soft[i] and not all(soft[i:]) for i in range(1, len(soft)))


@lru_cache(maxsize=8192)
def panel_loss(surface: Surface, lay: Lay, shelf: Shelf) -> tuple[Floats, Prediction]:
    """R per band of a surface, dB, and its prediction, both with what stays bare counted.

    What is kept clear, and the gaps a coverage leaves, are panel without its linings; the two parts add by area. Raises
    BadInput naming the layer.
    """
    whole = predict_cached(stack_of(surface, lay, shelf))
    loss = _still(np.array(whole.transmission_loss_db))
    linings = {i: lay.share(surface, layer, shelf) for i, layer in enumerate(lay.layers)
               if shelf.material(layer.material).acts not in ("damping", "line")}
    gaps = {i: share for i, share in linings.items() if share < 1 - 1e-9}
    if not gaps:
        return loss, whole
    covered = min(gaps.values())
    rest = lay._replace(layers=tuple(layer for i, layer in enumerate(lay.layers) if i not in gaps))
    bare = np.array(predict_cached(stack_of(surface, rest, shelf)).transmission_loss_db)
    both = _still(np.round(-10 * np.log10(covered * 10 ** (-loss / 10) + (1 - covered) * 10 ** (-bare / 10)), 2) + 0.0)
    rw, c, ctr, stc = rate_predicted(both[None, :])[0]
    return both, whole.model_copy(update={"transmission_loss_db": tuple(both.tolist()), "Rw": rw, "C": c, "Ctr": ctr, "STC": stc})


def _still(values: Floats) -> Floats:
    """An array that is shared, so that nobody can change it."""
    values.flags.writeable = False
    return values


MOUNTED_LOSS = 0.02
"""Loss factor of a bare panel as it is mounted, welded or screwed all round: 0.01 to 0.03, recalled."""


def shaken_change_db(surface: Surface, before: Lay, after: Lay, shelf: Shelf, mounted_loss: float = MOUNTED_LOSS) -> Floats:
    """By how much less a shaken panel radiates with ``after`` on it than with ``before``, dB per band.

    Its motion at resonance falls with its loss factor, 10·lg(η_after/η_before), from its first mode up; ``mounted_loss`` is
    what it has as it stands with ``before`` on it, and what is laid adds to that. Whatever lies over it and is no damping takes
    off what it adds to R: a lining does not know what moves the panel (assumed).
    """
    losses = [panel_loss(surface, lay, shelf)[1].loss_factor for lay in (before, after)]
    hung = [panel_loss(surface, _without_damping(lay, shelf), shelf)[0] for lay in (before, after)]
    change: Floats = hung[1] - hung[0]
    if losses[0] is None or losses[1] is None:
        return change
    rings = np.array(PREDICTED_HZ) >= _first_mode_hz(stack_of(surface, Lay(()), shelf))
    more = np.maximum(np.array(losses[1]) - np.array(losses[0]), 1e-3 - mounted_loss)
    return np.asarray(change + np.where(rings, 10 * np.log10(1 + more / mounted_loss), 0.0))


def mounted_loss(doc: JobDocument, surface: Surface) -> float | None:
    """Loss factor that knocks on a panel told before the work (mean), None where nobody knocked."""
    before = {r.id for r in doc.rounds if r.state in ("as found", "stripped")}
    found = [k.loss_factor for k in doc.knocks if k.surface_id == surface.id and k.round_id in before]
    return sum(found) / len(found) if found else None


def _without_damping(lay: Lay, shelf: Shelf) -> Lay:
    return lay._replace(layers=tuple(x for x in lay.layers if shelf.material(x.material).acts != "damping"))


def _first_mode_hz(bare: Stack) -> float:
    panel = bare.layers[0]
    if not isinstance(panel, Plate):
        return 0.0
    stiffness = plate_stiffness(panel.youngs_modulus_gpa * 1e9, panel.thickness_mm / 1e3, panel.poisson)
    return float(first_mode_hz(np.array(stiffness / layer_mass(panel)), bare.width_m, bare.height_m))
