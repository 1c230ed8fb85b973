"""A server of its own for tests that look at pages."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def served(command: str, folder: Path, log: Path, **environment: str) -> Iterator[str]:
    """Address of a server over a folder, by that command; it logs into a file."""
    words = [str(Path(sys.executable).parent / "sphagnum"), command, "--data", str(folder)]
    with log.open("wb") as out:
        process = subprocess.Popen(words, stdout=subprocess.PIPE, stderr=out, text=True, env={**os.environ, **environment})
        assert process.stdout is not None
        found = re.search(r"http://\S+[0-9]", process.stdout.readline())
        assert found
        yield found[0]
        process.terminate()
        process.wait(10)
