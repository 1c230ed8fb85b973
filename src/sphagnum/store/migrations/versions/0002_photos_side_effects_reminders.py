"""photos, side effects, reminders, knocks."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

POINTS = {"photos": ("positions", "surfaces", "rounds"), "side_effects": ("rounds",), "reminders": (), "knocks": ("rounds", "positions")}


def upgrade() -> None:
    for table, targets in POINTS.items():
        single = {t: f"{t.rstrip('s')}_id" for t in targets}
        op.create_table(
            table,
            *(sa.Column(name, sa.Integer(), nullable=table == "photos") for name in single.values()),
            sa.Column("job_id", sa.Integer(), nullable=False),
            sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
            sa.Column("version", sa.Integer(), nullable=False),
            sa.Column("content", sa.JSON(), nullable=False),
            *(sa.ForeignKeyConstraint([name], [f"{t}.id"], ondelete="CASCADE") for t, name in single.items()),
            sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], ondelete="CASCADE"),
            sa.PrimaryKeyConstraint("id"),
            sqlite_autoincrement=True,
        )
        for column in ("job_id", *single.values()):
            op.create_index(f"ix_{table}_{column}", table, [column])


def downgrade() -> None:
    for table in POINTS:
        op.drop_table(table)
