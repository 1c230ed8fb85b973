"""A material of the shelf: roles, properties with their source class, limits, stock form and price."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..errors import BadInput
from ..schema import Density, LossFactor, NotNegative, Poisson, Positive, Strict, ThicknessMm
from .layers import Air, Damping, Facing, Foam, Limp, PhysicalLayer, Plate, Porous

Role = Literal["substrate", "damping", "decoupler", "barrier", "absorber", "seal", "isolator"]
SourceClass = Literal["typical", "data sheet", "measured"]
ROLE_LETTER: dict[str, str] = {"substrate": "·", "damping": "D", "decoupler": "C", "barrier": "B", "absorber": "A",
                               "seal": "S", "isolator": "I"}


class StockForm(Strict):
    """How a material is sold. ``length_mm`` of a sheet or roll; ``covers_m`` of a cartridge, tape or strip."""

    form: Literal["sheet", "roll", "length", "piece", "none"]
    width_mm: Positive | None = None
    length_mm: Positive | None = None
    covers_m: Positive | None = None
    per_pack: int = Field(default=1, ge=1)
    price: NotNegative = 0.0
    sold_whole: bool = False


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


class Material(Strict):
    """One material, generic, with the class of its source per property."""

    id: str
    name: str
    family: Literal["plate", "limp", "foam", "porous", "air", "damping", "line"]
    roles: tuple[Role, ...]
    thicknesses_mm: tuple[ThicknessMm, ...] = ()
    properties: Properties = Properties()
    source_class: SourceClass = "typical"
    sources: dict[str, str] = Field(default_factory=dict)
    stock: StockForm
    closed_to_water: bool = False
    crushable: bool = False
    facing_on_listener_side: bool = False
    rigid: bool = False
    most_c: float | None = None
    hold: str = ""
    minutes_per_m2: NotNegative = 0.0
    cure_minutes: NotNegative = 0.0
    hazards: tuple[str, ...] = ()
    note: str = ""


def at_temperature(p: Properties, temperature_c: float) -> tuple[float, float]:
    """Modulus (MPa) and loss factor of a viscous material, known at 20 °C, at another temperature.

    The loss is a bell over temperature, η ∝ 1/(1 + ((T − T_peak)/w)²); the modulus falls by a decade per ``modulus_decade_c``.
    """
    modulus, loss = _known(p.youngs_modulus_mpa), _known(p.loss_factor)
    if p.modulus_decade_c is not None:
        modulus *= 10 ** ((20 - temperature_c) / p.modulus_decade_c)
    if p.loss_peak_c is not None and p.loss_width_c is not None:
        off = [1 + ((t - p.loss_peak_c) / p.loss_width_c) ** 2 for t in (20.0, temperature_c)]
        loss *= off[0] / off[1]
    return modulus, min(loss, 3.0)


def to_layer(
    material: Material, thickness_mm: float, coverage: float = 1.0, join: str | None = None, temperature_c: float = 20.0
) -> PhysicalLayer:
    """The physical layer of a material at a thickness and temperature. Raises BadInput if it does not act as a layer."""
    p = material.properties
    kind, t = material.family, thickness_mm
    if kind == "plate":
        return Plate.model_validate({
            "kind": "plate", "thickness_mm": t, "density_kg_m3": p.density_kg_m3, "poisson": p.poisson,
            "youngs_modulus_gpa": p.youngs_modulus_gpa, "loss_factor": p.loss_factor, "join": join,
        })
    if kind == "limp":
        return Limp(kind="limp", thickness_mm=t, surface_mass_kg_m2=t / 1e3 * _known(p.density_kg_m3))
    if kind == "foam":
        return Foam(kind="foam", thickness_mm=t, density_kg_m3=_known(p.density_kg_m3),
                    dynamic_stiffness_mn_m3=_known(p.youngs_dynamic_mpa) * 1e3 / t,
                    loss_factor=_known(p.loss_factor))
    if kind == "porous":
        return Porous(kind="porous", thickness_mm=t, density_kg_m3=_known(p.density_kg_m3),
                      flow_resistivity_pa_s_m2=_known(p.flow_resistivity_pa_s_m2))
    if kind == "air":
        return Air(kind="air", thickness_mm=t)
    if kind == "damping":
        facing = None
        if p.facing_thickness_mm is not None:
            facing = Facing(thickness_mm=p.facing_thickness_mm, youngs_modulus_gpa=_known(p.facing_modulus_gpa),
                            density_kg_m3=_known(p.facing_density_kg_m3))
        modulus, loss = at_temperature(p, temperature_c)
        return Damping(kind="damping", thickness_mm=t, density_kg_m3=_known(p.density_kg_m3), poisson=p.poisson,
                       youngs_modulus_mpa=modulus, loss_factor=loss,
                       facing=facing, coverage=coverage)
    raise BadInput(f"'{material.name}' is no layer of a stack", "", "use it as a seal or an isolator")


def _known(value: float | None) -> float:
    if value is None:
        raise BadInput("a property this family needs is unknown", "material", "add it on the shelf")
    return value
