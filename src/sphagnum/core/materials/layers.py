"""The layers of a stack as files and forms give them (validated, units in the names)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from ..schema import Density, LossFactor, Poisson, Positive, Share, Strict, ThicknessMm


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
