"""The running server: ready line, nothing acknowledged is lost by kill −9, backup and restore."""

from __future__ import annotations

import contextlib
import io
import json
import re
import signal
import subprocess
import sys
import threading
import time
import urllib.request
from pathlib import Path
from typing import Any

import pytest

from sphagnum.cli import main

COMMAND = str(Path(sys.executable).parent / "sphagnum")


def start(data: Path, command: str = "serve") -> tuple[subprocess.Popen[str], str]:
    """A server on a free port; its process and address."""
    process = subprocess.Popen([COMMAND, command, "--data", str(data)], stdout=subprocess.PIPE,
                               stderr=subprocess.DEVNULL, text=True)
    assert process.stdout is not None
    line = process.stdout.readline()
    found = re.fullmatch(r"Sphagnum is ready: (http://127\.0\.0\.1:\d+)/\n", line)
    assert found, line
    return process, found[1]


def call(base: str, method: str, path: str, body: Any = None) -> Any:
    request = urllib.request.Request(f"{base}/api{path}", method=method, headers={
        "X-Author": "a browser", "Content-Type": "application/json"}, data=None if body is None else json.dumps(body).encode())
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.load(answer)


def sphagnum(*args: object) -> subprocess.CompletedProcess[str]:
    """A command, in this process: what it locks and writes is seen by the servers of the tests all the same."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main([str(a) for a in args])
    return subprocess.CompletedProcess(args, code, out.getvalue(), err.getvalue())


def test_kill_during_rapid_edits_loses_nothing_acknowledged(tmp_path: Path):
    process, base = start(tmp_path)
    job = call(base, "POST", "/jobs", {"name": "Under load"})["id"]
    acknowledged: set[str] = set()

    def edit(worker: int) -> None:
        for i in range(30):
            name = f"place {worker}.{i}"
            try:
                call(base, "POST", f"/jobs/{job}/positions", {"rows": [{"name": name}]})
            except OSError:
                return
            acknowledged.add(name)
            if len(acknowledged) == 60:
                process.send_signal(signal.SIGKILL)

    workers = [threading.Thread(target=edit, args=(w,)) for w in range(4)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join(240)
    process.wait(60)
    assert 60 <= len(acknowledged) < 120
    again, base = start(tmp_path)
    try:
        kept = {p["name"] for p in call(base, "GET", f"/jobs/{job}")["document"]["positions"]}
    finally:
        again.terminate()
    assert acknowledged <= kept


def test_backup_of_a_running_server_and_restore(tmp_path: Path):
    data, other, copy = tmp_path / "data", tmp_path / "other", tmp_path / "copy.db"
    process, base = start(data)
    try:
        call(base, "POST", "/jobs", {"name": "Kept"})
        assert sphagnum("backup", copy, "--data", data).returncode == 0
        call(base, "POST", "/jobs", {"name": "Later"})
        busy = sphagnum("restore", copy, "--replace", "--data", data)
        assert (busy.returncode, busy.stderr.count("\n")) == (2, 1)
    finally:
        process.terminate()
        process.wait(60)
    assert sphagnum("restore", copy, "--data", data).returncode == 2
    done = sphagnum("restore", copy, "--replace", "--data", data)
    assert done.returncode == 0
    kept = re.search(r"kept in (\S+)", done.stdout)
    assert kept
    assert sphagnum("restore", kept[1], "--data", other).returncode == 0
    out = tmp_path / "job.json"
    assert sphagnum("export", "Later", out, "--data", data).returncode == 2
    assert sphagnum("export", "Later", out, "--data", other).returncode == 0
    assert sphagnum("import", out, "--data", data).stdout.startswith("Imported Later as job")
    (tmp_path / "junk.db").write_bytes(b"SQLite format 3\0 but not really")
    assert sphagnum("restore", tmp_path / "junk.db", "--data", tmp_path / "fresh").returncode == 2


@pytest.mark.parametrize("args", [("--host", "0.0.0.0"), ("--port", "99999"), ("--port", "many")])
def test_unsafe_or_impossible_addresses_are_refused(tmp_path: Path, args: tuple[str, str]):
    done = sphagnum("serve", "--data", tmp_path, *args)
    assert (done.returncode, done.stdout, done.stderr.count("\n")) == (2, "", 1)


@pytest.mark.broad
def test_a_server_killed_while_work_runs_leaves_no_worker_and_starts_again(tmp_path: Path):
    def workers(of: int) -> set[int]:
        found = subprocess.run(["ps", "-ww", "-eo", "pid=,ppid=,args="], capture_output=True, text=True, check=True).stdout
        rows = [line.split(None, 2) for line in found.splitlines()]
        first = {int(pid) for pid, parent, args in rows if int(parent) == of and "forkserver" in args}
        return first | {int(pid) for pid, parent, args in rows if int(parent) in first}

    def alive(pid: int) -> bool:
        stat = Path(f"/proc/{pid}/stat")
        return stat.exists() and stat.read_text().rsplit(")", 1)[1].split()[0] != "Z"

    process, base = start(tmp_path, "demo")
    notched = [[0, 0], [310, 0], [310, 130], [250, 130], [250, 190], [0, 190]]
    work = {"stock": [{"id": "a", "width_mm": 500, "length_mm": 750, "price": 12}], "seconds": 60,
            "pieces": [{"id": f"p{i}", "outline_mm": notched} for i in range(20)]}
    assert call(base, "POST", "/work", {"kind": "layout", "input": work})["open"]
    end = time.monotonic() + 30
    while len(hands := workers(process.pid)) < 2:  # the one they are begun from, and one of them
        assert time.monotonic() < end, "no worker began"
        time.sleep(0.05)
    process.kill()
    process.wait(30)
    while any(alive(p) for p in hands):
        assert time.monotonic() < end + 30, "a worker lives on"
        time.sleep(0.1)
    process, base = start(tmp_path, "demo")
    try:
        assert call(base, "GET", "/jobs/1")["document"]["job"]["name"] == "Delivery van"
        assert call(base, "GET", "/jobs/1/cut")["surface"]
    finally:
        process.terminate()
        assert process.wait(30) is not None
