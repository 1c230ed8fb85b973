"""What in a job is words only: no figure and no sentence of a stage follows from it."""

from __future__ import annotations

from ..schema import Row
from .document import COLLECTIONS, JobDocument

WORDS: dict[str, tuple[str, ...]] = {
    "job": ("customer", "workshop", "note"), "positions": ("note",), "readings": ("note", "file_name"), "leaks": ("note",),
    "rattles": ("note",), "hints": ("note",), "photos": ("caption",), "knocks": ("file_name",),
}
"""Fields by collection. Others of this kind are part of what a stage says: a measure's note stands in the work order."""


def without_words(doc: JobDocument) -> JobDocument:
    """The document as its figures see it: words left out, and versions, which only guard edits."""
    bare = {name: tuple(_bare(row, WORDS.get(name, ())) for row in getattr(doc, name)) for name in COLLECTIONS}
    return doc.model_copy(update={"job": _bare(doc.job, WORDS["job"]), **bare})


def _bare(row: Row, words: tuple[str, ...]) -> Row:
    return row.model_copy(update={"version": 0, **dict.fromkeys(words, "")})
