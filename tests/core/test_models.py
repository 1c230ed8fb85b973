"""The smaller models: openings, heat, boxes, out of doors, pads, rooms, modes, joins, and frames of a job's surfaces."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sphagnum.catalogue.load import shelf
from sphagnum.core.figures.lays import panel_loss, planned_lay, present_lay
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.bands import PREDICTED_HZ
from sphagnum.core.paths.enclosure import airflow_m3_s, close_fit_db, insertion_loss_db, lined_duct_db, natural_vent_m2
from sphagnum.core.paths.isolators import transmissibility
from sphagnum.core.paths.loudspeaker import closing_gain_db, mount_gain_db, rear_share
from sphagnum.core.paths.outdoors import YardIn, detour_m, ground_db, maekawa_db, screen_db, yard
from sphagnum.core.paths.room import absorption_from_time_m2, eyring_s, level_drop_db, sabine_s
from sphagnum.core.schema import parse
from sphagnum.core.stacks.heat import Climate, HeatLayer, dew_point_c, saturation_pa, through
from sphagnum.core.stacks.leaf import first_mode_hz
from sphagnum.core.stacks.model import Stack
from sphagnum.core.stacks.modes import panel_modes
from sphagnum.core.stacks.openings import composite, hole_transmission, slit_transmission
from sphagnum.core.stacks.predict import predict

BANDS = np.array(PREDICTED_HZ)
WOOL = HeatLayer("wool", 0.05, 0.035, 1.0)
STEEL = HeatLayer("steel", 0.0008, 50.0, 1e6)
BOARD = HeatLayer("board", 0.012, 0.13, 80.0)


def test_a_deep_slit_sings_where_half_a_wave_fits_its_length():
    width, depth = 0.002, 0.2
    f = np.linspace(300, 1200, 2000)
    peak = float(f[np.argmax(slit_transmission(f, width, depth))])
    k = 2 * np.pi * peak / 343 * width
    mouth = width * (math.log(8 / k) - 0.5772) / math.pi
    assert 343 / 2 / (depth + 2 * mouth) == pytest.approx(peak, rel=0.02)
    assert slit_transmission(np.array([20000.0]), 0.02, 0.02) == pytest.approx(1.0)


@given(tau=st.floats(1e-9, 1), share=st.floats(0, 1), opening=st.floats(0, 30))
def test_a_composite_lies_between_its_parts(tau: float, share: float, opening: float):
    whole = float(composite(np.array([tau]), share, opening)[0])
    assert min(tau, opening) - 1e-12 <= whole <= min(max(tau, opening), 1.0) + 1e-12


def test_a_wide_hole_passes_what_meets_it_and_a_deep_one_less_at_first():
    f = np.array([50.0, 20000.0])
    wide, deep = hole_transmission(f, 0.1, 0.001), hole_transmission(f, 0.1, 0.3)
    assert wide[1] == pytest.approx(1.0, abs=0.05)
    assert deep[0] < 0.5 * wide[0]


@given(inside=st.floats(5, 35), outside=st.floats(-30, 4), thick=st.floats(0.001, 0.3))
def test_temperatures_fall_from_warm_to_cold_and_insulation_lowers_u(inside: float, outside: float, thick: float):
    climate = parse(Climate, {"inside_c": inside, "outside_c": outside})
    bare, filled = through([STEEL, BOARD], climate), through([STEEL, WOOL._replace(thickness_m=thick), BOARD], climate)
    assert (np.diff(filled.temperatures_c) >= -1e-9).all()
    assert outside <= filled.temperatures_c[0] <= filled.temperatures_c[-1] <= inside
    assert filled.u_value < bare.u_value
    assert filled.resistance - bare.resistance == pytest.approx(thick / 0.035)


def test_water_condenses_on_the_cold_skin_until_a_film_holds_the_vapour():
    climate = Climate()
    open_wool, film = through([STEEL, WOOL, BOARD], climate), through([STEEL, WOOL, HeatLayer("film", 0.0002, 0.2, 1e8)], climate)
    assert open_wool.wet == [1]  # between skin and wool
    assert film.wet == []
    # the dew point is where saturation comes down to what the air holds
    dew = dew_point_c(20.0, 0.4)
    assert float(saturation_pa(dew)) == pytest.approx(0.4 * float(saturation_pa(20.0)), rel=1e-6)
    assert dew_point_c(20.0, 1.0) == pytest.approx(20.0)
    assert dew_point_c(-5.0, 0.5) < -5


@given(absorbed=st.floats(0.01, 100), leaving=st.floats(0.001, 50), more=st.floats(1.01, 10))
def test_a_box_loses_by_every_opening_and_gains_by_every_lining(absorbed: float, leaving: float, more: float):
    one, leaky, lined = (float(insertion_loss_db(a, np.array([t]))[0]) for a, t in (
        (absorbed, leaving), (absorbed, leaving * more), (absorbed * more, leaving)))
    assert 0 <= leaky < one < lined


def test_a_close_wall_makes_it_louder_at_the_resonance_of_its_gap():
    mass, gap = 8.0, 0.05
    f0 = math.sqrt(1.21 * 343**2 / (mass * gap)) / (2 * math.pi)
    at, far = close_fit_db(np.array([f0, 8 * f0]), mass, gap)
    assert at < 0
    # well above it and below the gap's own waves: mass on the air's spring, 40·lg of the ratio
    assert far == pytest.approx(40 * math.log10(8), abs=1.5)


def test_ducts_and_vents_by_their_laws():
    short, long = (lined_duct_db(BANDS, n, 0.2, 0.6) for n in (0.5, 1.0))
    assert long[4] == pytest.approx(2 * short[4])
    assert lined_duct_db(BANDS, 1.0, 0.4, 0.6)[4] == pytest.approx(long[4] / 2)  # twice as wide, half the wall per area
    assert long[-1] < long[PREDICTED_HZ.index(1600.0)]  # sound beams down a wide duct at high frequencies
    assert airflow_m3_s(2000, 5) == pytest.approx(2 * airflow_m3_s(2000, 10))
    assert natural_vent_m2(0.1, 4.0, 10) == pytest.approx(natural_vent_m2(0.1, 1.0, 10) / 2)  # a taller chimney draws better


@given(ratio=st.floats(0.05, 30), damping=st.floats(0.005, 1))
def test_isolation_begins_at_root_two_whatever_the_damping(ratio: float, damping: float):
    passed = float(transmissibility(ratio * 10, 10, damping))
    if ratio < math.sqrt(2) - 1e-6:
        assert passed >= 1 - 1e-9
    if ratio > math.sqrt(2) + 1e-6:
        assert passed <= 1 + 1e-9


@given(height=st.floats(0.5, 6), more=st.floats(0.05, 3), at=st.floats(0.3, 6))
def test_a_higher_screen_never_lets_more_over(height: float, more: float, at: float):
    low, high = (parse(YardIn, {"screen_m": h, "screen_at_m": at}) for h in (height, height + more))
    assert detour_m(high) > detour_m(low)
    assert (screen_db(BANDS, detour_m(high)) >= screen_db(BANDS, detour_m(low))).all()
    assert screen_db(BANDS, detour_m(high)).max() <= 20


def test_out_of_doors_by_distance_wall_and_ground():
    def less(**form: Any) -> float:
        return yard(parse(YardIn, form)).lines[0].values[10]

    flat = {"source_height_m": 1.0, "listener_height_m": 1.0}
    assert less(far_m=14.0, **flat) - less(far_m=7.0, **flat) == pytest.approx(6.02, abs=0.01)
    # 3 m across and 4 m up is 5 m away
    assert less(far_m=3.0, source_height_m=0.0, listener_height_m=4.0) == pytest.approx(20 * math.log10(5), abs=0.01)
    # a wall 0.5 m behind: its image is 2 m off where 1 m was read, 8 m off where 7 m is asked; the near reading holds its part
    by_wall = less(far_m=7.0, **flat) - less(far_m=7.0, wall_at_m=0.5, **flat)
    assert by_wall == pytest.approx(10 * math.log10((1 + (7 / 8) ** 2) / (1 + (1 / 2) ** 2)), abs=0.01)
    assert ground_db(0.3, 1.5, 60) > 1
    assert ground_db(3, 6, 10) == 0
    clear = parse(YardIn, {"screen_m": 0.5, "source_height_m": 1.0, "listener_height_m": 1.0})
    assert detour_m(clear) < 0
    # grazing the edge: N = 0 leaves 10·lg 3 = 4.8 dB, well under the line nothing
    assert maekawa_db(np.array([500.0]), 0.0) == pytest.approx(4.77, abs=0.01)
    assert maekawa_db(np.array([500.0]), -1.0) == pytest.approx(0.0)


@given(volume=st.floats(5, 500), share=st.floats(0.01, 0.9))
def test_rooms_by_sabine_and_eyring(volume: float, share: float):
    surface = 6 * volume ** (2 / 3)
    sabine, eyring = float(sabine_s(volume, share * surface)), float(eyring_s(volume, surface, share))
    assert eyring < sabine
    assert absorption_from_time_m2(volume, sabine) == pytest.approx(share * surface)
    assert float(level_drop_db(2.0, 4.0)) == pytest.approx(3.01, abs=0.01)


@given(width=st.floats(0.2, 3), height=st.floats(0.2, 3), mass=st.floats(1, 50), more=st.floats(0.1, 20))
def test_panel_modes_agree_with_the_stacks_first_mode(width: float, height: float, mass: float, more: float):
    supported, clamped = (panel_modes(20.0, mass, width, height, e) for e in ("simply supported", "clamped"))
    assert supported[0, 0] == pytest.approx(float(first_mode_hz(np.array(20.0 / mass), width, height)))
    assert (clamped > supported).all()
    assert supported[0, 0] == supported.min()
    loaded = panel_modes(20.0, mass + more, width, height, "simply supported")[0, 0]
    assert loaded / supported[0, 0] == pytest.approx(math.sqrt(mass / (mass + more)))


def test_a_closed_opening_gains_most_at_the_lowest_notes():
    f = np.array([40.0, 63.0, 315.0])
    gain = closing_gain_db(f, 0.1, 0.0, 0.03, 0.0)
    assert gain[0] > gain[1] > abs(gain[2])
    assert np.abs(rear_share(np.array([5.0]), 0.1, 0.03)) == pytest.approx(1, abs=0.05)  # all of it comes out at the bottom
    assert closing_gain_db(f, 0.0, 0.0, 0.03, 0.0) == pytest.approx(0)
    assert 0 < mount_gain_db(15, 1.5, 2.0) < 0.2


def joined(join: str, **interlayer: float) -> Stack:
    board = {"kind": "plate", "thickness_mm": 12.5, "density_kg_m3": 690, "youngs_modulus_gpa": 2.2, "loss_factor": 0.01}
    second = {**board, "join": join, **({"interlayer": interlayer} if interlayer else {})}
    return parse(Stack, {"width_m": 3.0, "height_m": 2.5, "layers": [board, second]})


def test_two_boards_by_their_join():
    bonded, fixed = predict(joined("bonded")), predict(joined("fixed"))
    viscous = predict(joined("viscous", thickness_mm=0.5, shear_modulus_mpa=0.3, loss_factor=1.0))
    critical = [p.resonances.critical_hz[0] for p in (bonded, fixed, viscous)]
    assert critical[1] == pytest.approx(2 * critical[0], rel=0.01)  # four times the stiffness, half the critical frequency
    assert critical[0] < critical[2] <= critical[1] * 1.01
    at = PREDICTED_HZ.index(2500.0)
    assert viscous.loss_factor[at] > 4 * fixed.loss_factor[at]
    assert viscous.transmission_loss_db[at] > fixed.transmission_loss_db[at] + 3  # near coincidence the layer pays
    stiff = predict(joined("viscous", thickness_mm=0.02, shear_modulus_mpa=1e6, loss_factor=0.0))
    assert stiff.resonances.critical_hz[0] == pytest.approx(critical[0], rel=0.03)


def partition(**more: Any) -> JobDocument:
    board = {"material": "gypsum-board", "thickness_mm": 12.5}
    surface = {"id": 1, "version": 1, "name": "Partition", "outline_mm": [[0, 0], [4000, 0], [4000, 2500], [0, 2500]],
               "substrate": board, "present": [{"material": "glass-wool", "thickness_mm": 89}, board],
               "frame": {"kind": "wood-studs", "spacing_mm": 400}}
    alternative = {"id": 1, "version": 1, "surface_id": 1, **more}
    return parse(JobDocument, {"job": {"id": 1, "version": 1, "name": "x", "kind": "room"}, "surfaces": [surface],
                               "alternatives": [alternative]})


def test_a_surface_carries_its_frame_and_a_plan_may_change_it():
    same = partition()
    surface = same.surfaces[0]
    now = panel_loss(surface, present_lay(same, surface), shelf())[1]
    assert now.STC == panel_loss(surface, planned_lay(same, surface), shelf())[1].STC
    hung = partition(frame={"kind": "wood-studs", "spacing_mm": 400, "resilient_channel_spacing_mm": 600})
    assert panel_loss(surface, planned_lay(hung, surface), shelf())[1].STC >= now.STC + 6
    # taken bare there is no cavity for the frame to bridge: one board, and no complaint
    bare = partition(takes_out=["1", "2"])
    assert panel_loss(surface, planned_lay(bare, surface), shelf())[1].STC < now.STC
