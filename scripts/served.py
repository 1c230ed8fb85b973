"""A server with the demo's data for scripts that look at pages: started, asked, and stopped again."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parent.parent


@contextmanager
def tree(commit: str) -> Iterator[Path]:
    """A checkout of an earlier commit for as long as it is needed."""
    with tempfile.TemporaryDirectory() as folder:
        there = Path(folder) / "there"
        subprocess.run(["git", "worktree", "add", "--quiet", "--detach", there, commit], cwd=ROOT, check=True)
        try:
            yield there
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", there], cwd=ROOT, check=True)


@contextmanager
def demo(port: int | None = None, folder: Path | None = None, source: Path = ROOT / "src") -> Iterator[str]:
    """A server of a source tree over fresh data, in a folder that stays where one is given; its address."""
    with tempfile.TemporaryDirectory() as fresh:
        at = [] if port is None else ["--port", str(port)]
        server = subprocess.Popen([sys.executable, "-m", "sphagnum.cli", "demo", "--data", folder or fresh, *at],
                                  env={**os.environ, "PYTHONPATH": str(source)}, stdout=subprocess.PIPE,
                                  stderr=subprocess.DEVNULL, text=True)
        try:
            assert server.stdout is not None
            found = re.search(r"http://\S+", server.stdout.readline())
            assert found, f"the server of {source} did not begin"
            yield found[0].rstrip("/")
        finally:
            server.terminate()
            server.wait(30)


def ask(base: str, path: str, body: Any = None) -> Any:
    """One request and its answer."""
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(base + path, data=data, headers={"X-Author": "a script", "Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.load(answer)


def settle(base: str) -> None:
    """Wait until everything is laid out and worked out behind the pages of the demo's jobs."""
    numbers = [j["job"]["id"] for j in ask(base, "/api/jobs")["jobs"]]
    for path in (*(f"/api/jobs/{n}/cut" for n in numbers), *(f"/api/jobs/{n}" for n in numbers), "/api/jobs"):
        while (said := ask(base, path)).get("work") or any(j["older"] for j in said.get("jobs", ())):
            time.sleep(0.5)
