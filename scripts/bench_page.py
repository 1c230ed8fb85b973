"""Prints how long the page takes over the real server: from a change to its curve, a preview, and every stage's first load.

Times are of this machine; the ratio is to one product of matrices measured in the same run (see bench.py).
"""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from functools import partial

import numpy as np
from bench import seconds
from playwright.sync_api import Page, sync_playwright
from served import ask, demo, settle

STAGES = ("listen", "trace", "build", "cut", "fit", "prove")
PRESSES = 40
SURFACES = 200
WATCH = """() => {
  window.took = [];
  const curve = () => [...document.querySelectorAll('[data-curve=after]')].map(p => p.getAttribute('d')).join();
  let was = curve(), began = 0;
  addEventListener('keydown', () => { began = performance.now(); }, true);
  addEventListener('pointermove', (e) => { if (e.buttons) began = performance.now(); }, true);
  const look = () => {
    const now = curve();
    if (now !== was && began) { window.took.push(performance.now() - began); began = 0; }
    was = now; requestAnimationFrame(look);
  };
  look();
}"""


def p95(values: list[float]) -> float:
    """The value that 95 in 100 do not exceed."""
    return float(np.percentile(values, 95))


def timed(work: Callable[[], object]) -> float:
    """How long it takes, ms."""
    began = time.perf_counter()
    work()
    return (time.perf_counter() - began) * 1e3


def previews(base: str) -> list[float]:
    """Times of preview requests, each of a thickness nobody asked for yet, ms."""
    doc = ask(base, "/api/jobs/1")["document"]
    plan = next(a for a in doc["alternatives"] if a["layers"])
    at = ["layers", plan["layers"][0]["id"], "thickness_mm"]
    def one(mm: float) -> None:
        step = {"collection": "alternatives", "row": plan["id"], "version": plan["version"],
                "operations": [{"op": "set", "at": at, "value": round(mm, 3)}]}
        ask(base, "/api/jobs/1/preview", {"stage": "build", "surface_id": plan["surface_id"], "alternative_id": plan["id"],
                                          "steps": [step]})
    one(1.9)
    return [timed(partial(one, float(mm))) for mm in np.linspace(1.91, 3.9, 60)]


def third_surface(base: str, job: int) -> int:
    """Of the demo van the one with damping on its middle."""
    return int(ask(base, f"/api/jobs/{job}")["document"]["surfaces"][2]["id"])


def changes(page: Page, base: str, job: int = 1) -> list[float]:
    """Times from a press on a slider to another curve in the page, ms."""
    page.goto(f"{base}/jobs/{job}/build?surface={third_surface(base, job)}")
    page.locator("[data-curve=after]").first.wait_for()
    page.get_by_role("button", name="Edit layer").first.click()
    page.locator(".ant-slider-handle").first.focus()
    page.evaluate(WATCH)
    for i in range(PRESSES):
        page.keyboard.press("ArrowLeft" if i < PRESSES / 2 else "ArrowRight")
        page.wait_for_timeout(250)
    return list(page.evaluate("window.took"))


def drags(page: Page, base: str, job: int = 1) -> list[float]:
    """Times from a movement of a hand that pulls a layer's coverage to another curve in the page, ms."""
    page.goto(f"{base}/jobs/{job}/build?surface={third_surface(base, job)}")
    page.locator("[data-curve=after]").first.wait_for()
    crown = page.locator("[data-crown]").first
    crown.scroll_into_view_if_needed()
    box = crown.bounding_box()
    assert box
    page.evaluate(WATCH)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for i in range(1, PRESSES + 1):
        page.mouse.move(x, y + (i if i < PRESSES / 2 else PRESSES - i + 0.5))
        page.wait_for_timeout(250)
    took = list(page.evaluate("window.took"))
    page.mouse.up()
    return took


def large(page: Page, base: str) -> int:
    """A job of 200 surfaces like the demo van's, each with its way in and its plans; its number."""
    doc = ask(base, "/api/jobs/1")["document"]
    kinds = ("surfaces", "alternatives", "paths")
    kept = {name: [row for row in doc[name] if name != "paths" or row.get("surface_id")] for name in kinds}
    step = 1 + max(row["id"] for name in kinds for row in doc[name])
    for round_ in range(1, -(-SURFACES // len(kept["surfaces"]))):
        for name in kinds:
            of = [{} if name == "surfaces" else {"surface_id": row["surface_id"] + round_ * step} for row in kept[name]]
            doc[name] += [{**row, **at, "id": row["id"] + round_ * step, "name": f"{row['name']} {round_}"}
                          for row, at in zip(kept[name], of, strict=True)]
    for name in ("photos", "layouts", "step_events", "pieces", "block_offs", "leaks", "fixings", "builds", "hand_layouts"):
        doc.pop(name, None)
    body = {"format": "sphagnum-job", "format_version": 1, **doc}
    made = page.request.post(f"{base}/api/jobs/import", headers={"X-Author": "a script"}, multipart={
        "file": {"name": "job.json", "mimeType": "application/json", "buffer": json.dumps(body).encode()}})
    return int(made.json()["id"])


def openings(page: Page, base: str, job: int) -> list[float]:
    """Times from a key to each stage of a job in the page, several times over, ms."""
    page.goto(f"{base}/jobs/{job}/listen")
    took = []
    for _ in range(3):
        for n, stage in enumerate(STAGES, start=1):
            page.evaluate("document.activeElement?.blur()")  # a device is asked whose it is
            def turn(n: int = n, stage: str = stage) -> None:
                page.keyboard.press(str(n))
                page.locator(f"main[data-stage={stage}] h1:not(:empty)").first.wait_for()
            took.append(timed(turn))
    return took[len(STAGES):]  # what a stage is drawn with is fetched the first time


def loads(page: Page, base: str) -> dict[str, float]:
    """Time of each stage's first load in a new window, ms."""
    out = {}
    for stage in STAGES:
        def load(stage: str = stage) -> None:
            page.goto(f"{base}/jobs/1/{stage}")
            page.locator("h1:not(:empty)").first.wait_for()
        out[stage] = timed(load)
    return out


def main() -> None:
    """Print the figures."""
    square = np.random.default_rng(1).random((400, 400))
    baseline = seconds(lambda: square @ square @ square) * 1e3
    with demo(8597) as base, sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        settle(base)  # what is worked out behind the page after a start is not what a page takes
        for stage, took in loads(page, base).items():
            print(f"first load of {stage}: {took:.0f} ms, {took / baseline:.0f} × baseline")
        tried = previews(base)
        print(f"preview: p95 {p95(tried):.0f} ms, median {np.median(tried):.0f} ms, {p95(tried) / baseline:.0f} × baseline")
        for job, of in ((1, ""), (large(page, base), f", {SURFACES} surfaces in the job")):
            settle(base)
            seen = changes(page, base, job)
            print(f"from a press to its curve{of} ({len(seen)} of {PRESSES} seen): p95 {p95(seen):.0f} ms, "
                  f"median {np.median(seen):.0f} ms, {p95(seen) / baseline:.0f} × baseline")
            moved = drags(page, base, job)
            print(f"from a movement to its curve{of} ({len(moved)} of {PRESSES} seen): p95 {p95(moved):.0f} ms, "
                  f"median {np.median(moved):.0f} ms, {p95(moved) / baseline:.0f} × baseline")
            opened = openings(page, base, job)
            print(f"a stage opened{of}: p95 {p95(opened):.0f} ms, median {np.median(opened):.0f} ms, "
                  f"{p95(opened) / baseline:.0f} × baseline")


if __name__ == "__main__":
    main()
