"""What attack, fault and load found once: each case failed before its mend."""

from __future__ import annotations

import hashlib
import io
import json
import os
import shutil
import socket
import sqlite3
import ssl
import subprocess
import sys
import tarfile
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import closing
from datetime import UTC, datetime, timedelta
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import pytest
import soundfile
from PIL import Image
from test_service import COMMAND, call, sphagnum, start

from cases import rest_broad
from serving import free_port
from signals import as_wav, tone
from sphagnum.api.doors import FAST, Door
from sphagnum.core.errors import BadInput
from sphagnum.core.levels.recording import Meter
from sphagnum.exchange.readings import readings_csv
from sphagnum.instruments.log_reader import read_log
from sphagnum.store import tidy as tidying
from sphagnum.store.backup import rolling
from sphagnum.store.connect import FILE, database_url, open_store
from sphagnum.store.edits import MOST_WRITERS, Busy, Editor
from sphagnum.store.files import FOLDER, FileStore
from sphagnum.store.tidy import tidy
from worked import AUTHOR, worked_job

Send = Callable[..., Any]


# --- backup and restore


@pytest.fixture
def kept(tmp_path: Path) -> Path:
    """A data folder with one job in it."""
    data = tmp_path / "data"
    job = tmp_path / "job.json"
    job.write_text(json.dumps({"format": "sphagnum-job", "format_version": 1, **worked_job()}), "utf-8")
    assert sphagnum("import", job, "--data", data).returncode == 0
    return data


def spoil(database: Path) -> None:
    """Overwrites the first page."""
    with database.open("r+b") as file:
        file.write(b"\xff" * 4096)


def test_a_backup_of_a_damaged_database_is_refused_and_leaves_the_good_one(kept: Path, tmp_path: Path):
    target = tmp_path / "good.tar"
    assert sphagnum("backup", target, "--data", kept).returncode == 0
    good = target.read_bytes()
    with closing(sqlite3.connect(kept / FILE)) as whole:
        whole.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    spoil(kept / FILE)
    found = sphagnum("backup", target, "--data", kept)
    assert (found.returncode, "damaged" in found.stderr) == (2, True)
    assert target.read_bytes() == good
    # and the good one goes over the damaged one, whose raw files are set aside
    found = sphagnum("restore", target, "--data", kept, "--replace")
    assert found.returncode == 0, found.stderr
    aside = next(p for p in kept.iterdir() if p.name.startswith("replaced-"))
    assert aside.is_dir()
    assert (aside / FILE).read_bytes()[:16] == b"\xff" * 16
    assert sphagnum("export", 1, tmp_path / "out.json", "--data", kept).returncode == 0
    assert not list(kept.glob(".restoring-*"))


def archive(tmp_path: Path, *members: tuple[tarfile.TarInfo, bytes]) -> Path:
    target = tmp_path / "hostile.tar"
    with tarfile.open(target, "w") as tar:
        for info, data in members:
            info.size = len(data)
            tar.addfile(info, io.BytesIO(data))
    return target


def link(name: str, to: str) -> tarfile.TarInfo:
    info = tarfile.TarInfo(name)
    info.type, info.linkname = tarfile.SYMTYPE, to
    return info


def test_hostile_archives_are_refused_in_one_line(kept: Path, tmp_path: Path):
    with closing(sqlite3.connect(kept / FILE)) as whole:
        whole.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    database = (kept / FILE).read_bytes()
    shutil.copy(kept / FILE, tmp_path / "trigger.db")
    with closing(sqlite3.connect(tmp_path / "trigger.db")) as armed:
        armed.execute("CREATE TRIGGER t AFTER INSERT ON readings BEGIN DELETE FROM readings; END")
        armed.commit()
    false = f"{FOLDER}/{'0' * 64}.wav"
    cases = {
        "a link": [(link(FILE, "/etc/passwd"), b"")],
        "a folder that is itself": [(tarfile.TarInfo(FILE), database), (link(FOLDER, "."), b"")],
        "a file that is not what its name says": [(tarfile.TarInfo(FILE), database), (tarfile.TarInfo(false), b"RIFF")],
        "a way out": [(tarfile.TarInfo("../out"), b"x")],
        "a trigger": [(tarfile.TarInfo(FILE), (tmp_path / "trigger.db").read_bytes())],
        "nothing": [],
    }
    for name, members in cases.items():
        found = sphagnum("restore", archive(tmp_path, *members), "--data", tmp_path / "new", "--replace")
        assert found.returncode == 2, name
        assert "not a sound backup" in found.stderr
        assert sorted(p.name for p in (tmp_path / "new").iterdir()) == ["in-use.lock"], name


def test_a_server_keeps_the_newest_copies_of_itself(kept: Path, monkeypatch: pytest.MonkeyPatch):
    for day in range(4):
        class Day(datetime):
            @classmethod
            def now(cls, tz: Any = None) -> datetime:
                return datetime(2026, 11, 1 + day)  # noqa: B023
        monkeypatch.setattr("sphagnum.store.backup.datetime", Day)
        rolling(kept, keep=2)
    assert [p.name[9:17] for p in sorted((kept / "backups").iterdir())] == ["20261103", "20261104"]


def test_what_is_kept_is_for_its_owner_alone(kept: Path):
    assert oct(kept.stat().st_mode)[-3:] == "700"
    assert {oct(p.stat().st_mode)[-3:] for p in kept.iterdir() if p.is_file()} == {"600"}


# --- jobs, rounds, numbers


def test_a_job_somebody_worked_on_meanwhile_is_not_thrown_away_and_the_trash_gives_it_back(send: Send):
    number = send("POST", "/jobs", {"name": "Mine", "kind": "room"})[1]["id"]
    seen = send("GET", f"/jobs/{number}")[1]["revision"]
    send("POST", f"/jobs/{number}/positions", {"rows": [{"name": "Ear"}]}, author="somebody else")
    status, said = send("DELETE", f"/jobs/{number}?revision={seen}")
    assert (status, said["what"]) == (409, "somebody worked on this job meanwhile")
    assert send("DELETE", f"/jobs/{number}?revision={seen + 1}")[0] == 200
    assert send("GET", f"/jobs/{number}")[0] == 404
    assert send("POST", f"/jobs/{number}/positions", {"rows": [{"name": "Late"}]})[0] == 404
    assert number not in [j["job"]["id"] for j in send("GET", "/jobs")[1]["jobs"]]
    assert [(j["id"], j["name"]) for j in send("GET", "/trash")[1]["jobs"]] == [(number, "Mine")]
    assert send("POST", f"/trash/{number}/restore")[0] == 200
    assert [p["name"] for p in send("GET", f"/jobs/{number}")[1]["document"]["positions"]] == ["Ear"]
    assert send("DELETE", f"/trash/{number}")[0] == 404


def test_rounds_never_follow_themselves_and_come_in_in_any_order(send: Send, take_in: Callable[[Any], int]):
    number = send("POST", "/jobs", {"name": "Ring", "kind": "room"})[1]["id"]
    a, b = (r["id"] for r in send("POST", f"/jobs/{number}/rounds", {"rows": [{"name": "A"}, {"name": "B"}]})[1]["rows"])

    def put(row: int, to: int) -> tuple[int, Any]:
        return send("PATCH", f"/jobs/{number}/rounds/{row}", {"version": 9, "changes": {"follows_id": to}})
    assert put(a, a)[0] == 422
    assert put(a, b)[0] == 200  # a later one may be followed
    assert put(b, a)[0] == 422
    own = send("GET", f"/jobs/{number}/export.json")[1]
    again = take_in(own)
    assert [(r["name"], r["follows_id"] is not None) for r in send("GET", f"/jobs/{again}")[1]["document"]["rounds"]] == [
        ("B", False), ("A", True)]
    own["rounds"] = [{**r, "follows_id": r["id"]} for r in own["rounds"]]
    with pytest.raises(AssertionError):
        take_in(own)


@pytest.mark.skipif(os.environ.get("HARDEN") != "full", reason="part of make harden")
def test_eight_clients_at_once_are_all_answered_and_all_kept(kept: Path):
    process, base = start(kept)
    answers: list[int] = []

    def client_of(number: int) -> None:
        for i in range(40):
            answers.append(call(base, "POST", "/jobs/1/positions", {"rows": [{"name": f"{number}.{i}"}]})["rows"][0]["id"])
            call(base, "GET", "/jobs/1/listen")
    threads = [threading.Thread(target=client_of, args=(n,)) for n in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(120)
    names = {p["name"] for p in call(base, "GET", "/jobs/1")["document"]["positions"]}
    assert {f"{n}.{i}" for n in range(8) for i in range(40)} <= names
    assert len(set(answers)) == 320
    process.terminate()
    assert process.wait(10) == 0


def test_numbers_too_large_for_the_database_are_refused_in_every_route(send: Send, client: Any):
    huge = 2**63
    paths = client.get("/api/openapi.json").get_json()["paths"]
    for path, methods in paths.items():
        for method in methods.keys() & {"get", "post", "patch", "delete"}:
            filled = path.replace("{job_id}", str(huge)).replace("{row_id}", str(huge)).replace("{reading_id}", str(huge))
            filled = filled.replace("{collection}", "readings").replace("{capture}", "0" * 32).replace("{work_id}", "0" * 32)
            status = send(method.upper(), filled.removeprefix("/api").replace("{", "").replace("}", ""), {})[0]
            assert status < 500, (method, path)
    for name in ("round_id", "before_id", "condition_id", "surface_id"):
        for stage in ("listen", "trace", "build", "cut", "prove"):
            assert send("GET", f"/jobs/1/{stage}?{name}={huge}")[0] < 500
    said = client.get("/api/openapi.json").get_json()
    taken = [p["schema"] for ms in paths.values() for m in ms.values() for p in m.get("parameters", [])]
    bodies = [m["requestBody"] for ms in paths.values() for m in ms.values() if "requestBody" in m]
    names = {"OfferedPlan"}  # compared with what is offered, not looked for
    assert [*boundless([*taken, *bodies], said["components"]["schemas"], names)] == []


def boundless(schema: Any, named: dict[str, Any], seen: set[str]) -> Iterator[Any]:
    """Whole numbers of any size that a schema lets in, by what they stand in."""
    if isinstance(schema, dict) and schema.get("type") == "integer" and not {"maximum", "enum", "const"} & schema.keys():
        yield schema
    if isinstance(schema, dict) and (name := str(schema.get("$ref", "")).split("/")[-1]) not in {"", *seen}:
        seen.add(name)
        yield from ((name, found) for found in boundless(named[name], named, seen))
    for inner in schema.values() if isinstance(schema, dict) else schema if isinstance(schema, list) else ():
        yield from boundless(inner, named, seen)


def test_a_field_without_a_name_is_refused(send: Send):
    number = send("POST", "/jobs", {"name": "N", "kind": "room"})[1]["id"]
    assert send("PATCH", f"/jobs/{number}", {"version": 1, "changes": {"": {}}})[0] == 422
    assert send("PUT", f"/jobs/{number}", {})[0] == 405
    assert send("POST", "/no/such/thing", {})[0] == 404


def test_readers_go_on_while_writers_wait(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    store = open_store(f"sqlite:///{tmp_path / 'x.db'}")
    editor = Editor(store, "somebody")
    holding, leave = threading.Event(), threading.Event()

    def hold() -> None:
        with editor.begin():
            holding.set()
            leave.wait(20)
    monkeypatch.setattr("sphagnum.store.edits.PATIENCE_S", 0.5)
    threads = [threading.Thread(target=hold, daemon=True) for _ in range(MOST_WRITERS)]
    for thread in threads:
        thread.start()
    assert holding.wait(10)
    with pytest.raises(Busy), editor.begin():  # though not all may have come to wait for the lock by now
        raise AssertionError("one more than may wait was let in")
    leave.set()
    for thread in threads:
        thread.join(20)


# --- files


def files_of(folder: Path) -> set[str]:
    return {p.name for p in folder.glob("*")} if folder.is_dir() else set()


@pytest.fixture
def place(send: Send) -> dict[str, Any]:
    """A job with a cell to read in; its address and the cell."""
    number = send("POST", "/jobs", {"name": "J", "kind": "room"})[1]["id"]
    at = {f"{one}_id": send("POST", f"/jobs/{number}/{one}s", {"rows": [{"name": "x"}]})[1]["rows"][0]["id"]
          for one in ("position", "condition", "round")}
    return {"job": number, **at}


def recording(client: Any, place: dict[str, Any], data: bytes, **more: Any) -> Any:
    form = {**{k: str(v) for k, v in place.items() if k != "job"}, **more, "file": (io.BytesIO(data), "r.wav")}
    return client.post(f"/api/jobs/{place['job']}/recordings", data=form, headers=AUTHOR)


def test_refused_uploads_leave_nothing_and_what_nothing_points_to_goes(client: Any, send: Send, place: dict[str, Any]):
    folder = client.application.config["FILES"].folder
    sound = as_wav(0.1 * tone(1000, 2.0, 48000), 48000)
    assert recording(client, place, b"RIFF" + b"\0" * 4000).status_code == 422
    assert recording(client, place, sound, round_id="99999").status_code == 422
    assert files_of(folder) == set()
    row = recording(client, place, sound).get_json()["row"]
    kept = files_of(folder)
    assert len(kept) == 2
    assert recording(client, place, sound, round_id="99999").status_code == 422
    assert files_of(folder) == kept  # the same content is another's too
    store, files = client.application.config["STORE"], client.application.config["FILES"]
    send("DELETE", f"/jobs/{place['job']}/readings/{row['id']}?version={row['version']}")
    for file in folder.iterdir():
        os.utime(file, (time.time() - 7200,) * 2)
    assert tidy(store, files).files == 0  # it can still be undone
    later = datetime.now(UTC) + timedelta(days=tidying.KEPT_DAYS + 1)
    assert tidy(store, files, later).files == 2
    assert files_of(folder) == set()


def test_captures_end_when_nobody_asks_about_them_or_their_job_goes(client: Any, send: Send, place: dict[str, Any]):
    client.application.config["SIMULATED_METER"] = True
    at = {k: v for k, v in place.items() if k != "job"}

    def opened() -> str:
        return send("POST", f"/jobs/{place['job']}/captures", {"instrument": "microphone", **at})[1]["capture"]
    plain, armed = opened(), opened()
    assert send("POST", f"/captures/{armed}/arm", {"on": True})[0] == 200
    ones = client.application.extensions["captures"]
    now = time.monotonic()
    ones.sweep(now + 200)
    assert (send("GET", f"/captures/{plain}")[0], send("GET", f"/captures/{armed}")[0]) == (404, 200)
    ones.sweep(now + 1200)
    assert send("GET", f"/captures/{armed}")[0] == 404
    last = opened()
    revision = send("GET", f"/jobs/{place['job']}")[1]["revision"]
    assert send("DELETE", f"/jobs/{place['job']}?revision={revision}")[0] == 200
    assert send("GET", f"/captures/{last}")[0] == 404


def test_the_contract_is_whole(client: Any):
    doc = client.get("/api/openapi.json").get_json()
    assert set(doc["components"]["securitySchemes"]) == {"passphrase", "cookie"}
    for path, methods in doc["paths"].items():
        for method, operation in methods.items():
            assert {"401", "422", "507"} <= operation["responses"].keys(), (method, path)
            good = next(v for k, v in operation["responses"].items() if k in ("200", "201"))
            assert good["content"], (method, path)


def test_a_full_disk_is_said_and_leaves_no_half_of_a_file(client: Any, place: dict[str, Any], monkeypatch: pytest.MonkeyPatch):
    def full(_number: int) -> None:
        raise OSError(28, "No space left on device")
    monkeypatch.setattr("sphagnum.store.files.os.fsync", full)
    answer = recording(client, place, as_wav(0.1 * tone(1000, 2.0, 48000), 48000))
    assert answer.status_code == 507
    assert answer.get_json()["mend"] == "free some space, then try again"
    assert files_of(client.application.config["FILES"].folder) == set()


def test_a_trashed_jobs_files_stay_with_it_and_go_with_it(client: Any, send: Send, place: dict[str, Any], tmp_path: Path):
    recording(client, place, as_wav(0.1 * tone(1000, 2.0, 48000), 48000))
    store, files = client.application.config["STORE"], client.application.config["FILES"]
    for file in files.all():
        os.utime(file, (time.time() - 7200,) * 2)
    revision = send("GET", f"/jobs/{place['job']}")[1]["revision"]
    assert send("DELETE", f"/jobs/{place['job']}?revision={revision}")[0] == 200
    assert tidy(store, files)[::2] == (0, 0)
    assert tidy(store, files, datetime.now(UTC) + timedelta(days=31))[::2] == (1, 2)
    assert send("GET", "/trash")[1]["jobs"] == []


# --- what is brought in


def test_silence_after_sound_costs_no_more_than_sound():
    noise = 0.1 * np.random.default_rng(1).standard_normal((1, 65_536))

    def cost(then: np.ndarray) -> float:
        meter, began = Meter(48_000, 1), 0.0
        meter.feed(noise)
        meter.history()
        began = time.process_time()
        for _ in range(24):
            meter.feed(then)
        meter.history()
        return time.process_time() - began
    cost(noise)
    assert any(cost(np.zeros_like(noise)) / cost(noise) < 1.2 for _ in range(5))  # the machine does other things too


def test_a_small_file_that_holds_hours_is_refused_unread(
        client: Any, place: dict[str, Any], tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("sphagnum.instruments.recordings.MOST_HOURS", 0.2)
    long = tmp_path / "long.flac"
    with soundfile.SoundFile(long, "w", 192_000, 8, format="FLAC", subtype="PCM_16") as out:
        block = np.zeros((1 << 20, 8), dtype=np.int16)
        for _ in range(6):
            out.write(block)
    assert long.stat().st_size < 300_000
    began = time.process_time()
    answer = recording(client, place, long.read_bytes())
    assert (answer.status_code, "too much at once" in answer.get_json()["what"]) == (422, True)
    assert time.process_time() - began < 10


def test_hostile_logs_and_photographs_are_bounded(client: Any, place: dict[str, Any]):
    for data, says in ((b"1;2\n" * 1_200_000, "lines"), (b"x;" * 8_000_000, "no line of a log")):
        began = time.process_time()
        with pytest.raises(BadInput, match=says):
            read_log(data, "log.csv")
        assert time.process_time() - began < 5
    picture = io.BytesIO()
    Image.new("L", (9000, 8000)).save(picture, "PNG")
    answer = client.post(f"/api/jobs/{place['job']}/photographs", headers=AUTHOR,
                         data={"file": (io.BytesIO(picture.getvalue()), "p.png")})
    assert (answer.status_code, answer.get_json()["what"]) == (422, "the picture is too large")


@pytest.mark.parametrize("name", ["t_s", "x", "elapsed", "n"])
def test_a_column_that_rises_evenly_is_time_whatever_it_is_called(name: str):
    rows = "\n".join(f"{i * 0.5};{60 + i % 3}" for i in range(50))
    log = read_log(f"{name};LAeq dB\n{rows}\n".encode(), "log.csv")
    assert (log.run.interval_s, log.run.level_db.size) == (0.5, 50)


def test_cells_of_a_spreadsheet_are_never_worked_out(worked: Any):
    for first in "=+-@\t\r\n\u2212\uff1d":
        doc = worked.model_copy(update={"positions": tuple(
            p.model_copy(update={"name": f"{first}1+1"}) for p in worked.positions)})
        assert f"'{first}1+1" in readings_csv(doc)


# --- the door


def test_guesses_are_slowed_down_and_the_right_one_is_not(monkeypatch: pytest.MonkeyPatch):
    door = Door("moss and peat", b"k")
    now = [1000.0]
    monkeypatch.setattr("sphagnum.api.doors.time.monotonic", lambda: now[0])
    door = Door("moss and peat", b"k")
    said = [door.tries(f"guess {i}", "10.0.0.9") for i in range(5000)]
    assert said.count("wrong") == FAST
    assert door.tries("moss and peat", "10.0.0.9") == "later"  # nor does the flood learn it by the way
    assert door.tries("moss and peat", "10.0.0.7") == "in"  # who never was wrong does not wait
    now[0] += 2
    assert door.tries("moss and peat", "10.0.0.9") == "in"
    cookie = f"sphagnum={door.cookie()}"
    assert door.admits("", cookie, "10.0.0.9") == "in"
    assert door.admits("", cookie[:-1] + ("0" if cookie[-1] != "0" else "1"), "x") == "wrong"
    assert Door("another", b"k").admits("", cookie, "x") == "wrong"


class WayIn(NamedTuple):
    """A server with a passphrase: its address, and what a caller by TLS trusts."""

    base: str
    tls: ssl.SSLContext | None

    def connect(self) -> socket.socket:
        host, port = self.base.split("//")[1].split(":")
        plain = socket.create_connection((host, int(port)))
        return plain if self.tls is None else self.tls.wrap_socket(plain, server_hostname=host)


@pytest.fixture(params=rest_broad(("plain", "tls"), ("tls",)))
def guarded(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[WayIn]:
    """A server with a passphrase, in the open on loopback or by TLS on another address."""
    tls = request.param == "tls"
    more = ["--tls", "--host", "127.0.0.2", "--port", str(free_port())] if tls else []
    process = subprocess.Popen([COMMAND, "serve", "--data", str(tmp_path / "d"), *more], stdout=subprocess.PIPE, text=True,
                               stderr=subprocess.DEVNULL, env={**os.environ, "SPHAGNUM_PASSPHRASE": "moss and peat"})
    assert process.stdout is not None
    base = process.stdout.readline().split(": ", 1)[1].split()[0].rstrip("/")
    trusts = ssl.create_default_context(cafile=str(tmp_path / "d" / "authority" / "authority.crt")) if tls else None
    yield WayIn(base, trusts)
    process.terminate()
    assert process.wait(20) == 0


def test_a_stranger_sends_no_body_and_half_open_connections_shut_nobody_out(guarded: WayIn):
    with guarded.connect() as stranger:
        stranger.sendall(b"POST /api/jobs/1/recordings HTTP/1.1\r\nHost: localhost\r\nX-Author: a\r\n"
                         b"Content-Length: 190000000\r\n\r\n")
        assert stranger.recv(200).startswith(b"HTTP/1.1 401")
    with guarded.connect() as greedy:
        greedy.sendall(b"POST /api/jobs/import HTTP/1.1\r\nHost: localhost\r\nContent-Length: 190000000\r\n\r\n")
        assert greedy.recv(200).startswith(b"HTTP/1.1 413")
    half = [guarded.connect() for _ in range(130)]
    for one in half:
        one.sendall(b"GET / HT")
    base = guarded.base
    with urllib.request.urlopen(f"{base}/sign-in", timeout=10, context=guarded.tls) as page:
        assert b"passphrase" in page.read()
    # signing in: a cookie that no script reads, good for the pages and the interface
    https = [urllib.request.HTTPSHandler(context=guarded.tls)] if guarded.tls else []
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar := CookieJar()), *https)
    with opener.open(f"{base}/sign-in", b"passphrase=moss+and+peat&to=/", timeout=10) as board:
        assert board.url == f"{base}/"
    assert [c.secure for c in jar] == [guarded.tls is not None]
    with opener.open(f"{base}/api/jobs", timeout=10) as answer:
        assert answer.status == 200
    with pytest.raises(urllib.error.HTTPError, match="401"):
        urllib.request.urlopen(f"{base}/api/jobs", timeout=10, context=guarded.tls)
    for one in half:
        one.close()


def test_sign_in_leads_nowhere_else(tmp_path: Path):
    from sphagnum.api.app import create_app

    page = create_app(open_store(database_url(tmp_path)), None, Door("moss")).test_client()
    seen = page.get("/jobs/1/trace?side=tests", headers={"Accept": "text/html"})
    assert (seen.status_code, seen.location) == (303, "/sign-in?to=%2Fjobs%2F1%2Ftrace%3Fside%3Dtests")
    for to, leads in (("/jobs/1", "/jobs/1"), ("//evil.example", "/"), ("https://evil.example", "/"), ("/\\evil", "/")):
        answer = page.post("/sign-in", data={"passphrase": "moss", "to": to})
        assert (answer.status_code, answer.location) == (303, leads)
        cookie = answer.headers["Set-Cookie"]
        assert "HttpOnly" in cookie
        assert "SameSite=Lax" in cookie
    assert page.post("/sign-in", data={"passphrase": "peat", "to": '"><script>'}).status_code == 401


# --- the command line


def run(line: str, cwd: Path) -> subprocess.CompletedProcess[bytes]:
    path = f"{Path(sys.executable).parent}:{os.environ['PATH']}"
    return subprocess.run(["bash", "-c", line], cwd=cwd, capture_output=True, timeout=100, env={**os.environ, "PATH": path})


@pytest.mark.broad
def test_commands_end_in_one_line_whatever_they_read_or_write(tmp_path: Path):
    (tmp_path / "log.csv").write_text("time_s;LAeq dB\n" + "\n".join(f"{i * 0.5};{60 + i % 3}" for i in range(60_000)))
    (tmp_path / "bad").mkdir()
    (tmp_path / "bad" / FILE).write_bytes(os.urandom(5000))
    piped = run("sphagnum analyse <(cat log.csv)", tmp_path)
    assert json.loads(piped.stdout)["samples"] == 60_000
    for args, says in (
        (("analyse", "/dev/zero"), "larger than"), (("analyse", tmp_path), "this is a folder"),
        (("serve", "--data", tmp_path / "log.csv"), "cannot be used"), (("serve", "--data", tmp_path / "bad"), "damaged"),
        (("backup", tmp_path / "bad", "--data", tmp_path / "bad"), "this is a folder"),
    ):
        said = sphagnum(*args)
        assert (said.returncode, says in said.stderr, said.stderr.count("\n")) == (2, True, 1), args
    for line, says in (
        ("sphagnum analyse - <&-", "closed"), ("sphagnum analyse log.csv >/dev/full", "cannot be written"),
        ("sphagnum analyse log.csv >&-", "cannot be written"),
    ):
        found = run(line, tmp_path)
        assert found.returncode == 2, line
        assert says in found.stderr.decode(), line
        assert found.stderr.count(b"\n") == 1, line
    quiet = run("yes '{}' | head -3000 | sphagnum predict --many - 2>/dev/null | head -1; sphagnum --help | head -1", tmp_path)
    assert b"Traceback" not in quiet.stderr


def test_files_beside_the_store_are_found_by_the_names_rows_have(tmp_path: Path):
    files = FileStore(tmp_path)
    name = files.put(io.BytesIO(b"x"), ".wav")
    assert name.startswith(hashlib.sha256(b"x").hexdigest())
