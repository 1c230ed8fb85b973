"""Fixings taken off, own steps; what happened to a step outlives what it was about."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

ABOUT = {"surface_id": "surfaces", "measure_id": "measures", "rattle_id": "rattles", "leak_id": "leaks"}


def upgrade() -> None:
    for name in ("fixings", "own_steps"):
        to = [sa.Column("surface_id", sa.Integer(), nullable=False)] if name == "fixings" else []
        key = [sa.ForeignKeyConstraint(["surface_id"], ["surfaces.id"], ondelete="CASCADE")] if to else []
        op.create_table(
            name,
            sa.Column("owner_id", sa.Integer(), nullable=False),
            sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
            sa.Column("version", sa.Integer(), nullable=False),
            sa.Column("content", sa.JSON(), nullable=False),
            *to, *key,
            sa.ForeignKeyConstraint(["owner_id"], ["owners.id"], ondelete="CASCADE"),
            sa.PrimaryKeyConstraint("id"),
            sqlite_autoincrement=True,
        )
        op.create_index(f"ix_{name}_owner_id", name, ["owner_id"])
        if to:
            op.create_index(f"ix_{name}_surface_id", name, ["surface_id"])
    run, sqlite = op.get_bind(), op.get_bind().dialect.name == "sqlite"
    given = run.execute(sa.text("SELECT seq FROM sqlite_sequence WHERE name = 'step_events'")).scalar() if sqlite else None
    for column in ABOUT:
        op.drop_index(f"ix_step_events_{column}", "step_events")
    with op.batch_alter_table("step_events", table_kwargs={"sqlite_autoincrement": True}) as table:
        for column in ABOUT:
            table.drop_column(column)
    if given is not None:  # a number is never given twice, also of rows that are gone
        run.execute(sa.text("UPDATE sqlite_sequence SET seq = :seq WHERE name = 'step_events'"), {"seq": given})


def downgrade() -> None:
    with op.batch_alter_table("step_events", table_kwargs={"sqlite_autoincrement": True}) as table:
        for column, to in ABOUT.items():
            table.add_column(sa.Column(column, sa.Integer(), sa.ForeignKey(f"{to}.id", ondelete="CASCADE", name=f"fk_{column}"),
                                       nullable=True))
            table.create_index(f"ix_step_events_{column}", [column])
    for name in ("fixings", "own_steps"):
        op.drop_table(name)
