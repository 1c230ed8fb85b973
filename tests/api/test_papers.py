"""Offers and reports handed over: numbered once each, frozen by their bytes, compared, answered, taken into Build and judged."""

from __future__ import annotations

import base64
import io
import json
import re
import sqlite3
import threading
from collections.abc import Callable
from contextlib import closing
from datetime import date
from pathlib import Path
from typing import Any

import pytest
import soundfile
from flask.testing import FlaskClient
from PIL import Image
from pypdf import PdfReader
from test_promises import LINED, one_way

from signals import as_wav, tone
from sphagnum.api.app import create_app
from sphagnum.core.stages.papers.handed import number_words
from sphagnum.demo import rows
from sphagnum.store.backup import backup, restore
from sphagnum.store.connect import FILE, database_url, open_store
from worked import AUTHOR, worked_job

Send = Callable[..., tuple[int, Any]]
PRICED = {"labour_per_hour": 50, "margin_percent": 15, "tax_percent": 20, "name": "Moss and Panel", "address": "2 Fen Lane"}


READ = ((1, 75.2), (1, 75.4), (1, 75.6), (2, 66.2), (2, 66.4), (2, 66.6))
JOB = one_way(alternatives=[{"id": 1, "version": 1, "surface_id": 1, "name": "All of it", "layers": LINED, "chosen": True},
                            {"id": 2, "version": 1, "surface_id": 1, "name": "Damped", "layers": LINED[:1], "chosen": False}],
              rounds=[{"id": 1, "version": 1, "name": "As found", "state": "as found"},
                      {"id": 2, "version": 1, "name": "Finished", "state": "finished", "follows_id": 1}],
              readings=[{"id": i, "version": 1, "round_id": r, "position_id": 1, "condition_id": 1, "level_db": x}
                        for i, (r, x) in enumerate(READ, start=1)])


def charging(send: Send, **more: Any) -> None:
    """The workshop says what it charges."""
    now = send("GET", "/workshop")[1]["document"]["workshop"]
    step = {"collection": "workshops", "row": now["id"], "version": now["version"], "values": {**PRICED, **more}}
    status, said = send("POST", "/workshop/edits", {"steps": [step]})
    assert status == 200, said


@pytest.fixture
def job(send: Send, take_in: Callable[[dict[str, Any]], int]) -> int:
    """The worked job in a workshop that charges, before anything was done."""
    charging(send)
    return take_in(JOB)


def look(send: Send, job: int, plans: list[dict[str, Any]] | None = None) -> dict[str, Any]:
    status, page = send("POST", f"/jobs/{job}/offer", {"plans": plans or [], "on": "2026-11-29"})
    assert status == 200, page
    return page


def hand(send: Send, job: int, seen: dict[str, Any], **more: Any) -> tuple[int, Any]:
    return send("POST", f"/jobs/{job}/papers", {"kind": "offer", "revision": seen["revision"], "seen": seen["offer"],
                                                "on": "2026-11-29", **more})


def test_the_one_sum_stands_alike_in_build_offer_pdf_and_page(send: Send, client: FlaskClient, job: int) -> None:
    """Worked out from the buying list by hand: what is bought, plus what is used up; labour at 50 an hour; 15 and 20 percent."""
    seen = look(send, job)
    price = seen["offer"]["plans"][0]["price"]
    cut = send("GET", f"/jobs/{job}/cut")[1]
    material = round(sum((b["money"] or 0) + b["stock_money"] for b in (*cut["buy"], *cut["used_up"])), 2)
    labour = round(seen["offer"]["plans"][0]["hours"] * 50, 2)
    assert (price["material"], price["labour"]) == (material, labour)
    assert price["margin"] == pytest.approx(0.15 * (material + labour), abs=0.006)
    assert price["gross"] == pytest.approx(price["net"] + price["tax"])
    assert send("GET", f"/jobs/{job}/build")[1]["offer"]["total"] == price["gross"]
    status, paper = hand(send, job, seen)
    assert (status, paper["state"]) == (201, "handed over")
    words = f"{price['gross']:,.2f} €".replace(",", "\u202f")
    page = client.get(f"/api/papers/{paper['id']}.html")
    assert words in page.get_data(as_text=True)
    assert "sandbox" in page.headers["Content-Security-Policy"]
    assert page.headers["Content-Disposition"].startswith("attachment")
    pages = PdfReader(io.BytesIO(client.get(f"/api/papers/{paper['id']}.pdf").data)).pages
    text = " ".join(p.extract_text() for p in pages)
    assert words in text
    assert f"Offer {paper['number']}" in text


def test_what_was_handed_over_stays_byte_for_byte_and_a_later_version_says_what_differs(
        send: Send, client: FlaskClient, job: int) -> None:
    seen = look(send, job)
    first = hand(send, job, seen)[1]
    before = client.get(f"/api/papers/{first['id']}.pdf").data
    charging(send, labour_per_hour=80)
    status, refused = hand(send, job, seen)
    assert status == 409
    assert "costs" in refused["what"]
    status, second = hand(send, job, look(send, job), version_of=first["id"])
    assert status == 201
    assert any(x.startswith("as planned: costs") for x in second["paper"]["differs"])
    assert client.get(f"/api/papers/{first['id']}.pdf").data == before
    send("DELETE", f"/jobs/{job}?revision={look(send, job)['revision']}")
    assert client.get(f"/api/papers/{first['id']}.pdf").data == before  # no trash takes it


def test_an_accepted_plan_is_taken_into_build_and_prove_judges_its_range(send: Send, job: int) -> None:
    rounds = [r["id"] for r in send("GET", f"/jobs/{job}")[1]["document"]["rounds"]]
    plans = [{"name": "as planned", "chosen": {}}, {"name": "less", "chosen": {"1": 2}}]
    seen = look(send, job, plans)
    assert len(seen["offer"]["plans"]) == 2
    less = seen["offer"]["plans"][1]
    paper = hand(send, job, seen, plans=plans)[1]
    assert send("POST", f"/papers/{paper['id']}/answer", {"state": "accepted"})[0] == 422  # which of the two?
    status, done = send("POST", f"/papers/{paper['id']}/answer", {"state": "accepted", "plan": "less", "who": "the baker",
                                                                  "words": "Do that one."})
    assert (status, done["state"], done["paper"]["answered"]["who"]) == (200, "accepted", "the baker")
    after = send("GET", f"/jobs/{job}")[1]["document"]
    assert [a["chosen"] for a in after["alternatives"]] == [False, True]
    promise = after["promises"][-1]
    assert (promise["occasion"], promise["paper"]) == ("offer", paper["number"])
    assert promise["low_dba"] - promise["as_found_dba"] == pytest.approx(less["change_db"][0], abs=0.011)
    said = send("GET", f"/jobs/{job}/prove?before_id={rounds[0]}&after_id={rounds[-1]}")[1]["promised"]
    assert f"in offer {paper['number']}" in said
    assert "ept: " in said  # kept or not kept, with both ranges
    assert send("POST", f"/papers/{paper['id']}/answer", {"state": "refused"})[0] == 422  # once


def test_what_was_offered_is_what_is_taken_into_build_whatever_was_chosen_meanwhile(send: Send, job: int) -> None:
    paper = hand(send, job, look(send, job))[1]  # as planned: all of it
    rows = send("GET", f"/jobs/{job}")[1]["document"]["alternatives"]
    assert send("PATCH", f"/jobs/{job}/alternatives/1", {"version": rows[0]["version"], "changes": {"chosen": False}})[0] == 200
    assert send("PATCH", f"/jobs/{job}/alternatives/2", {"version": rows[1]["version"], "changes": {"chosen": True}})[0] == 200
    assert send("POST", f"/papers/{paper['id']}/answer", {"state": "accepted"})[0] == 200
    assert [a["chosen"] for a in send("GET", f"/jobs/{job}")[1]["document"]["alternatives"]] == [True, False]


def test_a_plan_of_new_stacks_closed_openings_and_measures_is_taken_into_build_as_it_was_offered(
        send: Send, take_in: Callable[[dict[str, Any]], int]) -> None:
    charging(send)
    seal = {"name": "Seal", "leak_cm2": 4, "planned_leak_cm2": 1}
    job = take_in({**JOB, "paths": rows({"name": "Floor", "surface_id": 1}, seal),
                   "measures": rows({"name": "Slower fan", "effect_db": 2, "money": 30, "chosen": False})})
    plan = {"name": "enough", "chosen": {"1": 0}, "changes": [
        {"collection": "alternatives",
         "values": {"surface_id": 1, "zone": "", "layers": LINED[:1], "name": "Found", "chosen": True}},
        {"collection": "measures", "row": 1, "values": {"chosen": True}},
        {"collection": "paths", "row": 2, "values": {"planned_leak_cm2": None}}]}
    seen = look(send, job, [plan])
    told = seen["offer"]["plans"][0]
    assert "Slower fan" in " ".join(told["does"])
    paper = hand(send, job, seen, plans=[plan])[1]
    # meanwhile the measure is done without being planned, another opening is planned, and a second measure comes and goes
    edits = [("measures", 1, {"name": "Slow fan"}), ("paths", 2, {"planned_leak_cm2": 3})]
    for name, row, changes in edits:
        assert send("PATCH", f"/jobs/{job}/{name}/{row}", {"version": 1, "changes": changes})[0] == 200
    assert send("POST", f"/papers/{paper['id']}/answer", {"state": "accepted"})[0] == 200
    doc = send("GET", f"/jobs/{job}")[1]["document"]
    assert [(a["name"], a["chosen"]) for a in doc["alternatives"]] == [("All of it", False), ("Damped", False), ("Found", True)]
    assert (doc["measures"][0]["chosen"], doc["paths"][1]["planned_leak_cm2"]) == (True, None)
    again = look(send, job)["offer"]["plans"][0]
    assert {k: again[k] for k in ("change_db", "added_kg", "hours", "price")} == {
        k: told[k] for k in ("change_db", "added_kg", "hours", "price")}


@pytest.mark.parametrize("change", [
    {"collection": "paths", "row": 1, "values": {"leak_cm2": 0}}, {"collection": "measures", "values": {"chosen": True}},
    {"collection": "surfaces", "row": 1, "values": {}}, {"collection": "measures", "row": 77, "values": {"chosen": True}},
    {"collection": "alternatives", "values": {"surface_id": 1, "layers": [{"material": "moonrock", "thickness_mm": 2}]}},
    {"collection": "alternatives", "values": {"surface_id": 7, "layers": LINED, "chosen": True}}])
def test_a_plan_changes_nothing_of_what_was_found_and_names_what_is_there(send: Send, job: int, change: dict[str, Any]) -> None:
    status, said = send("POST", f"/jobs/{job}/offer", {"plans": [{"name": "x", "changes": [change]}]})
    assert (status, bool(said.get("what"))) == (422, True), said


def test_a_plan_whose_stack_is_there_no_more_is_not_accepted(send: Send, job: int) -> None:
    paper = hand(send, job, look(send, job))[1]
    version = send("GET", f"/jobs/{job}")[1]["document"]["alternatives"][0]["version"]
    assert send("DELETE", f"/jobs/{job}/alternatives/1?version={version}")[0] in (200, 204)
    status, refused = send("POST", f"/papers/{paper['id']}/answer", {"state": "accepted"})
    assert (status, "no alternative 1" in refused["what"]) == (422, True)
    assert send("GET", f"/jobs/{job}/papers")[1]["papers"][0]["state"] == "handed over"


def test_of_six_answers_at_one_instant_one_counts(send: Send, client: FlaskClient, job: int) -> None:
    paper, told = hand(send, job, look(send, job))[1], []

    def say(state: str) -> None:
        answer = client.application.test_client().post(
            f"/api/papers/{paper['id']}/answer", json={"state": state}, headers=AUTHOR)
        told.append(answer.status_code)
    hands = [threading.Thread(target=say, args=(("accepted", "refused")[i % 2],)) for i in range(6)]
    for h in hands:
        h.start()
    for h in hands:
        h.join()
    assert sorted(told) == [200, *[422] * 5]


def test_eight_who_hand_over_at_once_get_eight_numbers_and_one_sent_twice_gets_one(
        send: Send, client: FlaskClient, job: int) -> None:
    seen = look(send, job)
    body = {"kind": "offer", "revision": seen["revision"], "seen": seen["offer"], "on": "2026-11-29"}
    numbers: list[str] = []

    def one(edit: str) -> None:
        answer = client.application.test_client().post(f"/api/jobs/{job}/papers", json=body, headers={**AUTHOR, "X-Edit": edit})
        assert answer.status_code == 201, answer.get_json()
        numbers.append(answer.get_json()["number"])
    hands = [threading.Thread(target=one, args=(f"edit{i}",)) for i in range(8)]
    for h in hands:
        h.start()
    for h in hands:
        h.join()
    assert len(set(numbers)) == 8
    one("edit3")
    assert len(set(numbers)) == 8
    assert sorted(int(n.partition("-")[2]) for n in set(numbers)) == list(range(1, 9))


def test_a_drawing_that_fails_voids_its_number_and_holds_nobody_up(
        send: Send, job: int, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: Any) -> bytes:
        raise MemoryError
    seen = look(send, job)
    with monkeypatch.context() as patched:
        patched.setattr("sphagnum.exchange.papers.pdf.pdf", broken)
        assert hand(send, job, seen)[0] == 500
    assert hand(send, job, seen)[0] == 201
    papers = send("GET", f"/jobs/{job}/papers")[1]
    assert [(p["state"], p["number"][-4:]) for p in papers["papers"]] == [("handed over", "0002"), ("void", "0001")]
    assert papers["papers"][1]["paper"]["why"] == "the drawing failed"


def test_after_a_restore_somebody_says_the_next_number_first(tmp_path: Path, send: Send, job: int) -> None:
    assert hand(send, job, look(send, job))[0] == 201
    other = tmp_path / "other"
    backup(tmp_path, tmp_path / "kept.tar")
    restore(other, tmp_path / "kept.tar", False)
    with closing(sqlite3.connect(other / FILE)) as link:
        assert link.execute("SELECT next, confirmed FROM paper_numbers").fetchone() == (2, 0)
    there = create_app(open_store(database_url(other))).test_client()

    def ask(method: str, path: str, body: Any) -> tuple[int, Any]:
        answer = there.open(f"/api{path}", method=method, json=body, headers=AUTHOR)
        return answer.status_code, answer.get_json()
    seen = look(ask, job)
    status, refused = hand(ask, job, seen)
    assert (status, "restored" in refused["what"]) == (422, True)
    assert ask("POST", "/papers/numbers", {"next": 1})[0] == 422
    assert ask("POST", "/papers/numbers", {"next": 7})[0] == 200
    assert hand(ask, job, seen)[1]["number"].endswith("-0007")


@pytest.mark.parametrize(("change", "words"), [
    ({"goals": []}, "without a goal"),
    ({"alternatives": [], "measures": []}, "nothing is planned"),
])
def test_what_cannot_be_offered_is_said(change: dict[str, Any], words: str, send: Send,
                                        take_in: Callable[[dict[str, Any]], int]) -> None:
    charging(send)
    status, refused = send("POST", f"/jobs/{take_in({**JOB, **change})}/offer", {"plans": []})
    assert status == 422
    assert words in refused["what"]


def test_a_tax_over_a_hundred_percent_is_refused_and_one_that_is_kept_still_loads(send: Send, tmp_path: Path) -> None:
    now = send("GET", "/workshop")[1]["document"]["workshop"]
    step = {"collection": "workshops", "row": now["id"], "version": now["version"], "values": {"tax_percent": 119}}
    status, refused = send("POST", "/workshop/edits", {"steps": [step]})
    assert (status, "19" in refused["mend"] or "100" in refused["what"]) == (422, True)
    with closing(sqlite3.connect(tmp_path / FILE)) as link:
        content = json.loads(link.execute("SELECT content FROM owners WHERE id = 0").fetchone()[0])
        link.execute("UPDATE owners SET content = ? WHERE id = 0", [json.dumps({**content, "tax_percent": 119})])
        link.commit()
    assert send("GET", "/workshop")[0] == 200


def picture(kind: str, size: tuple[int, int] = (400, 200)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, "#55732a").save(out, kind)
    return out.getvalue()


@pytest.mark.parametrize(("data", "words"), [
    (b"<svg xmlns='http://www.w3.org/2000/svg'><script/></svg>", "no picture a mark can be made of"),
    (bytes(3 * 2**20), "larger than 2 MB"), (b"GIF89a", "no picture")])
def test_a_mark_is_a_picture_of_dots_and_small(data: bytes, words: str, client: FlaskClient) -> None:
    answer = client.post("/api/workshop/mark", data={"file": (io.BytesIO(data), "mark.svg")}, headers=AUTHOR)
    assert answer.status_code == 422
    assert words in answer.get_json()["what"]


def test_a_mark_stands_on_papers_and_a_customer_goes_while_numbers_and_sums_stay(
        send: Send, client: FlaskClient, job: int, tmp_path: Path) -> None:
    sent = {"file": (io.BytesIO(picture("WEBP", (2400, 900))), "m.webp")}
    answer = client.post("/api/workshop/mark", data=sent, headers=AUTHOR)
    assert answer.status_code == 200, answer.get_json()
    row = send("GET", f"/jobs/{job}")[1]["document"]["job"]
    assert send("PATCH", f"/jobs/{job}", {"version": row["version"], "changes": {"customer": "Tansy Row Bakehouse"}})[0] == 200
    photograph = {"file": (io.BytesIO(picture("JPEG")), "p.jpg"), "when": "before"}
    client.post(f"/api/jobs/{job}/photographs", data=photograph, headers=AUTHOR)
    paper = hand(send, job, look(send, job))[1]
    page = client.get(f"/api/papers/{paper['id']}.html").get_data(as_text=True)
    assert 'class="mark"' in page
    assert "Tansy Row" in page
    before = paper["paper"]["offer"]["plans"][0]["price"]
    status, left = send("DELETE", f"/jobs/{job}/customer")
    assert status == 200, left
    assert left["papers"][0]["paper"]["offer"]["plans"][0]["price"] == before
    assert left["papers"][0]["number"] == paper["number"]
    assert "Tansy" not in json.dumps([left, send("GET", f"/jobs/{job}")[1]])
    assert send("GET", f"/jobs/{job}")[1]["document"]["photos"] == []
    assert client.get(f"/api/papers/{paper['id']}.pdf").status_code == 422
    send("POST", f"/jobs/{job}/undo")
    assert send("GET", f"/jobs/{job}")[1]["document"]["job"]["customer"] == ""
    assert backup(tmp_path, tmp_path / "kept.tar") == ()  # what went is no damage


def test_what_was_recorded_is_heard_in_the_page_of_a_report(send: Send, client: FlaskClient, job: int) -> None:
    sound = as_wav(0.1 * tone(500, 9.0, 8000), 8000)
    for round_id in (1, 2):
        fields = {"file": (io.BytesIO(sound), "r.wav"), "round_id": round_id, "position_id": 1, "condition_id": 1}
        assert client.post(f"/api/jobs/{job}/recordings", data=fields, headers=AUTHOR).status_code == 201
    page = client.get(f"/api/jobs/{job}/report.html").get_data(as_text=True)
    found = re.findall(r'src="data:audio/wav;base64,([^"]+)"', page)
    assert len(found) == 2
    with soundfile.SoundFile(io.BytesIO(base64.b64decode(found[0]))) as heard:
        assert (heard.subtype, heard.frames) == ("PCM_16", 8 * 8000)


def test_numbers_are_said_by_their_year() -> None:
    assert number_words(7, date(2026, 11, 29)) == "2026-0007"


def test_a_day_that_is_none_is_refused_wherever_it_is_given(client: FlaskClient, take_in: Callable[..., int]) -> None:
    number = take_in(worked_job())
    for path in ("report.pdf", "report.txt"):
        refused = client.get(f"/api/jobs/{number}/{path}?on=9015-81-48")
        assert (refused.status_code, refused.get_json()["what"]) == (422, "'9015-81-48' is no day of the calendar")
    kept = client.post(f"/api/jobs/{number}/reminders", json={"rows": [{"due_on": "2026-02-30", "what": "look"}]}, headers=AUTHOR)
    assert kept.status_code == 422


def test_two_readings_that_have_nothing_in_common_stop_no_report_and_no_step(
        client: FlaskClient, send: Send, take_in: Callable[..., int]) -> None:
    number = take_in(one_way(readings=rows({"round_id": 1, "position_id": 1, "condition_id": 1, "level_db": 75.4})))
    document = send("GET", f"/jobs/{number}")[1]["document"]
    cell = {f"{one}_id": document[f"{one}s"][0]["id"] for one in ("round", "position", "condition")}
    far = {**cell, "level_db": -20.0, "afresh": True}
    assert send("POST", f"/jobs/{number}/readings", {"rows": [far]})[0] == 201  # a hundred decibels lower
    # a recording that nobody calibrated beside levels that were typed has no mean with them
    before = send("GET", f"/jobs/{number}/listen")[1]["cells"][0]["level_db"]
    sound = {"file": (io.BytesIO(as_wav(0.1 * tone(500, 9.0, 8000), 8000)), "r.wav"), **cell}
    assert client.post(f"/api/jobs/{number}/recordings", data=sound, headers=AUTHOR).status_code == 201
    listen = send("GET", f"/jobs/{number}/listen")[1]
    assert listen["cells"][0]["level_db"] == before
    assert "1 reading without a calibration" in listen["detail"]
    assert client.get(f"/api/jobs/{number}/report.html").status_code == 200
    kept = send("GET", f"/jobs/{number}")[1]["document"]["promises"][-1]
    assert (kept["low_dba"], kept["high_dba"]) == (-50, 200)  # it may be anything
