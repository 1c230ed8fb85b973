"""Fit over the wire: what happened outlives what it was about, fixings go along with templates, papers and calendar."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from icalendar import Calendar
from PIL import Image
from pypdf import PdfReader
from sqlalchemy import create_engine, text

from sphagnum.demo import rows
from sphagnum.store.connect import FILE, database_url, open_store
from sphagnum.store.documents import document
from worked import AUTHOR

DOOR = {"name": "Rear door", "outline_mm": [[0, 0], [900, 0], [900, 700], [0, 700]], "flags": ["trim over it"],
        "substrate": {"material": "steel", "thickness_mm": 0.8}}
LAYERS = [{"id": "a", "material": "butyl-foil", "thickness_mm": 2.0}, {"id": "t", "material": "seam-tape", "thickness_mm": 1.0}]
FIXINGS = [{"surface_id": 1, "kind": "six-lobe screw", "size": "T20", "count": 4, "place": "handle", "x_mm": 100, "y_mm": 40,
            "bag": "B1"}, {"surface_id": 1, "kind": "clip", "count": 8, "bag": "B2", "state": "broken"}]
JOB: dict[str, Any] = {
    "job": {"id": 1, "version": 1, "name": "Door"}, "surfaces": rows(DOOR), "paths": rows({"name": "Door", "surface_id": 1}),
    "alternatives": rows({"surface_id": 1, "layers": LAYERS}), "fixings": rows(*FIXINGS)}


def test_what_was_done_outlives_its_surface_and_comes_back_with_it(client: FlaskClient, send: Any, take_in: Any) -> None:
    n = take_in(JOB)
    steps = send("GET", f"/jobs/{n}/fit")[1]["steps"]
    for step in steps[:3]:
        body = {**step["ref"], "what": "done", "at": "2026-11-29T08:00:00Z", "text": step["text"], "like": step["like"]}
        assert send("POST", f"/jobs/{n}/step_events", {"rows": [body]})[0] == 201
    surface = send("GET", f"/jobs/{n}")[1]["document"]["surfaces"][0]
    assert send("DELETE", f"/jobs/{n}/surfaces/{surface['id']}?version={surface['version']}")[0] == 200
    gone = send("GET", f"/jobs/{n}")[1]["document"]
    assert (gone["fixings"], len(gone["step_events"])) == ([], 3)
    view = send("GET", f"/jobs/{n}/fit")[1]
    assert view["steps"] == []
    assert [f["text"] for f in view["fell_away"]] == [s["text"] for s in steps[:3]]
    # out and in again it is still told, and belongs to no other surface by chance
    exported = client.get(f"/api/jobs/{n}/export.json", headers=AUTHOR).data
    again = client.post("/api/jobs/import", data={"file": (io.BytesIO(exported), "job.json")}, headers=AUTHOR).get_json()["id"]
    assert len(send("GET", f"/jobs/{again}/fit")[1]["fell_away"]) >= 1
    assert send("POST", f"/jobs/{n}/undo")[0] == 200
    back = send("GET", f"/jobs/{n}/fit")[1]
    assert (back["done"], back["fell_away"], len(back["steps"][0]["fixings"])) == (3, [], 2)


def test_ticks_of_the_store_before_keep_what_they_were_about(tmp_path: Path) -> None:
    from test_store import migrated_to

    migrated_to(tmp_path / FILE, "0009")
    with create_engine(f"sqlite:///{tmp_path / FILE}").begin() as old:
        old.execute(text("INSERT INTO owners (kind, revision, version, content) VALUES ('job', 1, 1, :c)"),
                    {"c": json.dumps({"name": "Old"})})
        number = old.execute(text("SELECT max(id) FROM owners")).scalar()
        old.execute(text("INSERT INTO surfaces (owner_id, version, content) VALUES (:o, 1, :c)"),
                    {"o": number, "c": json.dumps(DOOR)})
        for k in (1, 2):
            old.execute(text("INSERT INTO step_events (owner_id, version, content, surface_id) VALUES (:o, 1, :c, 1)"),
                        {"o": number, "c": json.dumps({"phase": "clean", "surface_id": 1, "what": "done", "text": f"tick {k}"})})
        old.execute(text("DELETE FROM step_events WHERE id = 2"))
    store = open_store(database_url(tmp_path))
    with store() as session:
        events = document(session, number).step_events
    assert [(e.id, e.surface_id, e.text) for e in events] == [(1, 1, "tick 1")]
    with create_engine(f"sqlite:///{tmp_path / FILE}").begin() as now:  # no number is given twice
        assert now.execute(text("SELECT seq FROM sqlite_sequence WHERE name = 'step_events'")).scalar() == 2


def test_fixings_go_along_mirrored_to_the_counter_and_onto_labels(
    client: FlaskClient, send: Callable[..., Any], take_in: Callable[..., int],
) -> None:
    n = take_in(JOB)
    surface = send("GET", f"/jobs/{n}")[1]["document"]["surfaces"][0]["id"]
    plain, twin = (send("GET", f"/jobs/{n}/surfaces/{surface}/twin?mirror={m}")[1]["fixings"] for m in ("false", "true"))
    assert [f["x_mm"] for f in plain] == [100, None]
    assert [f["x_mm"] for f in twin] == [800, None]
    assert "surface_id" not in twin[0]
    bought = [(b["name"], b["units"]) for b in send("GET", f"/jobs/{n}/cut")[1]["buy"]]
    assert ("Clip, new", 8) in bought
    said = " ".join(p.extract_text() for p in PdfReader(io.BytesIO(client.get(f"/api/jobs/{n}/labels.pdf").data)).pages)
    assert "Bag B1" in said  # a piece of the bulkhead is called B1 too
    assert "4 six-lobe screws T20" in said
    for count in (0, 5000):
        answer = send("POST", f"/jobs/{n}/fixings", {"rows": [{"surface_id": surface, "kind": "clip", "count": count}]})
        assert answer[0] == 422
        assert "count" in answer[1]["where"]


def test_papers_calendar_and_pictures_of_an_order(client: FlaskClient, send: Any, take_in: Any) -> None:
    n = take_in(JOB)
    paper = client.get(f"/api/jobs/{n}/order.pdf")
    assert "Take the trim off" in PdfReader(io.BytesIO(paper.data)).pages[0].extract_text()
    days = Calendar.from_ical(client.get(f"/api/jobs/{n}/look-again.ics").data).walk("VEVENT")
    assert ["tape" in str(d["description"]) for d in days] == [True]
    out = io.BytesIO()
    Image.new("RGB", (60, 40), (90, 80, 70)).save(out, "JPEG")
    sent = {"file": (io.BytesIO(out.getvalue()), "a.jpg"), "step": "strip surface 1", "when": "before"}
    photo = client.post(f"/api/jobs/{n}/photographs", data=sent, headers=AUTHOR).get_json()["rows"][0]
    assert (photo["step"], photo["when"]) == ("strip surface 1", "before")
    ring = {"kind": "ring", "x": 0.1, "y": 0.1, "to_x": 0.4, "to_y": 0.3}
    assert send("PATCH", f"/jobs/{n}/photos/{photo['id']}", {"version": photo["version"], "changes": {"marks": [ring]}})[0] == 200
    assert send("PATCH", f"/jobs/{n}/photos/{photo['id']}", {
        "version": photo["version"] + 1, "changes": {"marks": [{**ring, "x": 4}]}})[0] == 422
    assert client.get("/api/jobs/1/order.pdf" if n != 1 else "/api/jobs/99/order.pdf").status_code == 404


def test_what_is_ticked_leaves_the_store_and_comes_back_when_it_is_undone(send: Any, take_in: Any) -> None:
    def here() -> str:
        cards = send("GET", "/shelf")[1]["materials"]
        return next(str(c["on_hand"]) for c in cards if c["material"]["id"] == "butyl-foil")

    def bought(job: int) -> tuple[str, int]:
        line = next(b for b in send("GET", f"/jobs/{job}/cut")[1]["buy"] if b["material"] == "butyl-foil")
        return line["shelf"], line["units"]

    n, other = take_in(JOB), take_in(JOB)
    step = next(s for s in send("GET", f"/jobs/{n}/fit")[1]["steps"] if s["ref"]["layer"] == "a")
    material = next(c for c in send("GET", "/shelf")[1]["materials"] if c["material"]["id"] == "butyl-foil")["material"]
    sheet = next(f for f in material["stock"] if f["thickness_mm"] == 2.0)
    early = {**step["ref"], "what": "laid", "at": "2026-11-29T08:00:00Z", "item": step["pieces"][0]["id"], "like": step["like"]}
    assert send("POST", f"/jobs/{n}/step_events", {"rows": [early]})[0] == 201
    counted = {**material, "stock": [{**f, "on_hand": 6.0 if f["id"] == sheet["id"] else None} for f in material["stock"]]}
    assert send("POST", "/workshop/edits", {"steps": [{"collection": "shelf_materials", "row": None, "version": 0,
                                                       "values": {"material": counted}}]})[0] == 200
    # what was laid before it was counted is not taken off it
    assert here() == "6 sheets"
    assert bought(n) == bought(other) == ("2 on the shelf", 0)
    done = {**step["ref"], "what": "done", "at": "2099-11-29T08:00:00Z", "text": step["text"], "like": step["like"]}
    assert send("POST", f"/jobs/{n}/step_events", {"rows": [done]})[0] == 201
    rest = 1 - float(step["pieces"][0]["kg"]) / sum(p["kg"] for p in step["pieces"])
    assert here() == f"{6 - 2 * rest:.1f} of 6 sheets counted"
    assert bought(n) == ("2 on the shelf", 0)  # what the job has used of it is its own
    assert send("POST", f"/jobs/{n}/undo")[0] == 200
    assert here() == "6 sheets"
    assert send("POST", f"/jobs/{n}/redo")[0] == 200
    most = {**counted, "stock": [{**f, "on_hand": 1.0 if f["id"] == sheet["id"] else None} for f in material["stock"]]}
    row = send("GET", "/workshop")[1]["document"]["shelf_materials"][0]
    anew = {"collection": "shelf_materials", "row": row["id"], "version": row["version"], "values": {"material": most}}
    assert send("POST", "/workshop/edits", {"steps": [anew]})[0] == 200
    later = {**done, "what": "undone"}
    assert send("POST", f"/jobs/{n}/step_events", {"rows": [later, {**done, "at": "2099-11-29T09:00:00Z"}]})[0] == 201
    assert here() == f"{1 - 2 * rest:.1f} of 1 sheet counted"
    assert bought(other)[0] == ""  # another job finds none of it


@pytest.mark.broad
def test_every_paper_prints_the_scripts_of_its_names_and_counts_its_pages(client: FlaskClient, send: Any, take_in: Any) -> None:
    n = take_in({**JOB, "job": {**JOB["job"], "name": "Θύρα ≤ 3 דלת (שמאל)"}})
    surface = send("GET", f"/jobs/{n}")[1]["document"]["surfaces"][0]
    assert send("PATCH", f"/jobs/{n}/surfaces/{surface['id']}", {
        "version": surface["version"], "changes": {"name": "קיר (ימין) 名"}})[0] == 200
    for paper in ("order", "buying", "cut-sheets", "labels"):
        pages = [p.extract_text() for p in PdfReader(io.BytesIO(client.get(f"/api/jobs/{n}/{paper}.pdf").data)).pages]
        said = " ".join(pages)
        assert "Θύρα" in said, paper
        assert "שמאל" in said, paper
        if paper != "labels":
            assert "Not printed, since no font here has its signs: Chinese or Japanese" in said.replace("\n", " "), paper
            assert f"{len(pages)} of {len(pages)}" in pages[-1], paper
