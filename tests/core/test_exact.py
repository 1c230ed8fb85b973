"""Exact checks of the core: energy at every angle, reciprocity with frames, laws of links, modes and coverage by hand."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from sphagnum.core.materials.elements import Element, Fluid, Moving
from sphagnum.core.schema import parse
from sphagnum.core.stacks.bridges import Linked, line_links, point_links
from sphagnum.core.stacks.damping import first_mode_share
from sphagnum.core.stacks.model import Stack
from sphagnum.core.stacks.multilayer import before, plane
from sphagnum.core.stacks.predict import predict

F = np.array([[63.0, 250.0, 1000.0, 4000.0]])
ANGLES = np.sin(np.radians([0.0, 30.0, 60.0, 77.0])) ** 2
OMEGA = 2 * np.pi * F


def limp(mass: float) -> Moving:
    return Moving(1j * OMEGA * mass)


def plate(mass: float, stiffness: float, loss: float) -> Moving:
    return Moving(1j * OMEGA * mass, stiffness * (1 + 1j * loss) * (OMEGA / 343) ** 4 / (1j * OMEGA))


def gap(depth: float, loss: float) -> Fluid:
    k = OMEGA / 343 * np.sqrt(1 - 1j * loss)
    return Fluid(1.21 * 343 / np.sqrt(1 - 1j * loss) + 0 * k, k, np.array([[depth]]))


def spring(stiffness: float, loss: float, mass: float) -> Fluid:
    """A closed foam 10 mm thick, by its stiffness per area and its mass."""
    modulus, density = stiffness * 0.01 * (1 + 1j * loss), max(mass, 1e-6) / 0.01
    return Fluid(np.sqrt(density * modulus) + 0 * OMEGA, OMEGA * np.sqrt(density / modulus), np.array([[0.01]]), True)


def balance(chain: list[Element]) -> tuple[np.ndarray, np.ndarray]:
    """Energy reflected and transmitted, of 1 that meets a chain, (angles, frequencies)."""
    at = plane(F, ANGLES)
    state = at.radiating()
    for element in reversed(chain):
        state = before(element, state, at)
    into = state.pressure + at.z0 * state.velocity
    back = state.pressure - at.z0 * state.velocity
    return np.abs(back / into)[0] ** 2, np.abs(2 * at.z0 / into)[0] ** 2


sizes = st.tuples(st.floats(0.5, 60), st.floats(1, 1e4), st.floats(0.005, 0.3), st.floats(1e5, 1e9), st.floats(0, 5))


@given(size=sizes, loss=st.floats(0.001, 1))
def test_energy_is_kept_without_loss_and_taken_with_it(size: tuple[float, ...], loss: float):
    mass, stiffness, depth, k, own = size
    def chain(eta: float) -> list[Element]:
        return [plate(mass, stiffness, eta), gap(depth, eta), limp(mass / 3), spring(k, eta, own), limp(2 * mass)]
    reflected, transmitted = balance(chain(0.0))
    # what passes is as small as 1e-12, so the balance is good to rounding of single precision in the cavity
    assert reflected + transmitted == pytest.approx(1, abs=2e-3)
    lossy = balance(chain(loss))
    assert (lossy[0] + lossy[1] <= 1 + 2e-3).all()


@given(mass=st.floats(0.5, 500))
def test_a_limp_sheet_follows_the_mass_law_at_every_angle(mass: float):
    _, transmitted = balance([limp(mass)])
    cos = np.sqrt(1 - ANGLES)[:, None]
    assert transmitted == pytest.approx(1 / (1 + (OMEGA * mass * cos / (2 * 1.21 * 343)) ** 2), rel=1e-9)


def test_a_plate_is_transparent_where_it_bends_in_step_with_the_sound():
    angle, stiffness = math.asin(math.sqrt(ANGLES[2])), 60.0
    # m·ω² = D·(ω/c·sinθ)⁴ at 1 kHz and 60°
    mass = stiffness * (2 * math.pi * 1000) ** 2 * math.sin(angle) ** 4 / 343**4
    _, transmitted = balance([plate(mass, stiffness, 0.0)])
    assert transmitted[2, 2] == pytest.approx(1, abs=1e-9)


boards = st.fixed_dictionaries({"kind": st.just("plate"), "thickness_mm": st.floats(1, 30), "density_kg_m3": st.floats(300, 3000),
                                "youngs_modulus_gpa": st.floats(1, 70), "loss_factor": st.floats(0.005, 0.1)})
frames = st.sampled_from([{"kind": "wood-studs", "spacing_mm": 400}, {"kind": "light-steel-studs", "spacing_mm": 600},
                          {"kind": "staggered-wood-studs", "spacing_mm": 400}, {"kind": "point-fixings", "spacing_mm": 500},
                          {"kind": "point-fixings", "spacing_mm": 500, "isolated": True}])


def framed(layers: list[dict[str, Any]], frame: dict[str, Any]) -> np.ndarray:
    return np.array(predict(parse(Stack, {"width_m": 3, "height_m": 2.5, "layers": layers, "frame": frame})).transmission_loss_db)


@settings(max_examples=40)
@given(one=boards, two=boards, frame=frames, filled=st.booleans())
def test_a_framed_wall_passes_alike_from_both_sides(
    one: dict[str, Any], two: dict[str, Any], frame: dict[str, Any], filled: bool,
):
    cavity = {"kind": "porous", "thickness_mm": 80, "flow_resistivity_pa_s_m2": 7000, "density_kg_m3": 15} if filled else {
        "kind": "air", "thickness_mm": 80}
    assert framed([one, cavity, two], frame) == pytest.approx(framed([two, cavity, one], frame), abs=0.02)


masses = st.floats(1, 60)
critical = st.floats(200, 20_000)


@given(m1=masses, m2=masses, f1=critical, f2=critical, spacing=st.floats(0.1, 2), soft=st.floats(0, 1e-4))
def test_links_pass_alike_both_ways_and_less_when_they_give(
    m1: float, m2: float, f1: float, f2: float, spacing: float, soft: float,
):
    f, one = np.array([[125.0, 500.0, 2000.0]]), np.ones((1, 1))
    a, b = (Linked(m * one, fc + 0 * f, 1 + 0 * f) for m, fc in ((m1, f1), (m2, f2)))
    for link, at in ((line_links, spacing * one), (point_links, one / spacing**2)):
        hard = link(a, b, at, 0.0, f)
        assert hard == pytest.approx(link(b, a, at, 0.0, f), rel=1e-6)
        if link is point_links:  # a yielding line may ring with its leaves
            assert (link(a, b, at, soft, f) <= hard * (1 + 1e-9)).all()
        assert (link(a, b, at, 1e6, f) < 1e-6 * hard).all()
    assert (point_links(a, b, 2 * one, 0.0, f) == 2 * point_links(a, b, one, 0.0, f)).all()


@given(share=st.floats(0, 1), more=st.floats(0.001, 1), ratio=st.floats(0.2, 5))
def test_a_centred_patch_takes_more_of_the_first_mode_than_of_the_area(share: float, more: float, ratio: float):
    assume(share + more <= 1)
    got, larger = float(first_mode_share(share, ratio)), float(first_mode_share(share + more, ratio))
    assert 0 <= got < larger <= 1 + 1e-9
    assert got >= share - 1e-9


def test_twice_the_thickness_halves_the_critical_frequency():
    def critical_of(thickness: float) -> float:
        layer = {"kind": "plate", "thickness_mm": thickness, "density_kg_m3": 2500, "youngs_modulus_gpa": 70, "loss_factor": 0.02}
        return predict(parse(Stack, {"width_m": 1.5, "height_m": 1.2, "layers": [layer]})).resonances.critical_hz[0]

    assert critical_of(8) == pytest.approx(critical_of(4) / 2, rel=1e-3)
