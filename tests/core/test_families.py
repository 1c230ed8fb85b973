"""Families of materials: each is one module, the table is asked for all of them, and nothing unknown passes for a plate."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np
import pytest

from sphagnum.core.errors import BadInput
from sphagnum.core.materials.elements import Fluid, Place
from sphagnum.core.materials.families import foam
from sphagnum.core.materials.family import MM, SI, Family, Layer, Unit
from sphagnum.core.materials.table import FAMILIES, family, layer_mass, variant_of
from sphagnum.core.schema import parse
from sphagnum.core.stacks.columns import make_up, places
from sphagnum.core.stacks.model import Stack
from sphagnum.core.stacks.predict import predict

STEEL = {"kind": "plate", "thickness_mm": 0.8, "density_kg_m3": 7850, "youngs_modulus_gpa": 210}
BARRIER = {"kind": "limp", "thickness_mm": 2.5, "surface_mass_kg_m2": 4.9}


def of(*layers: dict) -> Stack:
    return parse(Stack, {"width_m": 1.25, "height_m": 1.5, "layers": [*layers]})


# A family somebody made up: a bed of gel, by its modulus in kPa. All that is particular to it stands here.


class Gel(Layer):
    kind: Literal["gel"]
    modulus_kpa: float
    density_kg_m3: float
    loss_factor: float = 0.2


def medium(layer: Place, frequency_hz: np.ndarray) -> Fluid:
    modulus = layer["modulus"] * (1 + 1j * layer["loss"])
    omega = 2 * np.pi * frequency_hz
    return Fluid(np.sqrt(layer["density"] * modulus) + 0 * omega, omega * np.sqrt(layer["density"] / modulus), layer["thickness"],
                 straight=True)


GEL = Family(
    name="gel", acts="soft", layer=Gel, element=medium, fills=True, compliance=lambda x: x["thickness"] / x["modulus"],
    columns=lambda _: {"thickness": ("thickness_mm", MM), "modulus": ("modulus_kpa", Unit(times=1e3)),
                       "density": ("density_kg_m3", SI), "loss": ("loss_factor", SI)},
)


@pytest.fixture
def with_gel(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    with monkeypatch.context() as patch:
        patch.setitem(FAMILIES, "gel", GEL)
        Stack.model_rebuild(force=True)
        yield
    Stack.model_rebuild(force=True)


def test_a_made_up_family_takes_one_module(with_gel: None):
    """A gel of the modulus of a foam predicts as that foam does, in the stack, its resonance and its mass."""
    gel = {"kind": "gel", "thickness_mm": 10, "modulus_kpa": 300, "density_kg_m3": 60}
    same = {"kind": "foam", "thickness_mm": 10, "dynamic_stiffness_mn_m3": 30, "density_kg_m3": 60, "loss_factor": 0.2}
    made, known = (predict(of(STEEL, x, BARRIER)) for x in (gel, same))
    assert made == known
    assert made.surface_mass_kg_m2 == pytest.approx(0.8 * 7.85 + 0.6 + 4.9)


def test_an_unknown_kind_raises_wherever_it_is_met():
    with pytest.raises(BadInput, match="use plate, limp, foam"):
        of(STEEL, {"kind": "gel", "thickness_mm": 10, "modulus_kpa": 300, "density_kg_m3": 60})
    strange = Gel(kind="gel", thickness_mm=10, modulus_kpa=300, density_kg_m3=60)
    for ask in (lambda: family("gel"), lambda: variant_of(strange), lambda: layer_mass(strange),
                lambda: predict(of(STEEL).model_copy(update={"layers": (*of(STEEL).layers, strange)}))):
        with pytest.raises(BadInput, match="'gel' is no family"):
            ask()


@pytest.mark.parametrize("name", [n for n, f in FAMILIES.items() if f.layer])
def test_every_family_shows_an_example_that_weighs_and_predicts(name: str):
    example = FAMILIES[name].example
    stack = of(STEEL, *([] if name == "plate" else [example]))
    got = predict(stack)
    assert got.surface_mass_kg_m2 == pytest.approx(sum(layer_mass(x) for x in stack.layers), abs=0.006)
    assert all(np.isfinite(got.transmission_loss_db))


def test_what_is_given_in_the_units_of_files_is_si_inside():
    stack = of(STEEL, {"kind": "foam", "thickness_mm": 10, "dynamic_stiffness_mn_m3": 30, "density_kg_m3": 60})
    steel, soft = places([stack], make_up(stack))
    assert [float(steel[n][0, 0]) for n in ("thickness", "density", "modulus")] == [0.0008, 7850.0, 210e9]
    assert float(soft["stiffness"][0, 0]) == 30e6
    assert float(foam.FAMILY.compliance(soft)[0, 0]) == pytest.approx(1 / 30e6)
