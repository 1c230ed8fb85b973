"""Physical properties of a material as the shelf keeps them; each family reads those it needs."""

from __future__ import annotations

from typing import Annotated

from ..errors import BadInput
from ..quantities import TypedKgM3, TypedMm
from ..schema import Density, LossFactor, Number, Poisson, Positive, Strict, ThicknessMm, Typed

MaybeDensity = Annotated[Density | None, TypedKgM3]
MaybePositive = Annotated[Positive | None, Typed]
MaybeMm = Annotated[ThicknessMm | None, TypedMm]


class Properties(Strict):
    """Physical properties; those a family does not need stay unknown. Per thickness where noted."""

    density_kg_m3: MaybeDensity = None
    youngs_modulus_gpa: MaybePositive = None
    youngs_modulus_mpa: MaybePositive = None
    poisson: Annotated[Poisson, Typed] = 0.3
    loss_factor: Annotated[LossFactor | None, Typed] = None
    flow_resistivity_pa_s_m2: MaybePositive = None
    frame_modulus_kpa: MaybePositive = None
    """Of an open foam's or wool's frame, where it is glued between two masses."""
    youngs_dynamic_mpa: MaybePositive = None
    facing_thickness_mm: MaybeMm = None
    facing_modulus_gpa: MaybePositive = None
    facing_density_kg_m3: MaybeDensity = None
    loss_peak_c: Annotated[Number | None, Typed] = None
    """Temperature at which the loss of a viscous material is greatest, °C; its loss is half at ``loss_width_c`` from there."""
    loss_width_c: MaybePositive = None
    modulus_decade_c: MaybePositive = None
    """Degrees that soften a viscous material to a tenth of its modulus."""
    conductivity_w_mk: MaybePositive = None
    vapour_mu: MaybePositive = None


def known(value: float | None) -> float:
    """A property a family needs; BadInput where it is unknown."""
    if value is None:
        raise BadInput("a property this family needs is unknown", "material", "add it on the shelf")
    return value
