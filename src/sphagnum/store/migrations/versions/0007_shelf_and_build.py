"""Goods a job wants; what stands stays but for what is taken out; every job keeps the materials it was planned with."""

from __future__ import annotations

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

from sphagnum.catalogue.load import shelf as shipped
from sphagnum.core.job.pins import named_by, with_parts
from sphagnum.core.job.versions import present_ids
from sphagnum.core.materials.model import Material, composed

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "goods",
        sa.Column("owner_id", sa.Integer(), nullable=False),
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["owners.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
        sqlite_autoincrement=True,
    )
    op.create_index("ix_goods_owner_id", "goods", ["owner_id"])
    link = op.get_bind()
    surfaces = {r.id: r for r in _rows(link, "surfaces")}
    for row in _rows(link, "alternatives"):
        content = row.content | {"takes_out": present_ids(dict(surfaces[row.content["surface_id"]].content))}
        link.execute(sa.text("UPDATE alternatives SET content = :c WHERE id = :i"), {"c": json.dumps(content), "i": row.id})
    _pin(link)


def _rows(link: sa.Connection, table: str) -> list[Any]:
    found = sa.table(table, sa.column("id", sa.Integer), sa.column("owner_id", sa.Integer), sa.column("content", sa.JSON))
    return list(link.execute(sa.select(found.c.id, found.c.owner_id, found.c.content)))


def _pin(link: sa.Connection) -> None:
    """A copy of every material a job names, as the shelf has it now, where it has none."""
    own = {m.id: m for m in (Material.model_validate(r.content["material"]) for r in _rows(link, "shelf_materials"))}
    materials = composed(shipped().materials | own)
    had = {(r.owner_id, r.content["material"]["id"]) for r in _rows(link, "material_copies")}
    named: dict[int, list[dict[str, Any]]] = {}
    for table in ("surfaces", "alternatives", "pieces"):
        for row in _rows(link, table):
            named.setdefault(row.owner_id, []).append(dict(row.content))
    copies = sa.table("material_copies", sa.column("owner_id", sa.Integer), sa.column("version", sa.Integer),
                      sa.column("content", sa.JSON))
    new = [{"owner_id": owner, "version": 1, "content": {"material": m.model_dump(mode="json")}}
           for owner, rows in named.items() for m in with_parts(named_by(rows), materials) if (owner, m.id) not in had]
    if new:
        op.bulk_insert(copies, new)


def downgrade() -> None:
    op.drop_table("goods")
