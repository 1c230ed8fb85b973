"""Opens the database of a data directory and brings it up to date. All that is particular to SQLite is here."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

FILE = "sphagnum.db"


def database_url(data: Path) -> str:
    """URL of the database in a data directory."""
    return f"sqlite:///{data / FILE}"


def open_store(url: str) -> sessionmaker[Session]:
    """A session factory on an up-to-date database; creates or migrates it first."""
    engine = create_engine(url, connect_args={"timeout": 20} if url.startswith("sqlite") else {})
    if engine.dialect.name == "sqlite":
        event.listen(engine, "connect", _sqlite_setup)
        event.listen(engine, "begin", _begin_immediate)
    migrate(engine)
    return sessionmaker(engine, expire_on_commit=False)


def _sqlite_setup(connection: Any, _record: Any) -> None:
    connection.isolation_level = None  # transactions are begun by _begin_immediate
    cursor = connection.cursor()
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _begin_immediate(connection: Any) -> None:
    # readers see one snapshot in WAL; writers ask for the lock at once, so that none fails half way
    writing = connection.get_execution_options().get("writing", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")


def migrate(engine: Engine) -> None:
    """Run the migrations up to the newest."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.connect() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()
