"""A whole job as one JSON document, out and in: its rows, its photographs, and the names of the recordings that stay behind."""

from __future__ import annotations

import base64
import binascii
import hashlib
import json
from collections.abc import Callable, Mapping
from typing import NamedTuple

from ..core.errors import BadInput
from ..core.job.document import COLLECTIONS, JobDocument
from ..core.job.pins import materials_of, pinned
from ..core.job.shelf import Shelf
from ..core.job.versions import NEWEST, upgraded
from ..core.materials.model import Material, composed
from ..core.schema import parse
from ..core.worded import worded
from .files import read_json

FORMAT = "sphagnum-job"
MOST_PICTURE = 4 * 2**20
MOST_MATERIALS = 500


class JobFile(NamedTuple):
    """What a job file holds: the document, and photographs by name."""

    document: JobDocument
    photographs: dict[str, bytes]


def left_behind(document: JobDocument) -> tuple[str, ...]:
    """The recordings and runs a job's readings refer to, which its file does not carry."""
    return tuple(dict.fromkeys(n for r in document.readings for n in (r.run, r.sound) if n))


def write_job(document: JobDocument, shelf: Shelf, photograph: Callable[[str], bytes | None] = lambda _name: None) -> bytes:
    """The document as UTF-8 JSON with the materials it uses; ``photograph`` gives the bytes of one by name, None where it is
    not kept."""
    used = [c.material for c in pinned(document, shelf).material_copies]
    names = dict.fromkeys(p.file for p in document.photos)
    kept = {name: data for name in names if (data := photograph(name)) is not None}
    body = {
        "format": FORMAT, "format_version": NEWEST, **document.model_dump(mode="json"),
        "photographs": {name: base64.b64encode(data).decode() for name, data in kept.items()},
        "materials": [m.model_dump(mode="json") for m in used], "left_behind": list(left_behind(document)),
    }
    return (worded(json.dumps(body, ensure_ascii=False, indent=1), "metric") + "\n").encode()


def read_job(data: bytes, name: str, shelf: Shelf) -> JobFile:
    """A validated job of any released version. BadInput for another format, unknown keys, rows numbered twice, unknown
    materials, and photographs that are not what their name says."""
    body = read_json(data, name)
    if not isinstance(body, dict) or body.pop("format", None) != FORMAT:
        raise BadInput("this is not a job file", name, f'its "format" must be "{FORMAT}"')
    version = body.pop("format_version", None)
    photographs = _photographs(body.pop("photographs", None) or {}, name)
    body.pop("left_behind", None)
    carried = body.pop("materials", None) or []
    try:
        body = upgraded(body, version if type(version) is int else 0)
    except BadInput as error:
        raise error.at(name) from None
    document = parse(JobDocument, body, name)
    for collection in COLLECTIONS:
        numbers = [row.id for row in getattr(document, collection)]
        if len(set(numbers)) < len(numbers):
            raise BadInput("two rows have the same id", f"{name}: {collection}", "give each its own")
    return JobFile(_with_materials(document, carried, shelf, name), photographs)


def _with_materials(document: JobDocument, carried: object, shelf: Shelf, name: str) -> JobDocument:
    """The document with copies of all it names: its own, those the file brought, else this shelf's. BadInput for what nobody
    knows."""
    if not isinstance(carried, list) or len(carried) > MOST_MATERIALS:
        raise BadInput(f"is no list of at most {MOST_MATERIALS} materials", f"{name}: materials", "leave it out")
    brought = {m.id: m for m in (parse(Material, m, f"{name}: materials[{i}]") for i, m in enumerate(carried))}
    known = brought | {c.material.id: c.material for c in document.material_copies}
    try:
        whole = shelf.model_copy(update={"materials": composed(shelf.materials | known)})
        for material in materials_of(document):
            whole.material(material)
    except BadInput as error:
        raise error.at(name) from None
    bare = document.model_copy(update={"material_copies": ()})
    return pinned(bare, whole)


def _photographs(found: object, name: str) -> dict[str, bytes]:
    if not isinstance(found, Mapping):
        raise BadInput("is no object", f"{name}: photographs", "give pictures by their names")
    out: dict[str, bytes] = {}
    for key, text in found.items():
        where = f"{name}: photographs.{str(key)[:20]}"
        if not isinstance(text, str) or len(text) > MOST_PICTURE * 4 // 3 + 4:
            raise BadInput("is no picture of at most 4 MB", where, "leave it out")
        try:
            data = base64.b64decode(text, validate=True)
        except (binascii.Error, ValueError):
            raise BadInput("is not base64", where, "leave it out") from None
        if f"{hashlib.sha256(data).hexdigest()}.jpg" != key or data[:2] != b"\xff\xd8":
            raise BadInput("is not the picture its name says", where, "leave it out")
        out[str(key)] = data
    return out
