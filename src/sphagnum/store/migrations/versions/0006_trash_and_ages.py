"""When a job was thrown away, and when a browser's edit came: both go after a while."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("owners", sa.Column("trashed_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("sent", sa.Column("at", sa.DateTime(timezone=True), nullable=True))
    op.execute("UPDATE sent SET at = CURRENT_TIMESTAMP")
