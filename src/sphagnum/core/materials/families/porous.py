"""Open porous layers: wools, felts, open foams, as an equivalent fluid with a limp frame."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import model_validator

from ...levels.bands import Floats
from ...schema import Density, Positive
from ..elements import AIR_DENSITY, SPEED_OF_SOUND, Complexes, Fluid, Place
from ..family import KPA, MM, SI, Columns, Family, Laid, Layer, Remark
from ..properties import Properties, known
from .air import BULK


class Porous(Layer):
    """An open porous layer, as an equivalent fluid."""

    kind: Literal["porous"]
    flow_resistivity_pa_s_m2: Positive
    density_kg_m3: Density
    bonded: bool = False
    """Glued on both faces: where both are masses, its frame is a spring beside its air."""
    frame_modulus_kpa: Positive | None = None

    @model_validator(mode="after")
    def _bonded_by_a_frame(self) -> Porous:
        if self.bonded and self.frame_modulus_kpa is None:
            raise ValueError("bonded needs frame_modulus_kpa; give the frame's modulus or leave 'bonded' out")
        return self


COLUMNS: Columns = {"thickness": ("thickness_mm", MM), "flow_resistivity": ("flow_resistivity_pa_s_m2", SI),
                    "density": ("density_kg_m3", SI)}
BONDED = "bonded"
"""The variant whose frame holds both its neighbours."""
FRAME_LOSS = 0.15
"""Loss factor of a soft foam's frame; judged."""


def _of_material(p: Properties, laid: Laid) -> Porous:
    return Porous(kind="porous", thickness_mm=laid.thickness_mm, density_kg_m3=known(p.density_kg_m3),
                  flow_resistivity_pa_s_m2=known(p.flow_resistivity_pa_s_m2), frame_modulus_kpa=p.frame_modulus_kpa)


def miki(frequency_hz: Floats, resistivity: Floats) -> tuple[Complexes, Complexes]:
    """Characteristic impedance (Pa·s/m) and wavenumber (1/m) of porous media, e^{+jωt}.

    Delany and Bazley (1970) with Miki's (1990) coefficients; valid for 0.01 < f/σ < 1.
    """
    x = frequency_hz / resistivity
    impedance = AIR_DENSITY * SPEED_OF_SOUND * (1 + (0.070 - 0.107j) * x**-0.632)
    wavenumber = 2 * np.pi * frequency_hz / SPEED_OF_SOUND * (1 + (0.109 - 0.160j) * x**-0.618)
    return np.asarray(impedance, dtype=complex), np.asarray(wavenumber, dtype=complex)


def element(layer: Place, frequency_hz: Floats, limp_frame: bool = True) -> Fluid:
    """A porous layer as a fluid; with a limp frame the skeleton's mass rides with the air (Panneton 2007)."""
    impedance, k = miki(frequency_hz, layer["flow_resistivity"])
    depth = layer["thickness"]
    if not limp_frame:
        return Fluid(impedance, k, depth)
    omega = 2 * np.pi * frequency_hz
    rho = impedance * k / omega
    bulk = layer["density"] + AIR_DENSITY
    limp = (bulk * rho - AIR_DENSITY**2) / (bulk + rho - 2 * AIR_DENSITY)
    k_limp = k * np.sqrt(limp / rho)
    return Fluid(limp * omega / k_limp, k_limp, depth)


def frame_stiffness(layer: Place) -> Complexes:
    """Stiffness of a bonded layer's frame, N/m³, complex: E/d."""
    return np.asarray(layer["frame"] / layer["thickness"] * (1 + 1j * FRAME_LOSS))


def _compliance(layer: Place) -> Floats:
    # air among fibres keeps their temperature: isothermal, softer by 1.4
    air = BULK / 1.4 / layer["thickness"]
    return np.asarray(1 / (air + (frame_stiffness(layer).real if layer.variant == BONDED else 0.0)))


def _remarks(layer: Porous) -> tuple[Remark, ...]:
    low, high = 0.01 * layer.flow_resistivity_pa_s_m2, layer.flow_resistivity_pa_s_m2
    if low <= 50 and high >= 5000:
        return ()
    return (Remark("miki-range", "info", f"The porous model is proven from {low:.0f} to {high:.0f} Hz; "
                                         "bands outside are marked less sure."),)


FAMILY = Family(
    name="porous", acts="soft", layer=Porous, of_material=_of_material, element=element,
    columns=lambda variant: {**COLUMNS, "frame": ("frame_modulus_kpa", KPA)} if variant == BONDED else COLUMNS,
    variant=lambda layer: BONDED if layer.bonded else "", compliance=_compliance, runs_along=True, fills=True, soaks=True,
    absorbs=True, remarks=_remarks,
    example={"kind": "porous", "thickness_mm": 50, "flow_resistivity_pa_s_m2": 12000, "density_kg_m3": 40},
)
