"""What a search of the shelf found for a patch, kept by all that it hangs on: the next search of the same begins there."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from functools import lru_cache
from typing import NamedTuple

from pydantic import ValidationError

from ...figures.job_figures import JobFigures
from ...job.document import JobDocument, Limits
from ...job.shelf import Shelf
from ...levels.bands import Floats
from ...schema import Strict
from .candidates import Layers


class Found(Strict):
    """The stacks of a patch that go on to the choice, and how many were compared for them."""

    compared: int
    stacks: tuple[Layers, ...]


class Searched(NamedTuple):
    """Where it is kept, as JSON by key."""

    find: Callable[[str], str | None]
    keep: Callable[[str, str], None]


def begun_with(job: JobFigures, struck: frozenset[str], weight_db: Floats) -> str:
    """All that the search of any patch hangs on: the job as far as it decides what may lie where and what that does, the shelf,
    what is left out, and by what loudness is weighed. What only decides which of it is chosen is not in it."""
    told = (_decides(job.doc).model_dump_json(), _told(job.shelf), *sorted(struck), weight_db.tobytes().hex())
    return hashlib.sha256("\0".join(told).encode()).hexdigest()


def _decides(doc: JobDocument) -> JobDocument:
    row = doc.job.model_copy(update={
        "name": "", "customer": "", "workshop": "", "note": "", "limits": Limits(depth_mm=doc.job.limits.depth_mm), "version": 0})
    goals = tuple(g.model_copy(update={"value": 0.0, "version": 0}) for g in doc.goals)
    return doc.model_copy(update={"job": row, "goals": goals, "photos": ()})


@lru_cache(maxsize=4)
def _told(shelf: Shelf) -> str:
    return hashlib.sha256(shelf.model_dump_json().encode()).hexdigest()


def known(where: Searched, key: str) -> Found | None:
    """What is kept under a key; None where nothing is, or it is of another make."""
    kept = where.find(key)
    try:
        return None if kept is None else Found.model_validate_json(kept)
    except ValidationError:
        return None


def keeping(where: Searched, key: str, search: Callable[[], Found]) -> Found:
    """What a search finds, kept from now on."""
    found = search()
    where.keep(key, found.model_dump_json())
    return found
