"""Prints first loads, what script they fetch and edits a second of the application, beside an earlier commit in the same run.

Each is served from its own tree over its own demo; they take turns, so that both meet the same machine.
"""

from __future__ import annotations

import argparse
import subprocess
import time

import numpy as np
from playwright.sync_api import Browser, sync_playwright
from served import ROOT, ask, demo, settle, tree

TURNS, EDITS, STAGES = 5, 60, ("listen", "build", "fit")
SCRIPTS = """() => performance.getEntriesByType('resource').filter(r => r.name.endsWith('.js'))
  .reduce((sum, r) => sum + r.decodedBodySize, 0)"""


def first_load(browser: Browser, base: str, stage: str) -> tuple[float, float]:
    """Time to a stage's sentence in a browser that knows nothing yet, ms, and the script fetched for it, kB."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, service_workers="block")
    page = context.new_page()
    began = time.perf_counter()
    page.goto(f"{base}/jobs/1/{stage}")
    page.locator("h1:not(:empty)").first.wait_for()
    took = (time.perf_counter() - began) * 1e3
    size = float(page.evaluate(SCRIPTS)) / 1e3
    context.close()
    return took, size


def edits_a_second(base: str, seed: int) -> float:
    """Edits of one layer after another, each answered before the next."""
    plan = next(a for a in ask(base, "/api/jobs/1")["document"]["alternatives"] if a["layers"])
    at = ["layers", plan["layers"][0]["id"], "coverage"]
    began = time.perf_counter()
    for i in range(EDITS):
        step = {"collection": "alternatives", "row": plan["id"], "version": plan["version"], "force": True,
                "operations": [{"op": "set", "at": at, "value": round(0.3 + 0.001 * (i + EDITS * seed), 4)}]}
        ask(base, "/api/jobs/1/edits", {"steps": [step]})
    return EDITS / (time.perf_counter() - began)


def measured(bases: tuple[str, str]) -> tuple[np.ndarray, np.ndarray]:
    """First loads and script, (turns, stages, bases, 2), and edits a second, (turns, bases), by turns."""
    for base in bases:
        settle(base)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        loads = [[[first_load(browser, base, stage) for base in bases] for stage in STAGES] for _ in range(TURNS)]
    return np.array(loads), np.array([[edits_a_second(base, n) for base in bases] for n in range(TURNS)])


def main() -> None:
    """Print the figures."""
    asked = argparse.ArgumentParser()
    asked.add_argument("--before", metavar="COMMIT", required=True, help="the earlier commit")
    given = asked.parse_args()
    with tree(given.before) as there:
        (there / "web" / "node_modules").symlink_to(ROOT / "web" / "node_modules")
        subprocess.run(["npx", "vite", "build"], cwd=there / "web", check=True, capture_output=True)
        with demo(8631, source=there / "src") as old, demo(8632) as new:
            loads, rates = measured((old, new))
    for k, stage in enumerate(STAGES):
        (before, now), (was, is_) = np.median(loads[:, k, :, 0], axis=0), loads[-1, k, :, 1]
        print(f"first load of {stage}: {before:.0f} ms before, {now:.0f} ms now (× {now / before:.2f}); "
              f"script {was:.0f} kB before, {is_:.0f} kB now (× {is_ / was:.2f})")
    before, now = np.median(rates, axis=0)
    print(f"edits a second, one after another: {before:.1f} before, {now:.1f} now (× {now / before:.2f})")


if __name__ == "__main__":
    main()
