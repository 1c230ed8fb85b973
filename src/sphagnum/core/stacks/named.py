"""Layers that are named by a material of the shelf, as the physical layers they are."""

from __future__ import annotations

from collections.abc import Mapping

from ..errors import BadInput
from ..materials.families.porous import Porous
from ..materials.family import Layer
from ..materials.layers import ShelfLayer, joins_wrong
from ..materials.model import Material, known_material, to_layers
from ..materials.table import family
from ..worded import in_mm
from .absorption import Lining, LiningLayer, before_a_wall
from .model import Stack


def resolved_lining(lining: Lining, materials: Mapping[str, Material]) -> Lining:
    """A lining with every named layer replaced by its physical layer; only open layers, air and films absorb. BadInput names
    the layer."""
    layers: list[LiningLayer] = []
    for i, layer in enumerate(lining.layers):
        if isinstance(layer, ShelfLayer):
            found = known_material(layer.material, materials, "material")
            if not all(family(part.family).absorbs for part, _ in found.each_part()):
                raise BadInput(f"'{found.name}' is no part of an absorbing lining", f"layers[{i}].material",
                               "use an open material, a film or air")
            for physical in to_layers(found, layer.thickness_mm):
                layers.append(before_a_wall(physical) if isinstance(physical, Porous) else physical)  # type: ignore[arg-type]
        else:
            layers.append(layer)
    return lining.model_copy(update={"layers": tuple(layers)})


def resolved(stack: Stack, materials: Mapping[str, Material]) -> Stack:
    """The stack with every named layer replaced by its physical layer. BadInput names the layer."""
    if not any(isinstance(layer, ShelfLayer) for layer in stack.layers):
        return stack
    layers: list[Layer | ShelfLayer] = []
    for i, layer in enumerate(stack.layers):
        try:
            layers += _physical(layer, materials, stack.temperature_c) if isinstance(layer, ShelfLayer) else [layer]
        except BadInput as error:
            raise error.at(f"layers[{i}]") from None
    wrong = joins_wrong(layers)
    if wrong is not None:
        raise BadInput(wrong[0], "layers", wrong[1])
    return stack.model_copy(update={"layers": tuple(layers)})


def _physical(layer: ShelfLayer, materials: Mapping[str, Material], temperature_c: float) -> list[Layer]:
    found = known_material(layer.material, materials, "material")
    if layer.coverage < 1 and found.acts != "damping":
        raise BadInput(f"'{found.name}' covers all or nothing in a stack", "coverage",
                       "gaps belong to a surface: leave it out, or share the area between two paths")
    if layer.join is not None and found.each_part()[0][0].acts != "plate":
        raise BadInput(f"'{found.name}' is no plate that could be joined", "join", "leave 'join' out")
    if found.made_of and abs(layer.thickness_mm - found.thicknesses_mm[0]) > 0.05:
        raise BadInput(f"'{found.name}' is {in_mm(found.thicknesses_mm[0])} thick, as its parts are", "thickness_mm",
                       f"give {found.thicknesses_mm[0]:g}")
    physical = to_layers(found, layer.thickness_mm, layer.coverage, None, temperature_c)
    if layer.join is not None:
        physical[0] = physical[0].model_copy(update={"join": layer.join, "interlayer": layer.interlayer})
    return physical
