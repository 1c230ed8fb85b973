"""Backup and restore of a data directory, files included; a running server can be backed up."""

from __future__ import annotations

import fcntl
import os
import sqlite3
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import datetime
from pathlib import Path

from ..core.errors import BadInput
from .connect import FILE, VARIABLE
from .files import FOLDER


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
    """Pack the database as it stands and the files kept beside it into one file, atomically."""
    if os.environ.get(VARIABLE):
        raise BadInput("the database is not a file here", VARIABLE, "keep copies of it with its own tools")
    source = data / FILE
    if not source.exists():
        raise BadInput("there is no database here", str(data), "name the data directory with --data")
    if not target.parent.is_dir():
        raise BadInput("the folder does not exist", str(target.parent), "make it first")
    with tempfile.TemporaryDirectory(dir=target.parent, prefix=".sphagnum-") as folder:
        copy = Path(folder) / FILE
        with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as old, closing(sqlite3.connect(copy)) as new:
            old.backup(new)
        packed = Path(folder) / "packed.tar"
        with tarfile.open(packed, "w") as tar:
            tar.add(copy, FILE)
            # files are named by their content and never change; those put in while this runs are in the next backup
            for kept in sorted((data / FOLDER).glob("[0-9a-f]*.*")):
                tar.add(kept, f"{FOLDER}/{kept.name}")
        packed.replace(target)


def restore(data: Path, source: Path, replace: bool) -> Path | None:
    """Put a backup in place; returns where what it replaced is kept. Never overwrites without ``replace``."""
    if not source.is_file():
        raise BadInput("there is no such file", str(source), "name a backup made by this program")
    data.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=data, prefix=".restoring-") as folder:
        fresh = _unpacked(source, Path(folder))
        _check(fresh, source)
        with held(data):
            current = data / FILE
            kept = None
            if current.exists():
                if not replace:
                    raise BadInput("there are data here already", str(current), "add --replace to keep them aside")
                kept = data / f"replaced-{datetime.now():%Y%m%d-%H%M%S-%f}.tar"
                backup(data, kept)
            (data / FOLDER).mkdir(exist_ok=True)
            for file in (Path(folder) / FOLDER).glob("*"):
                file.replace(data / FOLDER / file.name)
            for leftover in (data / f"{FILE}-wal", data / f"{FILE}-shm"):
                leftover.unlink(missing_ok=True)
            fresh.replace(current)
            return kept


def _unpacked(source: Path, folder: Path) -> Path:
    """The database of a backup, unpacked with its files into ``folder``."""
    try:
        with tarfile.open(source, "r:") as tar:
            tar.extractall(folder, filter="data")
    except (tarfile.TarError, OSError, EOFError):
        raise _unsound(source) from None
    if not (folder / FILE).is_file():
        raise _unsound(source)
    return folder / FILE


def _unsound(source: Path) -> BadInput:
    return BadInput("this is not a sound backup of this program", str(source), "choose another file")


def _check(database: Path, source: Path) -> None:
    try:
        with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as connection:
            sound = connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
            tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master")}
    except sqlite3.DatabaseError:
        sound, tables = False, set()
    owners = {"owners", "jobs"} & tables  # jobs: of versions before 0.5
    if not sound or not owners or not {"readings", "alembic_version"} <= tables:
        raise _unsound(source)
