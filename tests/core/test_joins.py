"""Where parts meet: one figure for one thing, whichever stage says it; each by hand."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.catalogue.materials import materials
from sphagnum.core.cutting.layout import cut
from sphagnum.core.cutting.model import CutInput
from sphagnum.core.errors import BadInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.loads import job_load, load_of
from sphagnum.core.figures.path_levels import a_levels, path_rows
from sphagnum.core.figures.rounds import drift
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.comparison import Item, Terms, compare
from sphagnum.core.levels.rating import rate_predicted
from sphagnum.core.paths.correct import share_range
from sphagnum.core.schema import parse, read_number
from sphagnum.core.stacks.heat import Climate, HeatLayer, through
from sphagnum.core.stacks.model import Stack
from sphagnum.core.stacks.named import resolved
from sphagnum.core.stages.board.overview import overview
from sphagnum.core.stages.build.view import build
from sphagnum.core.stages.cut.labels import prefixes
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.stages.fit.view import order
from sphagnum.core.stages.listen.view import board
from sphagnum.core.stages.prove.view import prove
from sphagnum.core.stages.trace.view import trace_view
from sphagnum.core.surfaces.coverage import laid_share
from sphagnum.core.worded import worded
from sphagnum.demo import rows, van

STEEL = {"material": "steel", "thickness_mm": 0.8}
SQUARE = [[0, 0], [1000, 0], [1000, 1000], [0, 1000]]


def layer(material: str, mm: float, coverage: float = 1.0) -> dict[str, Any]:
    return {"material": material, "thickness_mm": mm, "coverage": coverage}


def job(*layers: dict[str, Any], surface: dict[str, Any] | None = None, **more: Any) -> JobDocument:
    """One square metre of steel with a plan on it, and a path through it."""
    return parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "Joined"}, "conditions": rows({"name": "on"}),
        "surfaces": rows({"name": "Left door", "outline_mm": SQUARE, "substrate": STEEL, **(surface or {})}),
        "alternatives": rows({"surface_id": 1, "layers": list(layers)}) if layers else [],
        "paths": rows({"name": "Left door", "surface_id": 1}), **more})


KEPT = [{"kind": "module", "x_mm": 0, "y_mm": 0, "width_mm": 500, "height_mm": 500, "margin_mm": 0}]
LINING = (layer("open-foam", 20), layer("vinyl-5", 2.5))


def test_what_is_kept_clear_counts_for_sound_in_every_stage():
    free, kept = (build(JobFigures(d, shelf()), 1) for d in (job(*LINING), job(*LINING, surface={"keep_clear": KEPT})))
    bare, covered = np.array(free.curves.loss_now_db), np.array(free.curves.loss_after_db)
    by_hand = -10 * np.log10(0.75 * 10 ** (-covered / 10) + 0.25 * 10 ** (-bare / 10))
    assert kept.curves.loss_after_db == pytest.approx(by_hand, abs=0.02)
    drawn = rate_predicted(np.array([kept.curves.loss_after_db]))[0][0]
    assert int(kept.rating.split()[1]) == drawn  # the rating is that of the curve drawn
    assert any("must stay clear, 25 %" in r.text for r in kept.rules)
    doc = job(*LINING, surface={"keep_clear": KEPT})
    planned = path_rows(JobFigures(doc, shelf())).planned[0]
    assert planned == pytest.approx(kept.curves.after_db, abs=0.02)


def test_what_the_pieces_reach_comes_back_into_mass_order_and_prediction():
    plate = {"outline_mm": [[0, 0], [700, 0], [350, 620]]}
    doc = job(layer("butyl-foil", 2.0, 0.5), surface=plate)
    surface, lay = doc.surfaces[0], doc.alternatives[0].layers[0]
    reached = laid_share(surface, lay, shelf().material("butyl-foil"))
    assert 0.001 < abs(reached - 0.5) < 0.06
    view = build(JobFigures(doc, shelf()), 1)
    assert view.layers[0].reached == pytest.approx(reached, abs=1e-3)
    assert cut_view(JobFigures(doc, shelf()), 1).surface.layers[0].reached == pytest.approx(reached, abs=1e-3)
    step = next(s for s in order(JobFigures(doc, shelf())).steps if s.phase == "apply")
    assert f"{100 * reached:.0f} % of it" in step.text
    asked = job(layer("butyl-foil", 2.0, reached), surface=plate).alternatives[0].layers
    assert load_of(surface, (lay,), shelf()).kg == pytest.approx(load_of(surface, asked, shelf(), cut=False).kg)


def test_each_thickness_is_its_own_goods_and_labels_are_told_apart():
    two = {"surfaces": rows({"name": "Left door", "outline_mm": SQUARE, "substrate": STEEL},
                            {"name": "Load deck", "outline_mm": SQUARE, "substrate": STEEL, "count": 30}),
           "alternatives": rows({"surface_id": 1, "layers": [layer("cotton-felt", 15)]},
                                {"surface_id": 2, "layers": [layer("cotton-felt", 20)]}),
           "paths": []}
    doc = parse(JobDocument, {**job().model_dump(), **two})
    view = cut_view(JobFigures(doc, shelf()), None)
    assert sorted(worded(b.name, "metric").rsplit(", ", 1)[1] for b in view.buy) == ["15 mm", "20 mm"]
    assert sorted(b.thickness_mm for b in view.buy) == [15.0, 20.0]
    labels = [p.label for s in view.sheets for p in s.pieces]
    assert len(set(labels)) == len(labels) == 31 * len(view.surface.layers[0].pieces)
    assert list(prefixes(doc).values()) == ["LD", "LODE"]


def test_money_used_and_to_buy_are_two_figures_of_one_reckoning():
    doc = job(layer("butyl-foil", 2.0, 0.5))
    view, bought = build(JobFigures(doc, shelf()), 1), cut_view(JobFigures(doc, shelf()), None)
    used = next(m for m in view.meters if m.label.startswith("Material used"))
    buy = next(m for m in view.meters if m.label.startswith("To buy"))
    assert buy.value == pytest.approx(bought.money, abs=0.05)
    butyl = shelf().material("butyl-foil")
    sheet = next(f for f in butyl.stock if f.thickness_mm == 2.0)
    reached = bought.surface.layers[0].reached
    assert used.value == pytest.approx(sheet.price / (sheet.width_mm * sheet.length_mm / 1e6) * reached, abs=0.06)
    assert used.value < buy.value
    tens = butyl.model_copy(update={"stock": (sheet.model_copy(update={"per_pack": 10}),)})
    packed = shelf().model_copy(update={"materials": {**shelf().materials, "butyl-foil": tens}})
    in_packs = cut_view(JobFigures(doc, packed), None).buy[0]
    assert (in_packs.units, in_packs.money) == (1, pytest.approx(10 * sheet.price))


def test_tins_weigh_and_reach_by_their_thickness():
    thin, thick = (cut_view(JobFigures(job(layer("brushed-damping", t)), shelf()), None).buy[0] for t in (1.0, 2.0))
    assert (thin.units, thick.units) == (1, 1)  # a square metre: half a tin, or all of one
    assert thin.kg == thick.kg == pytest.approx(2.6, abs=0.01)  # 1300 kg/m³ × 1 mm × 2 m²
    assert cut_view(JobFigures(job(layer("brushed-damping", 3.0)), shelf()), None).buy[0].units == 2


def test_hours_count_every_copy_and_what_comes_off_weighs_less():
    one, three = (job_load(JobFigures(d, shelf())) for d in (job(*LINING), job(*LINING, surface={"count": 3})))
    assert (three.hours, three.kg) == (pytest.approx(3 * one.hours), pytest.approx(3 * one.kg))
    old = job(*LINING, surface={"present": [layer("vinyl-5", 2.5)]})
    assert job_load(JobFigures(old, shelf())) == one  # what stands stays unless it is taken out
    off = old.model_copy(update={"alternatives": (old.alternatives[0].model_copy(update={"takes_out": ("1",)}),)})
    assert job_load(JobFigures(off, shelf())).kg == pytest.approx(one.kg - 4.9, abs=0.15)


def test_stock_there_is_bounds_what_is_cut():
    data = {"stock": [{"id": "s", "width_mm": 100, "length_mm": 100, "quantity": 1, "price": 1}],
            "pieces": [{"id": "p", "outline_mm": [[0, 0], [80, 0], [80, 80], [0, 80]], "quantity": 2}]}
    got = cut(parse(CutInput, data))
    assert (len(got.used), len(got.unplaced)) == (1, 1)


def test_minutes_of_a_seal_follow_its_length_and_time_left_forgets_what_is_done():
    doc = job(*LINING, layer("seam-tape", 1))
    tape = shelf().material("seam-tape")
    seal = next(s for s in order(JobFigures(doc, shelf())).steps if s.phase == "seal")
    assert seal.minutes == round(tape.minutes_each * 4.0)
    view = order(JobFigures(doc, shelf()))
    events = rows(*({**s.ref.model_dump(), "what": "done"} for s in view.steps[:3]))
    after = order(JobFigures(parse(JobDocument, {**doc.model_dump(), "step_events": events}), shelf()))
    assert view.minutes_left - after.minutes_left == pytest.approx(sum(s.minutes + s.wait_minutes for s in view.steps[:3]), abs=1)


def test_the_clock_of_a_step_is_what_happened_to_it():
    ref = {"phase": "apply", "surface_id": 1, "layer": "1"}
    def at(what: str, time: str, **more: Any) -> dict[str, Any]:
        return {**ref, "what": what, "at": f"2026-11-25T{time}Z", **more}
    def seen(*events: dict[str, Any]):
        doc = parse(JobDocument, {**job(*LINING).model_dump(), "step_events": rows(*events)})
        return next(s for s in order(JobFigures(doc, shelf())).steps if s.ref.layer == "1")
    going = seen(at("started", "08:00:00"), at("paused", "08:10:00"), at("started", "09:00:00"))
    assert (going.clock_s, going.running_since, going.done) == (600, "2026-11-25T09:00:00Z", False)
    done = seen(at("started", "08:00:00"), at("paused", "08:10:00"), at("started", "09:00:00"), at("done", "09:05:30", note="ok"))
    assert (done.clock_s, done.running_since, done.done, done.taken_minutes, done.note) == (930, None, True, 16, "ok")
    assert seen(at("done", "09:00:00", minutes=12), at("undone", "09:01:00")).done is False
    swapped = job(*LINING[::-1]).model_dump()
    swapped["alternatives"][0]["layers"][0]["id"], swapped["alternatives"][0]["layers"][1]["id"] = "2", "1"
    kept = parse(JobDocument, {**swapped, "step_events": rows(at("done", "09:00:00"))})
    # the tick went with its layer
    assert [s.done for s in order(JobFigures(kept, shelf())).steps if s.ref.layer] == [False, True]


def test_a_plan_that_changed_after_its_steps_were_ticked_says_so():
    doc = job(*LINING)
    events = rows(*({**s.ref.model_dump(), "what": "done", "text": s.text} for s in order(JobFigures(doc, shelf())).steps))
    done = parse(JobDocument, {**doc.model_dump(), "step_events": events})
    fit = next(x for x in overview(JobFigures(done, shelf())).stages if x.stage == "fit")
    assert (fit.done, "changed" in fit.line) == (True, False)
    thicker = done.model_dump()
    thicker["alternatives"][0]["layers"][0]["thickness_mm"] = 30
    fit = next(x for x in overview(JobFigures(parse(JobDocument, thicker), shelf())).stages if x.stage == "fit")
    assert (fit.done, fit.line.endswith("plan changed since")) == (False, True)


def test_found_leaks_measures_and_cures_enter_budget_and_order():
    leak = {"place": "Lower corner", "how": "light", "area_cm2": 20, "path_id": 1}
    tight, leaky = job(*LINING), job(*LINING, leaks=rows(leak), measures=rows(
        {"name": "Felt baffle", "at": "listener", "effect_db": 2, "hours": 1.5}))
    a, b = (a_levels(path_rows(JobFigures(d, shelf())).now)[0] for d in (tight, leaky))
    assert b > a + 1
    planned = [a_levels(path_rows(JobFigures(d, shelf())).planned)[0] for d in (tight, leaky)]
    assert planned[1] == pytest.approx(planned[0] - 2, abs=0.01)
    steps = {s.what: s for s in order(JobFigures(leaky, shelf())).steps}
    assert "20 cm²" in steps["Leak: lower corner"].text
    assert steps["Felt baffle"].minutes == 90


def test_a_box_at_the_source_leaves_structure_borne_paths_alone():
    paths = rows({"name": "Left door", "surface_id": 1}, {"name": "mounts", "level_dba": 60})
    def fall(**measure: Any) -> np.ndarray:
        planned = job(measures=rows({"name": "Box", "at": "source", "effect_db": 10, **measure}), paths=paths)
        rows_ = path_rows(JobFigures(planned, shelf()))
        return a_levels(rows_.now) - a_levels(rows_.planned)
    assert fall() == pytest.approx([10, 0], abs=0.01)
    assert fall(structure_borne=True) == pytest.approx([10, 10], abs=0.01)
    low = path_rows(JobFigures(job(paths=paths), shelf())).now[1]
    assert np.isfinite(low).sum() == 8  # 50 to 250 Hz, not all of it at 125 Hz
    assert a_levels(low[None, :])[0] == pytest.approx(60)


def test_a_tested_share_moves_with_its_own_level_and_never_over_the_whole():
    assert share_range(0.85, 3.0, tested=True) == pytest.approx((0.85 * 10**-0.3, 1.0))
    assert share_range(0.2, 3.0, tested=True)[1] == pytest.approx(0.2 * 10**0.3)
    low, high = share_range(0.5, 3.0)
    assert (low, high) == pytest.approx((1 - high, 0.666), abs=0.001)


def test_a_layer_that_takes_gain_away_speaks_up():
    worse = build(JobFigures(job(layer("butyl-foil", 2.0), layer("cotton-felt", 5), layer("vinyl-5", 2.5)), shelf()), 1)
    said = next(r for r in worse.rules if r.rule == "layer-makes-worse")
    assert "Loaded vinyl 5 kg/m² takes" in said.text
    assert "Hz" in said.why
    assert "decoupler" in said.mend
    better = build(JobFigures(job(layer("butyl-foil", 2.0)), shelf()), 1)
    assert not any(r.rule == "layer-makes-worse" for r in better.rules)


def test_drift_of_two_control_places_is_their_mean_and_known_better():
    def doc(controls: int) -> JobDocument:
        places = rows({"name": "Ear"}, *({"name": f"Yard {i}", "control": True} for i in range(controls)))
        readings = rows(*({"position_id": p, "condition_id": 1, "round_id": r, "level_db": 60.0 - r}
                          for p in range(2, 2 + controls) for r in (1, 2)))
        return parse(JobDocument, {"job": {"id": 1, "version": 1, "name": "D"}, "positions": places,
                                   "conditions": rows({"name": "on"}),
                                   "rounds": rows({"name": "A"}, {"name": "B", "follows_id": 1}), "readings": readings})
    one, two = (drift(JobFigures(d, shelf()), *d.rounds, 1, "LAeq") for d in (doc(1), doc(2)))
    assert one.reduction_db == two.reduction_db == pytest.approx(1.0)
    def of_readings(d) -> float:
        return sum(x.standard_uncertainty_db**2 for x in d.lines if "repeatability" in x.source)
    assert of_readings(two) == pytest.approx(of_readings(one) / 2, rel=0.01)


def test_one_background_for_both_groups_acts_on_them_alike():
    got = compare([Item(70.0)] * 2, [Item(65.0)] * 2, Terms(background_db=60.0, repeatability_db=0.5))
    # dB the level falls by for each dB the background rises
    each = [1 / (10 ** ((level - 60) / 10) - 1) for level in (70.0, 65.0)]
    line = next(x for x in got.budget if x.source == "background")
    assert line.standard_uncertainty_db == pytest.approx(abs(each[0] - each[1]) * 0.5, abs=0.001)
    own = compare([Item(70.0)] * 2, [Item(65.0)] * 2, Terms(60.0, 60.0, 0.5, own_backgrounds=True))
    lines = {x.source: x.standard_uncertainty_db for x in own.budget}
    assert (lines["background before"], lines["background after"]) == pytest.approx([0.5 * e for e in each], abs=0.001)


def test_heat_meets_the_wall_by_the_right_surface_resistances():
    got = through([HeatLayer("board", 0.1, 1.0, 10)], Climate())
    whole = 0.04 + 0.1 + 0.13
    assert got.temperatures_c == pytest.approx([-5 + 25 * 0.04 / whole, 20 - 25 * 0.13 / whole])


def test_the_least_covered_lining_sets_what_is_bare_and_the_latest_round_of_a_state_counts():
    both = build(JobFigures(job(layer("open-foam", 20, 0.9), layer("vinyl-5", 2.5, 0.6)), shelf()), 1).curves.loss_after_db
    least = build(JobFigures(job(layer("open-foam", 20, 0.6), layer("vinyl-5", 2.5, 0.6)), shelf()), 1).curves.loss_after_db
    assert both == pytest.approx(least, abs=0.01)
    doc = parse(JobDocument, {**job().model_dump(), "rounds": rows({"name": "First", "state": "as found"},
                                                                    {"name": "Again", "state": "as found"})})
    assert doc.round_in("as found").name == "Again"


def test_wool_between_the_boards_of_a_wall_is_not_closed_off():
    wall = {"substrate": layer("gypsum-board", 12.5), "present": []}
    view = build(JobFigures(job(layer("stone-wool", 50), layer("gypsum-board", 12.5), surface=wall), shelf()), 1)
    rule = next(r.id for r in shelf().rules if r.when == "absorber_covered")
    assert not any(r.rule == rule for r in view.rules)
    vinyl = build(JobFigures(job(layer("stone-wool", 50), layer("butyl-foil", 2)), shelf()), 1)
    assert any(r.rule == rule for r in vinyl.rules)


def test_prove_line_of_the_board_has_the_sign_of_the_change():
    assert overview(JobFigures(parse(JobDocument, van()), shelf())).stages[-1].line.startswith("−4.5 dB")


@pytest.mark.parametrize(("text", "number"), [("1,180.5", 1180.5), ("1.180,5", 1180.5), ("3,5", 3.5), ("1 180", 1180.0)])
def test_numbers_are_read_as_people_write_them(text: str, number: float):
    assert read_number(text) == number


@pytest.mark.parametrize(("body", "words"), [
    ({"layers": [{"material": "vinyl-5", "thickness_mm": 2.5, "coverage": 0.5}]}, "gaps belong to a surface"),
    ({"layers": [{"material": "gypsum-board", "thickness_mm": 12.5}] * 2}, "'join'"),
    ({"layers": [{"material": "vinyl-5", "thickness_mm": 2.5, "join": "fixed"}]}, "no plate"),
])
def test_shelf_layers_that_mean_nothing_in_a_stack_are_refused(body: dict[str, Any], words: str):
    with pytest.raises(BadInput) as refused:
        resolved(parse(Stack, {"width_m": 1, "height_m": 1, **body}), materials())
    assert words in refused.value.sentence


def test_viscous_shelf_plates_need_their_interlayer_and_take_it():
    board = {"material": "gypsum-board", "thickness_mm": 12.5}
    viscous = {**board, "join": "viscous", "interlayer": {"thickness_mm": 0.5, "shear_modulus_mpa": 0.5, "loss_factor": 0.8}}
    with pytest.raises(BadInput, match="interlayer"):
        parse(Stack, {"width_m": 1, "height_m": 1, "layers": [board, {**board, "join": "viscous"}]})
    found = resolved(parse(Stack, {"width_m": 1, "height_m": 1, "layers": [board, viscous]}), materials())
    assert found.layers[1].interlayer.loss_factor == 0.8


def test_a_trace_of_the_worst_sentences(worked: JobDocument):
    for bad, where in (({"reminders": [{"id": 1, "version": 1, "due_on": "soon", "what": "x"}]}, "due_on"),
                       ({"rounds": 7}, "rounds"), ({"positions": [[]]}, "positions[0]")):
        with pytest.raises(BadInput) as refused:
            parse(JobDocument, {**worked.model_dump(mode="json"), **bad})
        sentence = refused.value.sentence
        assert where in sentence
        assert not any(x in sentence for x in ("^", "pattern", "tuple", "dict", "str", "int(", "Model"))
    assert trace_view(JobFigures(worked, shelf())).planned_words.startswith("The plan gives −4.0 dB, 95 %: −")


def test_a_circle_is_given_by_its_centre_and_diameter():
    round_ = {"kind": "drain", "at_mm": ["500", 400], "diameter_mm": "200", "margin_mm": 0}
    zone = job(surface={"keep_clear": [round_]}).surfaces[0].keep_clear[0]
    assert (zone.shape, zone.x_mm, zone.y_mm, zone.width_mm, zone.height_mm) == ("circle", 400, 300, 200, 200)
    assert zone.area(()).area == pytest.approx(math.pi * 100**2, rel=0.01)
    with pytest.raises(BadInput, match="centre and diameter"):
        job(surface={"keep_clear": [{"kind": "drain", "at_mm": [500, 400]}]})


def test_what_a_simulated_meter_gave_is_marked_wherever_it_counts():
    at = {"position_id": 1, "condition_id": 1}
    doc = parse(JobDocument, {
        **job().model_dump(), "positions": rows({"name": "Ear"}), "goals": rows({**at, "value": 5.0}),
        "rounds": rows({"name": "As found", "state": "as found"}, {"name": "Finished", "state": "finished", "follows_id": 1}),
        "readings": rows({**at, "round_id": 1, "level_db": 70.0, "simulated": True}, {**at, "round_id": 2, "level_db": 60.0})})
    seen = prove(JobFigures(doc, shelf()))
    assert seen.sentence.startswith("Simulated: 10.0 dB quieter")
    assert seen.cells[0].comparison.cautions[0].rule == "simulated"
    assert [next(c for c in board(JobFigures(doc, shelf()), r).cells).simulated for r in (1, 2)] == [True, False]
