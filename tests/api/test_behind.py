"""Work behind the page: progress, the best so far, cancel, one run for two requests, lost workers, results that outlive."""

from __future__ import annotations

import io
import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from flask.testing import FlaskClient

from sphagnum.api.app import create_app
from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.layout import cut
from sphagnum.core.cutting.model import CutInput
from sphagnum.core.job.document import JobDocument
from sphagnum.core.report import Stop
from sphagnum.core.schema import parse
from sphagnum.core.stages.plan.model import PlansAsked
from sphagnum.demo import hood, loudspeakers, van
from sphagnum.store.connect import database_url, open_store
from sphagnum.store.documents import store_document
from sphagnum.store.results import StoredResults
from sphagnum.work.desk import Desk, Entry
from sphagnum.work.kinds import SEARCH, PlanWork
from sphagnum.work.layouts import JobLayouts, LastLayouts

ME = {"X-Author": "me"}


def pieces(count: int, seconds: float = 60.0, notch_mm: float = 0.0) -> dict[str, Any]:
    """Rectangles that do not fill their sheets, so that the search goes on to its end; with a notch it is its clock that ends."""
    made = [{"id": f"p{i}", "outline_mm": [[0, 0], [w, 0], [w, h], [0, h]] if not notch_mm else [
        [0, 0], [w, 0], [w, h - notch_mm], [w - notch_mm, h - notch_mm], [w - notch_mm, h], [0, h]], "rotate": "quarter"}
            for i, (w, h) in enumerate([(310 + 7 * (i % 11), 190 + 13 * (i % 7)) for i in range(count)])]
    return {"stock": [{"id": "a", "width_mm": 500, "length_mm": 750, "price": 12}], "pieces": made, "seconds": seconds}


@pytest.fixture(scope="module")
def desk(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Desk]:
    """With the searches as long as they are asked for: what is stopped here must not have come to its end before."""
    folder = tmp_path_factory.mktemp("desk")
    with pytest.MonkeyPatch.context() as patch:
        patch.delenv(SEARCH, raising=False)
        found = Desk(StoredResults(open_store(database_url(folder))), workers=1)
        yield found
        found.close()


@pytest.fixture
def behind(tmp_path: Path, desk: Desk) -> FlaskClient:
    return create_app(open_store(database_url(tmp_path)), desk=desk).test_client()


def until(check: Any, patience_s: float = 120.0) -> Any:
    end = time.monotonic() + patience_s
    while not (found := check()):
        assert time.monotonic() < end, "waited in vain"
        time.sleep(0.05)
    return found


@pytest.mark.broad
def test_a_layout_tells_how_far_it_is_and_is_stopped_with_the_best_so_far(behind: FlaskClient):
    def see(key: str) -> dict[str, Any]:
        return behind.get(f"/api/work/{key}?result=true").json

    asked = {"kind": "layout", "input": pieces(40, 90.0, notch_mm=60.0)}  # it goes on until it is stopped
    begun = behind.post("/api/work", json=asked, headers=ME).json
    again = behind.post("/api/work", json=asked, headers=ME).json
    assert again["id"] == begun["id"]
    assert begun["result"] is None
    first = until(lambda: (s := see(begun["id"]))["result"] and s)
    assert first["open"]
    assert 0 < first["share"] <= 1  # on a busy machine its clock may be over before the first word of it is read
    assert "of stock opened" in first["words"]
    later = until(lambda: (s := see(begun["id"]))["step"] > first["step"] and s)
    assert later["share"] >= first["share"]
    assert later["result"]["price"] <= first["result"]["price"]
    stopped = behind.delete(f"/api/work/{begun['id']}?result=true", headers=ME).json
    assert (stopped["state"], stopped["open"]) == ("cancelled", False)
    assert stopped["result"]["price"] <= first["result"]["price"]
    assert behind.get("/api/work/" + "0" * 32).status_code == 404
    assert behind.post("/api/work", json={"kind": "layout", "input": {"stock": []}}, headers=ME).status_code == 422


def test_what_is_done_in_a_moment_goes_before_what_has_waited_longer(desk: Desk):
    def work(count: int, seconds: float) -> CutInput:
        return parse(CutInput, pieces(count, seconds, notch_mm=40.0))
    before = desk.start("layout", work(14, 1.0)), desk.start("layout", work(30, 100.0))
    asked = desk.start("layout", work(10, 0.5), quick=True)
    try:
        assert (done := desk.wait(asked.id, 60.0)) is not None
        assert done.state == "done"
        assert before[1].open
    finally:
        for entry in before:
            desk.cancel(entry.id)


def test_what_is_held_in_memory_is_said_and_bounded(behind: FlaskClient, desk: Desk):
    store = behind.application.config["STORE"]
    store_document(store, parse(JobDocument, hood()))
    first = {h["name"]: h for h in behind.get("/api/health").json["held"]}
    assert behind.get("/api/jobs/1/listen").json["sentence"]  # a stage that has nothing laid out: others here wait for that
    desk.wait(desk.start("layout", parse(CutInput, pieces(2))).id, 120)
    now = behind.get("/api/health").json
    held = {h["name"]: h for h in now["held"]}
    assert (first["figures of jobs"]["count"], held["figures of jobs"]["count"]) == (0, 1)
    assert 0 < held["figures of jobs"]["bytes"] < 64 * 2**20
    assert held["answers"]["bytes"] > 1000 + (first["answers"]["bytes"] or 0)
    assert held["work"]["count"] > 0
    assert now["workers_mb"]
    assert min(now["memory_mb"], *now["workers_mb"]) > 1


def test_two_who_ask_share_one_run_and_its_result_outlives_the_server(behind: FlaskClient, desk: Desk):
    given = parse(CutInput, pieces(3))
    one, two = desk.start("layout", given), desk.start("layout", given)
    assert one is two
    done = desk.wait(one.id, 120)
    assert (done.state, done.tries) == ("done", 1)
    assert json.loads(done.result)["price"] == cut(given, restarts=12).price
    after_a_restart = Desk(desk._results)
    kept = after_a_restart.start("layout", given)
    assert (kept.state, kept.tries, kept.result) == ("done", 0, done.result)
    after_a_restart.close()


def test_a_lost_worker_is_said_and_its_work_begun_again(desk: Desk):
    entry = desk.start("layout", parse(CutInput, pieces(301)))
    until(lambda: entry.result)
    os.kill(desk._hands[0].process.pid, signal.SIGKILL)
    until(lambda: entry.tries == 2)
    os.kill(until(lambda: desk._hands[0].process is not None and desk._hands[0].process.is_alive()
                  and desk._hands[0].process.pid), signal.SIGKILL)
    lost = desk.wait(entry.id, 120)
    assert (lost.state, lost.words) == ("refused", "the worker was lost twice over this")
    assert desk.wait(desk.start("layout", parse(CutInput, pieces(4))).id, 120).state == "done"


def test_a_worker_that_holds_much_makes_way_for_a_fresh_one(desk: Desk, monkeypatch: pytest.MonkeyPatch):
    def pid_after(pieces_: int) -> int:
        assert desk.wait(desk.start("layout", parse(CutInput, pieces(pieces_))).id, 120).state == "done"
        return desk._hands[0].process.pid

    first = pid_after(6)
    assert pid_after(7) == first  # it holds little: it stays
    monkeypatch.setattr("sphagnum.work.desk.MOST_GROWN_MB", -1.0)
    assert desk.wait(desk.start("layout", parse(CutInput, pieces(8))).id, 120).state == "done"
    # there before anything is asked of it
    fresh = until(lambda: (p := desk._hands[0].process) is not None and p.pid not in (None, first) and p.pid)
    monkeypatch.undo()
    assert pid_after(9) == fresh


def test_a_worker_that_cannot_even_begin_is_said_and_does_not_hold_the_desk(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("sphagnum.work.desk.serve_pipe", id)  # ends at once, without a word
    broken = Desk(StoredResults(open_store(database_url(tmp_path))), workers=1)
    broken.warm_up()
    entry = broken.start("layout", parse(CutInput, pieces(3)))
    told = broken.wait(entry.id, 120)
    assert (told.state, told.words, told.tries) == ("refused", "the worker was lost twice over this", 2)
    monkeypatch.undo()  # what comes after it is done by a process that lives
    assert broken.wait(broken.start("layout", parse(CutInput, pieces(2))).id, 120).state == "done"
    broken.close()


def test_what_is_asked_for_while_one_worker_begins_is_done_by_the_one_that_is_ready(tmp_path: Path):
    two = Desk(StoredResults(open_store(database_url(tmp_path))), workers=2)
    two.warm_up()
    assert two.wait(two.start("layout", parse(CutInput, pieces(2))).id, 120).state == "done"
    both = [two.start("layout", parse(CutInput, pieces(n))) for n in (4, 5)]  # for the second a process is begun
    assert all(two.wait(e.id, 120).state == "done" for e in both)
    assert all(e.tries == 1 for e in both)
    two.close()


@pytest.mark.usefixtures("desk")
def test_while_plans_are_searched_a_layout_does_not_wait_for_them(tmp_path: Path):
    two, doc = Desk(StoredResults(open_store(database_url(tmp_path))), workers=2), parse(JobDocument, van())
    asked = [PlansAsked(seconds=s, anew=True) for s in (60, 61)]
    plans = [two.start("plan", PlanWork(document=doc, shelf=shelf(), asked=x, folder=str(tmp_path))) for x in asked]
    until(lambda: plans[0].state == "running")
    laid = two.wait(two.start("layout", parse(CutInput, pieces(2))).id, 120)
    assert laid is not None
    assert laid.state == "done"
    assert [p.state for p in plans] == ["running", "waiting"]
    two.cancel(plans[0].id)  # the next begins once the first lets go
    until(lambda: plans[1].state == "running")
    two.close()


@pytest.mark.usefixtures("desk")
def test_a_worker_goes_by_the_settings_of_who_asks_not_of_who_asked_first(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    """The process that workers are forked from began without a bound on searches, for the desk above."""
    monkeypatch.setenv(SEARCH, "0.5")
    bound = Desk(StoredResults(open_store(database_url(tmp_path))), workers=1)
    ended = bound.wait(bound.start("layout", parse(CutInput, pieces(40, 90.0, notch_mm=60.0))).id, 120)
    assert ended is not None
    assert ended.state == "done"  # long before the 90 s it was given
    bound.close()


def test_what_nobody_wants_any_more_is_never_begun(desk: Desk):
    entry = desk.start("layout", parse(CutInput, pieces(302)), wanted=lambda: False, later_s=0.1)
    until(lambda: not entry.open)
    assert (entry.state, entry.tries) == ("cancelled", 0)


def test_cut_shows_the_last_list_as_older_until_the_new_layout_is_there(behind: FlaskClient):
    lid = {**hood(), "alternatives": [a for a in hood()["alternatives"] if a["surface_id"] == 2]}
    number = store_document(behind.application.config["STORE"], parse(JobDocument, lid))

    def cut_page() -> dict[str, Any]:
        return behind.get(f"/api/jobs/{number}/cut").json

    first = cut_page()
    assert first["work"]
    whole = until(lambda: (s := cut_page())["buy"] and not s["work"] and s)
    assert not whole["older"]
    piece = {"material": whole["sheets"][0]["material"], "name": "Patch", "width_mm": 310, "height_mm": 205}
    steps = [{"collection": "pieces", "values": {**piece, "thickness_mm": whole["sheets"][0]["thickness_mm"]}}]
    assert behind.post(f"/api/jobs/{number}/edits", json={"steps": steps}, headers=ME).status_code == 200
    late = cut_page()
    assert (late["older"], len(late["buy"])) == (True, len(whole["buy"]))
    meters = behind.get(f"/api/jobs/{number}/build").json["meters"]
    assert [m["older"] for m in meters if m["label"].startswith("To buy")] == [True]
    until(lambda: not (s := cut_page())["older"] and not s["work"])


def test_the_command_line_stops_a_layout_at_a_word(tmp_path: Path):
    told: list[float] = []

    def enough(share: float, _words: str, _so_far: Any = None) -> None:
        told.append(share)
        if len(told) == 3:
            raise Stop

    with pytest.raises(Stop):
        cut(parse(CutInput, pieces(40)), report=enough)
    assert told == sorted(told)
    file = tmp_path / "pieces.json"
    file.write_text(json.dumps(pieces(40, seconds=1.0)))
    command = [str(Path(sys.executable).parent / "sphagnum"), "cut", str(file), "--progress"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=60)
    assert done.returncode == 0
    assert json.loads(done.stdout)["price"] > 0
    lines = [x for x in done.stderr.replace("\r", "\n").splitlines() if x.strip()]
    assert len(lines) >= 2
    assert all("% " in x and "of stock opened" in x for x in lines)


def test_a_job_asked_for_while_its_layouts_are_looked_over_is_answered(desk: Desk):
    """Two pages of one job share its layouts: one may ask for another layout in the middle of the other's look at them."""
    first, second = (parse(CutInput, pieces(n)) for n in (41, 42))
    layouts = JobLayouts(desk, LastLayouts(), 1)
    layouts("vinyl", 2.0, first)
    look = desk.find

    def find(key: str, here: bool = False) -> Entry | None:
        layouts("vinyl", 3.0, second)
        return look(key, here)

    desk.find = find  # type: ignore[method-assign]
    try:
        told = layouts.moved()
    finally:
        del desk.find  # type: ignore[method-assign]
        for data in (first, second):
            desk.cancel(desk.key("layout", data))
    assert told <= {("vinyl", 2.0)}
    assert told | layouts.moved() == {("vinyl", 2.0), ("vinyl", 3.0)}
    assert layouts.moved() == frozenset()  # told once: whatever rests on them is worked out anew, and asks again


def test_a_long_recording_is_read_by_a_worker_told_by_its_ticket_and_can_be_stopped(behind: FlaskClient, monkeypatch):
    monkeypatch.setattr("sphagnum.api.behind.BEHIND_S", 5.0)
    number = store_document(behind.application.config["STORE"], parse(JobDocument, loudspeakers()))
    doc = behind.get(f"/api/jobs/{number}").json["document"]
    at = {f"{k}_id": str(doc[f"{k}s"][0]["id"]) for k in ("position", "condition", "round")}

    def send(seconds: float, ticket: str) -> Any:
        sound = io.BytesIO()
        soundfile.write(sound, np.random.default_rng(1).normal(0, 0.1, round(48_000 * seconds)), 48_000, format="WAV")
        sound.seek(0)
        return behind.post(f"/api/jobs/{number}/recordings", data={"file": (sound, "long.wav"), **at},
                           headers={**ME, "X-Ticket": ticket})

    short, long = send(4, "short-ticket"), send(12, "long-ticket")
    assert (short.status_code, long.status_code) == (201, 201)
    assert behind.get("/api/tickets/short-ticket").json["state"] == "waiting"
    told = behind.get("/api/tickets/long-ticket").json
    assert (told["state"], told["share"], told["open"]) == ("done", 1.0, False)
    assert long.json["analysis"]["LAeq"] == pytest.approx(short.json["analysis"]["LAeq"], abs=0.2)
    run = behind.get(f"/api/jobs/{number}/readings/{long.json['row']['id']}/run").json
    assert run["levels"]["LAeq"] == long.json["analysis"]["LAeq"]

    def stop() -> None:
        other = behind.application.test_client()
        for _ in range(400):
            told = other.get("/api/tickets/stop-ticket").json
            if told["open"]:
                other.delete(f"/api/work/{told['id']}", headers=ME)
                return
            time.sleep(0.02)

    stopper = threading.Thread(target=stop)
    stopper.start()
    before = len(list(behind.application.config["FILES"].all()))
    stopped = send(300, "stop-ticket")
    stopper.join()
    assert (stopped.status_code, stopped.json["what"]) == (422, "the reading of it was stopped")
    assert len(list(behind.application.config["FILES"].all())) == before
