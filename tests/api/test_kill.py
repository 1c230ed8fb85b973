"""kill −9 in the middle of what writes: whatever it was at, the data are whole afterwards, and nothing half stands about."""

from __future__ import annotations

import io
import json
import os
import random
import sqlite3
import subprocess
import threading
import time
import urllib.request
import uuid
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from PIL import Image
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


def until_killed(base: str, kill: Callable[[], None], work: Callable[[], Any]) -> int:
    """Works until the server is gone; how often it was answered."""
    answered = 0
    threading.Timer(random.uniform(0.5, 1.5), kill).start()
    while True:
        try:
            work()
            answered += 1
        except OSError:
            return answered


def multipart(base: str, path: str, fields: dict[str, Any], name: str, content: bytes, **headers: str) -> Callable[[], Any]:
    """Sends a file with its fields, as often as it is called; its answer."""
    boundary = "x" * 20
    body = b"".join(f'--{boundary}\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n{v}\r\n'.encode()
                    for k, v in fields.items())
    body += (f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode() + content
             + f"\r\n--{boundary}--\r\n".encode())
    kind = f"multipart/form-data; boundary={boundary}"

    def sends() -> Any:
        request = urllib.request.Request(f"{base}/api{path}", data=body, headers={
            "X-Author": "a", "Content-Type": kind, **headers})
        with urllib.request.urlopen(request, timeout=30) as answer:
            return json.load(answer)
    return sends


@pytest.mark.broad
def test_killed_uploads_leave_only_what_was_answered(data: Path, tmp_path: Path):
    sound = as_wav(0.1 * tone(1000, 3.0, 48000), 48000)
    for _ in range(TIMES):
        process, base = start(data)
        doc = call(base, "GET", "/jobs/1")["document"]
        before = len(doc["readings"])
        fields = {"position_id": doc["positions"][0]["id"], "condition_id": doc["conditions"][0]["id"],
                  "round_id": doc["rounds"][0]["id"]}
        answered = until_killed(base, process.kill, multipart(base, "/jobs/1/recordings", fields, "r.wav", sound))
        process.wait(10)
        process, base = start(data)
        readings = call(base, "GET", "/jobs/1")["document"]["readings"]
        assert before + answered <= len(readings) <= before + answered + 1
        for reading in readings[before:]:
            assert (data / "files" / reading["sound"]).read_bytes() == sound
        process.terminate()
        assert process.wait(10) == 0


@pytest.mark.broad
def test_a_photograph_sent_again_after_a_kill_is_there_once(data: Path):
    picture = io.BytesIO()
    Image.effect_noise((1200, 900), 80).convert("RGB").save(picture, "JPEG")
    for _ in range(TIMES):
        process, base = start(data)
        before = len(call(base, "GET", "/jobs/1")["document"]["photos"])
        position = call(base, "GET", "/jobs/1")["document"]["positions"][0]["id"]
        names: list[str] = []

        def keep(base: str = base, names: list[str] = names, position: int = position, name: str = "") -> Any:
            names.append(name or uuid.uuid4().hex)
            fields = {"position_id": position, "caption": names[-1]}
            sends = multipart(base, "/jobs/1/photographs", fields, "p.jpg", picture.getvalue(), **{"X-Edit": names[-1]})
            return sends()
        until_killed(base, process.kill, keep)
        process.wait(10)
        process, base = start(data)
        for name in list(names):  # a phone that heard no answer sends all it is not sure of
            assert keep(base=base, name=name)["rows"]
        photos = call(base, "GET", "/jobs/1")["document"]["photos"][before:]
        assert sorted(p["caption"] for p in photos) == sorted(set(names))
        for photo in photos:
            Image.open(data / "files" / photo["file"]).load()
        process.terminate()
        assert process.wait(10) == 0
