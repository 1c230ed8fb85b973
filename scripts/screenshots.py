"""Takes docs/screenshots/ anew from the demo data: one picture of the board and of each stage, and one in the dark."""

from __future__ import annotations

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from served import demo, settle

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
VIEWS = {
    "board": "/", "listen": "/jobs/1/listen", "trace": "/jobs/1/trace", "build": "/jobs/1/build?surface=3",
    "cut": "/jobs/1/cut?surface=2", "fit": "/jobs/2/fit", "prove": "/jobs/1/prove", "prove-hood": "/jobs/2/prove",
    "prove-loudspeakers": "/jobs/4/prove", "listen-live": "/jobs/2/listen", "trace-tests": "/jobs/1/trace",
    "trace-found": "/jobs/2/trace", "trace-working": "/jobs/1/trace", "trace-desk": "/jobs/2/trace",
    "trace-loudspeaker": "/jobs/4/trace",
}
ASIDE = {"trace-tests": "Tests", "trace-found": "Found", "trace-desk": "Desk"}
"""What is opened beside the picture of Trace."""
SCROLLED = {"trace-found": 190, "prove-loudspeakers": 330, "prove-hood": 330}
"""Views whose picture is taken further down, px."""


def take(page: Page, base: str, name: str, path: str, folder: Path, dark: bool = False) -> None:
    """One picture of a view once it stands still."""
    page.goto(base + path)
    page.evaluate("dark => localStorage.setItem('scheme', dark ? 'dark' : 'light')", dark)
    page.goto(base + path)
    page.wait_for_selector("h1:not(:empty)")
    page.wait_for_load_state("networkidle")
    if name == "listen-live":
        page.get_by_role("button", name="live meter").click()
        page.locator("[data-testid=live][data-state=live]").wait_for()
        page.wait_for_timeout(14_000)
    if name in ASIDE:
        page.locator(".ant-segmented-item-label", has_text=ASIDE[name]).first.click()
    if name == "trace-working":
        page.get_by_role("button", name="Show the working").first.click()
    if name == "trace-desk":
        page.get_by_role("button", name="Box round a machine What it gives").click()
        page.get_by_test_id("answer").wait_for()
    page.mouse.wheel(0, SCROLLED.get(name, 0))
    page.wait_for_timeout(600)
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
        browser.close()


if __name__ == "__main__":
    args = sys.argv[1:]
    out = FOLDER
    if args and args[0] == "--into":
        out, args = Path(args[1]), args[2:]
    out.mkdir(parents=True, exist_ok=True)
    main(args, out)
