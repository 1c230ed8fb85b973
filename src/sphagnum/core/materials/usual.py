"""What is usual in a family: ranges of its properties, and what of a material should be asked about. Judgements, wide ones."""

from __future__ import annotations

from typing import NamedTuple

from ..schema import Strict
from ..worded import of
from .model import Material

USUAL: dict[str, dict[str, tuple[float, float]]] = {
    "plate": {"density_kg_m3": (100, 9000), "youngs_modulus_gpa": (0.02, 250), "loss_factor": (0.0005, 0.2)},
    "damping": {"density_kg_m3": (700, 3000), "youngs_modulus_mpa": (0.2, 3000), "loss_factor": (0.05, 2),
                "facing_thickness_mm": (0.02, 2), "facing_modulus_gpa": (1, 220), "facing_density_kg_m3": (900, 9000)},
    "limp": {"density_kg_m3": (800, 11_400)},
    "foam": {"density_kg_m3": (10, 1300), "youngs_dynamic_mpa": (0.02, 30), "loss_factor": (0.01, 1)},
    "porous": {"density_kg_m3": (5, 400), "flow_resistivity_pa_s_m2": (1000, 300_000)},
}
ALWAYS: dict[str, tuple[float, float]] = {"conductivity_w_mk": (0.015, 400), "vapour_mu": (1, 2e6), "loss_peak_c": (-40, 120),
                                          "loss_width_c": (5, 80), "modulus_decade_c": (5, 200)}
NEEDS: dict[str, tuple[str, ...]] = {
    "plate": ("density_kg_m3", "youngs_modulus_gpa"), "damping": ("density_kg_m3", "youngs_modulus_mpa", "loss_factor"),
    "limp": ("density_kg_m3",), "foam": ("density_kg_m3", "youngs_dynamic_mpa", "loss_factor"),
    "porous": ("density_kg_m3", "flow_resistivity_pa_s_m2")}
"""What a family cannot be computed without."""
FIBRE_UM = (1.0, 45.0)
"""Diameter of fibres (of struts in a foam) that make a flow resistivity and a density fit each other, µm."""


class Doubt(Strict):
    """A property that should be asked about: what is said, and what is usual (None where a value is missing)."""

    property: str
    sentence: str
    low: float | None = None
    high: float | None = None


class _Words(NamedTuple):
    name: str
    unit: str


WORDS: dict[str, _Words] = {
    "density_kg_m3": _Words("density", "kg/m³"), "youngs_modulus_gpa": _Words("Young's modulus", "GPa"),
    "youngs_modulus_mpa": _Words("Young's modulus", "MPa"), "loss_factor": _Words("loss factor", ""),
    "flow_resistivity_pa_s_m2": _Words("flow resistivity", "Pa·s/m²"), "youngs_dynamic_mpa": _Words("dynamic modulus", "MPa"),
    "facing_thickness_mm": _Words("facing thickness", "mm"), "facing_modulus_gpa": _Words("facing modulus", "GPa"),
    "facing_density_kg_m3": _Words("facing density", "kg/m³"), "loss_peak_c": _Words("temperature of best loss", "°C"),
    "loss_width_c": _Words("width of the loss peak", "°C"), "modulus_decade_c": _Words("degrees per decade of modulus", "°C"),
    "conductivity_w_mk": _Words("thermal conductivity", "W/(m·K)"), "vapour_mu": _Words("vapour resistance factor", ""),
    "poisson": _Words("Poisson's ratio", ""),
}


def doubts(material: Material) -> tuple[Doubt, ...]:
    """What of a material is out of its family's usual range, does not fit together, or is missing; what somebody is sure of
    is not asked again.

    A flow resistivity fits a density by σ = 3.18·10⁻⁹·ρ^1.53/d² (Bies and Hansen 1980, recalled), d from 1 to 45 µm.
    """
    values = material.properties.model_dump()
    out = []
    for name, (low, high) in {**USUAL.get(material.family, {}), **ALWAYS}.items():
        value = values[name]
        if value is not None and not low <= value <= high:
            out.append(Doubt(property=name, low=low, high=high, sentence=(
                f"A {WORDS[name].name} of {_quantity(name, value)} is unusual for {_kind(material.family)}: "
                f"{_quantity(name, low, high)}")))
    sigma, density = values["flow_resistivity_pa_s_m2"], values["density_kg_m3"]
    if material.family == "porous" and sigma and density:
        low, high = (3.18e-9 * density**1.53 / (d * 1e-6) ** 2 for d in reversed(FIBRE_UM))
        said = f"A flow resistivity of {_quantity('flow_resistivity_pa_s_m2', sigma)}"
        if not low <= sigma <= high:
            out.append(Doubt(property="flow_resistivity_pa_s_m2", low=round(low), high=round(high), sentence=(
                f"{said} does not fit {of(density, 'kg/m³')}: "
                f"{round(low):,} to {round(high):,} Pa·s/m² is usual there".replace(",", "\u202f"))))
    out = [d for d in out if d.property not in material.sure]
    out += [Doubt(property=name, sentence=f"the {WORDS[name].name} is missing, so nothing can be computed with it")
            for name in NEEDS.get(material.family, ()) if values[name] is None]
    return tuple(out)


def _kind(family: str) -> str:
    return {"plate": "a plate", "limp": "a limp barrier", "foam": "a foam", "porous": "a porous layer"}.get(family, family)


def _quantity(name: str, *values: float) -> str:
    """A value of a property with its unit, or a range of it."""
    return of(" to ".join(f"{v:,g}" for v in values).replace(",", "\u202f"), WORDS[name].unit).strip()
