"""What several tests share: the shipped shelf, the worked job as a document, an application over a fresh store."""

from __future__ import annotations

import io
import json
import os
import shutil
import sqlite3
import uuid
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import hypothesis
import pytest
from flask.testing import FlaskClient
from sqlalchemy import create_engine

from sphagnum.api.app import create_app
from sphagnum.catalogue.load import shelf as load_shelf
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.shelf import Shelf
from sphagnum.core.schema import parse
from sphagnum.store.connect import FILE, database_url, open_store
from worked import AUTHOR, worked_job

os.environ.setdefault("SPHAGNUM_SEARCH_S", "0.4")  # servers the tests start share two cores with their browsers

hypothesis.settings.register_profile("steady", deadline=None)  # a busy machine is no failure
hypothesis.settings.load_profile("steady")


@pytest.fixture(scope="session")
def shelf() -> Shelf:
    return load_shelf()


@pytest.fixture
def worked() -> JobDocument:
    return parse(JobDocument, worked_job())


@pytest.fixture(scope="session")
def empty(tmp_path_factory: pytest.TempPathFactory) -> Path | None:
    """An empty database with all its tables, to be copied: making one takes half a second. None where a server has them."""
    if os.environ.get("SPHAGNUM_POSTGRES"):
        return None
    folder = tmp_path_factory.mktemp("empty")
    open_store(database_url(folder))
    with sqlite3.connect(folder / FILE) as link:
        link.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return folder / FILE


@pytest.fixture
def client(tmp_path: Path, empty: Path | None) -> FlaskClient:
    if empty is not None:
        shutil.copy(empty, tmp_path / FILE)
    app = create_app(open_store(database_url(tmp_path)))
    app.testing = False  # errors are answered as in service
    return app.test_client()


@pytest.fixture
def send(client: FlaskClient) -> Callable[..., Any]:
    """Send JSON as one browser; returns (status, body)."""

    def sending(method: str, path: str, body: Any = None, author: str = AUTHOR["X-Author"]) -> tuple[int, Any]:
        answer = client.open(f"/api{path}", method=method, json=body, headers={"X-Author": author})
        return answer.status_code, answer.get_json()

    return sending


@pytest.fixture
def take_in(client: FlaskClient) -> Callable[[dict[str, Any]], int]:
    """Import a job document; returns its number."""

    def taking(document: dict[str, Any]) -> int:
        body = json.dumps({"format": "sphagnum-job", "format_version": 1, **document}).encode()
        answer = client.post("/api/jobs/import", data={"file": (io.BytesIO(body), "job.json")}, headers=AUTHOR)
        assert answer.status_code == 201, answer.get_json()
        return answer.get_json()["id"]

    return taking


@pytest.fixture(autouse=True)
def database_of_its_own(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Where a PostgreSQL is named (``make test-postgres``), every test has a new database there instead of a file."""
    server = os.environ.get("SPHAGNUM_POSTGRES")
    if not server:
        yield
        return
    name = f"t{uuid.uuid4().hex}"
    with create_engine(f"{server}/postgres", isolation_level="AUTOCOMMIT").connect() as connection:
        connection.exec_driver_sql(f"CREATE DATABASE {name}")
        monkeypatch.setenv("SPHAGNUM_DATABASE", f"{server}/{name}")
        yield
        connection.exec_driver_sql(f"DROP DATABASE {name} WITH (FORCE)")


# what takes longest begins first
LONG_FIRST = (
    "tests/browser/test_planning", "tests/api/test_service", "tests/browser", "tests/api/test_malformed", "tests/api",
    "tests/core/test_limits", "tests/core/test_order", "tests/core/test_plan", "tests/core/test_paper",
    "tests/core/test_promises", "tests/core/test_coverage",
)


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Files that take long begin first, in whatever order tests are within them: no worker is left with one at the end."""
    items.sort(key=lambda item: next((n for n, at in enumerate(LONG_FIRST) if item.nodeid.startswith(at)), len(LONG_FIRST)))
