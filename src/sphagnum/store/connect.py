"""Opens the database and brings it up to date. All that is particular to one kind of database is here."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, ExceptionContext, create_engine, event, inspect, make_url, text
from sqlalchemy.exc import ArgumentError, DatabaseError, NoSuchModuleError, OperationalError
from sqlalchemy.orm import Session, sessionmaker

from ..core.errors import BadInput

FILE = "sphagnum.db"
NEWEST = max(p.name[:4] for p in (Path(__file__).parent / "migrations" / "versions").glob("[0-9]*.py"))
"""The number of the last migration."""
VARIABLE = "SPHAGNUM_DATABASE"
ONE_WRITER = 8_484
"""Number of the lock that writers of a server database take, so that there is one at a time there too."""


class Damaged(BadInput):
    """The database holds what nobody wrote; nothing more is to be written over it."""

    def __init__(self) -> None:
        super().__init__("the data are damaged; nothing was changed", "database",
                         "stop the server, restore the last backup, and keep the damaged files aside")


def of_json(text: str) -> Any:
    """What a column of JSON holds. Damaged where it is none."""
    try:
        return json.loads(text)
    except (ValueError, TypeError, RecursionError) as error:
        raise Damaged from error


def _said_damaged(context: ExceptionContext) -> None:
    """What a database says of itself when it is damaged, not when it is busy or full, becomes Damaged."""
    said = str(context.original_exception)
    if any(words in said for words in ("malformed", "not a database", "Could not decode", "corrupt")):
        raise Damaged from context.original_exception


def database_url(data: Path) -> str:
    """URL of the database: the one SPHAGNUM_DATABASE names, else a file in the data directory."""
    return os.environ.get(VARIABLE) or f"sqlite:///{data / FILE}"


def open_store(url: str) -> sessionmaker[Session]:
    """A session factory on an up-to-date database; creates or migrates it first."""
    engine = _engine(url)
    try:
        with engine.connect() as connection:
            if _version(connection) != NEWEST:
                from .upgrading import upgrade  # a third of a second, for the day it is needed

                upgrade(connection, url)
    except (Damaged, UnicodeDecodeError) as error:
        raise BadInput("the database is damaged, or is none", url, "restore a backup over it") from error
    except OperationalError as error:
        raise BadInput("the database cannot be reached", VARIABLE if os.environ.get(VARIABLE) else url,
                       "start it, or mend the address") from error
    except DatabaseError as error:
        raise BadInput("the database is damaged, or is none", url, "restore a backup over it") from error
    return sessionmaker(engine, expire_on_commit=False)


def _engine(url: str) -> Engine:
    try:
        if make_url(url).get_backend_name() == "sqlite":
            engine = create_engine(url, connect_args={"timeout": 5}, json_deserializer=of_json)
            event.listen(engine, "connect", _sqlite_setup)
            event.listen(engine, "begin", _begin_immediate)
        else:
            # readers see one snapshot, as in SQLite
            engine = create_engine(url, isolation_level="REPEATABLE READ", pool_pre_ping=True, json_deserializer=of_json)
            event.listen(engine, "begin", _begin_alone)
        event.listen(engine, "handle_error", _said_damaged)
    except (ArgumentError, NoSuchModuleError, ModuleNotFoundError) as error:
        raise BadInput("this is no address of a database this program can open", VARIABLE,
                       "write it as postgresql+psycopg://user@host/name, with that driver installed") from error
    return engine


def _begin_alone(connection: Any) -> None:
    if connection.get_execution_options().get("writing", False):
        # what a writer reads must be what the last one left: its snapshot begins once it has the lock
        connection.exec_driver_sql("SET TRANSACTION ISOLATION LEVEL READ COMMITTED")
        connection.exec_driver_sql(f"SELECT pg_advisory_xact_lock({ONE_WRITER})")


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


def _version(connection: Connection) -> str:
    """The migration a database stands at; nothing of an empty one."""
    if not inspect(connection).has_table("alembic_version"):
        return ""
    return str(connection.execute(text("SELECT version_num FROM alembic_version")).scalar() or "")
