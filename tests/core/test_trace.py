"""Trace: energies of paths, tests that correct them, the ranked plan, and what was found."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sphagnum.catalogue.load import shelf
from sphagnum.core.errors import BadInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.outlook import predicted_at_ear
from sphagnum.core.figures.path_levels import path_rows
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.bands import SPAN
from sphagnum.core.levels.decibels import energy_sum
from sphagnum.core.paths.budget import BlockOffTest, block_off, split
from sphagnum.core.paths.correct import corrected
from sphagnum.core.paths.measured import PathTest
from sphagnum.core.paths.offers import rows_from
from sphagnum.core.paths.rank import ceiling_db, rank
from sphagnum.core.schema import parse
from sphagnum.core.stages.build.view import build
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.stages.fit.view import order
from sphagnum.core.stages.trace.view import TraceView, trace_view
from sphagnum.demo import ceiling, hood, rows, van

levels = st.lists(st.floats(20, 100), min_size=2, max_size=12)


def document(raw: dict[str, Any], **more: Any) -> JobDocument:
    return parse(JobDocument, {**raw, **more})


def seen(raw: dict[str, Any], **more: Any) -> TraceView:
    return trace_view(JobFigures(document(raw, **more), shelf()))


@given(level=levels, seed=st.randoms())
def test_energy_sums_do_not_mind_the_order_and_shares_add_to_one(level: list[float], seed: Any):
    mixed = level[:]
    seed.shuffle(mixed)
    one, other = (split([str(i) for i in range(len(x))], np.array(x)) for x in (level, mixed))
    assert one.total_dba == pytest.approx(other.total_dba, abs=0.011)
    assert sum(p.share for p in one.paths) == pytest.approx(1, abs=1e-3)
    assert max(level) - 0.01 <= one.total_dba <= max(level) + 10 * math.log10(len(level)) + 0.01


@given(level=levels, cover=st.floats(3, 40))
def test_block_off_gives_back_the_path_that_was_covered(level: list[float], cover: float):
    path, rest = level[0], level[1:]
    before, after = energy_sum(level), energy_sum([path - cover, *rest])
    got = block_off(parse(BlockOffTest, {"path": "p", "open_db": [before] * 3, "blocked_db": [after] * 3,
                                     "cover_insertion_loss_db": cover}), 0.1)
    share = 10 ** ((path - before) / 10)
    assert got.share == pytest.approx(share, abs=1e-3)
    if share > 0.05:
        assert got.level_db == pytest.approx(path, abs=0.05)


def a_test(index: int, share: float, low: float, high: float, **more: Any) -> PathTest:
    return PathTest(**{"kind": "block-off", "row_id": 1, "path_index": index, "level_db": 60.0, "share": share, "low": low,
                       "high": high, "resolved": low > 0, "bound": False, "needed_drop_db": 0.5, **more})


@given(level=levels, share=st.floats(0.02, 0.9), width=st.floats(0.05, 0.4))
def test_corrections_move_towards_the_test_and_keep_the_whole(level: list[float], share: float, width: float):
    a = np.array(level)
    low, high = share * (1 - width), min(share * (1 + width), 1.0)
    found = corrected(a, [a_test(0, share, low, high)])
    assert energy_sum(a + found.shift_db) == pytest.approx(energy_sum(a), abs=0.01)
    was, now = (10 ** ((x[0] - energy_sum(x)) / 10) for x in (a, a + found.shift_db))
    assert min(was, share, 0.97) - 1e-6 <= now <= max(was, share) + 1e-6
    assert found.half_width_db[0] < found.half_width_db[1]


def test_a_test_without_result_only_bounds_its_path():
    a = np.array([70.0, 70.0])
    assert corrected(a, [a_test(0, 0.1, 0.0, 0.25)]).shift_db[0] == pytest.approx(10 * math.log10(0.25 / 0.5))
    assert corrected(a, [a_test(0, 0.1, 0.0, 0.8)]).shift_db[0] == pytest.approx(0)
    assert corrected(a, [a_test(0, 0.7, 0.6, 0.8, bound=True)]).shift_db[0] == pytest.approx(10 * math.log10(0.7 / 0.5))
    assert corrected(a, [a_test(0, 0.9, 0.85, 0.95), a_test(1, 0.9, 0.85, 0.95)]).odd


@given(level=levels, wanted=st.floats(0.5, 12))
@example(level=[69.0, 85.875, 89.0625], wanted=1.90625)  # a path that comes down by next to nothing still counts
def test_ranked_plan_meets_the_target_with_the_least_levelling(level: list[float], wanted: float):
    a = np.array(level)
    target = energy_sum(a) - wanted
    free = rank(a, np.full(len(a), 60.0), target)
    assert free.reached
    after = a.copy()
    for wish in free.wishes:
        after[wish.path] -= wish.depth_db
    assert energy_sum(after) == pytest.approx(target, abs=0.001) or energy_sum(after) <= target
    treated = [w.path for w in free.wishes]
    left = [i for i in range(len(a)) if i not in treated]
    assert not left or a[treated].min() >= a[left].max() - 1e-9  # none quieter is treated before one louder
    assert [w.level_db for w in free.wishes] == sorted((w.level_db for w in free.wishes), reverse=True)
    barred = np.where(np.arange(len(a)) == int(np.argmax(a)), 0.0, 60.0)
    most = energy_sum(a) - a.max()
    assert rank(a, barred, energy_sum(a) - most - 0.1).reached is False  # the loudest path alone is a floor


@given(level=levels, seed=st.integers(0, 4095))
def test_ceiling_of_a_set_is_what_is_left_without_it(level: list[float], seed: int):
    a = np.array(level)
    gone = np.array([bool(seed >> i & 1) for i in range(len(a))])
    gain = ceiling_db(a, gone)
    if gone.all():
        assert gain is None
    else:
        assert gain == pytest.approx(energy_sum(a) - energy_sum(a[~gone]), abs=1e-9)
        assert gain >= max((ceiling_db(a, np.arange(len(a)) == i) or 0 for i in np.flatnonzero(gone)), default=0) - 1e-9


@pytest.mark.parametrize("kind", ["vehicle", "enclosure", "room"])
def test_templates_of_every_kind_make_a_budget(kind: str):
    offered = [t for t in shelf().offers.templates if t.kind == kind]
    added = rows_from(shelf().offers, offered, {})
    numbered: list[dict[str, Any]] = []
    for row in added:
        at = sum(r["collection"] == row.collection for r in numbered) + 1
        values = {k: numbered[int(v[1:])]["id"] if isinstance(v, str) and v.startswith("#") else v for k, v in row.values.items()}
        numbered.append({"collection": row.collection, "id": at, "version": 1, **values})
    parts = {c: [{k: v for k, v in r.items() if k != "collection"} for r in numbered if r["collection"] == c]
             for c in ("surfaces", "paths")}
    doc = document({"job": {"id": 1, "version": 1, "name": "New", "kind": kind}, **parts})
    view = trace_view(JobFigures(doc, shelf()))
    known = [p for p in view.paths if p.level_dba is not None]
    assert len(known) >= 4
    assert {p.problem for p in view.paths} <= {"", "no level known yet"}
    assert any(p.easy for p in view.paths)


def test_the_demo_van_shows_the_trap_and_a_plan_that_reaches_its_goal():
    view = seen(van())
    easy = next(p for p in view.paths if p.easy)
    assert "easy part" in view.detail
    assert easy.ceiling_db < 0.7 < view.paths[0].ceiling_db
    assert view.ranking.reached
    assert view.ranking.wishes[0].name == view.paths[0].name == "Wheel arches"
    assert view.ranking.total_dba == pytest.approx(view.total_dba - 3.5, abs=0.06)
    assert view.statement.verdict == "air"
    tested = next(p for p in view.paths if p.tested and p.half_width_db < 2)
    assert tested.share != tested.model_share


def test_ways_too_many_to_tell_apart_share_one_gate_but_for_the_easy_one():
    raw = van()
    given = [{**raw["paths"][0], "id": i, "name": f"Way {i}", "surface_id": None, "level_dba": 40.0 + i / 10, "easy": i == 3}
             for i in range(1, 41)]
    for many, gates in ((12, 12), (40, 12)):
        view = seen(raw, paths=given[:many], block_offs=[], substitutions=[], leaks=[])
        together = view.others.path_ids if view.others is not None else ()
        own = [p for p in view.paths if p.id not in together]
        assert len(own) == gates
        assert sum(p.share for p in own) + (view.others.share if view.others else 0) == pytest.approx(1, abs=1e-3)
        assert own[-1].name == ("Way 1" if many == 12 else "Way 3")
    assert [p.name for p in own[:11]] == [f"Way {i}" for i in range(40, 29, -1)]
    assert view.others.name == "28 smaller ways in"
    rest = [40 + i / 10 for i in range(1, 30) if i != 3]
    assert view.others.level_dba == pytest.approx(energy_sum(rest), abs=0.02)


def test_a_target_no_allowed_paths_reach_is_said_to_be_out_of_reach():
    raw = van()
    raw["paths"] = [{**p, "allowed": p["name"] == "Load floor"} for p in raw["paths"]]
    view = seen(raw)
    assert not view.ranking.reached
    assert view.detail.startswith("Out of reach")
    assert "may not be treated" in view.detail


def test_bands_at_the_source_replace_the_assumed_spectrum_and_show_the_mismatch():
    raw = hood()
    read = [90.0 - i for i in range(33)]
    raw["positions"][1]["at_source"] = True
    near = {"id": 99, "version": 1, "position_id": 2, "condition_id": 1, "round_id": 1, "level_db": 80.0, "bands_db": read}
    doc = document(raw, readings=[*raw["readings"], near])
    view = trace_view(JobFigures(doc, shelf()))
    assert "1 m before the grille" in view.source
    assert "the model's sum lay" in view.mismatch
    by_shape = path_rows(JobFigures(doc, shelf()))
    assert np.diff(by_shape.now[0]) == pytest.approx(np.diff(np.array(read[SPAN])))  # the grille passes all bands alike
    assert "shaped band by band" in seen(hood()).mismatch


def test_bands_read_at_the_listener_are_met_band_by_band():
    doc = document(van())
    total = 10 * np.log10(np.sum(10 ** (path_rows(JobFigures(doc, shelf())).now / 10), axis=0))
    bands = [r.bands_db[SPAN] for r in doc.readings if r.bands_db and (r.round_id, r.position_id, r.condition_id) == (1, 1, 3)]
    want = 10 * np.log10(np.mean(10 ** (np.array(bands, dtype=float) / 10), axis=0))
    assert np.diff(total) == pytest.approx(np.diff(want), abs=0.03)  # what leaks in has its own shape


def test_another_condition_has_its_own_spectrum_level_and_no_tests():
    doc = document(van())
    drive, town = trace_view(JobFigures(doc, shelf())), trace_view(JobFigures(doc, shelf()), condition_id=2)
    assert (town.condition, town.tests) == ("50 km/h town", ())
    assert town.total_dba == pytest.approx(66.9, abs=0.1)  # as read there
    assert drive.total_dba == pytest.approx(74.8, abs=0.1)
    assert town.source != drive.source


def test_measures_count_alone_and_in_the_plan():
    raw = hood()
    view, before = seen(raw), predicted_at_ear(JobFigures(document(raw), shelf()))
    fan, hose, air = view.measures
    assert air.gain_db == 0  # it moves air
    assert fan.gain_db == pytest.approx(3, abs=0.01)  # at the source it takes all paths down alike
    assert 0 < hose.gain_db < 4  # at one path it is worth less than its figure
    raw["measures"] = [{**m, "chosen": True} for m in raw["measures"]]
    assert predicted_at_ear(JobFigures(document(raw), shelf())) < before - 3
    with_both = seen(raw).ranking
    assert sum(w.depth_db for w in with_both.wishes) < sum(w.depth_db for w in view.ranking.wishes) - 4
    assert with_both.counted == (fan.name, hose.name)
    with pytest.raises(BadInput, match="names the path"):
        document(hood(), measures=rows({"name": "x", "at": "path", "effect_db": 3}))


def test_a_substituted_source_tells_a_path_from_level_differences():
    raw = van()
    # 92 dB in service, 20 dB of loss from the path to the ear: 72 dB(A) of the 74.8 heard
    raw["substitutions"] = rows({"path_id": 1, "source_db": [96.0, 96.2, 95.8], "heard_db": [76.1, 75.9, 76.0],
                                 "service_db": [92.0, 92.1, 91.9]})
    view = seen(raw)
    test = next(t for t in view.tests if t.kind == "substituted source")
    assert test.level_db == pytest.approx(72.0, abs=0.05)
    assert test.share == pytest.approx(10 ** (-2.8 / 10), abs=0.02)
    assert test.interval[0] < test.share < test.interval[1]
    arches = next(p for p in view.paths if p.name == "Wheel arches")
    assert arches.model_share < arches.share < test.share


def test_answers_are_weighed_into_a_reasoned_statement():
    raw = {**ceiling(), "hints": rows({"hint": "touch", "says": "yes"}, {"hint": "isolated", "says": "yes"})}
    view = seen(raw).statement
    assert view.verdict == "structure"
    assert "touch test" in view.sentence
    assert {q.id for q in view.open_questions}.isdisjoint({"touch", "isolated"})
    mixed = seen({**raw, "hints": rows({"hint": "touch", "says": "yes"}, {"hint": "isolated", "says": "no"})}).statement
    assert mixed.verdict == "neither"
    assert seen({**raw, "hints": []}).statement.indications == ()


def test_rattles_go_into_the_order_and_onto_the_buying_list():
    doc = document(hood())
    cured = [s for s in order(JobFigures(doc, shelf())).steps if s.phase == "cure rattles"]
    assert [s.ref.rattle_id for s in cured] == [2, 1]  # while their places are open
    assert "96 Hz" in cured[1].text
    with_tape, without = (next((b for b in cut_view(JobFigures(d, shelf()), None).buy if b.material == "foam-tape"), None)
                          for d in (doc, document(hood(), rattles=[])))
    assert with_tape is not None
    assert without is None
    assert not [s for s in order(JobFigures(document(van()), shelf())).steps if s.phase == "cure rattles"]  # all done


def test_what_trace_asks_stands_in_build():
    raw = hood()
    raw["paths"][1] = {**raw["paths"][1], "order": 2, "wanted_db": 3.0}
    assert "3.0 dB less through here (number 2 in its order): reached" in build(JobFigures(document(raw), shelf()), 1).wanted
    raw["paths"][1]["wanted_db"] = 30.0
    view = build(JobFigures(document(raw), shelf()), 1)
    assert "short" in view.wanted
    assert view.heat.figures[1].value == pytest.approx(0.56, abs=0.1)


def test_leaks_and_survey_say_what_was_found():
    view = seen(van())
    assert "shows nothing" in view.leaks[0].words  # 0.4 dB between single readings while driving
    assert len(view.surveys) == 5
    floor = next(s for s in view.surveys if s.name == "Load floor")
    assert floor.words.startswith("Kept as it is")
    raw = hood()
    raw["surfaces"][0] = {**raw["surfaces"][0], "present": [{"material": "open-foam", "thickness_mm": 20}],
                          "survey_do": "replace", "planned": False}
    strip = next(s for s in order(JobFigures(document(raw), shelf())).steps if s.phase == "strip")
    assert "this comes out" in strip.text
