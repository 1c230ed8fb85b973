"""Backup and restore of a data directory's database; a running server can be backed up."""

from __future__ import annotations

import fcntl
import os
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import datetime
from pathlib import Path

from ..core.errors import BadInput
from .connect import FILE


@contextmanager
def held(data: Path) -> Iterator[None]:
    """Hold a data directory for one server (or one restore). BadInput when another holds it."""
    data.mkdir(parents=True, exist_ok=True)
    with (data / "in-use.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise BadInput("a server is using this data directory", str(data), "stop it first") from None
        yield


def backup(data: Path, target: Path) -> None:
    """Copy the database as it stands to one file, atomically."""
    source = data / FILE
    if not source.exists():
        raise BadInput("there is no database here", str(data), "name the data directory with --data")
    if not target.parent.is_dir():
        raise BadInput("the folder does not exist", str(target.parent), "make it first")
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=".sphagnum-")
    os.close(handle)
    with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as old, closing(sqlite3.connect(name)) as new:
        old.backup(new)
    Path(name).replace(target)


def restore(data: Path, source: Path, replace: bool) -> Path | None:
    """Put a backup in place; returns where the database it replaced is kept. Never overwrites without ``replace``."""
    _check(source)
    with held(data):
        current = data / FILE
        kept = None
        if current.exists():
            if not replace:
                raise BadInput("there are data here already", str(current), "add --replace to keep them aside")
            kept = data / f"replaced-{datetime.now():%Y%m%d-%H%M%S-%f}.db"
            backup(data, kept)
        fresh = data / f".{FILE}.new"
        with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as old, closing(sqlite3.connect(fresh)) as new:
            old.backup(new)
        for leftover in (data / f"{FILE}-wal", data / f"{FILE}-shm"):
            leftover.unlink(missing_ok=True)
        fresh.replace(current)
        return kept


def _check(source: Path) -> None:
    if not source.is_file():
        raise BadInput("there is no such file", str(source), "name a backup made by this program")
    try:
        with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as connection:
            sound = connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
            tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master")}
    except sqlite3.DatabaseError:
        sound, tables = False, set()
    if not sound or not {"jobs", "readings", "alembic_version"} <= tables:
        raise BadInput("this is not a sound backup of this program", str(source), "choose another file")
