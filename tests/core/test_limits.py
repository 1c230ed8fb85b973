"""Over random stacks: what vanishes changes nothing, what is split stays the same, and either side hears alike."""

from __future__ import annotations

import os
import random
from typing import Any

import numpy as np
import pytest

from sphagnum.core.materials.table import family
from sphagnum.core.schema import parse
from sphagnum.core.stacks.model import Stack
from sphagnum.core.stacks.predict import predict_many

Layer = dict[str, Any]
STACKS = int(os.environ.get("SWEEP", "60"))
"""`make sweep` asks for more."""
JUMP_DB, SPLIT_DB = 1.0, 0.5
FACING = {"thickness_mm": 0.1, "youngs_modulus_gpa": 70, "density_kg_m3": 2700}


def one(kind: str, thickness_mm: float, **more: Any) -> Layer:
    return {"kind": kind, "thickness_mm": thickness_mm, **more}


PLATES = (((0.6, 2), 7850, 210, 0.01), ((9, 19), 700, 2.3, 0.02), ((3, 10), 2500, 70, 0.02), ((6, 22), 600, 7, 0.02))


def plate(rng: random.Random) -> Layer:
    between, density, modulus, loss = rng.choice(PLATES)
    return one("plate", rng.uniform(*between), density_kg_m3=density, youngs_modulus_gpa=modulus, loss_factor=loss)


def limp(rng: random.Random) -> Layer:
    return one("limp", 2.5, surface_mass_kg_m2=rng.uniform(2, 10))


def soft(rng: random.Random) -> Layer:
    return rng.choice([
        one("air", rng.uniform(6, 150)),
        one("porous", rng.uniform(10, 100), flow_resistivity_pa_s_m2=rng.uniform(5e3, 4e4), density_kg_m3=30),
        one("foam", rng.uniform(3, 15), dynamic_stiffness_mn_m3=rng.uniform(5, 60), density_kg_m3=40, loss_factor=0.2)])


def damping(rng: random.Random, faced: bool) -> Layer:
    return one("damping", rng.uniform(1, 4), density_kg_m3=1500, youngs_modulus_mpa=rng.uniform(5, 500), loss_factor=0.6,
               coverage=rng.uniform(0.2, 1), **({"facing": FACING} if faced else {}))


def some(rng: random.Random) -> list[Layer]:
    """A plate, then one to four layers: what a van, a hood or a wall is made of."""
    layers = [plate(rng)]
    for _ in range(rng.randint(0, 2)):
        if rng.random() < 0.4 and layers[-1]["kind"] == "plate":
            layers.append(damping(rng, rng.random() < 0.5))
        parted = [] if rng.random() < 0.25 else [soft(rng)]
        layers += [*parted, rng.choice([plate, limp])(rng)]
    if rng.random() < 0.3:
        layers.append(soft(rng))
    return layers


def stack(layers: list[Layer], **more: Any) -> Stack:
    joined = [{**x, "join": "fixed"} if x["kind"] == "plate" and i and layers[i - 1]["kind"] == "plate" and "join" not in x else x
              for i, x in enumerate(layers)]
    return parse(Stack, {"width_m": 1.6, "height_m": 1.2, "layers": joined, **more})


def curves(stacks: list[Stack]) -> np.ndarray:
    return np.array([p.transmission_loss_db for p in predict_many(stacks)])


def worst(pairs: list[tuple[Stack, Stack]], bands: slice = slice(None)) -> tuple[float, tuple[Stack, Stack]]:
    both = curves([s for pair in pairs for s in pair]).reshape(len(pairs), 2, -1)[:, :, bands]
    off = np.abs(both[:, 0] - both[:, 1]).max(axis=1)
    return float(off.max()), pairs[int(off.argmax())]


def vanishing(rng: random.Random, kind: str, layers: list[Layer]) -> list[Layer] | None:
    """The layers with a trace of a kind put in somewhere; None where it does not go."""
    trace = {
        "air": one("air", 0.01), "limp": one("limp", 0.01, surface_mass_kg_m2=0.01),
        "porous": one("porous", 0.01, flow_resistivity_pa_s_m2=2e4, density_kg_m3=40),
        "foam": one("foam", 0.01, dynamic_stiffness_mn_m3=3e4, density_kg_m3=40, loss_factor=0.2),
        "plate": one("plate", 0.01, density_kg_m3=900, youngs_modulus_gpa=1, loss_factor=0.02),
        "damping": one("damping", 0.01, density_kg_m3=1500, youngs_modulus_mpa=30, loss_factor=0.5)}
    kinds = [*(x["kind"] for x in layers), ""]
    places = [i for i in range(1, len(kinds)) if (kinds[i - 1] == "plate" if kind == "damping" else kinds[i] != "damping")]
    if not places:
        return None
    place = rng.choice(places)
    return [*layers[:place], trace[kind], *layers[place:]]


@pytest.mark.parametrize("kind", ["air", "porous", "foam", "limp", "plate", "damping"])
def test_a_layer_that_vanishes_leaves_no_jump(kind: str):
    rng = random.Random(kind)
    pairs = []
    while len(pairs) < STACKS:
        layers = some(rng)
        more = vanishing(rng, kind, layers)
        if more is not None:
            pairs.append((stack(layers), stack(more)))
    # the lightest film there is, 10 g/m², is heard by itself from 2 kHz on
    off, (without, with_) = worst(pairs, slice(0, 17) if kind in ("limp", "plate") else slice(None))
    assert off <= JUMP_DB, (without.layers, with_.layers)


def test_coverage_to_one_and_leak_to_nothing_leave_no_jump():
    rng = random.Random(2)
    layers = [[plate(rng), {**damping(rng, i % 2 == 0), "coverage": 1.0}, soft(rng), limp(rng)] for i in range(STACKS)]
    nearly = [[{**x, "coverage": 0.9999} if x["kind"] == "damping" else x for x in stack_] for stack_ in layers]
    assert worst([(stack(a), stack(b)) for a, b in zip(layers, nearly, strict=True)])[0] <= JUMP_DB
    assert worst([(stack(a), stack(a, leak_cm2=1e-6)) for a in layers])[0] <= JUMP_DB


def split(layer: Layer, parts: int) -> list[Layer]:
    one = {**layer, "thickness_mm": layer["thickness_mm"] / parts}
    match layer["kind"]:
        case "foam":
            one["dynamic_stiffness_mn_m3"] = layer["dynamic_stiffness_mn_m3"] * parts
        case "limp":
            one["surface_mass_kg_m2"] = layer["surface_mass_kg_m2"] / parts
        case "plate":
            return [one, *[{**one, "join": "bonded"}] * (parts - 1)]
        case "damping":
            return [*[{k: v for k, v in one.items() if k != "facing"}] * (parts - 1), one]
    return [one] * parts


@pytest.mark.parametrize("kind", ["air", "porous", "limp", "foam", "plate", "damping"])
def test_splitting_a_layer_moves_nothing(kind: str):
    rng = random.Random(kind)
    pairs = []
    while len(pairs) < STACKS:
        layers = some(rng)
        which = [i for i, x in enumerate(layers) if x["kind"] == kind]
        if which:
            i = rng.choice(which)
            pairs.append((stack(layers), stack([*layers[:i], *split(layers[i], rng.choice([2, 3, 8])), *layers[i + 1 :]])))
    off, (whole, parts) = worst(pairs)
    assert off <= SPLIT_DB, (whole.layers, parts.layers)


def test_either_side_hears_alike():
    rng = random.Random(8)
    made = [some(rng) for _ in range(STACKS)]
    made = [x for x in made if family(x[-1]["kind"]).acts != "soft"]
    assert worst([(stack(x), stack(x[::-1])) for x in made])[0] <= SPLIT_DB
