"""``shelf export`` and ``shelf import``: the workshop's materials between a data directory and a file."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

from sqlalchemy.orm import Session, sessionmaker

from ..catalogue.load import shelf as shipped
from ..core.errors import BadInput
from ..core.job.operations import setting
from ..core.job.shelf import Shelf
from ..core.job.shelf_changes import Merged, plain
from ..core.materials.model import Material, composed
from ..core.materials.usual import doubts
from ..core.schema import Strict
from ..store.connect import FILE, VARIABLE, database_url, open_store
from ..store.documents import WORKSHOP, shelf_in, workshop
from ..store.edits import Editor, OneEdit
from .files import read_bytes, write_whole
from .shelf_file import read_shelf, write_shelf


class ShelfImported(Strict):
    """What an import did, or would do, counted in materials; ``unknown``: order numbers nothing here has; ``doubts``: what
    should be looked at."""

    added: int
    changed: int
    same: int
    unknown: tuple[str, ...] = ()
    doubts: tuple[str, ...] = ()


def shelf_at(data: Path) -> Shelf:
    """The shelf of a data directory; the shipped one where it does not exist yet."""
    if not os.environ.get(VARIABLE) and not (data / FILE).exists():
        return shipped()
    with open_store(database_url(data))() as session:
        return shelf_in(session)


def shelf_from(name: str) -> Shelf:
    """The shipped shelf with the materials of a file over it."""
    found = read_shelf(read_bytes(name), name, shipped().materials)
    own = {m.id: m for m in (*found.added, *found.changed)}
    return shipped().model_copy(update={"materials": composed(shipped().materials | own)})


def run_export(file: Path, data: Path) -> str:
    """``shelf export``: every material of the workshop to a file, by its ending."""
    if file.suffix.lower() not in (".csv", ".json"):
        raise BadInput("is neither .csv nor .json", str(file), "name the file so")
    if not file.parent.is_dir():
        raise BadInput("the folder does not exist", str(file.parent), "make it first")
    materials = list(shelf_at(data).materials.values())
    write_whole({file: write_shelf(materials, file.suffix.lower() == ".csv")})
    return f"Exported {len(materials)} materials to {file}"


def run_import(name: str, data: Path, dry_run: bool, match: bool) -> ShelfImported:
    """``shelf import``: a file's materials into the workshop's shelf, all or nothing."""
    found = read_shelf(read_bytes(name), name, shelf_at(data).materials, match)
    if not dry_run:
        data.mkdir(parents=True, exist_ok=True)
        take_in(open_store(database_url(data)), Editor(open_store(database_url(data)), "command line"), found)
    return told(found)


def told(found: Merged) -> ShelfImported:
    """What came of an import, in numbers."""
    said = tuple(f"{m.name}: {d.sentence}" for m in (*found.added, *found.changed) for d in doubts(m))
    return ShelfImported(added=len(found.added), changed=len(found.changed), same=found.same, unknown=found.unknown, doubts=said)


def take_in(store: sessionmaker[Session], editor: Editor, found: Merged) -> None:
    """Materials that came in put on the workshop's shelf, as one edit."""
    new = (*found.added, *found.changed)
    if new:
        with store() as session:
            steps = steps_for(session, new)
        editor.together(WORKSHOP, steps)


def steps_for(session: Session, materials: Sequence[Material]) -> list[OneEdit]:
    """The steps of an edit that puts materials on the shelf: over the workshop's own where it has one of that id."""
    own = {r.material.id: r for r in workshop(session).shelf_materials}
    return [OneEdit("shelf_materials", (own[m.id].id, own[m.id].version), operations=setting({"material": plain(m)}))
            if m.id in own else OneEdit("shelf_materials", values={"material": plain(m)}) for m in materials]
