"""Prints what fifty browsers at work on a thousand jobs wait for, how many are turned away, and what the server holds in memory.

``--before COMMIT`` loads the server of an earlier commit first, with the same hands on the same data, in the same run.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import numpy as np
from served import ROOT, tree
from sqlalchemy import insert, select

from sphagnum.catalogue.load import shelf
from sphagnum.core.job.document import COLLECTIONS, JobDocument
from sphagnum.core.job.pins import pinned
from sphagnum.core.schema import parse
from sphagnum.demo import ceiling, hood, van
from sphagnum.store.connect import database_url, open_store
from sphagnum.store.documents import job_ids, store_document
from sphagnum.store.models import TABLES, OwnerRow

JOBS, CLIENTS, APART = 1000, 50, 100_000
POLL_S, EDIT_S, PLAN_SHARE = 6.0, 20.0, 0.08
OPENED = "job and stage opened while all open theirs"
"""A browser's first look, within the seconds of one poll: nobody saw that job since the server began."""
STAGES = ("listen", "trace", "build", "cut", "fit", "prove")


def fill(folder: Path) -> None:
    """A store with a thousand jobs: copies of three of the demo's, all rows of each."""
    store = open_store(database_url(folder))
    for make in (van, hood, ceiling):
        store_document(store, pinned(parse(JobDocument, make()), shelf()))
    with store() as session:
        first = job_ids(session)
        owners = {n: session.get(OwnerRow, n).content for n in first}  # type: ignore[union-attr]
        rows = {name: list(session.execute(select(TABLES[name].id, TABLES[name].owner_id, TABLES[name].content)))
                for name in COLLECTIONS}
        for k in range(1, JOBS // len(first)):
            session.execute(insert(OwnerRow), [{"id": n + k * APART, "kind": "job", "content": {**c, "name": f"{c['name']} {k}"}}
                                               for n, c in owners.items()])
            for name, kind in COLLECTIONS.items():
                made = []
                for number, owner, content in rows[name]:
                    to = {f: content[f] + k * APART for f in kind.points_to if content.get(f) is not None}
                    made.append({"id": number + k * APART, "owner_id": owner + k * APART, "version": 1,
                                 "content": {**content, **to}, **{f: to.get(f) for f in kind.points_to}})
                if made:
                    session.execute(insert(TABLES[name]), made)
        session.commit()


class Browser(threading.Thread):
    """One browser at work on a job: it looks, polls, edits, takes back, and now and then looks for a plan."""

    def __init__(self, port: int, job: int, seed: int, end: float, took: list[tuple[str, int, float]]) -> None:
        super().__init__(daemon=True)
        self.link = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self.job, self.rng, self.end, self.took = job, random.Random(seed), end, took
        self.name = f"b{seed}"

    def ask(self, kind: str, method: str, path: str, body: Any = None) -> Any:
        """One request, timed."""
        began = time.perf_counter()
        self.link.request(method, f"/api/jobs/{self.job}{path}", None if body is None else json.dumps(body), {
            "X-Author": self.name, "X-Tab": self.name, "Content-Type": "application/json"})
        answer = self.link.getresponse()
        data = answer.read()
        self.took.append((kind, answer.status, time.perf_counter() - began))
        return json.loads(data)

    def run(self) -> None:
        """Until the end."""
        time.sleep(self.rng.uniform(0, POLL_S))
        stage = self.rng.choice(STAGES)
        page = self.look(stage, OPENED)
        plans = self.rng.random() < PLAN_SHARE
        edited = time.monotonic() + self.rng.uniform(0, EDIT_S)
        while time.monotonic() < self.end:
            time.sleep(self.rng.uniform(0.5, 1.5) * POLL_S / 2)
            self.ask("poll", "GET", "/revision")
            if time.monotonic() < edited or "document" not in page:
                continue
            edited = time.monotonic() + self.rng.uniform(0.5, 1.5) * EDIT_S
            way = self.rng.random()
            if way < 0.15:
                self.ask("edit", "POST", "/undo")
            elif way < 0.25:
                self.ask("edit", "POST", "/redo")
            else:
                surface = self.rng.choice(page["document"]["surfaces"])
                self.ask("edit", "PATCH", f"/surfaces/{surface['id']}", {
                    "version": surface["version"], "force": True, "changes": {"depth_limit_mm": self.rng.randint(10, 90)}})
            page = self.look(stage)
            if plans:
                self.ask("plan", "POST", "/plan", {"seconds": 4})

    def look(self, stage: str, kind: str = "read") -> Any:
        """The job and the stage that is open."""
        page = self.ask(kind, "GET", "")
        self.ask(kind, "GET", f"/{stage}")
        return page


def memory_mb(pid: int) -> tuple[float, ...]:
    """What a process and each of those that came of it hold, MB, what they share counted once."""
    held, ones = [], [pid]
    for one in ones:  # grows: workers are begun from a process of their own
        ones += map(int, subprocess.run(["pgrep", "-P", str(one)], capture_output=True, text=True).stdout.split())
        try:
            held.append(sum(int(line.split()[1]) for line in Path(f"/proc/{one}/smaps_rollup").read_text().splitlines()
                            if line.startswith("Pss:")) / 1024)
        except OSError:
            continue
    return tuple(held)


def loaded(source: Path, data: Path, seconds: float, port: int) -> None:
    """Serve from a source tree and let the browsers loose."""
    server = subprocess.Popen([sys.executable, "-m", "sphagnum.cli", "serve", "--data", str(data), "--port", str(port)],
                              env={**os.environ, "PYTHONPATH": str(source)}, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
                              text=True)
    try:
        assert server.stdout is not None
        assert server.stdout.readline(), f"the server of {source} did not begin"
        took: list[tuple[str, int, float]] = []
        end, rng = time.monotonic() + seconds, random.Random(5)
        jobs = [rng.randrange(3) + 1 + rng.randrange(JOBS // 3 - 1) * APART for _ in range(CLIENTS)]
        browsers = [Browser(port, job, i, end, took) for i, job in enumerate(jobs)]
        for one in browsers:
            one.start()
        held = []
        while time.monotonic() < end:
            time.sleep(min(seconds / 5, 60.0))
            held.append(memory_mb(server.pid))
        for one in browsers:
            one.join(90)
    finally:
        server.terminate()
        server.wait(30)
    for kind in (OPENED, "poll", "read", "edit", "plan"):
        times = sorted(t for k, _, t in took if k == kind)
        if times:
            p50, p95 = np.percentile(times, [50, 95])
            print(f"  {kind}: {len(times)} times, p50 {1e3 * p50:.0f} ms, p95 {1e3 * p95:.0f} ms, "
                  f"longest {1e3 * times[-1]:.0f} ms")
    print(f"  refused by the server (5xx): {sum(1 for _, s, _ in took if s >= 500)}, "
          f"statuses {dict(sorted(Counter(s for _, s, _ in took).items()))}")
    print(f"  memory with workers, MB: "
          f"{', '.join(f'{sum(m):.0f} ({max(m):.0f} the largest)' for m in held)}", flush=True)
    print("   ", *(" ".join(f"{x:.0f}" for x in m) for m in held), sep="\n    ")


def main() -> None:
    """Print the figures."""
    asked = argparse.ArgumentParser()
    asked.add_argument("--before", metavar="COMMIT", help="an earlier commit to load first")
    asked.add_argument("--seconds", type=float, default=120.0)
    asked.add_argument("--fill", type=Path, metavar="FOLDER", help="only put the jobs into a folder")
    given = asked.parse_args()
    if given.fill:
        return fill(given.fill)
    with tempfile.TemporaryDirectory() as folder, ExitStack() as open_:
        kept = Path(folder) / "data"
        kept.mkdir()
        trees = [("now", ROOT / "src")]
        if given.before:
            trees.insert(0, (f"at {given.before}", open_.enter_context(tree(given.before)) / "src"))
        # written by the earlier of them: a later one takes it over as it does anybody's
        subprocess.run([sys.executable, __file__, "--fill", str(kept)], check=True,
                       env={**os.environ, "PYTHONPATH": str(trees[0][1])})
        for i, (name, source) in enumerate(trees):
            data = Path(folder) / f"run{i}"
            shutil.copytree(kept, data)
            print(f"{CLIENTS} browsers on {JOBS} jobs for {given.seconds:g} s, {name}:", flush=True)
            loaded(source, data, given.seconds, 8611 + i)


if __name__ == "__main__":
    main()
