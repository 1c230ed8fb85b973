"""The store's promises: migrations keep what is there, edits are atomic, files are kept by content, many hands at once."""

from __future__ import annotations

import io
import json
import os
import sqlite3
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from sqlalchemy import create_engine

from signals import as_wav, tone
from sphagnum import demo_shipped, service
from sphagnum import store as store_package
from sphagnum.core.errors import BadInput
from sphagnum.core.job.document import COLLECTIONS
from sphagnum.core.job.owners import ALL, JobDocument
from sphagnum.core.job.pins import pinned
from sphagnum.core.levels.logs import Run
from sphagnum.core.schema import parse
from sphagnum.demo import ceiling, hood, loudspeakers, van
from sphagnum.exchange.job_file import read_job, write_job
from sphagnum.instruments.recordings import read_history
from sphagnum.store.backup import backup, restore
from sphagnum.store.connect import FILE, database_url, open_store
from sphagnum.store.documents import document, job_ids, store_document
from sphagnum.store.edits import Conflict, Editor
from sphagnum.store.files import FOLDER, FileStore
from sphagnum.store.models import TABLES, Base
from sphagnum.store.undo import undo

Send = Callable[..., tuple[int, Any]]
only_sqlite = pytest.mark.skipif("SPHAGNUM_POSTGRES" in os.environ, reason="about the database in a file")


def migrated_to(path: Path, revision: str) -> None:
    config = Config()
    config.set_main_option("script_location", str(Path(store_package.__file__).parent / "migrations"))
    engine = create_engine(f"sqlite:///{path}")
    with engine.connect() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
        connection.commit()


@only_sqlite
def test_data_of_the_first_version_open_in_this_one(tmp_path: Path):
    migrated_to(tmp_path / FILE, "0001")
    with sqlite3.connect(tmp_path / FILE) as old:
        old.execute("INSERT INTO jobs (revision, version, content) VALUES (1, 1, ?)", [json.dumps({"name": "Old"})])
        old.execute("INSERT INTO positions (job_id, version, content) VALUES (1, 1, ?)", [json.dumps({"name": "Ear"})])
    with open_store(database_url(tmp_path))() as session:
        doc = document(session, 1)
    assert (doc.job.name, doc.positions[0].name, doc.positions[0].control, doc.knocks) == ("Old", "Ear", False, ())


def test_migrations_make_exactly_the_tables_of_the_models(tmp_path: Path):
    migrated_to(tmp_path / FILE, "head")
    with create_engine(f"sqlite:///{tmp_path / FILE}").connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
    assert set(TABLES) == set(ALL)


@pytest.mark.parametrize("make", [van, hood, ceiling, loudspeakers])
def test_demo_jobs_come_back_from_the_store_and_the_file(tmp_path: Path, shelf, make: Callable[[], dict]):
    given = pinned(parse(JobDocument, make()), shelf)
    store = open_store(database_url(tmp_path))
    number = store_document(store, given)
    with store() as session:
        kept = document(session, number)
    again = read_job(write_job(kept, shelf), "job.json", shelf).document
    def bare(doc: JobDocument) -> dict[str, list]:
        return {name: [r.model_dump(exclude={"id", "version", *COLLECTIONS[name].points_to}) for r in getattr(doc, name)]
                for name in COLLECTIONS}
    assert bare(kept) == bare(given) == bare(again)


def test_rows_pointing_nowhere_leave_nothing_behind(tmp_path: Path):
    store = open_store(database_url(tmp_path))
    editor = Editor(store, "one")
    job = editor.create_job({"name": "Atomic"})
    with pytest.raises(BadInput):
        editor.create(job, "positions", [{"name": "Ear"}, {"name": ""}])
    with pytest.raises(BadInput, match="not in this job"):
        editor.create(job, "side_effects", [{"round_id": 7, "name": "Motor", "value": 60.0}])
    with store() as session:
        assert document(session, job).positions == ()
    with pytest.raises(BadInput, match="nothing of yours"):
        undo(editor, job)


def test_a_round_takes_its_followers_readings_and_knocks_and_undo_brings_them_back(tmp_path: Path):
    store = open_store(database_url(tmp_path))
    editor = Editor(store, "one")
    job = store_document(store, parse(JobDocument, hood()))
    with store() as session:
        before = document(session, job)
    editor.create(job, "knocks", [{"round_id": before.rounds[0].id, "position_id": before.positions[0].id, "frequency_hz": 90.0,
                                   "decay_time_s": 0.4, "loss_factor": 0.06}])
    first = before.rounds[0]
    editor.remove(job, "rounds", first.id, first.version)
    with store() as session:
        gone = document(session, job)
    assert (gone.rounds, gone.readings, gone.knocks, gone.side_effects) == ((), (), (), ())
    assert len(gone.positions) == len(before.positions)
    undo(editor, job)
    with store() as session:
        back = document(session, job)
    assert [r.name for r in back.rounds] == [r.name for r in before.rounds]
    assert len(back.readings) == len(before.readings)
    assert len(back.knocks) == 1


def test_many_hands_on_one_row_lose_no_edit_and_overwrite_none(tmp_path: Path):
    store = open_store(database_url(tmp_path))
    job = Editor(store, "maker").create_job({"name": "Shared"})
    row = Editor(store, "maker").create(job, "positions", [{"name": "0"}])[0]["id"]
    done: list[int] = []
    conflicts: list[Conflict] = []

    def work(author: str) -> None:
        editor = Editor(store, author)
        for _ in range(15):
            with store() as session:
                seen = next(p for p in document(session, job).positions if p.id == row)
            try:
                editor.change(job, "positions", row, seen.version, {"name": str(int(seen.name) + 1)})
                done.append(1)
            except Conflict as conflict:
                conflicts.append(conflict)
    workers = [threading.Thread(target=work, args=(f"w{i}",)) for i in range(4)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join(120)
    with store() as session:
        final = document(session, job).positions[0]
    assert int(final.name) == len(done) == final.version - 1
    assert len(done) >= 15
    assert all(c.stored is not None for c in conflicts)


def test_files_are_kept_once_by_content_and_runs_come_back(tmp_path: Path):
    kept = FileStore(tmp_path / FOLDER)
    wav = as_wav(tone(500, 2, 8000), 8000)
    assert kept.put(io.BytesIO(wav), ".wav") == kept.put(io.BytesIO(wav), ".wav")
    assert len(list((tmp_path / FOLDER).iterdir())) == 1
    log = Run(np.arange(9.0), np.linspace(60, 68, 9), 1.0)
    assert all(np.array_equal(a, b) for a, b in zip(log, kept.run(kept.put_run(log)), strict=True))
    history = read_history(wav, "tone")
    again = kept.run(kept.put_run(history))
    assert again.bands == pytest.approx(history.bands, nan_ok=True)
    assert (again.channels, again.duration_s) == (1, 2.0)
    for name in ("", "0" * 64 + ".npz", "../../etc/passwd"):
        with pytest.raises(BadInput, match="not kept here"):
            kept.path(name)


@only_sqlite
def test_a_backup_brings_recordings_along(tmp_path: Path):
    data, other = tmp_path / "data", tmp_path / "other"
    data.mkdir()
    Editor(open_store(database_url(data)), "one").create_job({"name": "Packed"})
    name = FileStore(data / FOLDER).put(io.BytesIO(b"sound"), ".wav")
    backup(data, tmp_path / "copy.tar")
    assert restore(other, tmp_path / "copy.tar", replace=False) is None
    assert FileStore(other / FOLDER).path(name).read_bytes() == b"sound"
    with open_store(database_url(other))() as session:
        assert document(session, 1).job.name == "Packed"
    broken = (tmp_path / "copy.tar").read_bytes()[:3000]
    (tmp_path / "cut.tar").write_bytes(broken)
    with pytest.raises(BadInput, match="not a sound backup"):
        restore(tmp_path / "third", tmp_path / "cut.tar", replace=False)


@pytest.mark.parametrize(("collection", "values", "word"), [
    ("readings", {"bands_db": [60.0] * 5, "level_db": 60}, "33"),
    ("readings", {"level_db": 60, "window_s": [9, 3]}, "before it begins"),
    ("readings", {"level_db": 60, "run": "../x.npz"}, "run"),
    ("rounds", {"name": "R", "follows_id": 99}, "not in this job"),
    ("side_effects", {"round_id": 1, "name": "Heat", "value": "hot"}, "not a number"),
    ("reminders", {"due_on": "soon", "what": "look"}, "due_on"), ("knocks", {"frequency_hz": -5}, "more than 0"),
    ("photos", {"file": "me.jpg"}, "file"),
])
def test_new_kinds_of_rows_refuse_nonsense(send: Send, collection: str, values: dict, word: str):
    job = send("POST", "/jobs", {"name": "Refuses"})[1]["id"]
    for name, row in (("positions", {"name": "Ear"}), ("conditions", {"name": "on"}), ("rounds", {"name": "As found"})):
        send("POST", f"/jobs/{job}/{name}", {"rows": [row]})
    base = {"readings": {"position_id": 1, "condition_id": 1, "round_id": 1},
            "knocks": {"position_id": 1, "round_id": 1, "decay_time_s": 0.3, "loss_factor": 0.1}}.get(collection, {})
    status, body = send("POST", f"/jobs/{job}/{collection}", {"rows": [{**base, **values}]})
    assert status == 422, body
    assert word in " ".join(str(v) for v in body.values())


def test_an_empty_demo_begins_with_what_was_packed_for_this_very_code_and_with_nothing_else(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, worked: JobDocument
) -> None:
    for name in ("packing", "seeded", "old"):
        (tmp_path / name).mkdir()
    store_document(open_store(database_url(tmp_path / "packing")), worked)
    monkeypatch.setattr(demo_shipped, "FOLDER", tmp_path / "seeded")
    assert demo_shipped.shipped() is None
    packed = tmp_path / "seeded" / demo_shipped.name_now()
    backup(tmp_path / "packing", packed)

    def begun(name: str) -> list[int]:
        folder = tmp_path / name
        folder.mkdir(exist_ok=True)
        service._begin_demo(folder)
        with open_store(database_url(folder))() as session:
            return job_ids(session)
    assert len(begun("new")) == 1
    # what is there already stays, and what was packed for other code is none
    with open_store(database_url(tmp_path / "old"))() as session:
        assert job_ids(session) == []
    assert begun("old") == []
    packed.rename(packed.with_name("demo-of-another-day.tar"))
    assert begun("newer") == []
