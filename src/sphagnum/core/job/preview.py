"""A document as it would be after an edit that is not kept: for a curve to be seen while a hand still drags."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, NamedTuple

from ..errors import BadInput
from ..schema import parse
from .document import COLLECTIONS, Collection, Job, JobDocument, JobIn
from .operations import Gone, Operation, RemoveItem, apply, setting


class Tried(NamedTuple):
    """One step tried: a row to add (``row`` None), change or remove."""

    collection: str
    row: int | None
    values: Mapping[str, Any] = {}
    operations: Sequence[Operation] = ()
    remove: bool = False


_JOB = Collection(editable=JobIn, stored=Job)


def tried(doc: JobDocument, steps: Iterable[Tried]) -> JobDocument:
    """The document after steps; rows added get numbers below zero. BadInput for content not valid or a row that is not there."""
    for step in steps:
        if step.collection == "jobs":
            doc = doc.model_copy(update={"job": _altered(_JOB, doc.job, step)})
            continue
        if step.collection not in COLLECTIONS:
            raise BadInput(f"there is no collection '{step.collection}'", "steps", "use one of a job's")
        kind, rows = COLLECTIONS[step.collection], getattr(doc, step.collection)
        if step.row is None:
            number = min([0, *(r.id for r in rows)]) - 1
            after = (*rows, parse(kind.stored, {**_valid(kind, dict(step.values)), "id": number, "version": 0}))
        else:
            found = next((r for r in rows if r.id == step.row), None)
            if found is None and step.remove:
                continue
            if found is None:
                raise BadInput(f"there is no row {step.row}", step.collection, "look at the job anew")
            changed = () if step.remove else (_altered(kind, found, step),)
            after = tuple(x for r in rows for x in (changed if r is found else (r,)))
        doc = doc.model_copy(update={step.collection: after})
    return doc


def _altered(kind: Collection, row: Any, step: Tried) -> Any:
    content = row.model_dump(mode="json", exclude={"id", "version"})
    for operation in (*setting(step.values), *step.operations):
        try:
            content = apply(content, operation)
        except Gone as gone:
            if isinstance(operation, RemoveItem):
                continue  # it is kept by now that it goes
            raise BadInput(f"'{gone}' is no longer there", step.collection, "look at the job anew") from None
    return parse(kind.stored, {**_valid(kind, content), "id": row.id, "version": row.version})


def _valid(kind: Collection, content: dict[str, Any]) -> dict[str, Any]:
    return parse(kind.editable, content).model_dump(mode="json")
