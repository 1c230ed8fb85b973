"""A served demo and a headless browser; every page must stay silent and load nothing from elsewhere."""

from __future__ import annotations

import json
import re
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, ConsoleMessage, Page, Playwright, ViewportSize, expect, sync_playwright

from serving import CHROMIUM, served
from signals import until

expect.set_options(timeout=30_000)  # the machine may stall; what is awaited comes at once otherwise


SLOW = """
(() => {
  const fetched = window.fetch;
  let n = 5;
  window.fetch = async (...asked) => {
    n = (n * 16807) % 2147483647;
    const path = new URL(asked[0].url ?? asked[0], location.href).pathname;
    if (path.endsWith(ENDING)) await new Promise((go) => setTimeout(go, LEAST + (n % SPREAD)));
    return fetched(...asked);
  };
})()"""
"""Loaded before the page: what is asked of addresses with this ending takes longer, by a fixed sequence."""
FORGET = """() => {
  localStorage.clear();
  return new Promise((go) => {
    const asked = indexedDB.deleteDatabase("sphagnum");
    asked.onsuccess = asked.onerror = asked.onblocked = () => go();
  });
}"""


def asked(address: str) -> dict[str, Any]:
    with urllib.request.urlopen(address) as answer:
        return dict(json.load(answer))


@pytest.fixture(scope="session")
def base(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Address of a demo server over data of its own, all its pieces laid out: at once where the demo was packed for this code.
    What it logged is shown where a test fails on an error of its own."""
    with served("demo", tmp_path_factory.mktemp("demo"), log_file(tmp_path_factory)) as address:
        jobs = asked(f"{address}/api/jobs")["jobs"]
        until(lambda: not any(asked(f"{address}/api/jobs/{j['job']['id']}/cut")["work"] for j in jobs), 180)
        until(lambda: not any(j["older"] for j in asked(f"{address}/api/jobs")["jobs"]), 60)
        yield address


def log_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.getbasetemp() / "server.log"


def tracebacks(log: Path) -> str:
    """What the server logged of its own errors: each from the line that names it to the next request."""
    found = re.findall(r"unexpected\nTraceback.*?(?=\n\{|\Z)", log.read_text("utf-8", "replace"), re.DOTALL)
    return "\n".join(found[-3:])


@pytest.fixture(scope="session")
def play() -> Iterator[Playwright]:
    with sync_playwright() as running:
        yield running


UNHURRIED = "--js-flags=--no-opt --no-maglev"
"""A page of a test lives for seconds: to compile its scripts for long use takes more than it gives."""


@pytest.fixture(scope="session")
def browser(play: Playwright) -> Iterator[Browser]:
    running = play.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox", UNHURRIED])
    yield running
    running.close()


SIZE: ViewportSize = {"width": 1280, "height": 800}


@pytest.fixture(scope="session")
def first_browser(browser: Browser) -> Iterator[BrowserContext]:
    """The browser in which a test's first page opens: what it fetched once stays in its cache, as at a workshop's desk."""
    context = browser.new_context(viewport=SIZE, accept_downloads=True, service_workers="block")
    yield context
    context.close()


def complains(message: ConsoleMessage, expect_refusals: bool) -> bool:
    """Whether a page says that something is wrong; that its worker is kept out here is not."""
    expected = r"blocked by Playwright" + (r"|status of 4\d\d|ERR_FAILED" if expect_refusals else "")
    return message.type in ("error", "warning") and not re.search(expected, message.text)


@pytest.fixture
def open_page(browser: Browser, first_browser: BrowserContext, base: str,
              tmp_path_factory: pytest.TempPathFactory) -> Iterator[object]:
    """Opens pages in browsers of their own; afterwards none may have complained or asked another host."""
    said: list[str] = []
    contexts: list[BrowserContext] = []

    def opening(path: str, expect_refusals: bool = False, slow: tuple[str, int, int] | None = None) -> Page:
        context = first_browser if not contexts else browser.new_context(
            viewport=SIZE, accept_downloads=True, service_workers="block")
        contexts.append(context)
        page = context.new_page()
        if context is first_browser:  # it knows nothing of the test before
            page.set_viewport_size(SIZE)
            page.goto(f"{base}/mark.svg")
            page.evaluate(FORGET)
        page.set_default_timeout(60_000)
        page.on("request", lambda r: said.append(f"asked {r.url}") if not r.url.startswith((base, "blob:", "data:")) else None)
        page.on("pageerror", lambda e: said.append(f"page error {e}"))
        page.on("console", lambda m: said.append(f"console {m.type}: {m.text}") if complains(m, expect_refusals) else None)
        if slow:  # an ending of an address, and how many milliseconds it takes longer: at least, at most
            figures = {"ENDING": repr(slow[0]), "LEAST": str(slow[1]), "SPREAD": str(slow[2] - slow[1] + 1)}
            page.add_init_script(re.sub("|".join(figures), lambda m: figures[m[0]], SLOW))
        page.goto(base + path)
        return page

    yield opening
    for context in contexts[1:]:
        context.close()
    for page in first_browser.pages:
        page.close()
    first_browser.clear_cookies()
    first_browser.clear_permissions()
    first_browser.unroute_all()
    first_browser.set_offline(False)
    assert said == [], tracebacks(log_file(tmp_path_factory))
