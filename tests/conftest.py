"""What several tests share: the shipped shelf, the worked job as a document, an application over a fresh store."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from sphagnum.api.app import create_app
from sphagnum.catalogue.load import shelf as load_shelf
from sphagnum.core.job import JobDocument
from sphagnum.core.materials.shelf import Shelf
from sphagnum.core.schema import parse
from sphagnum.demo import rows
from sphagnum.store.connect import database_url, open_store

DATA = Path(__file__).parent / "data"
AUTHOR = {"X-Author": "first browser"}


@pytest.fixture(scope="session")
def shelf() -> Shelf:
    return load_shelf()


def worked_job() -> dict[str, Any]:
    """The job worked by hand, with simple numbers: five paths, eight pieces, three readings before and after."""
    before, after = (json.loads((DATA / "golden" / f"{n}.json").read_text("utf-8")) for n in ("before", "after"))
    paths = [
        {"name": "seal", "leak_cm2": 6, "planned_leak_cm2": 0.6} if now["id"] == "seal" else
        {"name": now["id"], "area_m2": now["area_m2"], "easy": now["id"] == "floor",
         "transmission_loss_db": now["transmission_loss_db"],
         "planned_transmission_loss_db": planned["transmission_loss_db"]}
        for now, planned in zip(before["paths"], after["paths"], strict=True)
    ]
    at = {"position_id": 1, "condition_id": 1}
    return {
        "job": {"id": 1, "version": 1, "name": "Worked by hand", "absorption_m2": 4.2},
        "positions": rows({"name": "Ear"}),
        "conditions": rows({"name": "running", "spectrum_db": list(before["spectrum_db"].values())}),
        "rounds": rows({"name": "As found", "state": "as found"}, {"name": "Finished", "state": "finished",
                                                                    "follows_id": 1}),
        "readings": rows(*({**at, "round_id": r, "level_db": level} for r, levels in
                           ((1, (60.6, 61.1, 60.9)), (2, (56.3, 56.9, 56.5))) for level in levels)),
        "goals": rows({**at, "aim": "change by", "value": 4}),
        "paths": rows(*paths),
        "pieces": rows({"material": "butyl-foil", "name": "large", "width_mm": 480, "height_mm": 390, "quantity": 6},
                       {"material": "butyl-foil", "name": "small", "width_mm": 240, "height_mm": 390, "quantity": 2}),
    }


@pytest.fixture
def worked() -> JobDocument:
    return parse(JobDocument, worked_job())


@pytest.fixture
def client(tmp_path: Path) -> FlaskClient:
    app = create_app(open_store(database_url(tmp_path)))
    app.testing = False  # errors are answered as in service
    return app.test_client()


@pytest.fixture
def send(client: FlaskClient) -> Callable[..., Any]:
    """Send JSON as one browser; returns (status, body)."""

    def sending(method: str, path: str, body: Any = None, author: str = "first browser") -> tuple[int, Any]:
        answer = client.open(f"/api{path}", method=method, json=body, headers={"X-Author": author})
        return answer.status_code, answer.get_json()

    return sending
