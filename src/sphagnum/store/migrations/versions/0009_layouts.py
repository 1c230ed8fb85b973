"""Layouts of a job that a hand has changed; outlines the workshop keeps."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


NEW = ("layouts", "outlines")


def upgrade() -> None:
    for name in NEW:
        op.create_table(
            name,
            sa.Column("owner_id", sa.Integer(), nullable=False),
            sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
            sa.Column("version", sa.Integer(), nullable=False),
            sa.Column("content", sa.JSON(), nullable=False),
            sa.ForeignKeyConstraint(["owner_id"], ["owners.id"], ondelete="CASCADE"),
            sa.PrimaryKeyConstraint("id"),
            sqlite_autoincrement=True,
        )
        op.create_index(f"ix_{name}_owner_id", name, ["owner_id"])


def downgrade() -> None:
    for name in NEW:
        op.drop_table(name)
