"""kill −9 in the middle of what writes: whatever it was at, the data are whole afterwards, and nothing half stands about."""

from __future__ import annotations

import json
import os
import random
import sqlite3
import subprocess
import threading
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from test_service import COMMAND, call, sphagnum, start

from signals import as_wav, tone
from sphagnum import store
from sphagnum.store.backup import UNFINISHED
from sphagnum.store.connect import FILE, _engine
from worked import worked_job

TIMES = 12 if os.environ.get("HARDEN") == "full" else 1
"""How often each is killed; at another moment each time."""


@pytest.fixture
def data(tmp_path: Path) -> Path:
    """A data folder with one job."""
    job = tmp_path / "job.json"
    job.write_text(json.dumps({"format": "sphagnum-job", "format_version": 1, **worked_job()}), "utf-8")
    assert sphagnum("import", job, "--data", tmp_path / "data").returncode == 0
    return tmp_path / "data"


def killed(*args: object, within_s: tuple[float, float] = (0.2, 1.6)) -> None:
    """Runs a command and kills it at some moment."""
    process = subprocess.Popen([COMMAND, *map(str, args)], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    time.sleep(random.uniform(*within_s))
    process.kill()
    process.wait(10)


def whole(folder: Path) -> int:
    """Jobs in a database that is sound."""
    with closing(sqlite3.connect(folder / FILE)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        return int(connection.execute("SELECT count(*) FROM owners WHERE kind = 'job'").fetchone()[0])


def test_killed_backups_leave_the_last_one_whole(data: Path, tmp_path: Path):
    target = tmp_path / "kept.tar"
    assert sphagnum("backup", target, "--data", data).returncode == 0
    for i in range(TIMES):
        killed("backup", target, "--data", data)
        assert sphagnum("restore", target, "--data", tmp_path / f"try{i}").returncode == 0
        assert whole(tmp_path / f"try{i}") == 1


def test_killed_restores_leave_the_old_or_the_new(data: Path, tmp_path: Path):
    target = tmp_path / "kept.tar"
    assert sphagnum("backup", target, "--data", data).returncode == 0
    assert sphagnum("import", tmp_path / "job.json", "--data", data).returncode == 0
    for _ in range(TIMES):
        killed("restore", target, "--data", data, "--replace")
        if not (data / FILE).exists():  # between setting aside and putting in place: the old one lies packed beside it
            assert list(data.glob("replaced-*"))
            continue
        assert whole(data) in (1, 2)
    assert sphagnum("restore", target, "--data", data, "--replace").returncode == 0
    assert whole(data) == 1
    assert not [p for pattern in UNFINISHED for p in data.glob(pattern)]


def test_killed_imports_bring_in_all_or_nothing(data: Path, tmp_path: Path):
    for _ in range(TIMES):
        before = whole(data)
        killed("import", tmp_path / "job.json", "--data", data)
        assert whole(data) in (before, before + 1)
        with closing(sqlite3.connect(data / FILE)) as connection:
            counts = connection.execute("SELECT count(*) FROM readings GROUP BY owner_id").fetchall()
        assert len(set(counts)) == 1


def test_killed_migrations_are_done_the_next_time(tmp_path: Path):
    for i in range(TIMES):
        folder = tmp_path / f"old{i}"
        folder.mkdir()
        config = Config()
        config.set_main_option("script_location", str(Path(store.__file__).parent / "migrations"))
        with _engine(f"sqlite:///{folder / FILE}").connect() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "0003")
            connection.commit()
        killed("export", "1", tmp_path / "none.json", "--data", folder, within_s=(0.4, 1.4))
        said = sphagnum("export", "1", tmp_path / "none.json", "--data", folder).stderr
        assert "no jobs are called '1'" in said
        assert whole(folder) == 0


def until_killed(base: str, kill: Callable[[], None], work: Callable[[], None]) -> int:
    """Works until the server is gone; how often it was answered."""
    answered = 0
    threading.Timer(random.uniform(0.5, 1.5), kill).start()
    while True:
        try:
            work()
            answered += 1
        except OSError:
            return answered


def test_killed_uploads_leave_only_what_was_answered(data: Path, tmp_path: Path):
    import urllib.request

    sound = as_wav(0.1 * tone(1000, 3.0, 48000), 48000)
    for _ in range(TIMES):
        process, base = start(data)
        doc = call(base, "GET", "/jobs/1")["document"]
        before, boundary = len(doc["readings"]), "x" * 20
        fields = {"position_id": doc["positions"][0]["id"], "condition_id": doc["conditions"][0]["id"],
                  "round_id": doc["rounds"][0]["id"]}
        body = b"".join(f'--{boundary}\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n{v}\r\n'.encode()
                        for k, v in fields.items())
        body += (f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="r.wav"\r\n\r\n'.encode() + sound
                 + f"\r\n--{boundary}--\r\n".encode())

        def upload(base: str = base, body: bytes = body, boundary: str = boundary) -> None:
            request = urllib.request.Request(f"{base}/api/jobs/1/recordings", data=body, headers={
                "X-Author": "a", "Content-Type": f"multipart/form-data; boundary={boundary}"})
            with urllib.request.urlopen(request, timeout=30) as answer:
                answer.read()
        answered = until_killed(base, process.kill, upload)
        process.wait(10)
        process, base = start(data)
        readings = call(base, "GET", "/jobs/1")["document"]["readings"]
        assert before + answered <= len(readings) <= before + answered + 1
        for reading in readings[before:]:
            assert (data / "files" / reading["sound"]).read_bytes() == sound
        process.terminate()
        assert process.wait(10) == 0
