"""Seeing an edit before it is kept: the same as keeping it and looking, and nothing is kept."""

from __future__ import annotations

import pytest
from flask.testing import FlaskClient

from sphagnum.core.job.document import JobDocument
from sphagnum.core.schema import parse
from sphagnum.demo import van
from sphagnum.store.documents import store_document

ME = {"X-Author": "me"}


@pytest.fixture
def job(client: FlaskClient) -> int:
    return store_document(client.application.config["STORE"], parse(JobDocument, van()))


def page(client: FlaskClient, job: int) -> dict:
    return client.get(f"/api/jobs/{job}").json


OLDER = ("To buy, whole job", "Work, whole job")


@pytest.mark.parametrize("stage", ["build", "trace"])
def test_a_preview_is_what_keeping_would_show_keeps_nothing_and_is_told_to_nobody(
    client: FlaskClient, job: int, stage: str, monkeypatch: pytest.MonkeyPatch,
):
    told: list[int] = []
    monkeypatch.setattr(client.application.extensions["together"], "changed", told.append)
    before = page(client, job)
    plan = next(a for a in before["document"]["alternatives"] if a["layers"])
    layer = plan["layers"][0]
    steps = [{"collection": "alternatives", "row": plan["id"], "version": plan["version"],
              "operations": [{"op": "set", "at": ["layers", layer["id"], "thickness_mm"], "value": 4.3},
                             {"op": "add", "at": ["layers"], "item": {"id": "new", "material": "vinyl-5", "thickness_mm": 2.5}}]}]
    asked = {"surface_id": plan["surface_id"], "alternative_id": plan["id"]} if stage == "build" else {}
    was = client.get(f"/api/jobs/{job}/{stage}", query_string=asked).json
    tried = client.post(f"/api/jobs/{job}/preview", json={"stage": stage, **asked, "steps": steps}, headers=ME)
    assert tried.status_code == 200
    assert page(client, job) == before
    assert told == []
    assert client.post(f"/api/jobs/{job}/edits", json={"steps": steps}, headers=ME).status_code == 200
    assert told == [job]
    kept = client.get(f"/api/jobs/{job}/{stage}", query_string=asked).json
    # while a hand drags, the trade's rules are not asked
    said = tried.json[stage]
    unasked = {"rules": [], "asked": False} if stage == "build" else {}
    if stage == "build":  # nor is anything laid out: what is bought and the hours are those of before, and are said to be
        meters = said["meters"]
        assert [m["label"] for m in meters if m["older"]] == [*OLDER]
        assert [m["value"] for m in meters if m["older"]] == [m["value"] for m in was["meters"] if m["label"] in OLDER]
        said["meters"] = [m for m in meters if not m["older"]]
        kept["meters"] = [{**m, "bought": None} for m in kept["meters"] if m["label"] not in OLDER]
        kept |= {k: said[k] for k in ("offer", "was_done")}
    assert {k: (said[k], v) for k, v in {**kept, **unasked}.items() if said[k] != v} == {}
    assert stage != "build" or kept["rules"]


@pytest.mark.parametrize(("step", "words"), [
    ({"collection": "alternatives", "row": 9999, "values": {"name": "x"}}, "there is no row 9999"),
    ({"collection": "shoes", "row": 1}, "there is no collection 'shoes'"),
    ({"collection": "paths", "row": "#1"}, "is no row yet"),
    ({"collection": "surfaces", "row": 1, "values": {"count": 0}}, "out of range"),
])
def test_what_cannot_be_tried_is_refused_in_one_sentence(client: FlaskClient, job: int, step: dict, words: str):
    refused = client.post(f"/api/jobs/{job}/preview", json={"stage": "build", "steps": [step]}, headers=ME)
    assert (refused.status_code, words in refused.json["what"]) == (422, True), refused.json


def test_what_is_taken_out_may_be_kept_already_when_it_is_tried(client: FlaskClient, job: int):
    plan = client.get(f"/api/jobs/{job}").json["document"]["alternatives"][0]
    gone = {"collection": "alternatives", "row": plan["id"], "version": plan["version"],
            "operations": [{"op": "remove", "at": ["layers"], "id": plan["layers"][0]["id"]}]}
    asked = {"surface_id": plan["surface_id"], "alternative_id": plan["id"]}
    assert client.post(f"/api/jobs/{job}/edits", json={"steps": [gone]}, headers=ME).status_code == 200
    kept = client.get(f"/api/jobs/{job}/build", query_string=asked).json["layers"]
    for step in (gone, {**gone, "row": 9999, "operations": [], "remove": True}):
        tried = client.post(f"/api/jobs/{job}/preview", json={"stage": "build", **asked, "steps": [step]}, headers=ME)
        assert (tried.status_code, tried.json["build"]["layers"]) == (200, kept)


def test_what_did_not_change_is_not_sent_again(client: FlaskClient, job: int):
    for path in (f"/api/jobs/{job}", f"/api/jobs/{job}/build", "/api/jobs", "/api/shelf"):
        first = client.get(path)
        again = client.get(path, headers={"If-None-Match": first.headers["ETag"]})
        assert (again.status_code, again.data) == (304, b""), path
    client.patch(f"/api/jobs/{job}", json={"version": page(client, job)["document"]["job"]["version"],
                                           "changes": {"note": "seen"}}, headers=ME)
    first = client.get(f"/api/jobs/{job}")
    assert "seen" in first.text
    assert client.get(f"/api/jobs/{job}", headers={"If-None-Match": first.headers["ETag"]}).status_code == 304
