"""What leaves the program agrees with itself: verdicts with figures, shares with words, times with hands, forms with tapes."""

from __future__ import annotations

import math
import random
from typing import Any

import numpy as np
import pytest
from test_plan_sense import from_presets

from sphagnum.catalogue.load import shelf
from sphagnum.core.errors import BadInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.fitting.schedule import Task, ready_minutes
from sphagnum.core.job.document import JobDocument
from sphagnum.core.materials.quick import QuickForm, quick_material
from sphagnum.core.materials.usual import doubts
from sphagnum.core.schema import parse
from sphagnum.core.stages.board.overview import overview
from sphagnum.core.stages.build.view import build
from sphagnum.core.stages.fit.view import order
from sphagnum.core.stages.prove.view import prove
from sphagnum.core.stages.trace.view import trace_view
from sphagnum.core.surfaces.taped import read_taped, taped_shape
from sphagnum.demo import hood, rows, van
from sphagnum.exchange.papers.charts import label_spans

AT = {"position_id": 1, "condition_id": 1}


def proof(before: list[float], after: list[float], aim: str, value: float) -> Any:
    doc = parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "Verdict"}, "positions": rows({"name": "Bed"}), "conditions": rows({"name": "on"}),
        "rounds": rows({"name": "As found", "state": "as found"}, {"name": "Done", "state": "finished", "follows_id": 1}),
        "readings": rows(*({**AT, "round_id": 1, "level_db": x} for x in before), *({**AT, "round_id": 2, "level_db": x}
                                                                                    for x in after)),
        "goals": rows({**AT, "aim": aim, "value": value})})
    return prove(JobFigures(doc, shelf()))


@pytest.mark.parametrize(("after", "aim", "value", "state"), [
    (66.04, "change by", 4, "about"), (65.96, "change by", 4, "about"), (66.1, "change by", 4, "not met"),
    (66.04, "reach", 66, "about"), (66.1, "reach", 66, "not met"), (60.0, "change by", 4, "met"), (65.5, "change by", 4,
                                                                                                  "met as read")])
def test_the_verdict_agrees_with_the_figure_it_says(after: float, aim: str, value: float, state: str) -> None:
    got = proof([70.0], [after], aim, value)
    assert got.goal_state == state
    assert "0.0 dB are missing" not in got.next_step
    assert ("are missing" in got.next_step) == (state == "not met")
    if state == "about":
        assert "no number of readings that can be taken would tell them apart" in got.sentence
        assert f"about the {value:g} dB{'(A)' * (aim == 'reach')} wanted" in got.sentence
        assert "not met" not in got.sentence


def test_what_cures_on_one_surface_holds_up_that_one_alone() -> None:
    """Three doors of an hour each with a day of cure, an hour more on each, twenty minutes of readings: 28 h 20, where a sum of
    all waits says 78."""
    doors = [Task(60, 1440)] * 3 + [Task(60, 0, (k,)) for k in range(3)] + [Task(20, 0, tuple(range(6)))]
    assert ready_minutes(doors) == 28 * 60 + 20
    assert ready_minutes([Task(30, 600), Task(30, 0)]) == 630
    assert ready_minutes([]) == 0
    for make in (van, hood):
        view = order(JobFigures(parse(JobDocument, {**make(), "step_events": []}), shelf()))
        left = [s for s in view.steps if not s.done]
        longest = max(s.wait_minutes for s in left)
        assert view.minutes_left == pytest.approx(sum(s.minutes for s in left), abs=1)
        assert view.minutes.work + view.minutes.wait == pytest.approx(view.ready_minutes, abs=1)
        assert view.minutes_left <= view.ready_minutes <= view.minutes_left + sum(s.wait_minutes for s in left)
        assert view.ready_minutes >= longest


def test_hands_take_the_step_they_can_begin_soonest() -> None:
    """Against the rule told step by step: of what is free the one that begins soonest, the first in the list of those."""
    rng = random.Random(5)
    for size in [*range(8)] * 60:
        tasks = [Task(rng.choice([0, 5, 20]), rng.choice([0, 0, 30, rng.uniform(0, 90)]),
                      tuple(rng.choices([*range(k), size + 1], k=rng.randrange(3)))) for k in range(size)]
        now, cured = 0.0, dict[int, float]()
        while len(cured) < size:
            begins = {k: max([now, *(cured[a] for a in t.after if a < size)]) for k, t in enumerate(tasks)
                      if k not in cured and all(a in cured for a in t.after if a < size)}
            one = min(begins, key=lambda k: (begins[k], k))
            now = begins[one] + tasks[one].minutes
            cured[one] = now + tasks[one].cures
        assert ready_minutes(tasks) == max(cured.values(), default=0), tasks


def test_the_order_says_nothing_a_fitter_would_laugh_at() -> None:
    wall = from_presets(2, "room")
    brick = {**wall["surfaces"][0], "substrate": {"material": "brick", "thickness_mm": 115}, "present": [],
             "frame": {"kind": "none"}}
    lining = {"surface_id": 1, "layers": [{"id": "1", "material": "brushed-damping", "thickness_mm": 2}]}
    steps = order(JobFigures(parse(JobDocument, {**wall, "surfaces": [brick], "alternatives": rows(lining),
                                                 "paths": wall["paths"][:1]}), shelf())).steps
    text = " ".join(s.text for s in steps)
    assert "degrease" not in text
    assert "Brush and dust" in text
    assert "locks" not in text
    assert not any("solvent" in h.lower() for s in steps for h in s.hazards)
    box = order(JobFigures(parse(JobDocument, {**hood(), "step_events": []}), shelf())).steps
    fan = next(i for i, s in enumerate(box) if "Fan in the outlet" in s.text)
    assert fan > max(i for i, s in enumerate(box) if s.phase == "apply")
    present = {**brick, "substrate": {"material": "steel", "thickness_mm": 1},
               "present": [{"id": "1", "material": "air-gap", "thickness_mm": 40},
                           {"id": "2", "material": "plastic-trim", "thickness_mm": 2.5}]}
    phases = [s.phase for s in order(JobFigures(parse(JobDocument, {
        **wall, "surfaces": [present], "alternatives": rows(lining), "paths": wall["paths"][:1]}), shelf())).steps]
    assert "strip" in phases
    assert "refit" in phases
    # a board screwed over a wall uncovers nothing
    board = {"surface_id": 1, "layers": [{"id": "1", "material": "gypsum-board", "thickness_mm": 12.5}]}
    phases = [s.phase for s in order(JobFigures(parse(JobDocument, {
        **wall, "surfaces": [present], "alternatives": rows(board), "paths": wall["paths"][:1]}), shelf())).steps]
    assert not {"strip", "refit"} & {*phases}


def test_words_say_where_a_panel_lies_and_every_line_names_the_same_ways() -> None:
    """An own roof of a van as large as the preset carries what the preset does, and an own arch what the preset arch does."""
    raw = from_presets(0, "vehicle")
    whole = trace_view(JobFigures(parse(JobDocument, raw), shelf()))
    shares = {p.name: p.share for p in whole.paths}
    roof = next(w for w in shelf().offers.where if (w.kind, w.id) == ("vehicle", "above"))
    assert roof.louder_db == -10
    unsaid = [{**p, "where": "", "incident_offset_db": 0.0} if p["name"] == "Roof" else p for p in raw["paths"]]
    loud = {p.name: p.share for p in trace_view(JobFigures(parse(JobDocument, {**raw, "paths": unsaid}), shelf())).paths}
    assert loud["Roof"] > 5 * shares["Roof"]
    assert shares["Wheel arches"] > 0.15
    seen = overview(JobFigures(parse(JobDocument, raw), shelf()))
    line = next(x.line for x in seen.stages if x.stage == "trace")
    assert whole.sentence.split(" carr")[0].lower() in line.lower()
    assert line.split()[-2] in whole.sentence


def test_what_to_treat_adds_up_at_the_ear_and_goals_that_do_not_are_told_what_to_do() -> None:
    view = trace_view(JobFigures(parse(JobDocument, from_presets(0, "vehicle")), shelf()))
    assert view.ranking is not None
    assert sum(w.at_ear_db for w in view.ranking.wishes) == pytest.approx(view.ranking.change_db, abs=0.001)
    assert all(-w.at_ear_db <= w.depth_db + 1e-9 for w in view.ranking.wishes)
    for quantity, words in (("ring time", "knock on it again"), ("T", "hang absorbers"),
                            ("bass gain", "close and stiffen")):
        raw = from_presets(0, "vehicle")
        raw["goals"] = rows({**AT, "quantity": quantity, "value": 5})
        assert words in trace_view(JobFigures(parse(JobDocument, raw), shelf())).not_ranked


def test_a_wheel_arch_is_unrolled_from_its_rise_or_from_the_tape_over_it() -> None:
    def area(**given: float) -> float:
        return taped_shape(read_taped({"kind": "wheel-arch", "width_mm": 900, "depth_mm": 500, **given})).area_m2
    assert area(rise_mm=450) == pytest.approx(math.pi * 0.45 * 0.5, abs=1e-3)  # half a circle
    assert area(rise_mm=600) == pytest.approx((math.pi * 0.45 + 0.3) * 0.5, abs=1e-3)  # on straight legs
    assert area(over_mm=1760) == pytest.approx(1.76 * 0.5, abs=1e-6)
    for given, words in (({"over_mm": 800}, "shorter than ⟨900 mm⟩ from foot to foot"),
                         ({}, "its rise, or the tape laid over it")):
        with pytest.raises(BadInput, match=words):
            area(**given)
    with pytest.raises(BadInput, match="give how far it rises, not the tape laid over it"):
        taped_shape(read_taped({"kind": "rectangle", "width_mm": 900, "height_mm": 450, "bulge_across_mm": 1760}))


def test_a_material_of_few_words_has_the_rest_of_its_kind_and_says_so() -> None:
    form = QuickForm(id="own-1", name="Butyl of the next town", kind="damping", thickness="2", weight="3,2", price="9,50",
                     width="500", length="80 cm")
    made = quick_material(form, shelf().materials.values())
    assert made.properties.density_kg_m3 == 1600
    alike = [m.properties.loss_factor for m in shelf().materials.values() if m.family == "damping"]
    assert made.properties.loss_factor == pytest.approx(float(np.median([x for x in alike if x is not None])))
    assert made.source_class == "typical"
    assert "usual of its kind" in made.references["loss_factor"]
    assert (made.stock[0].width_mm, made.stock[0].length_mm, made.stock[0].price) == (500, 800, 9.5)
    assert not doubts(made)
    for values, field in (({"thickness": ""}, "thickness"), ({"weight": "heavy"}, "weight"), ({"name": " "}, "name"),
                          ({"weight": "1600"}, "weight")):
        with pytest.raises(BadInput) as refused:
            quick_material(form.model_copy(update=values), shelf().materials.values())
        assert refused.value.where == field


def test_what_ties_two_leaves_is_asked_with_what_each_gives() -> None:
    layers = [{"id": "a", "material": "stone-wool", "thickness_mm": 50},
              {"id": "b", "material": "gypsum-board", "thickness_mm": 12.5}]
    doc = {"job": {"id": 1, "version": 1, "name": "Leaves", "kind": "room"},
           "conditions": rows({"name": "on", "spectrum": "voices"}),
           "surfaces": rows({"name": "Wall", "outline_mm": [[0, 0], [3000, 0], [3000, 2500], [0, 2500]],
                             "substrate": {"material": "gypsum-board", "thickness_mm": 12.5}}),
           "alternatives": rows({"surface_id": 1, "layers": layers}), "paths": rows({"name": "Wall", "surface_id": 1})}

    def asked(tie: dict[str, Any] | None) -> Any:
        first = layers[0] if tie is None else {**layers[0], "tie": tie}
        return build(JobFigures(parse(JobDocument, {**doc, "alternatives": rows({
            "surface_id": 1, "layers": [first, layers[1]]})}), shelf()), 1)
    [one] = asked(None).ties
    assert (one.layer_id, one.said) == ("a", False)
    gives = {w.words: w.through_db for w in one.ways}
    assert gives["screwed right through"] > gives["resilient channels"] > gives["nothing: it stands by itself"] - 0.01
    [hung] = asked({"kind": "channels", "spacing_mm": 600.0}).ties
    assert hung.said
    assert [w.words for w in hung.ways if w.now] == ["resilient channels"]
    through = asked({"kind": "channels", "spacing_mm": 600.0})
    assert f"{abs(gives['resilient channels']):.1f} dB less through it" in through.sentence


@pytest.mark.parametrize("at", [[10, 12, 14, 16], [300, 302, 480, 481], [0, 480, 481, 482], [100, 100, 100, 100]])
def test_labels_of_the_rule_on_paper_never_cover_one_another_nor_leave_it(at: list[float]) -> None:
    widths = [60.0, 95.0, 70.0, 72.0]
    spans = [(left, left + w, row) for (left, row), w in zip(label_spans(at, widths, 493.0), widths, strict=True)]
    for i, (a, b, row) in enumerate(spans):
        assert a >= 0
        assert b <= 493
        assert row <= 3
        assert all(b < c or d < a for c, d, other in spans[i + 1:] if other == row)
        # and the line of no other mark runs through it
        assert not [x for x, (_, _, other) in zip(at, spans, strict=True) if a <= x <= b and other > row]
