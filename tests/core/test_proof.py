"""Rounds compared fairly: context, drift, one change at a time, rivals, spectra, ear and meter, side effects, gate."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.rounds import ancestry, baseline
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.bands import NOMINAL_HZ
from sphagnum.core.levels.comparison import Item, Terms, compare
from sphagnum.core.levels.context import compare_context, things_changed
from sphagnum.core.levels.meaning import ear_and_meter, response, spectrum_change, tones
from sphagnum.core.levels.readings import item_of, level_of
from sphagnum.core.schema import parse
from sphagnum.core.stages.board.learned import learned, repeats_of
from sphagnum.core.stages.board.overview import baseline_read, overview
from sphagnum.core.stages.listen.view import board
from sphagnum.core.stages.prove.view import prove
from sphagnum.demo import hood, loudspeakers, rows, van

VEHICLE = {"instrument": "class 2 meter", "calibration": "94.0 dB", "road": "ring road", "speed": "80 km/h", "surface": "dry",
           "wind": "2 m/s", "temperature": "14 °C", "tyres": "3.2 bar", "load": "empty", "openings": "shut"}


def fair(shelf, kind: str = "vehicle", days: tuple[str, str] = ("", ""), before: dict[str, str] = VEHICLE, **changed: str):
    return compare_context(shelf.context_items(kind), before, {**before, **changed}, days)


def test_same_circumstances_are_like_for_like(shelf):
    got = fair(shelf, wind="3 m/s", temperature="18 °C", tyres="3,3 bar")  # within what the items allow
    assert (got.fairness, got.words) == ("like for like", "Like for like.")


@pytest.mark.parametrize(("changed", "fairness", "word", "worth_db"), [
    ({"wind": "8 m/s"}, "with caution", "wind changed", None),
    ({"speed": "90 km/h"}, "with caution", "speed changed", 1.8),
    ({"temperature": "4 °C"}, "with caution", "temperature changed", 1.0),
    ({"openings": "window open"}, "not comparable", "openings", None),
    ({"surface": ""}, "with caution", "1 item not noted", None),
    ({"tyres": "winter tyres"}, "with caution", "tyres changed", None),
])
def test_each_difference_is_weighed(shelf, changed: dict, fairness: str, word: str, worth_db: float | None):
    got = fair(shelf, **changed)
    assert got.fairness == fairness
    assert word in got.words
    item = next(i for i in got.items if i.item in changed)
    assert item.worth_db == worth_db
    assert item.worth


def test_months_between_rounds_are_a_caution(shelf):
    assert "98 days apart" in fair(shelf, days=("2026-06-01", "2026-09-07")).words
    assert fair(shelf, days=("2026-06-01", "2026-06-08")).fairness == "like for like"


def test_only_what_matters_is_asked(shelf):
    asked = {kind: {i.item for i in shelf.context_items(kind)} for kind in ("vehicle", "enclosure", "room", "response")}
    assert "tyres" in asked["vehicle"] - asked["room"] - asked["enclosure"]
    assert asked["response"] == {"instrument", "calibration", "signal", "playback volume", "openings"}


@pytest.mark.parametrize(("text", "count"), [("", 0), ("damping sheets laid", 1), ("new trim and new material", 2),
                                             ("feet; slower fan, lid lined", 3), ("sand under it", 1)])
def test_things_changed_are_counted(text: str, count: int):
    assert len(things_changed(text)) == count


def job(levels: dict[tuple[int, int], list[float]], rounds: list[dict[str, Any]], **more: Any) -> JobDocument:
    """A job with levels by (round, position); position 2 is a control."""
    return parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "Rounds"}, "positions": rows({"name": "Ear"}, {"name": "Yard", "control": True}),
        "conditions": rows({"name": "running"}), "rounds": rows(*rounds),
        "readings": rows(*({"round_id": r, "position_id": p, "condition_id": 1, "level_db": v}
                           for (r, p), values in levels.items() for v in values)),
        "goals": rows({"position_id": 1, "condition_id": 1, "aim": "change by", "value": 3}), **more})


TWO = [{"name": "As found", "state": "as found"}, {"name": "Finished", "state": "finished", "follows_id": 1, "changed": "lined"}]


def test_drift_of_the_control_is_taken_off_and_shown(shelf):
    doc = job({(1, 1): [70.0, 70.2, 70.1], (2, 1): [66.0, 66.2, 66.1],
               (1, 2): [60.0, 60.2, 60.1], (2, 2): [59.0, 59.2, 59.1]}, TWO)
    got = prove(JobFigures(doc, shelf))
    head = next(c for c in got.cells if c.is_goal)
    assert got.drift_db == pytest.approx(1.0)
    assert head.comparison.reduction_db == pytest.approx(3.0)
    assert any("control place" in line.source for line in head.comparison.budget)
    control = next(c for c in got.cells if c.control)
    assert control.comparison.reduction_db == pytest.approx(1.0)
    without = prove(JobFigures(doc.model_copy(update={"readings": tuple(r for r in doc.readings if r.position_id == 1)}), shelf))
    assert without.drift_db is None
    wide, narrow = (c.comparison.interval95_db for c in (head, next(c for c in without.cells if c.is_goal)))
    assert wide[1] - wide[0] > narrow[1] - narrow[0]


def with_still(levels: dict[tuple[int, int], list[float]], still: dict[tuple[int, int], float], **more: Any) -> JobDocument:
    """``job`` with background readings by (round, position)."""
    doc = job(levels, TWO, **more)
    extra = rows(*({"round_id": r, "position_id": p, "condition_id": 1, "level_db": v, "background": True}
                   for (r, p), v in still.items()))
    kept = doc.model_dump()
    kept["readings"] = [*kept["readings"], *({**x, "id": 100 + i} for i, x in enumerate(extra))]
    return parse(JobDocument, kept)


def test_each_round_has_its_own_background_and_every_stage_shows_the_same(shelf):
    doc = with_still({(1, 1): [70.0], (2, 1): [64.0]}, {(1, 1): 60.0, (2, 1): 50.0},
                     goals=rows({"position_id": 1, "condition_id": 1, "aim": "change by", "value": 7}))
    got = prove(JobFigures(doc, shelf))
    head = next(c for c in got.cells if c.is_goal).comparison
    assert head.reduction_db == pytest.approx(5.72, abs=0.02)  # 69.54 − 63.82 by hand; the louder of both off both gives 7.8
    assert got.goal_state == "not met"
    assert got.next_step == "1.3 dB are missing."
    rule = overview(JobFigures(doc, shelf)).goal_rule
    shown = {r: next(c for c in board(JobFigures(doc, shelf), r).cells if c.is_goal).level_db for r in (1, 2)}
    assert (rule.as_found, rule.measured) == (shown[1], shown[2]) == (head.before_db, head.after_db)
    assert "−5.7 dB, goal not met" in overview(JobFigures(doc, shelf)).stages[-1].line
    one = with_still({(1, 1): [70.0], (2, 1): [64.0]}, {(1, 1): 60.0})
    assert "background-one-sided" in {c.rule for c in prove(JobFigures(one, shelf)).cells[0].comparison.cautions}
    assert prove(JobFigures(one, shelf)).cells[0].comparison.background_correction_db[1] == 0
    # the background of another condition is not this one's
    away = doc.model_copy(update={"readings": tuple(r.model_copy(update={"condition_id": 9}) if r.background else r
                                                    for r in doc.readings)})
    assert prove(JobFigures(away, shelf)).cells[0].comparison.reduction_db == 6.0


def test_only_a_control_that_is_itself_comparable_counts_and_is_said_otherwise(shelf):
    levels = {(1, 1): [70.0], (2, 1): [66.0], (1, 2): [60.0], (2, 2): [57.0]}
    drowned = prove(JobFigures(with_still(levels, {(1, 2): 58.5, (2, 2): 56.0}), shelf))
    assert (drowned.drift_db, drowned.goal_state) == (None, "met as read")
    assert drowned.control_notes == ("Yard is too near its background at running to tell a drift.",)
    doc = job(levels, TWO).model_dump()
    doc["conditions"] = rows({"name": "running"}, {"name": "idle"})
    elsewhere = parse(JobDocument, {**doc, "readings": [
        {**r, "condition_id": 2 if r["position_id"] == 2 else 1} for r in doc["readings"]]})
    got = prove(JobFigures(elsewhere, shelf))
    assert got.drift_db is None
    assert "was not read in both rounds at running" in got.control_notes[0]
    assert next(c for c in got.cells if c.is_goal).comparison.reduction_db == 4.0


def test_drift_is_taken_off_a_level_to_reach_too(shelf):
    goals = rows({"position_id": 1, "condition_id": 1, "aim": "reach", "value": 66})
    levels = {(1, 1): [70.0] * 2, (2, 1): [65.5] * 2, (1, 2): [60.0] * 2, (2, 2): [59.0] * 2}
    got = prove(JobFigures(job(levels, TWO, goals=goals), shelf))
    assert got.goal_state == "not met"  # the yard fell by 1 dB as well: 66.5 without that
    assert got.next_step.startswith("0.5 dB are missing")
    assert overview(JobFigures(job(levels, TWO, goals=goals), shelf)).goal_rule.measured == 66.5


@pytest.mark.parametrize(("after", "state", "readings"), [
    (60.0, "met", None), (64.0, "met as read", True), (65.2, "not met", None), (65.05, "about", None), (65.0, "about", None)])
def test_a_goal_is_met_not_met_or_met_as_read(shelf, after: float, state: str, readings: bool | None):
    goals = rows({"position_id": 1, "condition_id": 1, "aim": "change by", "value": 5})
    got = prove(JobFigures(job({(1, 1): [70.0], (2, 1): [after]}, TWO, goals=goals), shelf))
    assert got.goal_state == state
    assert ("readings set up afresh in each round would settle it" in got.sentence) == bool(readings)


def test_a_goal_just_missed_is_seldom_called_met(shelf):
    rng, met = np.random.default_rng(4), 0
    goals = rows({"position_id": 1, "condition_id": 1, "aim": "change by", "value": 5})
    for _ in range(200):
        before, after = (list(np.round(level + 0.5 * rng.standard_normal() + 0.3 * rng.standard_normal(3), 1))
                         for level in (70, 65.3))
        met += prove(JobFigures(job({(1, 1): before, (2, 1): after}, TWO, goals=goals), shelf)).goal_state == "met"
    assert met / 200 <= 0.03  # 24 % when the point was judged


def test_a_level_difference_takes_both_rooms_each_with_its_background(shelf):
    def rooms(**more: Any) -> JobDocument:
        levels = {(1, 1): [51.3], (2, 1): [43.1], (1, 2): [84.2], (2, 2): [84.2]}
        doc = job(levels, TWO, goals=rows({"quantity": "level difference", "position_id": 1, "condition_id": 1, "aim": "reach",
                                           "value": 45}), **more).model_dump()
        doc["positions"] = rows({"name": "Office"}, {"name": "Plant room", "at_source": True})
        return parse(JobDocument, doc)
    got = prove(JobFigures(rooms(), shelf))
    head = next(c for c in got.cells if c.is_goal)
    assert (head.comparison.before_db, head.comparison.after_db, head.verdict) == (32.9, 41.1, "more")
    assert got.sentence.startswith("8.2 dB more at office, running")
    assert got.next_step == "3.9 dB are missing."
    rule = overview(JobFigures(rooms(), shelf)).goal_rule
    assert (rule.as_found, rule.target, rule.measured) == (32.9, 45, 41.1)
    assert "Plant room" in board(JobFigures(rooms(), shelf), 1).detail
    once = rooms()
    once = once.model_copy(update={"readings": tuple(r for r in once.readings if (r.round_id, r.position_id) != (2, 2))})
    assert "source-read-once" in {c.rule for c in prove(JobFigures(once, shelf)).cells[0].comparison.cautions}


def test_rivals_are_set_against_each_other_and_their_baseline(shelf):
    tree = [TWO[0], {"name": "Felt", "follows_id": 1, "changed": "felt"},
            {"name": "Wool", "follows_id": 1, "changed": "wool, feet"}]
    doc = job({(1, 1): [70, 70.2], (2, 1): [68, 68.2], (3, 1): [64, 64.3]}, tree)
    got = prove(JobFigures(doc, shelf))
    assert [r.words.split(" (")[0] for r in got.rivals] == ["Wool is 4.0 dB quieter than Felt"]
    assert [s.depth for s in got.stairs] == [0, 1, 1]
    assert [s.assigned for s in got.stairs] == [True, True, False]
    assert "Two things changed at once before “Wool” (wool and feet)" in got.one_change
    pair = prove(JobFigures(doc, shelf), 2, 3)
    assert (pair.before, pair.after) == ("Felt", "Wool")
    assert next(c for c in pair.cells if c.is_goal).comparison.reduction_db == pytest.approx(3.95, abs=0.01)
    ring = doc.model_copy(update={"rounds": tuple(r.model_copy(update={"follows_id": 3 if r.id == 1 else r.follows_id})
                                                  for r in doc.rounds)})
    assert len(ancestry(ring, ring.rounds[2])) == 2  # a ring of rounds does not hang it


def test_a_stripped_round_can_be_the_baseline(shelf):
    doc = job({(1, 1): [72.0], (2, 1): [66.0]}, [
        {"name": "Bare", "state": "stripped", "without_baseline": "came in bare"},
        {"name": "Lined, bare", "state": "in between", "follows_id": 1, "changed": "lined"}])
    assert baseline_read(doc)
    assert baseline(doc, doc.rounds[1]).name == "Bare"
    assert prove(JobFigures(doc, shelf)).before == "Bare"
    assert not baseline_read(job({}, [{"name": "As found", "state": "as found"}]))
    assert overview(JobFigures(job({}, []), shelf)).baseline_read is False


def test_unmet_goals_name_the_next_step(shelf):
    got = prove(JobFigures(parse(JobDocument, hood()), shelf))
    assert got.goal_state == "not met"
    assert got.next_step.startswith("2.5 dB are missing. Side walls is now the loudest")
    assert got.drift_db == pytest.approx(-0.15, abs=0.02)
    assert not next(s for s in got.stairs if s.name.startswith("Trial")).comparable
    assert prove(JobFigures(parse(JobDocument, hood()), shelf), 1, 2).goal_state is None


def flat(level: float = 60.0, **bands: float) -> list[float | None]:
    """33 bands at one level, some moved: f125=80 puts 80 dB at 125 Hz."""
    moved = {float(k[1:].replace("_", ".")): v for k, v in bands.items()}
    return [moved.get(f, level) for f in NOMINAL_HZ]


def test_tones_come_and_go():
    assert tones(flat(f125=80, f1000=66)) == {125.0, 1000.0}
    assert tones(flat(f125=72)) == set()  # 12 dB is no tone that low
    said = spectrum_change(flat(f125=80), flat(f500=70)).sayings
    assert said[:2] == ("A tone went: 125 Hz.", "A tone came up: 500 Hz.")
    assert "Got worse: 500 Hz." in said
    assert "Got worse" not in " ".join(spectrum_change(flat(60), flat(64), up_is_good=True).sayings)


def test_low_and_high_end_are_told_apart():
    high_cut = [v - (8 if i > 19 else 0) for i, v in enumerate(flat())]
    change = spectrum_change(flat(), high_cut)
    assert any(s.startswith("It worked at the high end: 0.0 dB up to 160 Hz") for s in change.sayings)
    assert "did not fall" in ear_and_meter("the same", 4.0, "quieter", change)
    assert ear_and_meter("quieter", 4.0, "quieter", change) == ""
    assert ear_and_meter("louder", 2.0, "quieter", None).startswith("2.0 dB is near what an ear")
    assert "no spectrum" in ear_and_meter("louder", 6.0, "quieter", None)


def test_a_loudspeaker_gains_and_grows_smoother(shelf):
    got = response(flat(f40=50, f63=66, f100=52), flat(63), (40.0, 125.0))
    assert got.gain_db > 2
    assert (got.peaks_after, got.roughness_after_db) == (0, 0.0)
    assert "smoother" in got.words
    proof = prove(JobFigures(parse(JobDocument, loudspeakers()), shelf))
    assert proof.goal_state == "met"
    assert proof.sentence.startswith("3.5 dB more at driver's ear, pink noise")
    assert next(c for c in proof.cells if c.is_goal).comparison.verdict == "louder"


def test_side_effects_are_judged_at_the_same_load(shelf):
    def one(load: str, value: float) -> tuple[bool | None, str]:
        doc = job({(1, 1): [70], (2, 1): [66]}, TWO, side_effects=rows(
            {"round_id": 1, "name": "Motor", "unit": "°C", "value": 60, "load": "full", "allowed_change": 3},
            {"round_id": 2, "name": "motor", "unit": "°C", "value": value, "load": load, "allowed_change": 3}))
        found = prove(JobFigures(doc, shelf)).side_effects
        assert len(found) == 1
        return found[0].good, found[0].words
    assert one("full", 62)[0] is True
    assert one("full", 64) == (False, "+4.0 °C: more than the 3 °C allowed")
    assert one("half", 60)[0] is None


def test_a_reading_tells_other_quantities_from_levels_and_bands():
    doc = parse(JobDocument, van())
    reading = next(r for r in doc.readings if r.bands_db)
    assert level_of(reading, "LAeq") == reading.level_db
    assert level_of(reading, "LCeq") is None
    assert level_of(reading, "low band") > reading.level_db - 5
    assert item_of(reading.model_copy(update={"levels": {"LCeq": 88.0}}), "LCeq").level_db == 88.0


def test_the_workshop_learns_its_repeatability(shelf):
    doc = parse(JobDocument, van())
    mine = next(m for m in learned([repeats_of(doc)], shelf) if m.method == doc.job.method)
    assert mine.degrees_of_freedom >= 20
    assert 0.15 < mine.own_db < 0.4 < mine.table_db
    assert next(m for m in learned([repeats_of(doc)], shelf) if m.method == "phone-fixed").own_db is None


def test_relative_levels_compare_only_among_themselves():
    loud, soft = Item(-20.0, "LAeq", relative=True), Item(-26.0, "LAeq", relative=True)
    got = compare([loud] * 2, [soft] * 2, Terms())
    assert (got.verdict, [c.rule for c in got.cautions]) == ("quieter", ["one-set-up", "equal-gain"])
    mixed = compare([loud] * 2, [Item(60.0, "LAeq")] * 2, Terms())
    assert (mixed.verdict, [c.rule for c in mixed.cautions]) == ("not comparable", ["one-set-up", "mixed-scales"])


def test_each_band_of_a_change_has_the_width_its_own_repeats_give_it(shelf):
    at = {"position_id": 1, "condition_id": 1}
    levels = ((1, (71.0, 71.6, 70.8)), (2, (65.2, 66.0, 65.4)))
    bands = [None if f > 8000 else 40.0 for f in NOMINAL_HZ]
    third = NOMINAL_HZ.index(500.0)
    readings = rows(*({**at, "round_id": r, "level_db": x, "afresh": True, "bands_db": [*bands[:third], x, *bands[third + 1:]]}
                      for r, levels_ in levels for x in levels_))
    job = JobFigures(parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "Bands"}, "positions": rows({"name": "Ear"}),
        "conditions": rows({"name": "80 km/h"}),
        "rounds": rows({"name": "As found", "state": "as found"}, {"name": "Done", "state": "finished", "follows_id": 1}),
        "goals": rows({**at, "value": 3}), "readings": readings}), shelf)
    view = prove(job)
    assert view.spectrum is not None
    whole = view.cells[0].comparison.interval95_db
    # that band is the level itself, so its width is the level's; a band that never moved is no surer than setting up again is
    assert view.spectrum.within_db[third] == pytest.approx((whole[1] - whole[0]) / 2, abs=0.011)
    assert 0 < view.spectrum.within_db[third + 1] < view.spectrum.within_db[third]
    assert view.spectrum.within_db[-1] is None
