"""Linings before a rigid wall: limits in closed form, a plain sum over angles, ratings worked by hand, the shelf, refusals."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sphagnum.catalogue.load import shelf
from sphagnum.catalogue.materials import materials
from sphagnum.core.errors import BadInput
from sphagnum.core.levels.bands import PREDICTED_HZ
from sphagnum.core.schema import parse
from sphagnum.core.stacks.absorption import Absorption, Lining, absorb, absorption_numbers
from sphagnum.core.stacks.named import resolved_lining

BANDS = 10 ** (np.arange(17, 38) / 10)  # exact middles, 50 Hz to 5 kHz
POINTS = 10 ** (np.arange(-2.5, 3) / 60)  # six frequencies spread over one third of an octave


def wool(thickness: float, flow: float = 12000, **more: Any) -> dict[str, Any]:
    return {"kind": "porous", "thickness_mm": thickness, "flow_resistivity_pa_s_m2": flow, **more}


def air(thickness: float) -> dict[str, Any]:
    return {"kind": "air", "thickness_mm": thickness}


def film(mass: float) -> dict[str, Any]:
    return {"kind": "limp", "thickness_mm": 0.1, "surface_mass_kg_m2": mass}


def absorbed(*layers: dict[str, Any]) -> Absorption:
    return absorb(parse(Lining, {"layers": list(layers)}))


def miki(f: np.ndarray, flow: float) -> tuple[np.ndarray, np.ndarray]:
    """Impedance over ρc and wavenumber, after Miki 1990 (recalled)."""
    x = f / flow
    return 1 + 0.070 * x**-0.632 - 0.107j * x**-0.632, 2 * np.pi * f / 343 * (1 + 0.109 * x**-0.618 - 0.160j * x**-0.618)


def test_a_very_thick_layer_is_a_half_space():
    f = BANDS[:, None] * POINTS
    z, _ = miki(f, 12000)
    half_space = (1 - np.abs((z - 1) / (z + 1)) ** 2).mean(axis=1)
    assert absorbed(wool(2000)).alpha_normal == pytest.approx(half_space, abs=0.006)


def test_diffuse_absorption_is_a_plain_sum_over_angles():
    f = (BANDS[:, None] * POINTS)[..., None]
    angle = (np.arange(2000) + 0.5) / 2000 * np.pi / 2
    z, k = miki(f, 12000)
    across = np.sqrt(k**2 - (2 * np.pi * f / 343 * np.sin(angle)) ** 2)
    surface = -1j * z * k / across / np.tan(across * 0.05)
    taken = 1 - np.abs((surface * np.cos(angle) - 1) / (surface * np.cos(angle) + 1)) ** 2
    weight = np.sin(2 * angle) * np.pi / 2 / 2000
    assert absorbed(wool(50)).alpha_diffuse == pytest.approx((taken * weight).sum(axis=-1).mean(axis=-1), abs=0.006)


def test_a_thin_resisting_sheet_before_a_gap_takes_up_most_a_quarter_wave_from_the_wall():
    # 2 mm of dense felt, in all 1.1 ρc of resistance, 200 mm before the wall: its peak at c/4d = 429 Hz, none at c/2d
    result = absorbed(wool(2, 230_000), air(198))
    peak = PREDICTED_HZ[int(np.argmax(result.alpha_normal[:12]))]
    assert peak in (400.0, 500.0)
    assert max(result.alpha_normal[:12]) > 0.9
    assert min(result.alpha_normal[10:14]) < 0.4


@given(thin=st.floats(0.05, 2), more=st.floats(0.05, 5))
def test_a_heavier_film_takes_the_high_notes_away(thin: float, more: float):
    light, heavy = (absorbed(film(m), wool(50)) for m in (thin, thin + more))
    assert (np.array(heavy.alpha_diffuse[-5:]) <= np.array(light.alpha_diffuse[-5:]) + 0.011).all()


def test_a_limp_frame_matters_only_where_it_is_light():
    stiff = absorbed(wool(50)).alpha_normal
    light, heavy = (absorbed(wool(50, limp_frame=True, density_kg_m3=d)).alpha_normal for d in (8, 2000))
    assert heavy == pytest.approx(stiff, abs=0.011)
    assert np.abs(np.subtract(light, stiff)).max() > 0.03


def test_ratings_worked_by_hand():
    alpha = np.zeros(21)
    for octave, value in ((250, 0.35), (500, 0.70), (1000, 0.65), (2000, 0.60), (4000, 0.55)):
        at = PREDICTED_HZ.index(float(octave))
        alpha[at - 1 : at + 2] = value
    found = absorption_numbers(alpha)
    assert found.NRC == 0.60  # mean 0.575, halves upwards in steps of 0.05
    assert found.SAA == 0.58  # the same mean in steps of 0.01
    # shifted down by 0.40: short by 0.05 at 250 Hz (0.40) only; by 0.35: 0.10 + 0.00 + 0.00 + 0.05, too much
    assert found.alpha_w == 0.60
    assert absorption_numbers(np.full(21, 1.2))._asdict() == {"NRC": 1.20, "SAA": 1.20, "alpha_w": 1.0}
    assert absorption_numbers(np.zeros(21))._asdict() == {"NRC": 0, "SAA": 0, "alpha_w": 0}


@given(alpha=st.lists(st.floats(0, 1), min_size=21, max_size=21), more=st.lists(st.floats(0, 0.5), min_size=21, max_size=21))
def test_absorption_ratings_never_fall_when_every_band_rises(alpha: list[float], more: list[float]):
    low, high = (absorption_numbers(np.array(x)) for x in (alpha, np.add(alpha, more)))
    assert all(b >= a for a, b in zip(low, high, strict=True))


def test_layers_of_the_shelf_absorb_as_what_they_are():
    kept = shelf().material("glass-wool").properties
    by_name = resolved_lining(parse(Lining, {"layers": [{"material": "glass-wool", "thickness_mm": 60}, air(40)]}), materials())
    assert absorb(by_name) == absorbed(wool(60, kept.flow_resistivity_pa_s_m2), air(40))
    with pytest.raises(BadInput, match="no part of an absorbing lining"):
        resolved_lining(parse(Lining, {"layers": [{"material": "steel", "thickness_mm": 1}]}), materials())


@pytest.mark.parametrize(("layer", "says"), [
    ({"kind": "plate", "thickness_mm": 3}, "use porous, air, limp, perforated"),
    (wool(50, limp_frame=True), "a limp frame needs density_kg_m3"),
    ({"kind": "perforated", "thickness_mm": 1, "hole_mm": 3, "open_share": 0}, "open_share"),
    ({"kind": "perforated", "thickness_mm": 1, "hole_mm": 3, "open_share": 1.5}, "open_share"),
    (wool(0), "thickness_mm"), (wool(50, -1), "flow_resistivity"), (wool(50, holes=3), "unknown key 'holes'"),
])
def test_linings_that_cannot_be_are_refused(layer: dict[str, Any], says: str):
    with pytest.raises(BadInput) as refused:
        absorbed(layer)
    assert says in f"{refused.value.where}: {refused.value.sentence}"
