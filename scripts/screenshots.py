"""Takes docs/screenshots/ anew from the demo data: the board, each stage at a desk and in the hand, and one in the dark."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from urllib.parse import urlencode
from urllib.request import urlopen

import pypdfium2
from playwright.sync_api import FilePayload, Page, sync_playwright
from served import demo, settle

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
VIEWS = {
    "board": "/", "listen": "/jobs/1/listen", "trace": "/jobs/1/trace",
    "build": "/jobs/1/build?surface=3", "builds": "/jobs/6/build?view=builds",
    "plan": "/jobs/1/build?view=plan&anew=1", "offer": "/jobs/1/build?view=offer",
    "shelf": "/shelf", "bench": "/bench", "cut": "/jobs/1/cut?surface=1", "cut-sheet": "/jobs/1/cut?surface=1&sheet=4",
    "prove": "/jobs/1/prove",
}
FIT = {"fit": ("apply", "Bulkhead"), "phone-fit-apply": ("apply", "Rear doors")}
"""Pictures of Fit, of the van's order before anything was done: the first step of a phase at a place."""
READS_MS = 15_000
"""So long somebody reads what can be wished for before a plan is asked for; the shelf is searched ahead meanwhile."""
PHONE = ("listen", "build")
"""Views whose picture is taken on a phone too."""


def take(page: Page, base: str, name: str, path: str, folder: Path, dark: bool = False) -> None:
    """One picture of a view once it stands still."""
    page.goto(base + path)
    page.evaluate("dark => localStorage.setItem('scheme', dark ? 'dark' : 'light')", dark)
    page.goto(base + path)
    page.wait_for_selector("h1:not(:empty)")
    page.wait_for_load_state("networkidle")
    if name.startswith("plan"):
        page.wait_for_timeout(READS_MS)
        page.get_by_role("button", name="Find a plan", exact=True).click()
        page.get_by_role("button", name="Find again").wait_for(timeout=90_000)
        page.get_by_role("button", name="No more of anything than planned now").click()
    page.wait_for_timeout(900)
    page.screenshot(path=folder / f"{name}.png")


def papers(base: str, folder: Path) -> None:
    """The first page of the van's offer as it was handed over, and of its report."""
    offer = json.loads(urlopen(f"{base}/api/jobs/1/papers").read())["papers"][-1]
    for name, path in (("paper-offer", f"/api/papers/{offer['id']}.pdf"), ("paper-report", "/api/jobs/1/report.pdf")):
        page = pypdfium2.PdfDocument(urlopen(base + path).read())[0]
        page.render(scale=1.35).to_pil().save(folder / f"{name}.png", optimize=True)


def fitted(page: Page, base: str, wanted: list[str], folder: Path) -> None:
    """Pictures of an order that is begun: pieces laid, a clock running, fixings going back."""
    job = json.loads(urlopen(f"{base}/api/jobs/1/export.json").read())
    job["step_events"] = []
    job["fixings"] = [{**f, "back": f["count"] if f["kind"] == "cable pull" else 0} for f in job["fixings"]]
    file: FilePayload = {"name": "van.json", "mimeType": "application/json", "buffer": json.dumps(job).encode()}
    number = page.request.post(f"{base}/api/jobs/import", multipart={"file": file}, headers={"X-Author": "pictures"}).json()["id"]
    page.goto(f"{base}/jobs/{number}/fit")
    page.get_by_label("Name", exact=True).fill("Ida")
    page.get_by_role("button", name="That is me").click()
    page.get_by_role("button", name="Read and understood").click()
    page.get_by_role("article").wait_for()
    steps = page.request.get(f"{base}/api/jobs/{number}/fit").json()["steps"]

    def go(phase: str, place: str) -> None:
        key = next(s["key"] for s in steps if (s["phase"], s["surface"]) == (phase, place))
        page.goto(f"{base}/jobs/{number}/fit?{urlencode({'step': key})}")
        page.get_by_role("article").wait_for()
        page.wait_for_load_state("networkidle")

    go("apply", "Rear doors")
    page.get_by_label("Panel").fill("19")
    page.get_by_role("group", name="How warm it is today").get_by_role("button", name="Keep").click()
    for label in ("RD1", "RD2"):
        page.get_by_role("button", name=f"{label} is laid").click()
        page.get_by_role("button", name=f"{label}, laid").wait_for()
    go("seal", "Rear doors")
    page.get_by_role("button", name="working time").click()
    page.get_by_role("timer").wait_for()
    for name, (phase, place) in FIT.items():
        if wanted and name not in wanted:
            continue
        phone = name.startswith("phone")
        page.set_viewport_size({"width": 390, "height": 844} if phone else {"width": 1280, "height": 800})
        go(phase, place)
        page.wait_for_timeout(900)
        page.screenshot(path=folder / f"{name}.png")


def main(wanted: list[str], folder: Path) -> None:
    """Take the pictures named, or all."""
    with demo(8599) as base, sync_playwright() as play:
        settle(base)
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.on("console", lambda m: print(m.type, m.text) if m.type in ("error", "warning") else None)
        for name, path in VIEWS.items():
            if not wanted or name in wanted:
                take(page, base, name, path, folder)
        if not wanted or "trace-dark" in wanted:
            take(page, base, "trace-dark", VIEWS["trace"], folder, dark=True)
            page.evaluate("localStorage.setItem('scheme', 'light')")
        page.set_viewport_size({"width": 390, "height": 844})
        for name in PHONE:
            if not wanted or f"phone-{name}" in wanted:
                take(page, base, f"phone-{name}", VIEWS[name], folder)
        if not wanted or set(wanted) & set(FIT):
            fitted(page, base, wanted, folder)
        if not wanted or "papers" in wanted:
            papers(base, folder)
        browser.close()


if __name__ == "__main__":
    args = sys.argv[1:]
    out = FOLDER
    if args and args[0] == "--into":
        out, args = Path(args[1]), args[2:]
    out.mkdir(parents=True, exist_ok=True)
    main(args, out)
