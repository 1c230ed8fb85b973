"""A job travels whole: out to a file, into another shop, and out again it is equal but for its numbers."""

from __future__ import annotations

import base64
import hashlib
import io
import json
import random
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from PIL import Image

from sphagnum import service
from sphagnum.arguments import parser
from sphagnum.cli import main
from sphagnum.core.errors import BadInput
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import COLLECTIONS, JobDocument
from sphagnum.core.job.pins import pinned
from sphagnum.core.schema import parse
from sphagnum.core.stages.fit.view import order
from sphagnum.demo import rows, van
from sphagnum.exchange.job_file import NEWEST, read_job, write_job
from worked import AUTHOR

SQUARE = [[0, 0], [900, 0], [900, 700], [0, 700]]


def picture(shade: int) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (20, 10), (shade, 90, 60)).save(out, "JPEG")
    return out.getvalue()


PICTURES = {f"{hashlib.sha256(data).hexdigest()}.jpg": data for data in map(picture, range(0, 200, 40))}


def random_job(rng: random.Random) -> dict[str, Any]:
    """A job in which everything may point to everything it can point to; numbers start anywhere and have holes."""
    made: dict[str, list[dict[str, Any]]] = {}

    def ref(collection: str, maybe: bool = True) -> int | None:
        known = made.get(collection, [])
        return None if not known or (maybe and rng.random() < 0.3) else rng.choice(known)["id"]

    def add(collection: str, make: Any, most: int = 4, least: int = 1) -> None:
        made[collection], number = [], rng.randint(1, 50)
        for _ in range(rng.randint(least, most)):
            number += rng.randint(1, 5)
            made[collection].append({"id": number, "version": 1, **make()})

    def layer() -> dict[str, Any]:
        return {"id": f"a{rng.randint(0, 10**6)}", "material": rng.choice(["butyl-foil", "cotton-felt", "vinyl-5"]),
                "thickness_mm": rng.choice([2.0, 10.0]), "coverage": round(rng.uniform(0.1, 1), 2)}

    def at() -> dict[str, Any]:
        return {f"{name[:-1]}_id": ref(name, False) for name in ("positions", "conditions", "rounds")}

    def zone() -> dict[str, Any]:
        return {"id": str(rng.randint(1, 10**6)), "kind": "drain", "x_mm": rng.randint(0, 800), "y_mm": 10, "width_mm": 30,
                "height_mm": 9}

    add("positions", lambda: {"name": "Ear", "control": rng.random() < 0.3})
    add("conditions", lambda: {"name": "on"})
    add("rounds", lambda: {"name": "R", "follows_id": ref("rounds"), "context": {"road": "north"}})
    add("readings", lambda: {**at(), "level_db": round(rng.uniform(40, 90), 1), "afresh": rng.choice([True, False, None]),
                             "run": rng.choice(["", "0" * 64 + ".npz"])}, 8)
    add("goals", lambda: {**{k: v for k, v in at().items() if k != "round_id"}, "value": 5.0}, 1)
    add("surfaces", lambda: {"name": "Door", "outline_mm": SQUARE, "substrate": {"material": "steel", "thickness_mm": 0.8},
                             "keep_clear": [zone() for _ in range(rng.randint(0, 3))],
                             "flags": rng.sample(["wet", "hot", "curved"], 2)})
    add("alternatives", lambda: {"surface_id": ref("surfaces", False), "layers": [layer() for _ in range(rng.randint(0, 4))],
                                 "chosen": False})
    add("paths", lambda: {"name": "P", "surface_id": ref("surfaces", False), "order": rng.choice([None, 2])})
    add("measures", lambda: {"name": "M", "at": "path", "path_id": ref("paths", False), "effect_db": 3.0}, 3, 0)
    add("rattles", lambda: {"kind": "cable", "place": "rail", "surface_id": ref("surfaces")}, 3, 0)
    add("leaks", lambda: {"place": "corner", "path_id": ref("paths"), "area_cm2": 4.0}, 3, 0)
    add("own_steps", lambda: {"text": "Fetch the key", "after": "", "minutes": 3.0}, 2, 0)
    add("fixings", lambda: {"surface_id": ref("surfaces", False), "kind": "clip", "count": rng.randint(1, 2000)}, 3, 0)
    # what something happened to may be gone: the event outlives it
    add("step_events", lambda: {
        "phase": rng.choice(["clean", "apply", "seal"]), "surface_id": rng.choice([ref("surfaces"), 4711]),
        "own_id": ref("own_steps"), "layer": rng.choice(["", "a", "b"]),
        "measure_id": ref("measures"), "rattle_id": ref("rattles"), "leak_id": ref("leaks"), "device": "tablet",
        "what": rng.choice(["started", "paused", "done", "undone", "note"]),
        "at": f"2026-11-25T{rng.randint(10, 20)}:00:00Z", "minutes": rng.choice([None, 12.0])}, 9)
    add("photos", lambda: {"file": rng.choice(list(PICTURES)), "position_id": ref("positions"), "surface_id": ref("surfaces"),
                           "round_id": ref("rounds"), "rattle_id": ref("rattles")}, 4, 0)
    add("knocks", lambda: {**{k: v for k, v in at().items() if k != "condition_id"}, "surface_id": ref("surfaces"),
                           "frequency_hz": 90.0, "decay_time_s": 0.3, "loss_factor": 0.08}, 2, 0)
    return {"job": {"id": 1, "version": 1, "name": "Random"}, **made}


def told_by_place(document: JobDocument) -> dict[str, Any]:
    """A document with every number replaced by the place of the row it means."""
    place = {name: {r.id: i for i, r in enumerate(getattr(document, name))} for name in COLLECTIONS}
    out: dict[str, Any] = {"job": document.job.model_dump(mode="json", exclude={"id", "version"})}
    for name, kind in COLLECTIONS.items():
        out[name] = []
        for row in getattr(document, name):
            values = row.model_dump(mode="json", exclude={"id", "version"})
            out[name].append(values | {f: place[t].get(values[f]) for f, t in (kind.points_to | kind.minds).items()
                                       if values[f] is not None})
    return out


@pytest.mark.broad
def test_random_jobs_come_back_equal_but_for_their_numbers(client: FlaskClient, shelf):
    for seed in range(25):
        given = pinned(parse(JobDocument, random_job(random.Random(seed))), shelf)
        number = 0
        data = write_job(given, shelf, PICTURES.get)
        for _ in range(2):
            answer = client.post("/api/jobs/import", data={"file": (io.BytesIO(data), "job.json")}, headers=AUTHOR)
            assert answer.status_code == 201, answer.get_json()
            number = answer.get_json()["id"]
            data = client.get(f"/api/jobs/{number}/export.json").data
        again = read_job(data, "job.json", shelf)
        assert told_by_place(again.document) == told_by_place(given)
        assert again.photographs == {p.file: PICTURES[p.file] for p in given.photos}
        behind = json.loads(data)["left_behind"]
        assert behind == (["0" * 64 + ".npz"] if any(r.run for r in given.readings) else [])
    assert client.get(f"/api/pictures/{next(iter(PICTURES))}").status_code == 200


def test_a_finished_job_keeps_all_its_ticks_and_clocks(tmp_path: Path, shelf, capsys: pytest.CaptureFixture[str]):
    assert main(["export", "Delivery van", str(tmp_path / "none.json"), "--data", str(tmp_path / "data")]) == 2
    from sphagnum.demo import seed
    from sphagnum.store.connect import database_url, open_store

    (tmp_path / "data").mkdir()
    seed(open_store(database_url(tmp_path / "data")))
    service.run(parser().parse_args(["export", "Delivery van", str(tmp_path / "van.json"), "--data", str(tmp_path / "data")]))
    service.run(parser().parse_args(["import", str(tmp_path / "van.json"), "--data", str(tmp_path / "other")]))
    service.run(parser().parse_args(["export", "1", str(tmp_path / "again.json"), "--data", str(tmp_path / "other")]))
    files = [read_job((tmp_path / n).read_bytes(), n, shelf) for n in ("van.json", "again.json")]
    before, after = (order(JobFigures(f.document, shelf)) for f in files)
    assert (before.done, after.done, len(after.steps)) == (28, 28, 28)
    assert [(s.taken_minutes, s.note) for s in before.steps] == [(s.taken_minutes, s.note) for s in after.steps]
    assert main(["show", str(tmp_path / "again.json"), "--stage", "fit"]) == 0
    assert json.loads(capsys.readouterr().out.splitlines()[-1])["done"] == 28


def test_files_of_version_one_are_read_their_step_keys_converted(shelf):
    old = {"format": "sphagnum-job", "format_version": 1, **van(), "steps": rows(
        {"key": "surface 2:strip", "done": True, "minutes": 14}, {"key": "surface 1:apply:0:butyl-foil-heavy", "done": True},
        {"key": "job:read again", "note": "ring road shut"}, {"key": "surface 77:clean", "done": True})}
    document = read_job(json.dumps(old).encode(), "old.json", shelf).document
    steps = {s.key: s for s in order(JobFigures(document, shelf)).steps}
    assert sum(s.done for s in steps.values()) == 2
    assert steps["strip surface 2"].taken_minutes == 14
    assert steps["apply surface 1 layer 1"].done
    assert steps["read again"].note == "ring road shut"
    for version in (0, NEWEST + 1, "1", None):
        with pytest.raises(BadInput, match="another version"):
            read_job(json.dumps({**old, "format_version": version}).encode(), "old.json", shelf)


@pytest.mark.parametrize(("name", "text", "word"), [
    ("0" * 64 + ".jpg", base64.b64encode(picture(3)).decode(), "not the picture its name says"),
    (next(iter(PICTURES)), "not base64!", "not base64"), (next(iter(PICTURES)), 7, "at most 4 MB")])
def test_photographs_that_are_not_what_they_say_are_refused(shelf, name: str, text: Any, word: str):
    body = {"format": "sphagnum-job", "format_version": 2, "job": {"id": 1, "version": 1, "name": "X"},
            "photographs": {name: text}}
    with pytest.raises(BadInput, match=word):
        read_job(json.dumps(body).encode(), "job.json", shelf)


def test_ticks_of_the_last_version_become_events_in_the_store(tmp_path: Path):
    from sqlalchemy import create_engine, text
    from test_store import migrated_to

    from sphagnum.store.connect import FILE, database_url, open_store
    from sphagnum.store.documents import document
    from sphagnum.store.edits import Editor
    from sphagnum.store.undo import undo

    migrated_to(tmp_path / FILE, "0003")
    surface = {"name": "Door", "outline_mm": SQUARE, "substrate": {"material": "steel", "thickness_mm": 0.8}}
    with create_engine(f"sqlite:///{tmp_path / FILE}").begin() as old:
        old.execute(text("INSERT INTO jobs (revision, version, content) VALUES (3, 1, :c)"), {"c": json.dumps({"name": "Old"})})
        old.execute(text("INSERT INTO surfaces (job_id, version, content) VALUES (1, 2, :c)"), {"c": json.dumps(surface)})
        for key in ("surface 1:clean", "surface 9:clean", "rubbish"):
            old.execute(text("INSERT INTO steps (job_id, version, content) VALUES (1, 1, :c)"),
                        {"c": json.dumps({"key": key, "done": True})})
        old.execute(text("INSERT INTO changes (job_id, author, edit, collection, row_id, before, after, after_version, undone)"
                         " VALUES (1, 'one', 'e', 'surfaces', 1, :b, :a, 2, 0)"),
                    {"b": json.dumps({**surface, "name": "Lid"}), "a": json.dumps(surface)})
    store = open_store(database_url(tmp_path))
    with store() as session:
        events = document(session, 1).step_events
    assert [(e.phase, e.surface_id, e.what) for e in events] == [("clean", 1, "done")]
    undo(Editor(store, "one"), 1)
    with store() as session:
        assert document(session, 1).surfaces[0].name == "Lid"
