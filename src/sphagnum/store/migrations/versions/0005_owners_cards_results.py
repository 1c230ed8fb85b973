"""rows belong to a job or to the workshop; cards of jobs, results of work; promises and copies of materials in a job."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

OF_A_JOB = ("positions", "conditions", "rounds", "readings", "remarks", "goals", "surfaces", "alternatives", "paths",
            "block_offs", "substitutions", "measures", "rattles", "leaks", "hints", "calculations", "pieces", "step_events",
            "photos", "side_effects", "reminders", "knocks", "sent")
NEW = ("material_copies", "promises", "shelf_materials", "offcuts", "templates", "settings", "methods", "house_minutes")
WORKSHOP = 0


def upgrade() -> None:
    op.rename_table("jobs", "owners")
    op.add_column("owners", sa.Column("kind", sa.String(), nullable=False, server_default="job"))
    for table in (*OF_A_JOB, "edits"):
        op.execute(sa.text(f"ALTER TABLE {table} RENAME COLUMN job_id TO owner_id"))
    for table in OF_A_JOB:
        op.drop_index(f"ix_{table}_job_id", table)
        op.create_index(f"ix_{table}_owner_id", table, ["owner_id"])
    for table in NEW:
        op.create_table(
            table,
            sa.Column("owner_id", sa.Integer(), nullable=False),
            sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
            sa.Column("version", sa.Integer(), nullable=False),
            sa.Column("content", sa.JSON(), nullable=False),
            sa.ForeignKeyConstraint(["owner_id"], ["owners.id"], ondelete="CASCADE"),
            sa.PrimaryKeyConstraint("id"),
            sqlite_autoincrement=True,
        )
        op.create_index(f"ix_{table}_owner_id", table, ["owner_id"])
    op.create_table(
        "cards",
        sa.Column("owner_id", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("stamp", sa.String(), nullable=False),
        sa.Column("card", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["owners.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("owner_id"),
    )
    op.create_table(
        "results",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("result", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.text("CURRENT_TIMESTAMP"), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_results_at", "results", ["at"])
    owners = sa.table("owners", sa.column("id", sa.Integer), sa.column("version", sa.Integer), sa.column("revision", sa.Integer),
                      sa.column("kind", sa.String), sa.column("content", sa.JSON))
    op.bulk_insert(owners, [{"id": WORKSHOP, "version": 1, "revision": 1, "kind": "workshop", "content": {}}])
