"""The board: pages sorted in the database, cards that tell when they are older, the workshop's repeatability from them."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from sqlalchemy import update

from sphagnum.api import shared
from sphagnum.api.app import create_app
from sphagnum.core.job.document import JobDocument
from sphagnum.core.schema import parse
from sphagnum.demo import hood, van
from sphagnum.store.connect import database_url, open_store
from sphagnum.store.documents import store_document
from sphagnum.store.models import CardRow
from sphagnum.work.desk import Desk

ME = {"X-Author": "me"}


def names(client: FlaskClient, query: str = "") -> list[str]:
    return [j["job"]["name"] for j in client.get(f"/api/jobs{query}").json["jobs"]]


def test_the_board_comes_in_pages_sorted_and_searched_in_the_database(client: FlaskClient):
    for i in range(53):
        client.post("/api/jobs", json={"name": f"Job {i:02d}" if i % 2 else f"van_{i:02d} 100 %"}, headers=ME)
    first = client.get("/api/jobs").json
    assert (len(first["jobs"]), first["count"], first["page_size"]) == (50, 53, 50)
    assert names(client)[0] == "van_52 100 %"
    assert names(client, "?page=1") == ["van_02 100 %", "Job 01", "van_00 100 %"]
    assert names(client, "?sort=oldest")[0] == "van_00 100 %"
    assert names(client, "?sort=name")[:2] == ["Job 01", "Job 03"]
    assert names(client, "?find=JOB%2051") == ["Job 51"]
    assert client.get("/api/jobs?find=_52%20100%20%25").json["count"] == 1
    assert client.get("/api/jobs?find=_5_").json["count"] == 0
    assert client.get("/api/jobs?page=7").json["jobs"] == []
    assert all(j["overview"] and not j["older"] for j in first["jobs"])


def test_a_card_is_made_of_the_job_in_hand_another_is_read_in_nobodys_place(client: FlaskClient, monkeypatch: pytest.MonkeyPatch):
    read: list[int] = []
    document = shared.document
    monkeypatch.setattr(shared, "document", lambda session, number: (read.append(number), document(session, number))[1])
    looked_at, other = (store_document(client.application.config["STORE"], parse(JobDocument, make())) for make in (van, hood))
    assert client.get(f"/api/jobs/{looked_at}").status_code == 200
    held = client.application.extensions["documents"].held()
    assert all(j["overview"] for j in client.get("/api/jobs").json["jobs"])
    assert read == [other]
    assert client.application.extensions["documents"].held() == held


def test_a_card_is_older_until_it_is_renewed_behind_the_page(tmp_path: Path):
    desk = Desk(workers=1)
    store = open_store(database_url(tmp_path))
    client = create_app(store, desk=desk).test_client()
    number = store_document(store, parse(JobDocument, {**van(), "alternatives": []}))

    def card() -> dict:
        return next(j for j in client.get("/api/jobs").json["jobs"] if j["job"]["id"] == number)

    assert card()["overview"]["goal_rule"]["target"] == 71.31  # the first look shows something at once
    goal = client.get(f"/api/jobs/{number}").json["document"]["goals"][0]
    more = {"version": goal["version"], "changes": {"value": 5.5}}
    client.patch(f"/api/jobs/{number}/goals/{goal['id']}", json=more, headers=ME)
    seen = card()
    assert (seen["older"], seen["overview"]["goal_rule"]["target"]) == (True, 71.31)
    end = time.monotonic() + 30
    while (seen := card())["older"]:
        assert time.monotonic() < end
        time.sleep(0.05)
    assert seen["overview"]["goal_rule"]["target"] == 69.31
    desk.close()


def test_a_card_an_earlier_version_wrote_is_made_anew(client: FlaskClient):
    client.post("/api/jobs", json={"name": "Old"}, headers=ME)
    client.get("/api/jobs")
    with client.application.config["STORE"]() as session:
        session.execute(update(CardRow).values(card={"overview": {"stages": "of another form"}}, stamp="another"))
        session.commit()
    assert client.get("/api/repeatability").status_code == 200
    assert client.get("/api/jobs").json["jobs"][0]["overview"]["current"] == "listen"


@pytest.mark.broad
def test_repeatability_is_pooled_from_the_cards_of_all_jobs(client: FlaskClient):
    store = client.application.config["STORE"]
    assert {m["degrees_of_freedom"] for m in client.get("/api/repeatability").json["methods"]} == {0}
    for _ in range(2):
        store_document(store, parse(JobDocument, van()))
    client.get("/api/jobs")
    two = next(m for m in client.get("/api/repeatability").json["methods"] if m["degrees_of_freedom"])
    store_document(store, parse(JobDocument, van()))
    client.get("/api/jobs")
    three = next(m for m in client.get("/api/repeatability").json["methods"] if m["degrees_of_freedom"])
    assert three["degrees_of_freedom"] == 3 * two["degrees_of_freedom"] / 2
    assert three["own_db"] == two["own_db"]
