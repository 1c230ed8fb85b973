"""A job stays alive: edits that would kill it are refused, and one that holds something broken all the same still opens."""

from __future__ import annotations

import json
import os
import random
import threading
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import text

from mangled import HALF, altered
from sphagnum.catalogue.load import shelf as shipped
from sphagnum.core.job.document import COLLECTIONS
from sphagnum.demo import ceiling, hood
from sphagnum.store.documents import read
from worked import AUTHOR, worked_job

Send = Callable[..., tuple[int, Any]]
Job = dict[str, Any]
STAGES = ("", "/listen", "/trace", "/build", "/cut", "/fit", "/prove")
SEEDS = range(20 if os.environ.get("HARDEN") == "full" else 1)


def answers(send: Send, job: int) -> dict[str, int]:
    """What each stage of a job answers, where that is not 200."""
    found = {stage: send("GET", f"/jobs/{job}{stage}")[0] for stage in STAGES}
    return {stage: status for stage, status in found.items() if status != 200}


def literals(schema: Any) -> Iterator[str]:
    """Every fixed word that a schema allows."""
    for key, inner in schema.items() if isinstance(schema, dict) else enumerate(schema) if isinstance(schema, list) else ():
        yield from (w for w in inner if isinstance(w, str)) if key == "enum" else literals(inner)


WORDS = sorted({w for kind in COLLECTIONS.values() for w in literals(kind.editable.model_json_schema())}
               | set(shipped().materials))


def one_edit(rng: random.Random, send: Send, job: int) -> int:
    """A random edit of a job; its status."""
    document = send("GET", f"/jobs/{job}")[1]["document"]
    name = rng.choice([n for n in COLLECTIONS if document[n]])
    row = rng.choice(document[name])
    way = rng.random()
    if way < 0.1:
        return send("DELETE", f"/jobs/{job}/{name}/{row['id']}?version={row['version']}")[0]
    content = altered(rng, {k: v for k, v in row.items() if k not in ("id", "version")}, WORDS)
    if way < 0.4:
        return send("POST", f"/jobs/{job}/{name}", {"rows": [content]})[0]
    return send("PATCH", f"/jobs/{job}/{name}/{row['id']}", {"version": row["version"], "changes": content})[0]


@pytest.mark.parametrize("seed", SEEDS)
def test_no_accepted_edit_kills_a_job(seed: int, client: FlaskClient, send: Send, take_in: Callable[[Job], int]):
    """Nor is a job read after an edit another than it is read as a whole."""
    rng = random.Random(seed)
    job = take_in((worked_job, hood, ceiling)[seed % 3]())
    said: Counter[int] = Counter()
    for _ in range(40):
        status = one_edit(rng, send, job)
        said[status] += 1
        assert status < 500
        if status < 300:
            assert answers(send, job) == {}
            with client.application.config["STORE"]() as session:
                assert send("GET", f"/jobs/{job}")[1]["document"] == read(session, job).document.model_dump(mode="json")
    assert said[200] + said[201] >= 3, said
    assert said[422] > 5, said


@pytest.mark.parametrize(("name", "changes", "said"), [
    ("pieces", {"material": "butyl-foyl"}, "no material 'butyl-foyl' on the shelf; did you mean 'butyl-foil'?"),
    ("positions", {"name": HALF}, "characters that are no text"),
    ("positions", {"name": "a\x00b"}, "characters that are no text"),
    ("goals", {"aim": "make louder"}, "'make louder' is not known"),
])
def test_an_edit_is_refused_where_the_job_could_not_be_worked_out(name: str, changes: Job, said: str, send: Send,
                                                                  take_in: Callable[[Job], int]):
    job = take_in(worked_job())
    before = send("GET", f"/jobs/{job}")[1]
    row = before["document"][name][0]
    status, refusal = send("PATCH", f"/jobs/{job}/{name}/{row['id']}", {"version": row["version"], "changes": changes})
    assert (status, said in f"{refusal['what']}; {refusal['mend']}") == (422, True), refusal
    assert send("GET", f"/jobs/{job}")[1]["revision"] == before["revision"]


def test_a_copy_of_a_material_that_rows_still_name_is_not_taken_away(send: Send, take_in: Callable[[Job], int]):
    own = shipped().materials["butyl-foil"].model_copy(update={"id": "theirs"}).model_dump(mode="json")
    body = worked_job()
    body["pieces"][0]["material"] = "theirs"
    job = take_in({**body, "materials": [own]})
    document = send("GET", f"/jobs/{job}")[1]["document"]
    kept = next(c for c in document["material_copies"] if c["material"]["id"] == "theirs")
    status, refusal = send("DELETE", f"/jobs/{job}/material_copies/{kept['id']}?version={kept['version']}")
    assert (status, refusal["what"]) == (422, "no material 'theirs' on the shelf")


def spoil(client: FlaskClient, table: str, row: int, content: str) -> None:
    """Writes to a row what no edit would."""
    with client.application.config["STORE"]() as session:
        session.connection(execution_options={"writing": True})
        session.execute(text(f"UPDATE {table} SET content = :c WHERE id = :n"), {"c": content, "n": row})
        session.execute(text("UPDATE owners SET revision = revision + 1"))
        session.commit()


def broken_in(send: Send, job: int) -> list[Job]:
    assert answers(send, job) == {}
    return send("GET", f"/jobs/{job}")[1]["broken"]


def test_what_is_broken_all_the_same_is_named_and_mended_taken_out_or_undone(
        client: FlaskClient, send: Send, take_in: Callable[[Job], int]):
    job = take_in(worked_job())
    document = send("GET", f"/jobs/{job}")[1]["document"]
    piece, place, paths = document["pieces"][0], document["positions"][0], document["paths"]
    plain = {k: v for k, v in piece.items() if k not in ("id", "version")}

    # a material nobody has: named, with the nearest; one press puts that in its place
    spoil(client, "pieces", piece["id"], json.dumps({**plain, "material": "butyl-foyl"}))
    [found] = broken_in(send, job)
    assert (found["name"], found["what"], found["instead"]) == (
        "piece “large”", "no material 'butyl-foyl' on the shelf", "Butyl damping sheet, aluminium faced")
    mended = {"version": found["version"], "changes": found["changes"]}
    assert send("PATCH", f"/jobs/{job}/pieces/{piece['id']}", mended)[0] == 200
    assert broken_in(send, job) == []

    # half a character: the place is set aside with all that was read there, and taken out with it
    spoil(client, "positions", place["id"], json.dumps({"name": HALF}))
    found = broken_in(send, job)
    assert Counter(b["collection"] for b in found) == {"positions": 1, "readings": 6, "goals": 1}
    assert next(b for b in found if b["collection"] == "positions")["what"] == "name: the text holds characters that are no text"
    assert send("DELETE", f"/jobs/{job}/positions/{place['id']}?version={place['version']}")[0] == 200
    assert broken_in(send, job) == []
    status, said = send("POST", f"/jobs/{job}/undo")  # what was broken is not brought back, and the step can be skipped
    assert (status, said["what"]) == (409, "what would come back cannot be used: the text holds characters that are no text")

    # an edit whose row was spoiled since is undone: the row is as it was before
    path = {k: v for k, v in paths[0].items() if k not in ("id", "version")}
    at = f"/jobs/{job}/paths/{paths[0]['id']}"
    assert send("PATCH", at, {"version": paths[0]["version"], "changes": {"name": "the seal"}})[0] == 200
    spoil(client, "paths", paths[0]["id"], json.dumps({**path, "name": "the seal", "where": 7}))
    assert [b["name"] for b in broken_in(send, job)] == ["path “the seal”"]
    assert send("POST", f"/jobs/{job}/undo")[0] == 200
    assert broken_in(send, job) == []
    assert send("GET", f"/jobs/{job}")[1]["document"]["paths"][0]["name"] == path["name"]

    # the job's own row: what of it can be used is
    spoil(client, "owners", job, json.dumps({**{k: v for k, v in document["job"].items() if k not in ("id", "version")},
                                             "absorption_m2": -3}))
    [found] = broken_in(send, job)
    assert (found["collection"], "-3 is out of range" in found["what"]) == ("jobs", True)
    assert send("GET", "/jobs")[1]["jobs"][0]["job"]["name"] == "Worked by hand"
    assert send("PATCH", f"/jobs/{job}", {"version": found["version"], "changes": {"absorption_m2": 4.2}})[0] == 200
    assert broken_in(send, job) == []


def test_damaged_data_are_said_and_nothing_is_written_on_top(client: FlaskClient, send: Send, take_in: Callable[[Job], int]):
    job = take_in(worked_job())
    row = send("GET", f"/jobs/{job}")[1]["document"]["readings"][0]["id"]
    spoil(client, "readings", row, '{"level_db": 60.6, "no')
    for path in (f"/jobs/{job}", f"/jobs/{job}/listen"):
        status, said = send("GET", path)
        assert (status, said["what"]) == (503, "the data are damaged; nothing was changed")
        assert "restore the last backup" in said["mend"]
    assert send("POST", f"/jobs/{job}/positions", {"rows": [{"name": "Boot"}]})[0] == 503


def test_an_edit_sent_many_times_at_one_instant_is_one(client: FlaskClient, take_in: Callable[[Job], int]):
    job, other, said = take_in(worked_job()), take_in(worked_job()), []
    step = {"steps": [{"collection": "positions", "values": {"name": "Boot"}}]}

    def at_once(path: str, body: Job, name: str) -> None:
        gate = threading.Barrier(6)

        def go() -> None:
            gate.wait()
            answer = client.application.test_client().post(f"/api{path}", json=body, headers={**AUTHOR, "X-Edit": name})
            said.append((answer.status_code, answer.get_json().get("id") or answer.get_json()["rows"][0]["id"]))

        threads = [threading.Thread(target=go) for _ in range(6)]
        for one in threads:
            one.start()
        for one in threads:
            one.join()

    for n in range(5):
        at_once(f"/jobs/{job}/edits", step, f"e{n}")
        at_once("/jobs", {"name": "New"}, f"j{n}")
    assert len(said) == 60
    assert len(set(said)) == 10, Counter(said)
    # under the name of an edit of another job it is none of this one's
    answer = client.post(f"/api/jobs/{other}/edits", json=step, headers={**AUTHOR, "X-Edit": "e1"})
    assert (answer.status_code, answer.get_json()["where"]) == (422, "X-Edit")
