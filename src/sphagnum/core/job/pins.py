"""The materials a job was planned with: named by it, kept with it as they were when it began to use them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from ..builds.kinds import materials_in
from ..fitting.fixings import CHANNEL, HELD, JOINED, SCREW, STUDS
from ..materials.model import Material
from .document import COLLECTIONS, JobDocument, MaterialCopy
from .shelf import Shelf

NAMING = ("surfaces", "alternatives", "pieces", "goods", "offcuts_taken", "offcuts", "outlines", "measures", "builds")
"""Collections of jobs and of the workshop whose rows name materials."""


def named_by(rows: Iterable[Mapping[str, Any]]) -> tuple[str, ...]:
    """Materials that contents of rows name, or that go with what they name, each once; as plain data."""
    out: list[str] = []
    for content in (x for row in rows for x in (row, row.get("surface")) if x):  # a template holds a surface
        out += materials_in(content.get("given") or {})
        out += [good["material"] for good in content.get("goods") or ()]
        layers = [x for key in ("present", "layers") for x in content.get(key) or ()]
        layers += [content["substrate"]] if content.get("substrate") else []
        out += [content["material"]] if content.get("material") else []
        for frame in [x.get("tie") for x in layers] + [content.get("frame")]:
            out += _of_frame(frame)
        for layer in layers:
            out += [layer["material"], *HELD.get(layer.get("held") or "", ())]
            out += [JOINED[layer["joined"]]] if layer.get("joined") else []
        out += [SCREW] if content.get("layers") else []
    return tuple(dict.fromkeys(out))


def _of_frame(frame: Mapping[str, Any] | None) -> list[str]:
    if not frame:
        return []
    stands = [n for n in STUDS.get(frame.get("kind") or "", ("", "", 0))[:2] if n]
    return [*stands, *([CHANNEL] if frame.get("resilient_channel_spacing_mm") else [])]


def materials_of(document: JobDocument) -> tuple[str, ...]:
    """The materials a job names, each once."""
    return named_by(row.model_dump() for name in NAMING if name in COLLECTIONS for row in getattr(document, name))


def with_parts(names: Sequence[str], materials: Mapping[str, Material]) -> tuple[Material, ...]:
    """Those of the named materials there are, and the parts of combined ones."""
    out: dict[str, Material] = {}
    for name in names:
        found = materials.get(name)
        if found is None:
            continue
        out[name] = found
        for part in found.made_of:
            out.setdefault(part.material.id, part.material)
    return tuple(out.values())


def pinned(document: JobDocument, shelf: Shelf) -> JobDocument:
    """The document with a copy of every material it names: those it has, and of the rest the shelf's."""
    copies = {c.material.id: c for c in document.material_copies}
    number = max((c.id for c in document.material_copies), default=0)
    for material in with_parts(materials_of(document), shelf.materials):
        if material.id not in copies:
            number += 1
            copies[material.id] = MaterialCopy(id=number, version=1, material=material)
    return document.model_copy(update={"material_copies": tuple(copies.values())})
