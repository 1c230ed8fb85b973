"""The layers of a stack and the stack itself, as files and forms give them (validated, units in the names)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from ..schema import (
    Density,
    LossFactor,
    Metres,
    NotNegative,
    Poisson,
    Positive,
    Share,
    Strict,
    Temperature,
    ThicknessMm,
)


class Interlayer(Strict):
    """A viscous layer that joins two plates."""

    thickness_mm: ThicknessMm
    shear_modulus_mpa: Positive
    loss_factor: LossFactor


class Facing(Strict):
    """The stiff foil that makes a damping layer a constrained one."""

    thickness_mm: ThicknessMm
    youngs_modulus_gpa: Positive
    density_kg_m3: Density


class Plate(Strict):
    """An elastic plate. ``join`` says how it is held to the plate before it."""

    kind: Literal["plate"]
    thickness_mm: ThicknessMm
    density_kg_m3: Density
    youngs_modulus_gpa: Positive
    poisson: Poisson = 0.3
    loss_factor: LossFactor = 0.01
    join: Literal["fixed", "bonded", "viscous"] | None = None
    interlayer: Interlayer | None = None

    @model_validator(mode="after")
    def _interlayer_with_viscous(self) -> Plate:
        if (self.join == "viscous") != (self.interlayer is not None):
            raise ValueError("'interlayer' goes with join \"viscous\"; give both or neither")
        return self


class Limp(Strict):
    """A heavy layer without stiffness."""

    kind: Literal["limp"]
    thickness_mm: ThicknessMm
    surface_mass_kg_m2: Annotated[float, Field(ge=0.01, le=2000, strict=True, allow_inf_nan=False)]


class Foam(Strict):
    """A closed-cell or dense layer that acts as a spring with loss."""

    kind: Literal["foam"]
    thickness_mm: ThicknessMm
    dynamic_stiffness_mn_m3: Positive
    density_kg_m3: Density
    loss_factor: LossFactor = 0.1


class Porous(Strict):
    """An open porous layer, as an equivalent fluid."""

    kind: Literal["porous"]
    thickness_mm: ThicknessMm
    flow_resistivity_pa_s_m2: Positive
    density_kg_m3: Density


class Air(Strict):
    """An empty gap."""

    kind: Literal["air"]
    thickness_mm: ThicknessMm


class Damping(Strict):
    """A layer that takes bending energy out of the plate it lies on; constrained when it has a facing."""

    kind: Literal["damping"]
    thickness_mm: ThicknessMm
    density_kg_m3: Density
    youngs_modulus_mpa: Positive
    poisson: Poisson = 0.45
    loss_factor: LossFactor
    facing: Facing | None = None
    coverage: Share = 1.0


class ShelfLayer(Strict):
    """A layer named by a material of the shelf."""

    material: str = Field(min_length=1, max_length=80)
    thickness_mm: ThicknessMm
    coverage: Share = 1.0
    join: Literal["fixed", "bonded", "viscous"] | None = None
    interlayer: Interlayer | None = None

    @model_validator(mode="after")
    def _interlayer_with_viscous(self) -> ShelfLayer:
        if (self.join == "viscous") != (self.interlayer is not None):
            raise ValueError("'interlayer' goes with join \"viscous\"; give both or neither")
        return self


def layer_tag(value: Any) -> str | None:
    """Which kind of layer a value claims to be."""
    if isinstance(value, dict):
        return "material" if value.get("material") is not None else value.get("kind")
    return "material" if hasattr(value, "material") else getattr(value, "kind", None)


PhysicalLayer = Plate | Limp | Foam | Porous | Air | Damping
AnyLayer = Annotated[
    Annotated[Plate, Tag("plate")]
    | Annotated[Limp, Tag("limp")]
    | Annotated[Foam, Tag("foam")]
    | Annotated[Porous, Tag("porous")]
    | Annotated[Air, Tag("air")]
    | Annotated[Damping, Tag("damping")]
    | Annotated[ShelfLayer, Tag("material")],
    Discriminator(
        layer_tag,
        custom_error_type="unknown_layer",
        custom_error_message="the kind of layer is not known; use plate, limp, foam, porous, air, damping or a "
        "material of the shelf",
    ),
]


class Frame(Strict):
    """What ties the two leaves beside a cavity together."""

    kind: Literal[
        "none", "wood-studs", "light-steel-studs", "staggered-wood-studs", "double-wood-studs", "point-fixings"
    ] = "none"
    spacing_mm: Annotated[float, Field(ge=20, le=5000, strict=True, allow_inf_nan=False)] | None = None
    resilient_channel_spacing_mm: Annotated[float, Field(ge=20, le=5000, strict=True, allow_inf_nan=False)] | None = (
        None
    )
    isolated: bool | None = None
    between: tuple[Annotated[int, Field(ge=0)], Annotated[int, Field(ge=0)]] | None = None


def joins_wrong(layers: Sequence[AnyLayer]) -> tuple[str, str] | None:
    """What is wrong with the joins of plates, and its mend; layers of the shelf are left out until they are resolved."""
    for i, layer in enumerate(layers):
        follows = i > 0 and isinstance(layers[i - 1], Plate)
        if isinstance(layer, Plate) and follows and layer.join is None:
            return f"layers[{i}] follows a plate without 'join'", "add fixed, bonded or viscous"
        before = layers[i - 1] if i else None
        if isinstance(layer, Plate) and layer.join is not None and not isinstance(before, Plate | ShelfLayer):
            return f"layers[{i}] has 'join' but no plate before it", "leave 'join' out"
    return None


class Stack(Strict):
    """Layers from the source side to the listener's side, with the size of the panel they make."""

    width_m: Metres
    height_m: Metres
    layers: tuple[AnyLayer, ...] = Field(min_length=1, max_length=40)
    frame: Frame = Frame()
    leak_cm2: NotNegative = 0.0
    leak_slit_mm: ThicknessMm | None = None
    leak_depth_mm: ThicknessMm | None = None
    edge_losses: bool = True
    temperature_c: Temperature = 20.0

    @model_validator(mode="after")
    def _whole(self) -> Stack:
        wrong = joins_wrong(self.layers)
        if wrong is not None:
            raise ValueError("; ".join(wrong))
        if self.leak_cm2 > self.width_m * self.height_m * 1e4 * (1 + 1e-9):  # an area worked out from the sides may be rounded
            raise ValueError("leak_cm2 is larger than the panel; give the open area in square centimetres")
        if (self.leak_slit_mm is None) != (self.leak_depth_mm is None):
            raise ValueError("leak_slit_mm and leak_depth_mm go together; give both or neither")
        return self


__all__ = ["Air", "AnyLayer", "Damping", "Facing", "Foam", "Frame", "Interlayer", "Limp", "PhysicalLayer",
           "Plate", "Porous", "ShelfLayer", "Stack"]
