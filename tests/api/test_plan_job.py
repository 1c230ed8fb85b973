"""``plan --job``: plans of a job file as layers, which laid into it are what Trace, Build and Cut then say."""

from __future__ import annotations

import copy
import json
import os
from pathlib import Path
from typing import Any

import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.cli import main
from sphagnum.core.job.document import JobDocument
from sphagnum.core.planning import front
from sphagnum.core.schema import parse
from sphagnum.demo import ceiling, hood, loudspeakers, van
from sphagnum.demo_builds import blower
from sphagnum.exchange.contracts import OUTPUTS
from sphagnum.exchange.job_file import FORMAT, NEWEST

KEPT = ("butyl-foil", "bitumen-sheet", "polyester-fleece", "vinyl-5", "cotton-felt", "seam-tape", "stone-wool", "melt-blown",
        "elastic-sealant")


@pytest.fixture(autouse=True)
def coarse(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(front, "LEVELS", 4)


def job_file(folder: Path, raw: dict[str, Any], name: str = "job.json") -> Path:
    body = parse(JobDocument, raw).model_dump(mode="json")
    file = folder / name
    file.write_text(json.dumps({"format": FORMAT, "format_version": NEWEST, **body}), "utf-8")
    return file


def run(capsys: pytest.CaptureFixture[str], *args: object) -> dict[str, Any]:
    code = main([str(a) for a in args])
    out, err = capsys.readouterr()
    assert (code, err) == (0, "")
    return json.loads(out)


def refused(capsys: pytest.CaptureFixture[str], *args: object) -> str:
    code = main([str(a) for a in args])
    out, err = capsys.readouterr()
    assert (code, out, err.count("\n")) == (2, "", 1)
    return err


def laid_into(raw: dict[str, Any], plan: dict[str, Any]) -> dict[str, Any]:
    """A job file with a plan's layers put into it by hand, as somebody who reads the output would."""
    made = copy.deepcopy(raw)
    zones = {(s["name"], z["name"]): z["id"] for s in made.get("surfaces", []) for z in s.get("zones", [])}
    for a in made.get("alternatives", []):
        a["chosen"] = False
    number = 100
    for where, one in plan["surfaces"].items():
        name, _, zone = where.partition(" / ")
        surface = next(s for s in made["surfaces"] if s["name"] == name)
        number += 1
        made["alternatives"].append({"id": number, "version": 1, "surface_id": surface["id"], "layers": one["layers"],
                                     "zone": zones.get((name, zone), ""), "frame": one["frame"], "chosen": True})
    for m in made.get("measures", []):
        m["chosen"] = m["name"] in plan["measures"]
    for b in made.get("builds", []):
        b.update(plan["builds"][b["name"]])
    for p in made["paths"]:
        if p["name"] not in plan["leaks"] and p.get("leak_cm2"):
            p["planned_leak_cm2"] = p["leak_cm2"]
    return made


@pytest.mark.parametrize("make", [van, hood, blower] if "SWEEP_PLANS" in os.environ else [hood])
@pytest.mark.broad
def test_a_plans_layers_put_into_the_file_give_its_change_kilograms_hours_and_money(
    make: Any, capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    raw = make()
    boards = ("particle-board",) if make is blower else ()  # of which another box than the one over the money is made
    only = [x for m in (*KEPT, *boards) for x in ("--only", m)]
    found = run(capsys, "plan", "--job", job_file(tmp_path, raw), "--seconds", 4, *only)
    OUTPUTS["plan-job"].model_validate(found)
    assert found["reached"]
    plans = found["plans"]
    assert found["unit"] == "dB(A)"
    assert not found["up_is_good"]
    for n in sorted({found["cheapest"], found["best"]}):
        plan = plans[n]
        assert {x["material"] for s in plan["surfaces"].values() for x in s["layers"]} <= {*KEPT} | {
            x["material"] for a in raw.get("alternatives", []) for x in a["layers"]}
        file = job_file(tmp_path, laid_into(raw, plan), f"laid-{n}.json")
        trace, built, cut, board = (run(capsys, "show", file, "--stage", stage) for stage in ("trace", "build", "cut", "board"))
        if trace["change_db"] is None:
            assert plan["change_db"] == 0
            continue
        assert trace["change_db"] == pytest.approx(plan["change_db"], abs=0.05)
        assert trace["within_db"] == pytest.approx(plan["within_db"], abs=0.05)
        assert built["plan_change_db"] == trace["change_db"]
        meters = {m["label"]: m["value"] for m in built["meters"]}
        assert meters["Added weight, whole job"] == pytest.approx(plan["added_kg"], abs=0.1)
        assert meters["Work, whole job"] == pytest.approx(plan["hours"], abs=0.1)
        assert cut["money"] == pytest.approx(plan["money"], rel=0.25 if plan["estimated"] else 0.03, abs=0.01)
        assert board["overview"]["goal_rule"]["predicted"] == trace["planned_dba"]
    best, cheapest = plans[found["best"]], plans[found["cheapest"]]
    assert best["change_db"] == min(p["change_db"] for p in plans)
    enough = [p for p in plans if p["change_db"] <= cheapest["change_db"] or p["money"] >= cheapest["money"]]
    assert cheapest["money"] == min(p["money"] for p in enough)


@pytest.mark.broad
def test_stock_only_and_without_keep_to_what_they_say(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    small = van()
    small |= {"surfaces": small["surfaces"][:2], "paths": small["paths"][:2], "alternatives": [], "rattles": [], "leaks": [],
              "block_offs": []}
    file = job_file(tmp_path, small)
    def used(found: dict[str, Any]) -> set[str]:
        return {x["material"] for p in found["plans"] for s in p["surfaces"].values() for x in s["layers"]}
    struck = [x for m in shelf().materials.values() if m.roles and m.id not in KEPT for x in ("--without", m.id)]
    assert used(run(capsys, "plan", "--job", file, "--seconds", 2, *struck)) <= {*KEPT}
    # the shipped shelf counts nothing: of what is on hand there is only the rest the job took, and lines and glue to buy
    found = run(capsys, "plan", "--job", file, "--seconds", 2, "--stock")
    assert [p["warns"] for p in found["plans"]] == [[]] * len(found["plans"])
    on_hand = used(found)
    lines = {m.id for m in shelf().materials.values() if not m.lies}
    assert on_hand <= {"vinyl-10"} | lines


@pytest.mark.parametrize(("args", "words"), [
    ((), "takes one file"),
    (("plan.json", "--job", "job.json"), "takes one file"),
    (("plan.json", "--stock"), "only counts with --job"),
    (("--job", "{job}", "--only", "no-such"), "no material 'no-such'"),
    (("--job", "{job}", "--without", "no-such"), "no material 'no-such'"),
    (("--job", "{job}", "--seconds", "0"), "out of range"),
    (("--job", "{ring}"), "no plan can be searched for a goal of 'bass gain'; What a loudspeaker gains"),
    (("--job", "{goalless}"), "no goal yet"),
    (("--job", "nowhere.json"), "nowhere.json"),
])
def test_what_cannot_be_planned_is_said_in_one_line(
    args: tuple[str, ...], words: str, capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    files = {"job": job_file(tmp_path, ceiling(), "a.json"), "ring": job_file(tmp_path, loudspeakers(), "b.json"),
             "goalless": job_file(tmp_path, {**van(), "goals": []}, "c.json")}
    assert words in refused(capsys, "plan", *(a.format(**files) for a in args))


def test_a_plan_says_what_the_rules_then_say_of_it_and_did_not_before(
    capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    raw = {**hood(), "job": {**hood()["job"], "limits": {}}}
    found = run(capsys, "plan", "--job", job_file(tmp_path, raw), "--seconds", 2, "--only", "stone-wool", "--only", "vinyl-5")
    said = {w for p in found["plans"] for w in p["warns"]}
    assert "box-too-warm" not in said
    assert said <= {r.id for r in shelf().rules} | {"layer-makes-worse"}
