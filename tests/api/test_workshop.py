"""The workshop as an owner: edited and undone as a job is; its shelf counts in jobs; what was promised stays."""

from __future__ import annotations

from typing import Any

import pytest
from flask.testing import FlaskClient

from sphagnum.catalogue.load import shelf as base_shelf
from sphagnum.core.job.document import JobDocument
from sphagnum.core.schema import parse
from sphagnum.demo import van
from sphagnum.exchange.job_file import read_job
from sphagnum.store.documents import store_document

ME, OTHER = {"X-Author": "me", "X-Tab": "1"}, {"X-Author": "somebody", "X-Tab": "2"}


@pytest.fixture
def job(client: FlaskClient) -> int:
    return store_document(client.application.config["STORE"], parse(JobDocument, van()))


def edit(client: FlaskClient, path: str, *steps: dict[str, Any], headers: dict[str, str] = ME) -> Any:
    return client.post(f"/api/{path}/edits", json={"steps": [*steps]}, headers=headers)


def felt(**more: Any) -> dict[str, Any]:
    found = base_shelf().material("wool-felt").model_dump(mode="json")
    return {**found, "id": "own-felt", "name": "Felt of the next village", **more}


def test_the_workshop_is_edited_undone_and_asked_about_as_a_job_is(client: FlaskClient):
    made = edit(client, "workshop", {"collection": "shelf_materials", "values": {"material": felt()}}).json["rows"][0]
    change = {"collection": "shelf_materials", "row": made["id"], "version": made["version"],
              "operations": [{"op": "set", "at": ["material", "stock", "1", "price"], "value": 99.0}]}
    assert edit(client, "workshop", change, headers=OTHER).status_code == 200
    clash = edit(client, "workshop", change)
    assert (clash.status_code, clash.json["what"]) == (409, "somebody changed this meanwhile")
    blocked = client.post("/api/workshop/undo", headers=ME)
    assert (blocked.status_code, blocked.json["forcible"]) == (409, True)
    assert client.post("/api/workshop/undo", headers=OTHER).status_code == 200
    assert client.post("/api/workshop/undo", headers=ME).status_code == 200
    assert client.get("/api/workshop").json["document"]["shelf_materials"] == []
    assert client.post("/api/workshop/redo", headers=ME).status_code == 200
    assert [m["material"]["id"] for m in client.get("/api/workshop").json["document"]["shelf_materials"]] == ["own-felt"]
    assert client.get("/api/jobs").json["count"] == 0


@pytest.mark.parametrize(("path", "step"), [
    ("workshop", {"collection": "readings", "values": {}}), ("jobs/{job}", {"collection": "offcuts", "values": {}}),
    ("jobs/0", {"collection": "offcuts", "values": {}}), ("jobs/0", {"collection": "jobs", "values": {"name": "x"}}),
])
def test_no_owner_takes_rows_of_another(client: FlaskClient, job: int, path: str, step: dict[str, Any]):
    if path == "jobs/0" and step["collection"] == "offcuts":
        step = {**step, "values": {"name": "no fields of an offcut"}}
    assert edit(client, path.format(job=job), step).status_code in (404, 422)
    assert client.delete("/api/jobs/0?version=1", headers=ME).status_code in (404, 422)
    assert client.get("/api/jobs/0").status_code in (404, 422)


def test_materials_methods_and_minutes_of_the_workshop_count_in_jobs(client: FlaskClient, job: int):
    before = client.get(f"/api/jobs/{job}/fit").json["minutes_left"]
    edit(client, "workshop", {"collection": "shelf_materials", "values": {"material": felt()}},
         {"collection": "house_minutes", "values": {"phase": "clean", "minutes": 100.0}},
         {"collection": "methods", "values": {"method": "typed", "name": "Our meter", "repeatability_db": 0.2, "setup_db": 0.1}})
    seen = client.get("/api/shelf").json
    assert {"own-felt", "wool-felt"} <= {m["material"]["id"] for m in seen["materials"]}
    assert [m["repeatability_db"] for m in seen["methods"] if m["id"] == "typed"] == [0.2]
    assert client.get(f"/api/jobs/{job}/fit").json["minutes_left"] > before + 60


def test_a_job_carries_the_materials_it_uses_to_a_shelf_that_has_them_not(client: FlaskClient, job: int):
    edit(client, "workshop", {"collection": "shelf_materials", "values": {"material": felt()}})
    doc = client.get(f"/api/jobs/{job}").json["document"]
    plan = next(a for a in doc["alternatives"] if a["surface_id"] == 3)
    edit(client, f"jobs/{job}", {"collection": "alternatives", "row": plan["id"], "version": plan["version"], "operations": [
        {"op": "add", "at": ["layers"], "item": {"id": "f", "material": "own-felt", "thickness_mm": 10.0}}]})
    here = client.get(f"/api/jobs/{job}/build?surface_id=3").json
    file = client.get(f"/api/jobs/{job}/export.json").data
    there = read_job(file, "job.json", base_shelf()).document
    assert "own-felt" in {c.material.id for c in there.material_copies}
    client.post("/api/workshop/undo", headers=ME)
    number = store_document(client.application.config["STORE"], there)
    surface = client.get(f"/api/jobs/{number}").json["document"]["surfaces"][2]["id"]
    again = client.get(f"/api/jobs/{number}/build?surface_id={surface}").json
    assert again["curves"] == here["curves"]
    assert again["layers"][-1]["name"] == "Felt of the next village"


def test_what_was_promised_stays_whatever_is_planned_later(client: FlaskClient, job: int):
    def promises() -> list[dict[str, Any]]:
        return client.get(f"/api/jobs/{job}").json["document"]["promises"]

    step = client.get(f"/api/jobs/{job}/fit").json["steps"][0]["ref"]
    predicted = client.get(f"/api/jobs/{job}").json["overview"]["goal_rule"]["predicted"]
    for _ in range(2):
        edit(client, f"jobs/{job}", {"collection": "step_events", "values": {**step, "what": "done"}})
    assert [(p["occasion"], p["predicted_dba"]) for p in promises()] == [("first step", predicted)]
    first = promises()[0]
    assert first["low_dba"] < predicted < first["high_dba"]
    assert first["model"]
    assert first["shelf"]
    client.get(f"/api/jobs/{job}/report.pdf")
    assert len(promises()) == 1
    plan = next(a for a in client.get(f"/api/jobs/{job}").json["document"]["alternatives"] if a["surface_id"] == 3)
    edit(client, f"jobs/{job}", {"collection": "alternatives", "row": plan["id"], "version": plan["version"],
                                 "values": {"chosen": False}})
    client.get(f"/api/jobs/{job}/report.pdf")
    assert [p["occasion"] for p in promises()] == ["first step", "report"]
    assert promises()[0] == first
    assert f"{predicted:.1f} dB(A)" in client.get(f"/api/jobs/{job}/prove").json["promised"]
    assert client.post(f"/api/jobs/{job}/undo", headers=ME).json["what"].startswith("changed plan")
