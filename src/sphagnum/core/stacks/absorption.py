"""Absorption of a lining before a rigid wall: normal and diffuse incidence, and its single numbers."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Literal, NamedTuple

import numpy as np
from pydantic import Discriminator, Field, Tag, model_validator

from ..errors import BadInput
from ..levels.bands import POINTS_PER_BAND, PREDICTED_HZ, Floats, grid_hz
from ..materials.elements import AIR_DENSITY, Complexes, Element, Moving
from ..materials.families import air, limp, porous
from ..materials.families.air import Air
from ..materials.families.limp import Limp
from ..materials.families.porous import Porous
from ..materials.layers import ShelfLayer, layer_tag
from ..materials.table import columns_of
from ..schema import Density, Positive, Strict, ThicknessMm
from ..working import Working, inputs
from .multilayer import before, plane

VISCOSITY = 1.81e-5  # Pa·s, air at 20 °C
ANGLES = 24


class LiningPorous(Strict):
    """An open porous layer; ``limp_frame`` lets its skeleton ride with the air."""

    kind: Literal["porous"]
    thickness_mm: ThicknessMm
    flow_resistivity_pa_s_m2: Positive
    density_kg_m3: Density | None = None
    limp_frame: bool = False

    @model_validator(mode="after")
    def _heavy_frame(self) -> LiningPorous:
        if self.limp_frame and self.density_kg_m3 is None:
            raise ValueError("a limp frame needs density_kg_m3; add it or leave limp_frame out")
        return self


def before_a_wall(layer: Porous) -> LiningPorous:
    """A porous layer of a stack as one of a lining: its frame holds nothing there."""
    return LiningPorous(**layer.model_dump(exclude={"bonded", "frame_modulus_kpa"}))


class Perforated(Strict):
    """A perforated panel that does not move."""

    kind: Literal["perforated"]
    thickness_mm: ThicknessMm
    hole_mm: Annotated[float, Field(ge=0.05, le=500, strict=True, allow_inf_nan=False)]
    open_share: Annotated[float, Field(gt=0, le=1, strict=True, allow_inf_nan=False)]


LiningLayer = Annotated[
    Annotated[LiningPorous, Tag("porous")] | Annotated[Air, Tag("air")] | Annotated[Limp, Tag("limp")]
    | Annotated[Perforated, Tag("perforated")] | Annotated[ShelfLayer, Tag("material")],
    Discriminator(layer_tag, custom_error_type="unknown_layer",
                  custom_error_message="the kind of layer is not known here; use porous, air, limp, perforated or a "
                  "material of the shelf"),
]


class Lining(Strict):
    """Layers from the sound's side to a rigid wall."""

    layers: tuple[LiningLayer, ...] = Field(min_length=1, max_length=40)


class Absorption(Strict):
    """What ``absorb`` prints: band means of the 21 bands, 50 Hz to 5 kHz; NRC and SAA (ASTM C423), αw (ISO 11654)."""

    frequency_hz: tuple[float, ...]
    alpha_normal: tuple[float, ...]
    alpha_diffuse: tuple[float, ...]
    NRC: float
    SAA: float
    alpha_w: float


class AbsorptionNumbers(NamedTuple):
    """NRC, SAA and αw of a curve."""

    NRC: float
    SAA: float
    alpha_w: float


@lru_cache(maxsize=512)
def face_alpha(face: tuple[LiningLayer, ...]) -> Floats | None:
    """Diffuse absorption of an open face from its outside down, 21 bands, at most 1; None where nothing of it is open."""
    if not any(x.kind == "porous" for x in face if not isinstance(x, ShelfLayer)):
        return None
    return np.asarray(np.minimum(np.array(absorb(Lining(layers=face)).alpha_diffuse), 1.0))


def absorb(lining: Lining) -> Absorption:
    """Absorption of a lining whose shelf layers are resolved (an endless sample; diffuse: Paris' integral to 90°).

    ``lining``: layers from the sound's side to a rigid wall, fields in the units of their names (thickness in mm). The result
    has coefficients (0–1) per band for normal and diffuse incidence, NRC and SAA (ASTM C423), αw (ISO 11654). BadInput for
    shelf layers that were not resolved.

    >>> absorb(parse(Lining, {"layers": [{"kind": "air", "thickness_mm": 50}]})).NRC
    0.0
    """
    f = grid_hz().ravel()[None, :]
    elements = [_element(layer, i, f) for i, layer in enumerate(lining.layers)]
    x, w = np.polynomial.legendre.leggauss(ANGLES)
    diffuse = np.einsum("saf,a->sf", _absorbed(elements, f, (x + 1) / 2), w / 2)
    normal = _absorbed(elements, f, np.zeros(1))[:, 0, :]
    means = [np.round(a.reshape(-1, POINTS_PER_BAND).mean(axis=1), 2) + 0.0 for a in (normal, diffuse)]
    return Absorption(frequency_hz=PREDICTED_HZ, alpha_normal=tuple(means[0].tolist()),
                      alpha_diffuse=tuple(means[1].tolist()), **absorption_numbers(means[1])._asdict())


def _absorbed(elements: list[Element], f: Floats, sine2: Floats) -> Floats:
    """Absorption coefficient per angle, (1, angles, frequencies)."""
    at = plane(f, sine2)
    state = at.still()
    for element in reversed(elements):
        state = before(element, state, at)
    # reflection at impedance p/v against ρc/cosθ, written so that a hard surface (v = 0) is no division by zero
    reflected = (state.pressure - at.z0 * state.velocity) / (state.pressure + at.z0 * state.velocity)
    return np.asarray(np.maximum(1 - np.abs(reflected) ** 2, 0.0))  # far below its range the porous law can give back sound


def _element(layer: LiningLayer, index: int, f: Floats) -> Element:
    if isinstance(layer, ShelfLayer):
        raise BadInput(f"'{layer.material}' is not resolved", f"layers[{index}].material", "resolve shelf layers first")
    if isinstance(layer, Perforated):
        return Moving(perforated_impedance(layer, f))
    if isinstance(layer, LiningPorous):
        full = layer.model_copy(update={"density_kg_m3": layer.density_kg_m3 or 0.0})
        return porous.element(columns_of("porous", "", [full]), f, layer.limp_frame)
    place = columns_of(layer.kind, "", [layer])
    # an open gap before a wall has no edges to lose at, as an empty cavity has
    return air.element(place, f, loss=0.0) if isinstance(layer, Air) else limp.element(place, f)


def perforated_impedance(panel: Perforated, frequency_hz: Floats) -> Complexes:
    """Impedance of a perforated panel, Pa·s/m: viscous flow in round holes (Maa 1998) with their ends.

    End resistance 4·R_s and length 2·0.85·r·(1 − 1.13ξ − 0.09ξ² + 0.27ξ³), ξ hole over pitch (Allard and Atalla 2009).
    """
    from scipy.special import jv  # takes long to load, and only perforated panels need it

    omega, radius, depth = 2 * np.pi * frequency_hz, panel.hole_mm / 2e3, panel.thickness_mm / 1e3
    x = np.sqrt(-1j) * radius * np.sqrt(omega * AIR_DENSITY / VISCOSITY)
    # J1/J0 of a large argument tends to ±j; evaluated there it would overflow
    ratio = np.where(np.abs(x) < 100, jv(1, np.where(np.abs(x) < 100, x, 1)) / jv(0, np.where(np.abs(x) < 100, x, 1)), -1j)
    inside = 1j * omega * AIR_DENSITY * depth / (1 - 2 / x * ratio)
    xi = min(np.sqrt(4 * panel.open_share / np.pi), 1.0)
    ends = 1.7 * radius * max(1 - 1.13 * xi - 0.09 * xi**2 + 0.27 * xi**3, 0.0)
    surface = 0.5 * np.sqrt(2 * VISCOSITY * AIR_DENSITY * omega)
    return np.asarray((inside + 4 * surface + 1j * omega * AIR_DENSITY * ends) / panel.open_share)


_REFERENCE = np.array([0.80, 1.00, 1.00, 1.00, 0.90])  # ISO 11654:1997, 250 Hz to 4 kHz


def absorption_numbers(alpha: Floats) -> AbsorptionNumbers:
    """NRC, SAA and αw of diffuse absorption coefficients in the 21 bands.

    NRC: mean of 250, 500, 1000, 2000 Hz in steps of 0.05; SAA: mean of 200–2500 Hz in steps of 0.01. αw: practical
    coefficients (octaves, steps of 0.05, at most 1) under the reference curve shifted until short by at most 0.10.
    """
    at = {f: float(a) for f, a in zip(PREDICTED_HZ, alpha, strict=True)}
    low = PREDICTED_HZ.index(200.0)
    nrc = np.mean([at[f] for f in (250.0, 500.0, 1000.0, 2000.0)])
    octaves = np.array([alpha[PREDICTED_HZ.index(f) - 1 : PREDICTED_HZ.index(f) + 2].mean()
                        for f in (250.0, 500.0, 1000.0, 2000.0, 4000.0)])
    practical = np.minimum(_steps(octaves, 0.05), 1.0)
    shift = next(k for k in range(21) if np.maximum(_REFERENCE - 0.05 * k - practical, 0).sum() <= 0.10 + 1e-9)
    return AbsorptionNumbers(NRC=float(_steps(nrc, 0.05)), SAA=float(_steps(alpha[low : low + 12].mean(), 0.01)),
                             alpha_w=round(1.0 - 0.05 * shift, 2) + 0.0)


def _steps(value: Floats | np.floating, step: float) -> Floats:
    """Nearest multiple of a step, halves upwards."""
    return np.asarray(np.round(np.floor(np.asarray(value) / step + 0.5 + 1e-9) * step, 2))


def absorption_working(result: Absorption) -> Working:
    """The working behind a lining's figures."""
    return Working(
        figure="absorption of the lining", formula="surface impedance by transfer matrices before a rigid wall; Paris' integral",
        inputs=inputs(NRC=result.NRC, SAA=result.SAA, alpha_w=result.alpha_w),
        source="Delany and Bazley 1970 with Miki 1990; Maa 1998; ISO 11654; ASTM C423",
        accuracy="± 0.1 on a coefficient; a laboratory's finite sample reads up to 0.2 more",
        valid="0.01 < f/σ < 1 in porous layers; endless sample",
    )
