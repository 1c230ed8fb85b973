"""What must hold for any stack: energy, reciprocity, limits, subdivision; a van panel computed another way; refusals."""

from __future__ import annotations

import json
import math
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sphagnum.catalogue.materials import materials
from sphagnum.core.errors import BadInput
from sphagnum.core.levels.bands import PREDICTED_HZ, grid_hz
from sphagnum.core.levels.rating import rate
from sphagnum.core.schema import parse
from sphagnum.core.stacks import transmission
from sphagnum.core.stacks.absorption import Lining, absorb
from sphagnum.core.stacks.alike import Again
from sphagnum.core.stacks.model import Stack
from sphagnum.core.stacks.named import resolved
from sphagnum.core.stacks.predict import curves_of, predict, predict_many

STEEL = {"kind": "plate", "thickness_mm": 0.8, "density_kg_m3": 7850, "youngs_modulus_gpa": 210, "loss_factor": 0.02}
BOARD = {"kind": "plate", "thickness_mm": 12.7, "density_kg_m3": 690, "youngs_modulus_gpa": 2.2, "loss_factor": 0.02}
VINYL = {"kind": "limp", "thickness_mm": 2.5, "surface_mass_kg_m2": 4.9}
AIR = {"kind": "air", "thickness_mm": 50}
BUTYL = {"kind": "damping", "thickness_mm": 2, "density_kg_m3": 1600, "youngs_modulus_mpa": 8, "loss_factor": 0.6,
         "facing": {"thickness_mm": 0.1, "youngs_modulus_gpa": 70, "density_kg_m3": 2700}}
WOOL = {"kind": "porous", "thickness_mm": 50, "flow_resistivity_pa_s_m2": 8000, "density_kg_m3": 20}


def stack(*layers: dict[str, Any], **more: Any) -> Stack:
    return parse(Stack, {"width_m": 2.0, "height_m": 1.4, "layers": list(layers), **more})


def curve(*layers: dict[str, Any], **more: Any) -> np.ndarray:
    return np.array(predict(stack(*layers, **more)).transmission_loss_db)


thickness = st.floats(0.1, 200)
plates = st.fixed_dictionaries({"kind": st.just("plate"), "thickness_mm": st.floats(0.3, 300),
                                "density_kg_m3": st.floats(20, 12000),
                                "youngs_modulus_gpa": st.floats(0.01, 300), "loss_factor": st.floats(0, 1)})
soft = st.one_of(
    st.fixed_dictionaries({"kind": st.just("air"), "thickness_mm": thickness}),
    st.fixed_dictionaries({"kind": st.just("porous"), "thickness_mm": thickness, "flow_resistivity_pa_s_m2": st.floats(500, 5e5),
                           "density_kg_m3": st.floats(2, 500)}),
    st.fixed_dictionaries({"kind": st.just("foam"), "thickness_mm": thickness, "dynamic_stiffness_mn_m3": st.floats(0.1, 1e4),
                           "density_kg_m3": st.floats(5, 500), "loss_factor": st.floats(0, 1)}),
    st.fixed_dictionaries({"kind": st.just("limp"), "thickness_mm": thickness, "surface_mass_kg_m2": st.floats(0.05, 500)}),
)


@settings(max_examples=60)
@given(layers=st.lists(soft | plates, min_size=1, max_size=9), width=st.floats(0.05, 20), leak=st.floats(0, 20))
def test_any_stack_gives_finite_figures_and_passes_no_more_than_arrives(layers: list[dict[str, Any]], width: float, leak: float):
    for before, after in pairwise(layers):
        if before["kind"] == after["kind"] == "plate":
            after["join"] = "fixed"
    for layer in layers[:1]:
        layer.pop("join", None)
    result = predict(stack(*layers, width_m=width, leak_cm2=min(leak, width * 1e4)))
    for values in (result.transmission_loss_db, result.loss_factor or ()):
        assert np.isfinite(values).all()
    assert min(result.transmission_loss_db) >= 0
    assert all(np.isfinite(f) for f in result.resonances.mass_air_mass_hz)


def over(low: float, high: float) -> st.SearchStrategy[float]:
    """Any value of an accepted range, alike over its powers of ten."""
    return st.floats(math.log10(low), math.log10(high)).map(lambda x: min(max(10**x, low), high))


any_plate = st.fixed_dictionaries({"kind": st.just("plate"), "thickness_mm": over(0.01, 2000), "density_kg_m3": over(1, 25000),
                                   "youngs_modulus_gpa": over(1e-9, 1e6), "loss_factor": st.floats(0, 3)})
any_damping = st.fixed_dictionaries({
    "kind": st.just("damping"), "thickness_mm": over(0.01, 2000), "density_kg_m3": over(1, 25000),
    "youngs_modulus_mpa": over(1e-9, 1e9), "loss_factor": st.floats(0, 3), "coverage": st.floats(0, 1),
    "facing": st.none() | st.fixed_dictionaries({"thickness_mm": over(0.01, 2000), "youngs_modulus_gpa": over(1e-9, 1e6),
                                                 "density_kg_m3": over(1, 25000)})})
any_core = st.fixed_dictionaries({"thickness_mm": over(0.01, 2000), "shear_modulus_mpa": over(1e-9, 1e6),
                                  "loss_factor": st.floats(0, 3)})
frames = st.sampled_from(["none", "wood-studs", "light-steel-studs", "staggered-wood-studs", "double-wood-studs",
                          "point-fixings"])


def stiffest_critical_hz(parts: list[dict[str, Any]]) -> float:
    """A critical frequency no leaf of these parts comes below, Hz."""
    depth = sum(p["thickness_mm"] for p in parts) / 1e3
    in_mpa = {"youngs_modulus_gpa": 1e3, "youngs_modulus_mpa": 1.0, "shear_modulus_mpa": 3.0}
    modulus = max(p[name] * 1e6 * times for p in parts for name, times in in_mpa.items() if name in p) / (1 - 0.45**2)
    mass = sum(p["thickness_mm"] / 1e3 * p.get("density_kg_m3", 0) for p in parts)
    return 343**2 / (2 * math.pi) * math.sqrt(mass / (modulus * depth**3 / 3))


@settings(max_examples=80)
@given(one=any_plate, two=any_plate, three=any_plate, damping=any_damping, core=any_core, gap=over(0.01, 2000), frame=frames,
       spacing=over(20, 5000), hung=st.none() | over(20, 5000), size=st.tuples(over(0.02, 50),
                                                                               over(0.02, 50)), edges=st.booleans())
def test_the_ends_of_all_accepted_ranges_give_figures(
    one: dict[str, Any], two: dict[str, Any], three: dict[str, Any], damping: dict[str, Any], core: dict[str, Any], gap: float,
    frame: str, spacing: float, hung: float | None, size: tuple[float, float], edges: bool,
):
    held = {"kind": frame, "spacing_mm": spacing, "resilient_channel_spacing_mm": None if frame == "none" else hung}
    result = predict(stack(damping, one, {**two, "join": "viscous", "interlayer": core}, {"kind": "air", "thickness_mm": gap},
                           three,
                           frame=held, width_m=size[0], height_m=size[1], edge_losses=edges))
    assert np.isfinite(result.transmission_loss_db).all()
    assert np.isfinite(result.loss_factor).all()
    assert 0 <= min(result.transmission_loss_db) <= max(result.transmission_loss_db) <= 120.01
    # no leaf is stiffer than all its depth of its stiffest part; where even that one's frequency would print as more than 0.00
    parts = [[one, two, damping, *([damping["facing"]] if damping["facing"] else []), core], [three]]
    for f, leaf in zip(result.resonances.critical_hz, parts, strict=True):
        assert math.isfinite(f)
        assert f > 0 or stiffest_critical_hz(leaf) < 0.01


@settings(max_examples=40)
@given(layers=st.lists(soft, min_size=1, max_size=5), first=plates, last=plates)
def test_sound_passes_alike_from_both_sides(layers: list[dict[str, Any]], first: dict[str, Any], last: dict[str, Any]):
    there = curve(first, AIR, *layers, AIR, last)
    back = curve(last, AIR, *layers[::-1], AIR, first)
    assert there == pytest.approx(back, abs=0.05)


@pytest.mark.parametrize("layer", [AIR, WOOL], ids=["air", "wool"])
def test_a_layer_cut_in_three_is_the_same_layer(layer: dict[str, Any]):
    parts = [{**layer, "thickness_mm": layer["thickness_mm"] * share} for share in (0.2, 0.5, 0.3)]
    assert curve(STEEL, *parts, BOARD) == pytest.approx(curve(STEEL, layer, BOARD), abs=0.02)


def test_limits_of_nothing_and_of_everything():
    thin = {"thickness_mm": 0.01}
    bare = curve(BOARD)
    assert curve(BOARD, {**AIR, **thin}) == pytest.approx(bare, abs=0.05)
    damp = {"kind": "damping", "thickness_mm": 2, "density_kg_m3": 1500, "youngs_modulus_mpa": 30, "loss_factor": 0.8}
    assert curve(BOARD, {**damp, "coverage": 0.0}) == pytest.approx(bare, abs=0.01)
    assert curve(BOARD, {**damp, "coverage": 1.0}) == pytest.approx(curve(BOARD, damp), abs=0.01)
    assert curve(BOARD, leak_cm2=0.0) == pytest.approx(bare)


@settings(max_examples=40)
@given(leak=st.floats(0.01, 3000), slit=st.floats(0.1, 30), depth=st.floats(0.5, 200))
def test_a_leak_or_slit_never_raises_any_band(leak: float, slit: float, depth: float):
    tight = curve(BOARD, WOOL, BOARD)
    assert (curve(BOARD, WOOL, BOARD, leak_cm2=leak) <= tight + 0.011).all()
    gap = curve(BOARD, WOOL, BOARD, leak_cm2=leak, leak_slit_mm=slit, leak_depth_mm=depth)
    tau = 10 ** (-gap / 10)
    assert (tau <= 1).all()
    # an antiresonant slit passes less than its area of wall would, never less than the rest of the wall
    assert (gap <= tight - 10 * np.log10(1 - leak / 2.8e4) + 0.011).all()


def test_frames_bridge_in_their_known_order():
    kinds = [{"kind": "wood-studs", "spacing_mm": 400}, {"kind": "light-steel-studs", "spacing_mm": 600},
             {"kind": "staggered-wood-studs", "spacing_mm": 400},
             {"kind": "wood-studs", "spacing_mm": 400, "resilient_channel_spacing_mm": 600}, {"kind": "double-wood-studs"}]
    mid = [curve(BOARD, {**WOOL, "thickness_mm": 90}, BOARD, frame=k)[8:16].mean() for k in kinds]
    assert mid[0] == min(mid)
    assert mid[-1] == max(mid)
    hard, soft_pads, none = (curve(BOARD, WOOL, BOARD, frame=k)[10] for k in (
        {"kind": "point-fixings", "spacing_mm": 400}, {"kind": "point-fixings", "spacing_mm": 400,
                                                       "isolated": True}, {"kind": "none"}))
    assert hard < soft_pads < none


def test_van_panel_with_barrier_on_decoupler_against_a_plain_sum_over_angles():
    # gain of a barrier on a foam over bare steel, by writing out the equations of motion and summing 400 angles
    foam = {"kind": "foam", "thickness_mm": 10, "dynamic_stiffness_mn_m3": 8, "density_kg_m3": 30, "loss_factor": 0.15}
    gain = curve(STEEL, foam, VINYL, surround="none") - curve(STEEL, surround="none")
    f = grid_hz().ravel()
    w, rc = 2 * np.pi * f, 1.21 * 343
    d = 210e9 * 0.8e-3**3 / 12 / (1 - 0.3**2)
    modulus = 8e6 * 0.01 * (1 + 0.15j)
    z, turn = np.sqrt(30 * modulus), 1j * w * np.sqrt(30 / modulus) * 0.01
    own, cross = z / np.tanh(turn), z / np.sinh(turn)  # a rod of foam between the two: force at a face by either velocity
    bare = lined = np.zeros_like(f)
    for s2 in (np.arange(400) + 0.5) / 400 * np.sin(np.radians(78)) ** 2:
        cos = np.sqrt(1 - s2)
        plate = 1j * w * 6.28 + d * (1 + 0.1j) * s2**2 * (w / 343) ** 4 / (1j * w)
        air = rc / cos
        v2 = 2 * cross / ((plate + air + own) * (own + 1j * w * 4.9 + air) - cross**2)
        lined = lined + np.abs(v2 * air) ** 2
        bare = bare + np.abs(2 / (plate + 2 * air) * air) ** 2
    want = 10 * np.log10(bare.reshape(-1, 6).mean(1) / lined.reshape(-1, 6).mean(1))
    assert gain == pytest.approx(want, abs=0.6)


def test_a_closed_foam_carries_waves_and_is_the_same_in_eight_parts():
    def lined(parts: int) -> np.ndarray:
        one = {"kind": "foam", "thickness_mm": 10 / parts, "dynamic_stiffness_mn_m3": 30 * parts, "density_kg_m3": 60,
               "loss_factor": 0.2}
        return curve(STEEL, *[one] * parts, VINYL)
    assert lined(1)[PREDICTED_HZ.index(3150.0)] < 62  # a lumped spring gave 74
    assert lined(8) == pytest.approx(lined(1), abs=0.02)


def test_the_surround_holds_a_trim_whatever_it_is_called():
    wool, soft = {**WOOL, "thickness_mm": 100}, {"kind": "plate", "thickness_mm": 2.5, "density_kg_m3": 1960,
                                                 "youngs_modulus_gpa": 0.01, "loss_factor": 0.3}
    limp, plate = curve(BOARD, wool, VINYL), curve(BOARD, wool, soft)
    assert limp.max() < 90  # 120 when a limp layer knew no surround
    assert limp == pytest.approx(plate, abs=1.0)


@pytest.mark.parametrize("fleece", [0.01, 0.05])
def test_a_trace_of_fleece_is_no_filling(fleece: float):
    empty = curve(BOARD, {"kind": "air", "thickness_mm": 90}, BOARD)
    traced = curve(BOARD, {"kind": "air", "thickness_mm": 90 - fleece}, {**WOOL, "thickness_mm": fleece}, BOARD)
    assert traced == pytest.approx(empty, abs=1.0)  # 16 dB when any porous layer ended the field along the cavity
    part, full = (curve(BOARD, {"kind": "air", "thickness_mm": 90 - t}, {**WOOL, "thickness_mm": t}, BOARD).mean()
                  for t in (5, 60))
    assert empty.mean() + 1 < part < full


def test_many_at_once_equal_one_by_one():
    kinds = [stack(BOARD, WOOL, {**BOARD, "thickness_mm": 9 + i % 7}, width_m=1 + 0.1 * (i % 9)) for i in range(40)]
    kinds += [stack(STEEL, {**VINYL, "surface_mass_kg_m2": 1.0 + i}) for i in range(5)]
    kinds += [stack(STEEL, {**BUTYL, "coverage": 0.2 + 0.1 * (i % 5)}, WOOL, {**VINYL, "surface_mass_kg_m2": 1.0 + i},
                    edge_losses=i % 2 == 0, height_m=1.1 + 0.1 * (i % 3)) for i in range(45)]
    assert predict_many(kinds) == [predict(s) for s in kinds]


def test_leaves_that_were_met_are_found_again_as_they_would_be_made(monkeypatch: pytest.MonkeyPatch):
    def panel(mm: float, damped: float, upon: dict[str, Any]) -> Stack:
        return stack({**STEEL, "thickness_mm": mm}, {**BUTYL, "thickness_mm": damped}, WOOL, upon)
    every = [panel(mm, damped, upon) for upon in (VINYL, {**STEEL, "thickness_mm": 1.2}) for mm in (0.8, 1.0)
             for damped in (1.0, 2.0, 4.0)]
    apart = []
    for one in every:  # each as if it were the first
        monkeypatch.setattr(transmission, "LEAVES", Again(1e6))
        apart.append(curves_of([one]))
    known = Again(1e6)
    monkeypatch.setattr(transmission, "LEAVES", known)
    half = curves_of(every[1::2])
    again = curves_of(every)
    assert known.held()[0] == 7  # two panels with three dampings, and one steel sheet over them all
    for k in range(3):
        assert np.array_equal(np.concatenate([x[k] for x in apart]), again[k])
        assert np.array_equal(half[k], again[k][1::2])


class Made(NamedTuple):
    doubled: np.ndarray
    alike: np.ndarray
    one: float


def test_what_is_found_again_is_let_go_beyond_its_bound():
    known, made = Again(100.0), list[int]()

    def make(places: np.ndarray) -> Made:
        made.append(len(places))
        return Made(2 * rows[places], np.array([[7.0]]), 1.0)
    rows = np.arange(4.0)[:, None]
    assert known.get("a", rows, make)[0].doubled.tolist() == (2 * rows).tolist()
    rows = np.arange(6.0)[::-1, None]
    found, at = known.get("a", rows, make)
    assert (found.doubled[at].tolist(), found.alike[at].tolist(), found.one) == ((2 * rows).tolist(), [[7.0]] * 6, 1.0)
    assert made == [4, 2]
    known.get("b", rows, make)  # as much again is too much
    assert (made, known.held()) == ([4, 2, 6], (0, 0.0))


@pytest.mark.parametrize(("more", "where"), [
    ({"frame": {"kind": "wood-studs", "spacing_mm": 400}}, "frame.between"),
    ({"frame": {"kind": "wood-studs"}}, "frame.spacing_mm"),
    ({"frame": {"kind": "none", "resilient_channel_spacing_mm": 400}}, "frame.kind"),
    ({"frame": {"kind": "wood-studs", "spacing_mm": 400, "between": [0, 1]}}, "frame.between"),
])
def test_a_frame_that_does_not_fit_is_refused_by_place(more: dict[str, Any], where: str):
    layers = (BOARD, WOOL, BOARD, AIR, BOARD) if "between" in where else (BOARD, WOOL, BOARD)
    with pytest.raises(BadInput) as refused:
        predict(stack(*layers, **more))
    assert refused.value.where == where
    assert predict(stack(BOARD, WOOL, BOARD, AIR, BOARD, frame={"kind": "wood-studs", "spacing_mm": 400, "between": [0, 2]})).STC


def test_warnings_name_what_is_weak():
    triple = predict(stack(BOARD, AIR, VINYL, AIR, BOARD, leak_cm2=5))
    assert {"third-leaf", "leak-ceiling"} <= {n.rule for n in triple.notes}
    assert len(triple.resonances.mass_air_mass_hz) == 2
    assert predict(stack(VINYL, AIR, BOARD, frame={"kind": "wood-studs", "spacing_mm": 400})).notes[-1].rule == "limp-frame"


def test_damping_loses_its_hold_in_the_cold_and_the_heat():
    butyl = {"material": "butyl-foil", "thickness_mm": 2}
    at = {t: predict(resolved(stack(STEEL, butyl, temperature_c=float(t)), materials())).loss_factor[10] for t in (-15, 20, 70)}
    assert at[20] > 1.2 * at[-15]
    assert at[20] > 2 * at[70]


@settings(max_examples=60)
@given(level=st.lists(st.floats(0, 90), min_size=21, max_size=21), better=st.lists(st.floats(0, 20), min_size=21, max_size=21))
def test_ratings_never_fall_when_every_band_rises(level: list[float], better: list[float]):
    low, high = np.array(level), np.array(level) + better
    a, b = (rate(dict(zip(PREDICTED_HZ, x.tolist(), strict=True))) for x in (low, high))
    assert b.Rw >= a.Rw
    assert b.STC >= a.STC
    assert b.Rw + b.C >= a.Rw + a.C - 1  # two roundings


linings = st.one_of(
    st.fixed_dictionaries({"kind": st.just("porous"), "thickness_mm": thickness,
                           "flow_resistivity_pa_s_m2": st.floats(500, 5e5)}),
    st.fixed_dictionaries({"kind": st.just("air"), "thickness_mm": thickness}),
    st.fixed_dictionaries({"kind": st.just("limp"), "thickness_mm": thickness, "surface_mass_kg_m2": st.floats(0.01, 50)}),
    st.fixed_dictionaries({"kind": st.just("perforated"), "thickness_mm": thickness, "hole_mm": st.floats(0.05, 60),
                           "open_share": st.floats(0.001, 1)}),
)


@settings(max_examples=60)
@given(layers=st.lists(linings, min_size=1, max_size=6))
def test_a_lining_takes_no_more_than_arrives(layers: list[dict[str, Any]]):
    result = absorb(parse(Lining, {"layers": layers}))
    for values in (result.alpha_normal, result.alpha_diffuse):
        assert all(-0.005 <= v <= 1.005 for v in values), values


def test_what_absorbs_and_what_does_not():
    air, wool = {"kind": "air", "thickness_mm": 100}, {"kind": "porous", "thickness_mm": 50, "flow_resistivity_pa_s_m2": 15000}
    film = {"kind": "limp", "thickness_mm": 0.1, "surface_mass_kg_m2": 0.3}
    alone, backed, filmed = (absorb(parse(Lining, {"layers": x})) for x in ([wool], [wool, air], [film, wool]))
    assert absorb(parse(Lining, {"layers": [air]})).NRC == 0
    low, high = PREDICTED_HZ.index(160.0), PREDICTED_HZ.index(4000.0)
    assert backed.alpha_diffuse[low] > 1.5 * alone.alpha_diffuse[low]  # an air gap behind helps the low end
    assert filmed.alpha_diffuse[high] < 0.3 * alone.alpha_diffuse[high]  # a film before it ends its high notes
    assert json.loads(alone.model_dump_json())["alpha_w"] >= 0.6


FOAM = {"kind": "porous", "thickness_mm": 25, "flow_resistivity_pa_s_m2": 7000, "density_kg_m3": 30}
GLUED = {**FOAM, "bonded": True, "frame_modulus_kpa": 150}


def test_a_foam_glued_to_both_masses_is_a_stiffer_spring():
    loose, glued = (predict(stack(STEEL, foam, VINYL)).resonances.mass_air_mass_hz[0] for foam in (FOAM, GLUED))
    assert glued / loose == pytest.approx(1.6, abs=0.05)  # √(1 + E/d over the air's 101 kPa/d)
    # its curve is that of the same spring beside loose foam, by what the two masses do well below the first wave across it
    free, held = curve(STEEL, FOAM, VINYL, surround="none"), curve(STEEL, GLUED, VINYL, surround="none")
    assert PREDICTED_HZ[int(np.argmin(held[3:12]))] > PREDICTED_HZ[int(np.argmin(free[3:12]))]
    assert held[-1] == pytest.approx(free[-1], abs=1.5)  # far above it the frame is too soft to matter
    # a face that is free, or lies on what gives way itself, holds nothing
    assert curve(STEEL, GLUED) == pytest.approx(curve(STEEL, FOAM))
    assert curve(STEEL, GLUED, AIR, VINYL) == pytest.approx(curve(STEEL, FOAM, AIR, VINYL))
    with pytest.raises(BadInput, match="frame_modulus_kpa"):
        stack(STEEL, {**FOAM, "bonded": True}, VINYL)


def test_what_goes_round_a_stack_is_named_and_only_lowers_it():
    lined = [STEEL, {**FOAM, "flow_resistivity_pa_s_m2": 25000}, VINYL]
    none, laboratory, fitted = (curve(*lined, surround=name) for name in ("none", "laboratory", "fitted"))
    assert (laboratory <= none + 0.01).all()
    assert (fitted <= none + 0.01).all()
    at = PREDICTED_HZ.index(2000.0)
    gain = [x[at] - curve(STEEL, surround="none")[at] for x in (none, laboratory, fitted)]
    assert 33 <= gain[1] <= gain[0] <= 38  # what laboratories show, recalled
    assert 22 <= gain[2] <= 27  # as left by hand


def test_an_edge_takes_up_more_of_a_light_wall_than_the_floor_says():
    block = {"kind": "plate", "thickness_mm": 100, "density_kg_m3": 600, "youngs_modulus_gpa": 1.8, "poisson": 0.2,
             "loss_factor": 0.0125}
    by_hand, alone = (predict(stack(block, width_m=3.66, height_m=2.44, surround=name)) for name in ("fitted", "laboratory"))
    at = PREDICTED_HZ.index(500.0)
    assert by_hand.loss_factor[at] == pytest.approx(0.0125 + 60 / 485 / 500**0.5, abs=2e-4)
    # inside, radiated 2·ρc·σ/(ω·m′) at σ = 1.39, and into 600 mm of concrete: α = 0.026 by hand, over 12.2 m of edge
    edges = 343 / (math.pi**2 * 8.93 * (500 * 384) ** 0.5) * 12.2 * 0.0257
    assert alone.loss_factor[at] == pytest.approx(0.0125 + 1.21 * 343 * 1.39 / (math.pi * 500 * 60) + edges, abs=1e-3)
