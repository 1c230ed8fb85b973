"""How long rooms ring, and what is built."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

POINTS = {"decays": {"round_id": "rounds", "position_id": "positions"}, "builds": dict[str, str]()}


def upgrade() -> None:
    for name, points in POINTS.items():
        op.create_table(
            name,
            sa.Column("owner_id", sa.Integer(), nullable=False),
            sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
            sa.Column("version", sa.Integer(), nullable=False),
            sa.Column("content", sa.JSON(), nullable=False),
            *(sa.Column(column, sa.Integer(), nullable=False) for column in points),
            *(sa.ForeignKeyConstraint([column], [f"{to}.id"], ondelete="CASCADE") for column, to in points.items()),
            sa.ForeignKeyConstraint(["owner_id"], ["owners.id"], ondelete="CASCADE"),
            sa.PrimaryKeyConstraint("id"),
            sqlite_autoincrement=True,
        )
        for column in ("owner_id", *points):
            op.create_index(f"ix_{name}_{column}", name, [column])


def downgrade() -> None:
    for name in POINTS:
        op.drop_table(name)
