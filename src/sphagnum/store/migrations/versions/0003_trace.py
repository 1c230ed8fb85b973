"""substitutions, measures, rattles, leaks, hints, calculations; photographs of rattles."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

# table: (table it points to, its column, whether that may be empty)
POINTS = {
    "substitutions": ("paths", "path_id", False), "measures": ("paths", "path_id", True), "rattles": ("surfaces", "surface_id", True),
    "leaks": ("paths", "path_id", True), "hints": None, "calculations": None,
}


def upgrade() -> None:
    for table, target in POINTS.items():
        points = [] if target is None else [
            sa.Column(target[1], sa.Integer(), nullable=target[2]),
            sa.ForeignKeyConstraint([target[1]], [f"{target[0]}.id"], ondelete="CASCADE"),
        ]
        op.create_table(
            table,
            *points,
            sa.Column("job_id", sa.Integer(), nullable=False),
            sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
            sa.Column("version", sa.Integer(), nullable=False),
            sa.Column("content", sa.JSON(), nullable=False),
            sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], ondelete="CASCADE"),
            sa.PrimaryKeyConstraint("id"),
            sqlite_autoincrement=True,
        )
        for column in ("job_id", *([] if target is None else [target[1]])):
            op.create_index(f"ix_{table}_{column}", table, [column])
    with op.batch_alter_table("photos", table_kwargs={"sqlite_autoincrement": True}) as photos:
        photos.add_column(sa.Column("rattle_id", sa.Integer(), nullable=True))
        photos.create_foreign_key("photos_rattle", "rattles", ["rattle_id"], ["id"], ondelete="CASCADE")
        photos.create_index("ix_photos_rattle_id", ["rattle_id"])


def downgrade() -> None:
    with op.batch_alter_table("photos", table_kwargs={"sqlite_autoincrement": True}) as photos:
        photos.drop_index("ix_photos_rattle_id")
        photos.drop_column("rattle_id")
    for table in POINTS:
        op.drop_table(table)
