"""The layers of a stack as files and forms give them: those of the families, and those named by a material of the shelf."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Union

from pydantic import Discriminator, Field, GetCoreSchemaHandler, Tag, model_validator
from pydantic_core import CoreSchema

from ..schema import Share, Strict, ThicknessMm
from .families.plate import Interlayer, Join, joined_rightly
from .family import Layer
from .table import FAMILIES, family


class ShelfLayer(Strict):
    """A layer named by a material of the shelf."""

    material: str = Field(min_length=1, max_length=80)
    thickness_mm: ThicknessMm
    coverage: Share = 1.0
    join: Join | None = None
    interlayer: Interlayer | None = None

    @model_validator(mode="after")
    def _interlayer_with_viscous(self) -> ShelfLayer:
        joined_rightly(self.join, self.interlayer)
        return self


def layer_tag(value: Any) -> str | None:
    """Which kind of layer a value claims to be."""
    if isinstance(value, dict):
        return "material" if value.get("material") is not None else value.get("kind")
    return "material" if hasattr(value, "material") else getattr(value, "kind", None)


class _OfTheTable:
    """Validates a layer as the one of its family, by the table as it is."""

    def __get_pydantic_core_schema__(self, _source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        layers = {name: f.layer for name, f in FAMILIES.items() if f.layer is not None}
        known = tuple(Annotated[layer, Tag(name)] for name, layer in layers.items())
        choice: Any = Union[(*known, Annotated[ShelfLayer, Tag("material")])]
        return handler.generate_schema(Annotated[choice, Discriminator(
            layer_tag, custom_error_type="unknown_layer",
            custom_error_message=f"the kind of layer is not known; use {', '.join(layers)} or a material of the shelf",
        )])


AnyLayer = Annotated[Layer | ShelfLayer, _OfTheTable()]


def joins_wrong(layers: Sequence[Layer | ShelfLayer]) -> tuple[str, str] | None:
    """What is wrong with the joins of plates, and its mend; layers of the shelf are left out until they are resolved."""
    for i, layer in enumerate(layers):
        before = layers[i - 1] if i else None
        if isinstance(layer, ShelfLayer) or family(layer.kind).acts != "plate":
            continue
        join = getattr(layer, "join", None)
        on_plate = isinstance(before, Layer) and family(before.kind).acts == "plate"
        if on_plate and join is None:
            return f"layers[{i}] follows a plate without 'join'", "add fixed, bonded or viscous"
        if join is not None and not on_plate and not isinstance(before, ShelfLayer):
            return f"layers[{i}] has 'join' but no plate before it", "leave 'join' out"
    return None
