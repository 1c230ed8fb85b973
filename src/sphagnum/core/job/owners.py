"""Who rows belong to: a job or the workshop. What each is itself, and which collections it has."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple

from ..schema import Strict
from .document import COLLECTIONS, Collection, Job, JobDocument, JobIn
from .workshop import WORKSHOP_COLLECTIONS, Workshop, WorkshopDocument, WorkshopIn

Kind = Literal["job", "workshop"]


class Owner(NamedTuple):
    """A kind of owner: the name its own row goes by in edits and documents, that row's types, its collections, its document."""

    itself: str
    field: str
    editable: type[Strict]
    stored: type[Any]
    collections: dict[str, Collection]
    document: type[Any]


OWNERS: dict[str, Owner] = {
    "job": Owner("jobs", "job", JobIn, Job, COLLECTIONS, JobDocument),
    "workshop": Owner("workshops", "workshop", WorkshopIn, Workshop, WORKSHOP_COLLECTIONS, WorkshopDocument),
}
ITSELF: dict[str, type[Strict]] = {o.itself: o.editable for o in OWNERS.values()}
"""What an owner's own row may hold, by the name it goes by in edits."""
ALL: dict[str, Collection] = {name: c for o in OWNERS.values() for name, c in o.collections.items()}
"""Every collection there is; no two owners have one of the same name."""
