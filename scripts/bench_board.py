"""Prints how long the board takes with a thousand jobs of five hundred readings, filled by bulk SQL."""

from __future__ import annotations

import json
import random
import re
import subprocess
import sys
import tempfile
import time
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from bench import seconds
from served import ask
from sqlalchemy import insert

from sphagnum.api.app import create_app
from sphagnum.api.cards import stamp
from sphagnum.catalogue.load import shelf
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import JobDocument
from sphagnum.core.schema import parse
from sphagnum.core.stages.board.card import card
from sphagnum.demo import van
from sphagnum.store.connect import database_url, open_store
from sphagnum.store.documents import document, store_document
from sphagnum.store.models import CardRow, OwnerRow, ReadingRow

JOBS, READINGS = 1000, 500


def fill(folder: Path) -> Any:
    """A store with copies of the demo van, each with readings of its own, and their cards."""
    store, rng = open_store(database_url(folder)), random.Random(1)
    first = store_document(store, parse(JobDocument, van()))
    with store() as session:
        doc = document(session, first)
        made = card(JobFigures(doc, shelf())).model_dump(mode="json")
        now, usual = stamp(session), doc.readings[0].model_dump(mode="json", exclude={"id", "version"})
        own = doc.job.model_dump(mode="json", exclude={"id", "version"})
        session.execute(insert(OwnerRow), [
            {"id": i, "kind": "job", "content": {**own, "name": f"Job {i}"}}
            for i in range(first + 1, first + JOBS)])
        session.execute(insert(CardRow), [{"owner_id": i, "revision": 1, "stamp": now, "card": made}
                                          for i in range(first, first + JOBS)])
        places = {k: usual[k] for k in ("position_id", "condition_id", "round_id")}
        for start in range(first, first + JOBS, 50):
            session.execute(insert(ReadingRow), [
                {"owner_id": i, **places, "content": {**usual, "level_db": round(rng.gauss(70, 0.3), 1)}}
                for i in range(start, min(start + 50, first + JOBS)) for _ in range(READINGS)])
        session.commit()
    return store


def main() -> None:
    """Print the figures."""
    square = np.random.default_rng(1).random((400, 400))
    baseline = seconds(lambda: square @ square @ square) * 1e3
    with tempfile.TemporaryDirectory() as folder:
        began = time.perf_counter()
        client = create_app(fill(Path(folder))).test_client()
        print(f"{JOBS} jobs of {READINGS} readings filled in {time.perf_counter() - began:.0f} s")
        def read(path: str) -> object:
            return json.loads(client.get(path).data)
        for name, path in (("first page", "/api/jobs"), ("last page", f"/api/jobs?page={JOBS // 50 - 1}"),
                           ("by name", "/api/jobs?sort=name"), ("found by name", "/api/jobs?find=77"),
                           ("repeatability", "/api/repeatability")):
            took = 1e3 * seconds(partial(read, path), repeats=5)
            print(f"board, {name}: {took:.0f} ms, {took / baseline:.0f} × baseline")
        served(Path(folder), baseline)


def served(data: Path, baseline: float) -> None:
    """The same from a server that was just started: its first board, the next, an edit, and what it holds in memory."""
    server = subprocess.Popen([sys.executable, "-m", "sphagnum.cli", "serve", "--data", str(data), "--port", "8597"],
                              stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    try:
        assert server.stdout is not None
        base = server.stdout.readline().split()[-1].rstrip("/")
        began = time.perf_counter()
        ask(base, "/api/jobs")
        first = 1e3 * (time.perf_counter() - began)
        warm = 1e3 * seconds(lambda: ask(base, "/api/jobs"), repeats=9)
        job = ask(base, "/api/jobs")["jobs"][0]["job"]["id"]

        def edit() -> None:
            ask(base, f"/api/jobs/{job}/positions", {"rows": [{"name": "Ear"}]})
        took = 1e3 * seconds(edit, repeats=15)
        for number in range(job - 20, job):
            ask(base, f"/api/jobs/{number}")
        status = Path(f"/proc/{server.pid}/status").read_text()
        held = int(re.search(r"VmRSS:\s+(\d+)", status)[1]) / 1024  # type: ignore[index]
        print(f"served: first board after a start {first:.0f} ms, then {warm:.0f} ms, {warm / baseline:.0f} × baseline; "
              f"an edit {took:.0f} ms, {took / baseline:.0f} × baseline; {held:.0f} MB after 20 jobs were opened")
    finally:
        server.terminate()
        server.wait(30)


if __name__ == "__main__":
    main()
