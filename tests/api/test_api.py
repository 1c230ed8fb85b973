"""The server's promises: one error shape, versions, undo, nothing lost, files in and out."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from pypdf import PdfReader

from sphagnum.api.app import create_app
from sphagnum.api.doors import Door
from sphagnum.store.connect import open_store
from worked import AUTHOR, worked_job

Send = Callable[..., tuple[int, Any]]


@pytest.fixture
def job(take_in: Callable[[dict[str, Any]], int]) -> int:
    """The worked job, imported; its number."""
    return take_in(worked_job())


def test_worked_job_over_the_wire(send: Send, job: int):
    rule = send("GET", f"/jobs/{job}")[1]["overview"]["goal_rule"]
    assert (rule["as_found"], rule["measured"]) == (60.87, 56.57)
    assert rule["predicted"] == 56.88  # what is to be expected of the 56.5 computed
    assert rule["predicted_within"] == pytest.approx(1.55, abs=0.02)
    assert send("GET", f"/jobs/{job}/cut")[1]["buy"][0]["money"] == 46.0
    assert send("GET", f"/jobs/{job}/prove")[1]["cells"][0]["comparison"]["interval95_db"] == [3.65, 4.94]
    floor = next(p["id"] for p in send("GET", f"/jobs/{job}/trace")[1]["paths"] if p["name"] == "floor")
    pulled = send("GET", f"/jobs/{job}/trace?pull={floor}:10")[1]
    assert pulled["pulled_dba"] - pulled["total_dba"] == pytest.approx(-0.27, abs=0.01)


def test_stale_write_gets_both_versions_and_changes_nothing(send: Send, job: int):
    row = send("GET", f"/jobs/{job}")[1]["document"]["positions"][0]
    path = f"/jobs/{job}/positions/{row['id']}"
    assert send("PATCH", path, {"version": row["version"], "changes": {"name": "Mine"}})[0] == 200
    status, body = send("PATCH", path, {"version": row["version"], "changes": {"name": "Theirs"}}, "second browser")
    assert status == 409
    assert (body["stored"]["name"], body["sent"]) == ("Mine", {"name": "Theirs"})
    assert {"what", "where", "mend"} <= body.keys()
    assert send("DELETE", f"{path}?version={row['version']}")[0] == 409
    assert send("GET", f"/jobs/{job}")[1]["document"]["positions"][0]["name"] == "Mine"


def test_undo_takes_back_ones_own_edits_only_and_never_over_others(send: Send, job: int):
    row = send("GET", f"/jobs/{job}")[1]["document"]["positions"][0]
    path = f"/jobs/{job}/positions/{row['id']}"
    for version, name in ((1, "One"), (2, "Two")):
        assert send("PATCH", path, {"version": version, "changes": {"name": name}})[0] == 200
    assert send("POST", f"/jobs/{job}/undo", None, "second browser")[0] == 422
    assert send("POST", f"/jobs/{job}/undo")[0] == 200
    assert send("POST", f"/jobs/{job}/undo")[0] == 200
    now = send("GET", f"/jobs/{job}")[1]["document"]["positions"][0]
    assert now["name"] == "Ear"
    send("PATCH", path, {"version": now["version"], "changes": {"name": "Mine"}})
    send("PATCH", path, {"version": now["version"] + 1, "changes": {"name": "Theirs"}}, "second browser")
    assert send("POST", f"/jobs/{job}/undo")[0] == 409


def test_removal_takes_what_depends_and_undo_brings_all_back(send: Send, job: int):
    before = send("GET", f"/jobs/{job}")[1]["document"]
    position = before["positions"][0]
    assert send("DELETE", f"/jobs/{job}/positions/{position['id']}?version={position['version']}")[0] == 200
    gone = send("GET", f"/jobs/{job}")[1]["document"]
    assert (gone["positions"], gone["readings"], gone["goals"]) == ([], [], [])
    assert send("POST", f"/jobs/{job}/undo")[0] == 200
    after = send("GET", f"/jobs/{job}")[1]["document"]
    for name in ("positions", "readings", "goals"):
        plain = [[{k: v for k, v in r.items() if k != "version"} for r in d[name]] for d in (before, after)]
        assert plain[0] == plain[1]


def test_choosing_one_alternative_lets_go_of_the_other(send: Send, job: int):
    outline = [[0, 0], ["1 180", 0], ["1 180", "540,5"], [0, "540,5"]]
    made = send("POST", f"/jobs/{job}/surfaces", {"rows": [
        {"name": "Door", "outline_mm": outline, "substrate": {"material": "steel", "thickness_mm": "0,8"}}]})[1]["rows"][0]
    assert made["outline_mm"][2] == [1180, 540.5]
    for name in ("A", "B"):
        send("POST", f"/jobs/{job}/alternatives", {"rows": [{"surface_id": made["id"], "name": name}]})
    rows = send("GET", f"/jobs/{job}")[1]["document"]["alternatives"]
    assert [r["chosen"] for r in rows] == [False, True]
    send("POST", f"/jobs/{job}/undo")
    rows = send("GET", f"/jobs/{job}")[1]["document"]["alternatives"]
    assert [(r["name"], r["chosen"]) for r in rows] == [("A", True)]


STEEL = {"material": "steel", "thickness_mm": 1}
AT = {"position_id": 1, "condition_id": 1, "round_id": 1}


@pytest.mark.parametrize(("collection", "values", "word"), [
    ("positions", {}, "missing"), ("positions", {"name": "x" * 200}, "120"),
    ("positions", {"name": "Ear", "nme": 1}, "did you mean"),
    ("readings", {**AT, "level_db": 900}, "out of range"), ("readings", {**AT, "level_db": "loud"}, "not a number"),
    ("readings", {**AT, "level_db": "NaN"}, "finite"), ("readings", AT, "one level or a range"),
    ("readings", {**AT, "low_db": 70, "high_db": 60}, "backwards"),
    ("readings", {**AT, "position_id": 99, "level_db": 60}, "not in this job"),
    ("surfaces", {"name": "Door", "outline_mm": [[0, 0], [60000, 0], [1, 1]], "substrate": STEEL}, "50 m"),
    ("surfaces", {"name": "Door", "outline_mm": [[0, 0], [-5, 0], [-5, 3]], "substrate": STEEL}, "20 mm"),
    ("paths", {"name": "p"}, "choose one"), ("paths", {"name": "p", "leak_cm2": -3}, "at least 0"),
    ("goals", {"position_id": 1, "condition_id": 1, "value": "-1"}, "at least 0"),
])
def test_bad_rows_get_one_sentence_and_nothing_is_kept(send: Send, job: int, collection: str, values: dict, word: str):
    before = send("GET", f"/jobs/{job}")[1]["document"][collection]
    status, body = send("POST", f"/jobs/{job}/{collection}", {"rows": [values]})
    assert status == 422, body
    assert word in " ".join(body.values())
    assert send("GET", f"/jobs/{job}")[1]["document"][collection] == before


def test_typed_readings_ranges_and_repeats(send: Send, job: int):
    body = {"position_id": 1, "condition_id": 1, "round_id": 1, "text": "60,2; 59.8..61.4"}
    status, made = send("POST", f"/jobs/{job}/typed-readings", body)
    assert status == 201
    assert [(r["level_db"], r["low_db"], r["high_db"]) for r in made["rows"]] == [(60.2, None, None), (None, 59.8, 61.4)]
    assert send("POST", f"/jobs/{job}/typed-readings", {**body, "text": "sixty"})[0] == 422
    send("POST", f"/jobs/{job}/undo")
    assert len(send("GET", f"/jobs/{job}")[1]["document"]["readings"]) == 6


@pytest.mark.parametrize(("content", "status", "word"), [
    (b"time;LAeq\n0;60,5\n1;61,5\n2;60,0\n", 201, ""), (b"", 422, "empty"), (b"\x00\x01PK\x03\x04" * 40, 422, "not text"),
    (b"time,LCeq\n0,70\n1,71\n", 422, "LCeq"), (b"time,colour\n0,1\n1,2\n", 422, "level"), (b"x" * (17 * 2**20), 413, "16 MB"),
])
def test_level_logs_are_read_or_refused(client: FlaskClient, send: Send, job: int, content: bytes, status: int, word: str):
    form = {"position_id": "1", "condition_id": "1", "round_id": "1", "file": (io.BytesIO(content), "log.csv")}
    answer = client.post(f"/api/jobs/{job}/logs", data=form, headers=AUTHOR)
    assert answer.status_code == status, answer.get_json()
    kept = send("GET", f"/jobs/{job}")[1]["document"]["readings"]
    assert len(kept) == (7 if status == 201 else 6)
    if status == 201:
        assert kept[-1]["level_db"] == pytest.approx(60.72, abs=0.01)
    else:
        assert word in " ".join(v for v in answer.get_json().values() if v)


def test_job_file_comes_back_the_same_and_bad_ones_are_refused(client: FlaskClient, send: Send, job: int):
    exported = client.get(f"/api/jobs/{job}/export.json").data
    again = client.post("/api/jobs/import", data={"file": (io.BytesIO(exported), "job.json")}, headers=AUTHOR).get_json()["id"]
    one, two = (send("GET", f"/jobs/{n}/prove")[1] for n in (job, again))
    assert [c["comparison"] for c in one["cells"]] == [c["comparison"] for c in two["cells"]]
    assert send("GET", f"/jobs/{job}/trace")[1]["planned_dba"] == send("GET", f"/jobs/{again}/trace")[1]["planned_dba"]
    good = json.loads(exported)
    variants: list[Any] = [[], {}, {**good, "format": "other"}, {**good, "colour": 1}, {**good, "readings": "none"},
                           {**good, "positions": [good["positions"][0]] * 2}, {**good, "rounds": []},
                           {**good, "pieces": [{**good["pieces"][0], "material": "unobtainium"}]}]
    for body in [b"", b"\xff\xfe", b"{", exported.replace(b"60.6", b"NaN"), *(json.dumps(v).encode() for v in variants)]:
        answer = client.post("/api/jobs/import", data={"file": (io.BytesIO(body), "bad.json")}, headers=AUTHOR)
        assert answer.status_code == 422, body[:80]
        assert "bad.json" in answer.get_json()["where"] or answer.get_json()["where"]
    assert len(send("GET", "/jobs")[1]["jobs"]) == 2


def test_report_says_the_result_on_its_first_page(client: FlaskClient, job: int):
    answer = client.get(f"/api/jobs/{job}/report.pdf?for=technical")
    assert answer.mimetype == "application/pdf"
    pages = PdfReader(io.BytesIO(answer.data)).pages
    text = " ".join(pages[0].extract_text().split())
    assert text.count("1 of ") == 1
    assert "Rounds and circumstances" in " ".join(p.extract_text() for p in pages[1:])
    for words in ("4.3 dB quieter at ear, running", "of 4 dB met", "60.9", "56.6", "3.6 to 4.9", "63 % of the sound energy"):
        assert words in text


def test_pages_carry_a_strict_policy_and_edits_must_be_signed(client: FlaskClient, send: Send):
    policy = client.get("/api/jobs").headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert client.post("/api/jobs", json={"name": "Unsigned"}).status_code == 403
    assert send("GET", "/nowhere")[0] == 404
    assert send("GET", "/jobs/77")[1]["what"] == "there is no job 77"
    assert send("POST", "/jobs", {"name": ""})[0] == 422
    assert send("PATCH", "/jobs/1/gadgets/1", {"version": 1, "changes": {}})[0] == 404


def test_contract_is_served_and_names_every_stage(send: Send):
    paths = send("GET", "/openapi.json")[1]["paths"]
    for stage in ("listen", "trace", "build", "cut", "fit", "prove"):
        schema = paths[f"/api/jobs/{{job_id}}/{stage}"]["get"]["responses"]["200"]["content"]["application/json"]["schema"]
        assert schema["$ref"].endswith("View")


def test_other_hosts_need_the_passphrase_and_other_names_are_refused(tmp_path: Path):
    store = open_store(f"sqlite:///{tmp_path / 'x.db'}")
    open_to_all = create_app(store, None, Door("moss and peat")).test_client()
    assert open_to_all.get("/api/jobs").status_code == 401
    assert open_to_all.get("/api/jobs", auth=("any", "wrong")).status_code == 401
    assert open_to_all.get("/api/jobs", auth=("any", "moss and peat")).status_code == 200
    local = create_app(store, frozenset({"localhost"})).test_client()
    assert local.get("/api/jobs").status_code == 200
    assert {local.get("/api/jobs", headers={"Host": h}).status_code for h in ("LOCALHOST", "localhost.:8484")} == {200}
    assert local.get("/api/jobs", headers={"Host": "elsewhere.example"}).status_code == 403


def test_a_new_job_starts_from_its_kind_and_the_demo_alone_offers_the_simulated_meter(send: Send, client: Any):
    seen = {}
    for kind in ("vehicle", "enclosure", "room"):
        number = send("POST", "/jobs", {"name": kind, "kind": kind})[1]["id"]
        job = send("GET", f"/jobs/{number}")[1]["document"]["job"]
        seen[kind] = (job["method"], job["absorption_m2"])
    assert seen == {"vehicle": ("phone-driving", 4.0), "enclosure": ("phone-fixed", 10.0), "room": ("phone-fixed", 12.0)}
    number = send("POST", "/jobs", {"name": "Set", "kind": "room", "absorption_m2": 7.5})[1]["id"]
    assert send("GET", f"/jobs/{number}")[1]["document"]["job"]["absorption_m2"] == 7.5
    page = send("GET", "/shelf")[1]
    assert {s["kind"]: s["spectrum"] for s in page["offers"]["starts"]} == {
        "vehicle": "driving", "enclosure": "compressor", "room": "voices"}
    assert page["simulated_meter"] is False
    client.application.config["SIMULATED_METER"] = True
    assert send("GET", "/shelf")[1]["simulated_meter"] is True
