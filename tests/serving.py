"""A server of its own for tests that look at pages."""

from __future__ import annotations

import json
import os
import re
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from playwright.sync_api import Page

from sphagnum.core.job.versions import NEWEST
from worked import AUTHOR

CHROMIUM = next((at for at in ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium") if Path(at).exists()), "")
"""Debian's headless Chromium: the build without a desktop is quicker by a quarter where it is there."""


def free_port() -> int:
    """A port nobody listens on just now, nor on the next one."""
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return int(one.getsockname()[1])


@contextmanager
def served(command: str, folder: Path, log: Path, *more: str, **environment: str) -> Iterator[str]:
    """Address of a server over a folder, by that command; it logs into a file."""
    words = [str(Path(sys.executable).parent / "sphagnum"), command, "--data", str(folder), *more]
    with log.open("wb") as out:
        process = subprocess.Popen(words, stdout=subprocess.PIPE, stderr=out, text=True, env={**os.environ, **environment})
        assert process.stdout is not None
        found = re.search(r"https?://\S+[0-9]", process.stdout.readline())
        assert found
        try:
            yield found[0]
        finally:
            process.terminate()
            process.wait(10)


def taken_in(page: Page, base: str, raw: dict[str, Any]) -> int:
    """The number of a job of its own, taken in from its rows."""
    body = json.dumps({"format": "sphagnum-job", "format_version": NEWEST, **raw}).encode()
    sent = {"file": {"name": "job.json", "mimeType": "application/json", "buffer": body}}
    answer = page.request.post(f"{base}/api/jobs/import", multipart=sent, headers=AUTHOR)
    assert answer.ok, answer.text()
    return int(answer.json()["id"])
