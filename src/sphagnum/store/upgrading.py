"""Brings a database up to the newest migration, however old it is; loaded only where one stands elsewhere."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.util import CommandError
from sqlalchemy import Connection

from ..core.errors import BadInput


def upgrade(connection: Connection, url: str) -> None:
    """Run the migrations up to the newest. BadInput where a database stands at one this program does not know."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["connection"] = connection
    try:
        command.upgrade(config, "head")
    except CommandError as error:
        raise BadInput("the database is of a newer version of this program", url,
                       "run that version, or restore a backup") from error
    connection.commit()
