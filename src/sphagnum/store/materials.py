"""Materials that rows name: each there, each once, and the copies jobs keep of those they were planned with."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..catalogue.load import shelf as shipped
from ..core.cutting.store import counted_anew
from ..core.errors import BadInput
from ..core.job.broken import unknown_materials
from ..core.job.pins import NAMING, named_by, with_parts
from ..core.materials.model import Material
from .documents import shelf_in
from .models import TABLES, MaterialCopyRow, OwnerRow, ShelfMaterialRow


def refuse_twice(session: Session, collection: str, content: Mapping[str, Any], row_id: int | None) -> None:
    """BadInput for a second material of one id on the shelf."""
    if collection != "shelf_materials":
        return
    name = content["material"]["id"]
    others = session.scalars(select(ShelfMaterialRow).where(ShelfMaterialRow.id != (row_id or 0)))
    if any(o.content["material"]["id"] == name for o in others):
        raise BadInput(f"the id '{name}' is used already", "material.id", "change that material, or give this one another id")


def with_counts(collection: str, content: dict[str, Any], before: Mapping[str, Any] | None) -> dict[str, Any]:
    """Content of a shelf material that says when what is on hand was counted, where that is not what it was."""
    if collection != "shelf_materials":
        return content
    name = content["material"]["id"]
    known = Material.model_validate(before["material"]) if before is not None else shipped().materials.get(name)
    now = counted_anew(known, Material.model_validate(content["material"]), datetime.now(UTC).isoformat(timespec="seconds"))
    return {**content, "material": now.model_dump(mode="json")}


def refuse_used(session: Session, collection: str, content: Mapping[str, Any]) -> None:
    """BadInput for taking a material of the workshop's own away that a job uses."""
    if collection != "shelf_materials" or content["material"]["id"] in shipped().materials:
        return
    name = content["material"]["id"]
    if any(c["material"]["id"] == name for c in session.scalars(select(MaterialCopyRow.content))):
        raise BadInput(f"a job uses '{content['material']['name']}'", "material", "retire it instead")


def keep_materials(session: Session, owner: OwnerRow, rows: Sequence[Mapping[str, Any]]) -> None:
    """Keep a copy of every material that rows of a job name for the first time, as it is now.

    No edit of its own: taking the edit back leaves the copy, which then nothing uses.
    """
    names = named_by(rows) if owner.kind == "job" else ()
    if not names:
        return
    kept = {c["material"]["id"] for c in session.scalars(select(MaterialCopyRow.content).where(
        MaterialCopyRow.owner_id == owner.id))}
    if kept.issuperset(names):
        return
    for material in with_parts(names, shelf_in(session).materials):
        if material.id not in kept:
            session.add(MaterialCopyRow(owner_id=owner.id, version=1, content={"material": material.model_dump(mode="json")}))


def refuse_unknown(session: Session, owner: OwnerRow, edited: Sequence[tuple[str, Mapping[str, Any]]]) -> None:
    """BadInput where a row, as an edit left it, names a material nobody has; every row of the job, where it changed copies."""
    rows = [r for name, r in edited if name in NAMING]
    if any(name == "material_copies" for name, _ in edited):
        rows = [r for name in NAMING for r in session.scalars(
            select(TABLES[name].content).where(TABLES[name].owner_id == owner.id))]
    if not rows:
        return
    copies = {c["material"]["id"] for c in session.scalars(select(MaterialCopyRow.content).where(
        MaterialCopyRow.owner_id == owner.id))}
    for _, error in unknown_materials(rows, copies, lambda: shelf_in(session).materials):
        raise error
