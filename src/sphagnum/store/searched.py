"""What searches found, kept beside the database as small files by their key; the ones not asked for longest go first."""

from __future__ import annotations

import os
import re
from contextlib import suppress
from pathlib import Path

FOLDER = "searched"
MOST_FILES = 500
"""Of about ten thousand bytes each: the patches of some forty jobs."""
_KEY = re.compile(r"[0-9a-z-]{1,120}")


def find(folder: Path, key: str) -> str | None:
    """The text kept under a key; None where there is none."""
    assert _KEY.fullmatch(key)
    try:
        file = folder / key
        text = file.read_text("utf-8")
        os.utime(file)
    except (OSError, UnicodeError):
        return None
    return text


def keep(folder: Path, key: str, text: str) -> None:
    """Keep a text, whole or not at all; where the disk is full it is not kept, and searched for again."""
    assert _KEY.fullmatch(key)
    fresh = folder / f".{key}.{os.getpid()}"
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        fresh.write_text(text, "utf-8")
        fresh.replace(folder / key)
        files = sorted(folder.iterdir(), key=lambda f: f.stat().st_mtime, reverse=True)
        for old in files[MOST_FILES:]:
            old.unlink(missing_ok=True)
    except OSError:
        with suppress(OSError):
            fresh.unlink()
