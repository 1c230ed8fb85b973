"""Rows in words for a sentence, and what in a job is words only: no figure and no sentence of a stage follows from it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..schema import Row
from .document import COLLECTIONS, JobDocument

WORDS: dict[str, tuple[str, ...]] = {
    "job": ("customer", "workshop", "note"), "positions": ("note",), "readings": ("note", "file_name"), "leaks": ("note",),
    "rattles": ("note",), "hints": ("note",), "photos": ("caption",), "fixings": ("note",), "knocks": ("file_name",),
    "decays": ("file_name", "note"), "builds": ("note",),
}
"""Fields by collection. Others of this kind are part of what a stage says: a measure's note stands in the work order."""


def without_words(doc: JobDocument, before: tuple[JobDocument, JobDocument] | None = None) -> JobDocument:
    """The document as its figures see it: words left out, and versions, which only guard edits.

    ``before``: a document of the job and what this made of it; what is the same now is the same object, so that what was worked
    out of it is found again.
    """
    bare = {name: _rows(name, getattr(doc, name), before) for name in COLLECTIONS}
    return doc.model_copy(update={"job": _bare(doc.job, WORDS["job"]), **bare})


def _rows(name: str, rows: tuple[Row, ...], before: tuple[JobDocument, JobDocument] | None) -> tuple[Row, ...]:
    words = WORDS.get(name, ())
    if before is None:
        return tuple(_bare(row, words) for row in rows)
    was: tuple[Row, ...] = getattr(before[0], name)
    made: tuple[Row, ...] = getattr(before[1], name)
    if rows is was:
        return made
    known = {id(row): bare for row, bare in zip(was, made, strict=True)}
    by_id = {bare.id: bare for bare in made}
    out = tuple(known.get(id(row)) or _as_before(_bare(row, words), by_id.get(row.id)) for row in rows)
    return made if len(out) == len(made) and all(a is b for a, b in zip(out, made, strict=True)) else out


def _as_before(row: Row, was: Row | None) -> Row:
    return was if was is not None and row == was else row


def _bare(row: Row, words: tuple[str, ...]) -> Row:
    return row.model_copy(update={"version": 0, **dict.fromkeys(words, "")})


CALLED = {"positions": "place", "alternatives": "plan", "block_offs": "cover test", "substitutions": "loudspeaker test",
         "step_events": "tick", "fixings": "fixing", "own_steps": "own step", "jobs": "job", "workshops": "workshop"}


def named(collection: str, content: Mapping[str, Any]) -> str:
    """A row in words, for a sentence: 'place “Ear”', 'reading 70.2 dB'."""
    word = CALLED.get(collection, collection.removesuffix("s").replace("_", " "))
    name = content.get("name") or content.get("place") or content.get("words") or content.get("phase")
    if name:
        return f"{word} “{str(name)[:40]}”"
    level = content.get("level_db")
    return f"{word} {level:g} dB" if isinstance(level, int | float) else f"a {word}"
