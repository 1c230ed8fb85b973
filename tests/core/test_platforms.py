"""Platforms on pads and holes closed beside a loudspeaker: worked out by hand, against this floor, and as a job counts them."""

from __future__ import annotations

import math
import os
import random
from typing import Any

import numpy as np
import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.builds.baffle import BaffleIn, baffle, door_of
from sphagnum.core.builds.from_desk import build_of
from sphagnum.core.builds.kinds import KINDS
from sphagnum.core.builds.model import Built
from sphagnum.core.builds.platform import Floor, PlatformIn, floor_mobility, platform, worse_ranges
from sphagnum.core.errors import BadInput
from sphagnum.core.figures.builds import worked
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.loads import job_load
from sphagnum.core.figures.outlook import outlook
from sphagnum.core.job.document import JobDocument
from sphagnum.core.paths.desk import entries
from sphagnum.core.paths.loudspeaker import gain_range
from sphagnum.core.schema import parse
from sphagnum.core.stages.cut.wanted import pieces_wanted
from sphagnum.core.stages.fit.view import order
from sphagnum.core.worded import view_in
from sphagnum.demo_builds import mixer

SWEEP = int(os.environ.get("SWEEP_BOXES", "12"))
CORNERS = [[-500, -400], [500, -400], [-500, 400], [500, 400]]
EVEN = {"kind": "platform", "masses": [{"kg": 80, "size_mm": [600, 400, 500]}],
        "pads": {"stiffness_n_mm": [[5, 50], [100, 50]], "damping_ratio": 0.05, "at_mm": CORNERS},
        "floor": {"kind": "slab", "mass_kg_m2": 350}, "notes_hz": [50]}
DOOR = {"kind": "baffle", "cone_mm": 165, "lowest_hz": 60, "open_cm2": 600,
        "sheet": {"material": "aluminium", "thickness_mm": 1.5}}


def made(**more: Any) -> Built:
    return view_in(platform(parse(PlatformIn, {**EVEN, **more}), shelf().materials), "metric")


def pads(**more: Any) -> dict[str, Any]:
    return {**EVEN["pads"], **more}


def test_six_modes_of_an_even_block_are_those_of_a_hand() -> None:
    """80 kg on 4 × 50 N/mm: up and down √(200 000/80)/2π = 7.96 Hz, sag 3.92 mm. Turning about the upright axis: J =
    80/12·(0.6² + 0.4²) = 3.47, k = 0.7·50 000·4·(0.5² + 0.4²) = 57 400: 20.5 Hz. Along and across couple with rocking, the
    centre 250 mm up."""
    built = made()
    assert built.modes_hz is not None
    modes = np.array(built.modes_hz)
    assert len(modes) == 6
    assert (np.abs(modes - 7.96) < 0.01).any()
    assert (np.abs(modes - 20.48) < 0.02).any()
    for k_rock, inertia in ((200e3 * 0.4**2, 80 / 12 * (0.4**2 + 0.5**2)), (200e3 * 0.5**2, 80 / 12 * (0.6**2 + 0.5**2))):
        k, m, h = 140e3, 80.0, 0.25  # sideways 0.7 of up and down, h below the centre of mass
        matrix = np.array([[k / m, -k * h / math.sqrt(m * inertia)],
                           [-k * h / math.sqrt(m * inertia), (k_rock + k * h**2) / inertia]])
        for omega2 in np.linalg.eigvalsh(matrix):
            assert (np.abs(modes - math.sqrt(omega2) / (2 * math.pi)) < 0.01).any()
    assert any("sinks 3.9 to 3.9 mm" in n for n in built.notes)
    # the sag of a linear spring and its frequency belong together: 15.8/√mm
    assert 15.76 / math.sqrt(3.924) == pytest.approx(7.96, abs=0.01)


def test_pads_on_a_slab_pass_on_what_the_mobilities_say() -> None:
    """350 kg/m² of concrete are 146 mm: B′ = 30e9·0.146³/(12·0.96) = 8.08e6, Y = 1/(8·√(B′·350)) = 2.35e-6 m/(N·s). Over the
    block's 1/(2π·50·80) = 3.98e-5 that is as good as nothing: with r = 50/7.96 = 6.28 and 2ζr = 0.63
    10·lg((1 + 0.39)/((1 − 39.5)² + 0.39)) = −30.3 dB pass on, here as on a rigid floor."""
    y = abs(floor_mobility(np.array([50.0]), Floor(mass_kg_m2=350))[0])
    assert y == pytest.approx(2.35e-6, rel=0.02)
    seen = made().transmissibility_db
    assert seen is not None
    at = seen.frequency_hz.index(50)
    assert seen.worse_db[at] == pytest.approx(-30.3, abs=0.1)
    assert seen.rigid[at] == pytest.approx(-30.3, abs=0.1)
    assert seen.frequency_hz[0] == 12.5


def test_on_a_soft_floor_pads_are_worse_where_floor_and_pads_meet_and_say_where() -> None:
    soft = {"kind": "span", "mass_kg_m2": 60, "first_hz": 15, "size_mm": [4000, 5000]}
    hard, here = made(), made(floor=soft)
    assert here.transmissibility_db is not None
    assert hard.transmissibility_db is not None
    assert max(here.transmissibility_db.worse_db) > 1
    assert any(n.startswith("Worse than straight on this floor from") for n in here.notes)
    f = np.array([10.0, 12.0, 14.0, 16.0, 18.0])
    assert worse_ranges(f, np.array([0.0, 1.2, 2.0, 0.2, 1.0])) == [(12.0, 14.0), (18.0, 18.0)]
    # far under its own modes a span is a spring of 1/(Σ 1/mω²): its mobility rises with frequency
    y = np.abs(floor_mobility(np.array([1.0, 2.0]), parse(Floor, soft)))
    assert y[1] / y[0] == pytest.approx(2.0, rel=0.03)


@pytest.mark.parametrize(("more", "said"), [
    ({"masses": [{"kg": 500, "size_mm": [600, 400, 500]}]}, "more, or larger"),
    ({"masses": [{"kg": 80, "size_mm": [600, 400, 500], "at_mm": [700, 0, 0]}]}, "tips over")])
def test_overload_and_tipping_are_refused(more: dict[str, Any], said: str) -> None:
    assert any(said in why for why in made(**more).refused)


@pytest.mark.parametrize(("more", "said"), [
    ({"pads": pads(stiffness_n_mm=[])}, "how stiff"), ({"pads": pads(at_mm=CORNERS[:2])}, "at_mm"),
    ({"pads": pads(at_mm=[[0, 0]] * 4)}, "in one place"), ({"pads": pads(stiffness_n_mm=[[5, 20], [5, 30]])}, "one load twice"),
    ({"masses": [{"kg": -1, "size_mm": [1, 1, 1]}]}, "kg"), ({"floor": {"kind": "span", "mass_kg_m2": 300}}, "first frequency")])
def test_a_platform_nobody_can_work_out_is_one_sentence(more: dict[str, Any], said: str) -> None:
    with pytest.raises(BadInput) as caught:
        made(**more)
    assert said in f"{caught.value.where} {caught.value.sentence}"


@pytest.mark.parametrize("seed", range(SWEEP))
def test_any_platform_carries_all_of_its_load_and_its_boards_are_cut_and_weighed_once(seed: int) -> None:
    rng = random.Random(seed)
    at = [[rng.uniform(-900, -100), rng.uniform(-700, -100)], [rng.uniform(100, 900), rng.uniform(-700, -100)],
          [rng.uniform(-900, -100), rng.uniform(100, 700)], [rng.uniform(100, 900), rng.uniform(100, 700)]]
    raw = {**EVEN, "masses": [{"kg": rng.uniform(30, 200), "size_mm": [300.0, 300.0, 400.0],
                               "at_mm": [rng.uniform(-50, 50), rng.uniform(-50, 50), 0.0]} for _ in range(rng.randint(1, 3))],
           "pads": pads(at_mm=at, stiffness_n_mm=[[5, 20], [60, 80], [400, 500]]),
           "boards": [{"material": "plywood", "thickness_mm": 17.6}] * rng.randint(0, 3)}
    built = view_in(platform(parse(PlatformIn, raw), shelf().materials), "metric")
    assert built.modes_hz is not None
    assert all(0.5 < f < 60 for f in built.modes_hz)
    whole = sum(m["kg"] for m in raw["masses"]) + (built.added_kg or 0.0)  # type: ignore[index]
    note = next(n for n in built.notes if n.startswith("Each pad carries"))
    low, high = (float(x) for x in note.split("carries ")[1].split(" kg")[0].split(" to "))
    assert low * 4 - 0.3 <= whole <= high * 4 + 0.3
    job = JobFigures(parse(JobDocument, {"job": {"id": 1, "version": 1, "name": "x", "kind": "room", "absorption_m2": 5},
                                         "builds": [{"id": 1, "version": 1, "name": "P", "given": raw}]}), shelf())
    if built.refused:
        assert job_load(job).kg == 0
        return
    cut = sum(n.wanted.shape.area for names in pieces_wanted(job).values() for n in names)
    assert cut == pytest.approx(sum(p.size_mm[0] * p.size_mm[1] for p in built.parts or ()), rel=1e-3)
    assert job_load(job).kg == pytest.approx(built.added_kg or 0.0, abs=0.1)


def test_the_mixer_upstairs_gets_a_platform_and_what_flies_stays() -> None:
    raw = mixer()
    job = JobFigures(parse(JobDocument, raw), shelf())
    ahead = outlook(job)
    assert ahead is not None
    # by its feet 43.5 of 44.0 dB(A); the ceiling's 34 stay, so no more than 9.97 dB can be gained
    assert -10.0 < ahead.change_db < -8.5
    assert ahead.within_db > 1
    assert [s.phase for s in order(job).steps if s.ref.build_id] == ["build", "hang"]
    built = worked(job, job.doc.builds[0]).built
    assert built is not None
    assert job_load(job).kg == pytest.approx(built.added_kg or 0.0, abs=0.02)  # boards and mounts, as they are bought
    assert (built.added_kg or 0.0) > sum(p.kg for p in built.parts or ()) + 0.1
    nowhere = JobFigures(parse(JobDocument, {**raw, "builds": [{**raw["builds"][0], "path_id": None}]}), shelf())
    assert outlook(nowhere) is None or outlook(nowhere).change_db == pytest.approx(0, abs=0.01)  # type: ignore[union-attr]


def test_a_door_s_holes_are_closed_by_pieces_that_reach_over_their_rims() -> None:
    given = parse(BaffleIn, {**DOOR, "holes_mm": [[300, 150], [100, 150]]})
    built = baffle(given, shelf().materials)
    assert [p.size_mm[:2] for p in built.parts or ()] == [(350, 200), (150, 200)]
    formable = baffle(parse(BaffleIn, {**DOOR, "closed": "formable", "sheet": {"material": "butyl-foil", "thickness_mm": 2}}),
                      shelf().materials)
    side = math.sqrt(600) * 10 + 50
    assert [p.size_mm[:2] for p in formable.parts or ()] == [pytest.approx((side, side))] * 2
    damped = baffle(parse(BaffleIn, {**DOOR, "damping": {"material": "butyl-foil", "thickness_mm": 2}}), shelf().materials)
    strips = [sum(p.size_mm[0] * p.size_mm[1] for p in damped.parts or () if p.name.startswith(f"damping, {where}"))
              for where in ("rim", "middle", "far end")]
    rings = [math.pi * (142.5**2 - 82.5**2), 0.6 * math.pi * (262.5**2 - 142.5**2), 0.3 * math.pi * (462.5**2 - 262.5**2)]
    assert strips == pytest.approx(rings)
    found = gain_range(door_of(given, built.added_kg or 0.0))
    assert built.gain_db == pytest.approx(found.bass, abs=0.06)
    for more, said in (({"open_cm2": 0}, "nothing is open"), ({"holes_mm": [[300, 300]]}, "by the tape"),
                       ({"holes_mm": [[1000, 60]], "open_cm2": 600}, "larger than the panel")):
        with pytest.raises(BadInput, match=said):
            baffle(parse(BaffleIn, {**DOOR, **more}), shelf().materials)


def test_quick_sums_of_the_desk_become_builds_that_hold() -> None:
    forms = {e.id: {f.name: f.value for f in e.fields} for e in entries()}
    made_of = {name: build_of(name, form) for name, form in forms.items()}
    assert {name for name, given in made_of.items() if given} == {"hood", "pads", "door"}
    for given in made_of.values():
        if given:
            kind = KINDS[str(given["kind"])]
            built = kind.work(parse(kind.given, given), shelf().materials, shelf().rooms)
            assert built.parts
            assert kind.says(built)
            assert kind.steps(parse(kind.given, given), built)
