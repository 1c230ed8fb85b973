"""Physical properties of a material as the shelf keeps them; each family reads those it needs."""

from __future__ import annotations

from ..errors import BadInput
from ..schema import Density, LossFactor, Poisson, Positive, Strict, ThicknessMm


class Properties(Strict):
    """Physical properties; those a family does not need stay unknown. Per thickness where noted."""

    density_kg_m3: Density | None = None
    youngs_modulus_gpa: Positive | None = None
    youngs_modulus_mpa: Positive | None = None
    poisson: Poisson = 0.3
    loss_factor: LossFactor | None = None
    flow_resistivity_pa_s_m2: Positive | None = None
    youngs_dynamic_mpa: Positive | None = None
    facing_thickness_mm: ThicknessMm | None = None
    facing_modulus_gpa: Positive | None = None
    facing_density_kg_m3: Density | None = None
    loss_peak_c: float | None = None
    """Temperature at which the loss of a viscous material is greatest, °C; its loss is half at ``loss_width_c`` from there."""
    loss_width_c: Positive | None = None
    modulus_decade_c: Positive | None = None
    """Degrees that soften a viscous material to a tenth of its modulus."""
    conductivity_w_mk: Positive | None = None
    vapour_mu: Positive | None = None


def known(value: float | None) -> float:
    """A property a family needs; BadInput where it is unknown."""
    if value is None:
        raise BadInput("a property this family needs is unknown", "material", "add it on the shelf")
    return value
