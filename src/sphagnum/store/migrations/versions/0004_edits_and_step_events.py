"""edits by id and gesture, redo; what happened to steps as events that refer to rows."""

import json
import re

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

POINTS = {"surface_id": "surfaces", "measure_id": "measures", "rattle_id": "rattles", "leak_id": "leaks"}


def upgrade() -> None:
    op.create_table(
        "step_events",
        *(sa.Column(name, sa.Integer(), nullable=True) for name in POINTS),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        *(sa.ForeignKeyConstraint([name], [f"{table}.id"], ondelete="CASCADE") for name, table in POINTS.items()),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
        sqlite_autoincrement=True,
    )
    for column in ("job_id", *POINTS):
        op.create_index(f"ix_step_events_{column}", "step_events", [column])
    op.create_table(
        "edits",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        *(sa.Column(name, sa.String(), nullable=False) for name in ("author", "tab", "gesture", "state")),
        sa.Column("of", sa.Integer(), nullable=True),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.text("(CURRENT_TIMESTAMP)"), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
        sqlite_autoincrement=True,
    )
    op.create_index("edits_by_author", "edits", ["job_id", "author", "state"])
    op.create_table(
        "sent",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("answer", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_sent_job_id", "sent", ["job_id"])
    op.create_table(
        "kept_changes",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("edit_id", sa.Integer(), nullable=False),
        sa.Column("collection", sa.String(), nullable=False),
        sa.Column("row_id", sa.Integer(), nullable=False),
        sa.Column("before", sa.JSON(none_as_null=True), nullable=True),
        sa.Column("after", sa.JSON(none_as_null=True), nullable=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["edit_id"], ["edits.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
        sqlite_autoincrement=True,
    )
    with op.batch_alter_table("knocks", table_kwargs={"sqlite_autoincrement": True}) as knocks:
        knocks.add_column(sa.Column("surface_id", sa.Integer(), nullable=True))
        knocks.create_foreign_key("knocks_surface", "surfaces", ["surface_id"], ["id"], ondelete="CASCADE")
        knocks.create_index("ix_knocks_surface_id", ["surface_id"])
    _keep_edits()
    _keep_steps()
    op.drop_table("steps")
    op.drop_table("changes")
    op.rename_table("kept_changes", "changes")
    op.create_index("changes_of_row", "changes", ["collection", "row_id"])
    op.create_index("ix_changes_edit_id", "changes", ["edit_id"])


def _keep_edits() -> None:
    """Edits made so far can still be undone; those of steps went into events and cannot."""
    run = op.get_bind()
    run.execute(sa.text("""
        INSERT INTO edits (id, job_id, author, tab, gesture, state, of, revision, at)
        SELECT MIN(id), job_id, author, author, '', CASE WHEN MAX(CASE WHEN undone THEN 1 ELSE 0 END) = 1 THEN 'dropped' ELSE 'done' END, NULL, 0, MIN(at)
        FROM changes WHERE edit NOT IN (SELECT edit FROM changes WHERE collection = 'steps') GROUP BY edit, job_id, author"""))
    run.execute(sa.text("""
        INSERT INTO kept_changes (id, edit_id, collection, row_id, before, after, version)
        SELECT c.id, (SELECT MIN(d.id) FROM changes d WHERE d.edit = c.edit), collection, row_id, before, after,
               COALESCE(after_version, 0)
        FROM changes c WHERE edit NOT IN (SELECT edit FROM changes WHERE collection = 'steps')"""))


def _keep_steps() -> None:
    run = op.get_bind()
    for job_id, content in run.execute(sa.text("SELECT job_id, content FROM steps ORDER BY id")).all():
        step = json.loads(content)
        found = re.fullmatch(r"surface (\d+):([a-z -]+)(?::(\d+):.*)?|rattle (\d+)|job:(.+)", step["key"])
        if found is None:
            continue
        surface, phase, layer, rattle, whole = found.groups()
        table, number = ("surfaces", surface) if surface else ("rattles", rattle)
        if number and not run.execute(sa.text(f"SELECT 1 FROM {table} WHERE id = :n AND job_id = :j"),
                                      {"n": int(number), "j": job_id}).first():
            continue
        event = {"phase": phase or whole or "cure rattles", "surface_id": int(surface) if surface else None,
                 "layer": str(int(layer) + 1) if layer else "", "measure_id": None, "rattle_id": int(rattle) if rattle else None,
                 "leak_id": None, "what": "done" if step.get("done") else "note", "at": "", "device": "",
                 "text": step.get("text", ""), "minutes": step.get("minutes"), "note": step.get("note", "")}
        run.execute(sa.text("INSERT INTO step_events (job_id, version, content, surface_id, rattle_id) VALUES (:j, 1, :c, :s, :r)"),
                    {"j": job_id, "c": json.dumps(event), "s": event["surface_id"], "r": event["rattle_id"]})


def downgrade() -> None:
    raise NotImplementedError("what happened to steps cannot be put back into ticks; restore a backup instead")
