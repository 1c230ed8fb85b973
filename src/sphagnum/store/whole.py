"""Whether a database reads whole: every row through its type, its references and numbers, and the log of what was done to it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator, Mapping
from contextlib import closing
from pathlib import Path
from typing import Any, NamedTuple

from ..catalogue.load import shelf as shipped
from ..core.job.broken import Broken, sound
from ..core.job.owners import OWNERS
from ..core.job.shelf import shelf_of
from ..core.job.words import named
from .connect import NEWEST
from .documents import WORKSHOP
from .edits import as_kept
from .models import TABLES

Content = dict[str, Any]
Rows = dict[str, dict[int, "Kept"]]
BESIDE = {"cards": "card", "sent": "answer", "results": "result"}
"""Other columns of JSON, by their table."""


class Kept(NamedTuple):
    """A row as it lies in its table."""

    owner: int
    version: int
    content: Content
    points: Mapping[str, int | None]


class Found(NamedTuple):
    """``damage``: what nobody wrote, in sentences; ``broken``: rows that were written and cannot be used, by job."""

    damage: tuple[str, ...]
    broken: tuple[tuple[int, Broken], ...]


def look_over(database: Path) -> Found:
    """What in a database file no longer reads. One of another version than this program's is only looked over by SQLite's own
    checks. No check sees a value changed into another possible one in a row that was brought in whole and never edited."""
    with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as link:
        try:
            [version] = link.execute("SELECT version_num FROM alembic_version").fetchone() or [""]
            if version != NEWEST:
                return Found((), ())
            damage = [*_numbers(link)]
            rows, unread = _rows(link)
            damage += [*unread, *_beside(link), *_against_log(link, rows)]
        except (sqlite3.DatabaseError, UnicodeDecodeError, ValueError, TypeError) as error:
            return Found((f"a page of it cannot be read ({str(error)[:80]})",), ())
    return Found(tuple(damage), () if damage else tuple(_broken(rows)))


def _numbers(link: sqlite3.Connection) -> Iterator[str]:
    """References that lead nowhere, and tables that hold numbers never given."""
    if link.execute("PRAGMA foreign_key_check").fetchone():
        yield "a row belongs to one that is not there"
    given = dict(link.execute("SELECT name, seq FROM sqlite_sequence").fetchall())
    for table in ("owners", "edits", "changes", *TABLES):
        most, count, least = link.execute(f"SELECT max(id), count(*), min(id) FROM {table}").fetchone()
        if count and (most > given.get(table, 0) or least < 0):
            yield f"{table} holds a number that was never given"
    if link.execute("SELECT 1 FROM edits e JOIN owners o ON o.id = e.owner_id WHERE e.revision > o.revision").fetchone():
        yield "an edit is newer than its job"


def _rows(link: sqlite3.Connection) -> tuple[Rows, list[str]]:
    rows: Rows = {}
    wrong: list[str] = []
    for table in ("owners", *TABLES):
        points = [c for _, c, *_ in link.execute(f"PRAGMA table_info({table})") if c.endswith("_id") and c != "owner_id"]
        owner = "id" if table == "owners" else "owner_id"
        rows[table] = {}
        for number, of, version, text, *to in link.execute(
                f"SELECT {', '.join(['id', owner, 'version', 'content', *points])} FROM {table}"):
            try:
                content = json.loads(text)
                kept = Kept(int(of), int(version), content, dict(zip(points, to, strict=True)))
            except (ValueError, TypeError):
                wrong.append(f"row {number} of {table.replace('_', ' ')} cannot be read")
                continue
            rows[table][number] = kept
            if not isinstance(content, dict) or any(content.get(k) != v for k, v in kept.points.items()):
                wrong.append(f"row {number} of {table.replace('_', ' ')} says twice where it belongs, and not the same")
    return rows, wrong


def _beside(link: sqlite3.Connection) -> Iterator[str]:
    for table, column in BESIDE.items():
        for (text,) in link.execute(f"SELECT {column} FROM {table}"):
            try:
                json.loads(text)
            except (ValueError, TypeError):
                yield f"a row of {table} cannot be read"


def _against_log(link: sqlite3.Connection, rows: Rows) -> Iterator[str]:
    """Rows that are not as the last edit of them left them."""
    last = """SELECT collection, row_id, after, changes.version FROM changes
              JOIN (SELECT max(id) AS newest FROM changes GROUP BY collection, row_id) ON changes.id = newest"""
    kinds = {OWNERS[k].itself: "owners" for k in OWNERS}
    for collection, number, after, version in link.execute(last):
        here = rows.get(kinds.get(collection, collection), {}).get(number)
        if after is None:
            if here is not None:
                yield f"{named(collection, here.content)} was removed and is there"
            continue
        then = json.loads(after)
        if here is None:
            yield f"{named(collection, then)} was kept and is not there"
        elif here.version != version or as_kept(collection, here.content) != as_kept(collection, then):
            yield f"{named(collection, then)} is not as its last edit left it"
    for before, after in link.execute("SELECT before, after FROM changes"):
        for text in (before, after):
            if text is not None:
                json.loads(text)


def _broken(rows: Rows) -> Iterator[tuple[int, Broken]]:
    of: dict[int, dict[str, list[Content]]] = {}
    for table, kept in rows.items():
        if table != "owners":
            for number, row in kept.items():
                of.setdefault(row.owner, {}).setdefault(table, []).append({**row.content, "id": number, "version": row.version})

    def parted(number: int, kind: str, materials: Any) -> Any:
        there, own = of.get(number, {}), rows["owners"][number]
        return sound(OWNERS[kind], {**own.content, "id": number, "version": own.version},
                     {name: there.get(name, []) for name in OWNERS[kind].collections}, materials)

    shop = parted(WORKSHOP, "workshop", dict)
    yield from ((WORKSHOP, b) for b in shop.broken)
    shelf = shelf_of(shipped(), OWNERS["workshop"].document(workshop=shop.itself, **shop.rows))
    for number in rows["owners"]:
        if number != WORKSHOP:
            yield from ((number, b) for b in parted(number, "job", lambda: shelf.materials).broken)


