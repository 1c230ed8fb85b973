"""The working desk: every calculation answers and refuses, knows the trade, and warns where it should."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.errors import BadInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.bands import PREDICTED_HZ
from sphagnum.core.paths.desk import DESK, entries, work_out
from sphagnum.core.schema import parse
from sphagnum.core.stages.fit.view import order
from sphagnum.core.worded import worded
from sphagnum.demo import rows


@pytest.mark.parametrize("name", sorted(DESK))
def test_every_calculation_answers_and_refuses(name: str):
    entry = next(e for e in entries() if e.id == name)
    answer = work_out(name, {f.name: f.value for f in entry.fields})
    assert answer == work_out(name, {})
    assert answer.working.source
    assert all(f.value is None or math.isfinite(f.value) for f in answer.figures)
    assert all(len(line.values) == len(PREDICTED_HZ) for line in answer.lines)
    number = next(f for f in entry.fields if isinstance(f.value, float))
    assert work_out(name, {number.name: str(number.value).replace(".", ",")}) == answer
    for wrong in ({number.name: "loud"}, {number.name: -1e6}, {"no such": 1}):
        with pytest.raises(BadInput):
            work_out(name, wrong)


def test_calculations_know_the_trade():
    soft, hard = (work_out("pads", {"stiffness_n_mm": k, "lowest_hz": 25}) for k in (40, 400))
    assert not soft.cautions
    assert "make it worse" in hard.cautions[0]
    bare, lined = (work_out("hood", {"duct_m": d, "walls": "heavy mat, limp", "wall_kg_m2": 30}).figures[0].value for d in (0, 1))
    assert lined > bare + 3  # where the walls do not limit it
    low, high = (work_out("yard", {"screen_m": h}).figures[-1].value for h in (1.0, 3.0))
    assert high > low
    assert work_out("crack", {"width_mm": 1}).figures[2].value > work_out("crack", {"width_mm": 5}).figures[2].value
    assert work_out("drum", {"added_kg_m2": 6.3}).figures[0].value < work_out("drum", {}).figures[0].value
    high_player = work_out("door", {"lowest_hz": 400, "cone_mm": 80})
    assert "does not play low" in high_player.cautions[0]


@pytest.mark.parametrize(("name", "form", "says"), [
    ("pads", {"mass_kg": 200, "most_kg": 30}, "50.0 kg on a pad that may carry 30 kg"),
    ("pads", {"lowest_hz": 5}, "these pads make it worse. Softer ones, to sag at least 19.9 mm"),
    ("hood", {"vent_cm2": 300}, "breathe too little without a fan"),
    ("hood", {}, "a burning engine needs its exhaust outside"),
    ("room", {"length_m": 2, "width_m": 1.5, "height_m": 1.2}, "single modes, not a diffuse field"),
    ("room", {"lining_m2": 0.5}, "nobody will hear that"),
    ("yard", {"screen_m": 1.2, "source_height_m": 1.0}, "stops hiss, not hum"),
    ("yard", {"screen_m": 2, "wall_at_m": 0.5}, "may clear the screen"),
    ("lining", {}, "it does not block"),
    ("drum", {}, "ribs and bulges raise the note"),
    ("door", {}, "the water membrane stays whole"),
])
def test_the_desk_warns_where_it_should(name: str, form: dict[str, Any], says: str):
    assert says in worded(" ".join(work_out(name, form).cautions), "metric")


def test_what_enters_the_budget_says_where_and_how_much():
    pads = work_out("pads", {})
    assert pads.effect_at == "path"
    assert all(e == pytest.approx(min(-v, 30), abs=0.01) for e, v in zip(pads.effect_db, pads.lines[0].values, strict=True))
    room = work_out("room", {})
    assert (room.effect_at, set(room.effect_db)) == ("listener", {room.figures[2].value})
    assert work_out("hood", {}).effect_at == "source"
    assert work_out("crack", {}).effect_db is None


def test_figures_of_the_desk_by_hand():
    def figures(name: str, **form: Any) -> dict[str, float]:
        return {f.label: f.value for f in work_out(name, form).figures}

    pads = figures("pads", mass_kg=80, pads=4, stiffness_n_mm=50)
    assert pads["Load per pad"] == 20
    assert pads["Deflection"] == pytest.approx(20 * 9.81 / 50, abs=0.01)
    assert pads["Natural frequency"] == pytest.approx(math.sqrt(200e3 / 80) / 2 / math.pi, abs=0.01)
    room = figures("room", length_m=5, width_m=4, height_m=2.5, mean_alpha=0.1, lining_m2=20, lining_alpha=0.9)
    assert (room["Absorption area now"], room["Absorption area after"]) == pytest.approx((8.5, 8.5 + 20 * 0.8))
    assert room["Level falls by"] == pytest.approx(10 * math.log10(24.5 / 8.5), abs=0.01)
    assert room["First room mode"] == pytest.approx(343 / 10, abs=0.1)
    crack = figures("crack", width_mm=2, length_m=3, panel_m2=2)
    assert crack["Open area"] == 60
    assert crack["Ceiling by area alone"] == pytest.approx(10 * math.log10(2 / 60e-4), abs=0.06)
    yard = figures("yard", near_m=1, far_m=16)
    assert yard["By distance"] == pytest.approx(20 * math.log10(math.hypot(16, 3.2)), abs=0.06)  # 0.8 m to 4 m up
    hood = figures("hood", length_m=1, width_m=1, height_m=1, wall_u=2, heat_w=620, rise_k=10)
    assert hood["Heat through the walls"] == 120
    assert hood["Air it needs"] == pytest.approx(500 / (1.21 * 1006 * 10) * 3600, abs=1)
    drum = figures("drum", width_m=0.9, height_m=0.6, thickness_mm=1, loss_factor=0.022)
    stiffness = 210e9 * 1e-9 / 12 / (1 - 0.09)
    first = math.pi / 2 * math.sqrt(stiffness / 7.85) * (1 / 0.81 + 1 / 0.36)
    assert drum["Drum note"] == pytest.approx(first, abs=0.06)
    assert drum["Ring time"] == pytest.approx(2.2 / (first * 0.022), abs=0.002)


def test_vents_and_a_fan_of_a_box_become_steps_of_their_own() -> None:
    """A box of 600 cm² that must let 2500 W out by 10 K needs a fan; its order names vents and fan, with the air they carry."""
    also = work_out("hood", {"heat_w": 2500, "vent_cm2": 600}).also
    assert [a.name.split(" of ")[0] for a in also] == ["Vents", "Fan"]
    assert worded(also[1].name, "metric").split(" of ")[1].startswith(f"{also[1].air_m3_h:.0f} m³/h")
    assert [a.name.split(" of ")[0] for a in work_out("hood", {"heat_w": 100}).also] == ["Vents"]
    doc = parse(JobDocument, {"job": {"id": 1, "version": 1, "name": "Box"}, "measures": rows(
        {"name": "Box", "effect_db": 9}, *({"name": a.name, "effect_db": 0, "air_m3_h": a.air_m3_h} for a in also))})
    assert [s.what for s in order(JobFigures(doc, shelf())).steps][:3] == ["Box", *(a.name for a in also)]
