"""A whole job as one JSON document, out and in."""

from __future__ import annotations

import json

from ..core.errors import BadInput
from ..core.job import COLLECTIONS, JobDocument
from ..core.materials.shelf import Shelf
from ..core.schema import parse
from .files import read_json

FORMAT = "sphagnum-job"
VERSION = 1


def write_job(document: JobDocument) -> bytes:
    """The document as UTF-8 JSON."""
    body = {"format": FORMAT, "format_version": VERSION, **document.model_dump(mode="json")}
    return (json.dumps(body, ensure_ascii=False, indent=1) + "\n").encode()


def read_job(data: bytes, name: str, shelf: Shelf) -> JobDocument:
    """A validated document. BadInput for another format, unknown keys, rows numbered twice, unknown materials."""
    body = read_json(data, name)
    if not isinstance(body, dict) or body.pop("format", None) != FORMAT:
        raise BadInput("this is not a job file", name, f'its "format" must be "{FORMAT}"')
    if body.pop("format_version", None) != VERSION:
        raise BadInput("the job file is of another version", name, f"this program reads version {VERSION}")
    document = parse(JobDocument, body, name)
    for collection in COLLECTIONS:
        numbers = [row.id for row in getattr(document, collection)]
        if len(set(numbers)) < len(numbers):
            raise BadInput("two rows have the same id", f"{name}: {collection}", "give each its own")
    layers = [x for s in document.surfaces for x in (s.substrate, *s.present)]
    layers += [x for a in document.alternatives for x in a.layers]
    for material in [*(x.material for x in layers), *(p.material for p in document.pieces)]:
        try:
            shelf.material(material)
        except BadInput as error:
            raise error.at(name) from None
    return document
