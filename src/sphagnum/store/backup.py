"""Backup and restore of a data directory, files included; a running server can be backed up, and keeps copies of itself."""

from __future__ import annotations

import fcntl
import hashlib
import os
import re
import shutil
import sqlite3
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from datetime import datetime
from pathlib import Path

from ..core.errors import BadInput
from .connect import FILE, VARIABLE
from .files import FOLDER
from .whole import look_over

KEPT = re.compile(rf"{FOLDER}/([0-9a-f]{{64}})\.[a-z0-9]{{1,5}}")
"""Files beside the database are named by their content."""
UNFINISHED = (".restoring-*", ".sphagnum-*")
BACKUPS = "backups"
IN_PART = "in-part-"
"""How copies that hold what cannot be used begin."""


@contextmanager
def held(data: Path) -> Iterator[None]:
    """Hold a data directory for one server (or one restore), closed to others; what an interrupted one left is cleared away.

    BadInput when another holds it, or it cannot be used.
    """
    try:
        data.mkdir(mode=0o700, parents=True, exist_ok=True)
        data.chmod(0o700)
        lock = (data / "in-use.lock").open("w")
    except OSError as error:
        reason = str(error.strerror).lower()
        raise BadInput(f"this folder cannot be used ({reason})", str(data), "name another with --data") from None
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise BadInput("a server is using this data directory", str(data), "stop it first") from None
        for left in (p for pattern in UNFINISHED for p in data.glob(pattern)):
            shutil.rmtree(left, ignore_errors=True) if left.is_dir() else left.unlink(missing_ok=True)
        yield


def backup(data: Path, target: Path) -> tuple[str, ...]:
    """Pack the database as it stands and the files kept beside it into one file: checked, written to disk, then named.

    What in it cannot be used, though it is as it was written, in sentences. BadInput when the database is damaged; then what
    stood under the name stays.
    """
    if os.environ.get(VARIABLE):
        raise BadInput("the database is not a file here", VARIABLE, "keep copies of it with its own tools")
    source = data / FILE
    if not source.is_file():
        raise BadInput("there is no database here", str(data), "name the data directory with --data")
    if target.is_dir():
        raise BadInput("this is a folder", str(target), "name a file in it")
    if not target.parent.is_dir():
        raise BadInput("the folder does not exist", str(target.parent), "make it first")
    try:
        with tempfile.TemporaryDirectory(dir=target.parent, prefix=".sphagnum-") as folder:
            copy, packed = Path(folder) / FILE, Path(folder) / "packed.tar"
            try:
                with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as old, closing(sqlite3.connect(copy)) as new:
                    old.backup(new)
            except sqlite3.DatabaseError:
                raise _damaged(source) from None
            if not sound(copy):
                raise _damaged(source)
            found = look_over(copy)
            if found.damage:
                raise _damaged(source, found.damage)
            with packed.open("wb") as out:
                with tarfile.open(fileobj=out, mode="w") as tar:
                    tar.add(copy, FILE)
                    # files are named by their content and never change; those put in while this runs are in the next backup
                    for kept in sorted((data / FOLDER).glob("[0-9a-f]*.*")):
                        tar.add(kept, f"{FOLDER}/{kept.name}")
                out.flush()
                os.fsync(out.fileno())
            packed.replace(target)
            _settle(target.parent)
            return tuple(f"job {n}: {b.name}: {b.what}" for n, b in found.broken)
    except OSError as error:
        raise BadInput(f"the backup cannot be written ({str(error.strerror).lower()})", str(target),
                       "free some space, or write it elsewhere") from None


def _damaged(source: Path, said: tuple[str, ...] = ()) -> BadInput:
    first = f" ({said[0]}{f', and {len(said) - 1} more' if said[1:] else ''})" if said else ""
    return BadInput(f"the database is damaged{first}; nothing was kept", str(source), "restore the last sound backup over it")


def rolling(data: Path, keep: int) -> tuple[str, ...]:
    """One more of the copies a server keeps of itself; the oldest beyond ``keep`` go. What in it cannot be used, as ``backup``.

    One that does not read whole takes another name and never pushes out one that does.
    """
    folder = data / BACKUPS
    folder.mkdir(mode=0o700, exist_ok=True)
    made = folder / f"sphagnum-{datetime.now():%Y%m%d-%H%M%S-%f}.tar"
    said = backup(data, made)
    if said:
        made.replace(made.with_name(made.name.replace("sphagnum-", IN_PART)))
    for old in sorted(folder.glob(f"{IN_PART if said else 'sphagnum-'}*.tar"))[:-keep]:
        old.unlink(missing_ok=True)
    return said


def begin_with(data: Path, source: Path) -> None:
    """Begin an empty data directory, which its caller holds, with what a backup has. BadInput for one that is not sound."""
    with tempfile.TemporaryDirectory(dir=data, prefix=".restoring-") as unpacked:
        _unpack(source, Path(unpacked))
        _put_in_place(data, Path(unpacked))


def _put_in_place(data: Path, unpacked: Path) -> None:
    """The files first, then the database, so that nothing in it names what is not there."""
    (data / FOLDER).mkdir(mode=0o700, exist_ok=True)
    for file in (unpacked / FOLDER).glob("*"):
        file.replace(data / FOLDER / file.name)
    for leftover in (data / f"{FILE}-wal", data / f"{FILE}-shm"):
        leftover.unlink(missing_ok=True)
    (unpacked / FILE).replace(data / FILE)
    _settle(data)


def restore(data: Path, source: Path, replace: bool) -> Path | None:
    """Put a backup in place; returns where what it replaced is kept. Never overwrites without ``replace``.

    What cannot be packed any more, because it is damaged, is set aside as it is.
    """
    if not source.is_file():
        raise BadInput("there is no such file", str(source), "name a backup made by this program")
    with held(data), tempfile.TemporaryDirectory(dir=data, prefix=".restoring-") as unpacked:
        folder = Path(unpacked)
        _unpack(source, folder)
        current, kept = data / FILE, None
        if current.exists():
            if not replace:
                raise BadInput("there are data here already", str(current), "add --replace to keep them aside")
            kept = _set_aside(data)
        _ask_for_numbers(folder / FILE)
        _put_in_place(data, folder)
        return kept


def _ask_for_numbers(database: Path) -> None:
    """Papers may have been handed over since the backup was made: somebody says first which number the next one gets."""
    with closing(sqlite3.connect(database)) as link, suppress(sqlite3.OperationalError):  # of versions without papers
        link.execute("UPDATE paper_numbers SET confirmed = 0 WHERE next > 1")
        link.commit()


def _set_aside(data: Path) -> Path:
    """What is there, packed; or, if it is damaged, its raw files moved into a folder."""
    stamp = f"replaced-{datetime.now():%Y%m%d-%H%M%S-%f}"
    try:
        backup(data, data / f"{stamp}.tar")
        return data / f"{stamp}.tar"
    except BadInput:
        aside = data / stamp
        aside.mkdir(mode=0o700)
        for name in (FILE, f"{FILE}-wal", f"{FILE}-shm"):
            with suppress(FileNotFoundError):
                (data / name).replace(aside / name)
        return aside


def _unpack(source: Path, folder: Path) -> None:
    """A backup's database and files, unpacked and checked: plain files of our own names, recordings true to theirs."""
    try:
        with tarfile.open(source, "r:") as tar:
            for member in tar:
                named = KEPT.fullmatch(member.name)
                if not member.isreg() or not (named or member.name == FILE):
                    raise _unsound(source)
                tar.extract(member, folder, filter="data")
                if named and _digest(folder / member.name) != named[1]:
                    raise _unsound(source)
    except (tarfile.TarError, OSError, EOFError, ValueError) as error:
        if isinstance(error, BadInput):
            raise
        raise _unsound(source) from None
    if not (folder / FILE).is_file() or not sound(folder / FILE):
        raise _unsound(source)


def _digest(file: Path) -> str:
    with file.open("rb") as opened:
        return hashlib.file_digest(opened, "sha256").hexdigest()


def _unsound(source: Path) -> BadInput:
    return BadInput("this is not a sound backup of this program", str(source), "choose another file")


def sound(database: Path) -> bool:
    """Whether a file is a whole database of this program, with nothing in it that acts by itself."""
    try:
        with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as connection:
            whole = connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
            found = connection.execute("SELECT type, name FROM sqlite_master").fetchall()
    except (sqlite3.DatabaseError, UnicodeDecodeError):
        return False
    tables = {name for kind, name in found if kind == "table"}
    owners = {"owners", "jobs"} & tables  # jobs: of versions before 0.5
    return (whole and bool(owners) and {"readings", "alembic_version"} <= tables
            and not any(kind in ("trigger", "view") for kind, _ in found))


def _settle(folder: Path) -> None:
    """Write a folder's own entries to disk."""
    number = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(number)
    finally:
        os.close(number)
