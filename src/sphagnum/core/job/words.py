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


def without_words(doc: JobDocument) -> JobDocument:
    """The document as its figures see it: words left out, and versions, which only guard edits."""
    bare = {name: tuple(_bare(row, WORDS.get(name, ())) for row in getattr(doc, name)) for name in COLLECTIONS}
    return doc.model_copy(update={"job": _bare(doc.job, WORDS["job"]), **bare})


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
