"""Editing at the speed of a hand, over a slow and a broken line: nothing is lost, and all of it can be taken back."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from test_away import waiting
from test_journey import keep_reading, stage

from signals import until

Open = Callable[..., Page]


@pytest.fixture
def number(open_page: Open, tmp_path: Path) -> int:
    """A job with one bare panel that has ten keep-clear zones, a round, and nothing planned."""
    panel = {"id": 1, "version": 1, "name": "Panel", "outline_mm": [[0, 0], [1500, 0], [1500, 900], [0, 900]],
             "substrate": {"material": "steel", "thickness_mm": 0.8},
             "keep_clear": [{"kind": "drain", "x_mm": 20 + 140 * i, "y_mm": 20, "width_mm": 40, "height_mm": 20}
                            for i in range(10)]}
    body = {"format": "sphagnum-job", "format_version": 1, "job": {"id": 1, "version": 1, "name": "Quick hands"},
            **{name: [{"id": 1, "version": 1, **row}] for name, row in (
                ("positions", {"name": "Ear"}),
                ("conditions", {"name": "on"}), ("rounds", {"name": "As found", "state": "as found"}),
                ("goals", {"position_id": 1, "condition_id": 1, "value": 5}))},
            "surfaces": [panel], "paths": [{"id": 1, "version": 1, "name": "Panel", "surface_id": 1}]}
    (tmp_path / "job.json").write_text(json.dumps(body), "utf-8")
    page = open_page("/")
    page.get_by_label("Job file").set_input_files(tmp_path / "job.json")
    page.wait_for_url("**/jobs/*/**")
    return int(page.url.split("/jobs/")[1].split("/")[0])


def document(page: Page, number: int) -> dict[str, Any]:
    return page.request.get(f"{page.url.split('/jobs')[0]}/api/jobs/{number}").json()["document"]


@contextmanager
def another_revision(page: Page, number: int) -> Iterator[None]:
    """Waits until the job has moved on."""
    def revision() -> int:
        return int(page.request.get(f"{page.url.split('/jobs')[0]}/api/jobs/{number}/revision").json()["revision"])

    before = revision()
    yield
    until(lambda: revision() != before)


def kept(page: Page) -> None:
    expect(page.get_by_test_id("kept")).to_have_text("all changes kept")


def state(doc: dict[str, Any]) -> dict[str, Any]:
    return {k: [{f: v for f, v in row.items() if f != "version"} for row in doc[k]]
            for k in ("alternatives", "surfaces", "rounds", "readings")}


@pytest.mark.broad
def test_sixty_quick_edits_over_a_slow_line_all_stay_and_come_back(open_page: Open, number: int):
    page = open_page(f"/jobs/{number}/build", slow=("/edits", 0, 100))
    # layers: seven materials clicked as fast as it goes, onto an empty plan, then coverage by held arrows
    buttons = [page.get_by_role("button", name=re.compile("^Add (Bi|Br|Bu|Sp)")).nth(i) for i in range(3)]
    expect(buttons[2]).to_be_visible()
    for i in range(7):
        buttons[i % 3].click(no_wait_after=True)
    expect(page.get_by_role("button", name="Edit layer")).to_have_count(7)
    expect(page.get_by_role("button", name="Edit layer 7")).to_be_visible()
    kept(page)
    page.get_by_role("button", name="Edit layer 1").click()
    slider = page.get_by_role("slider", name="Coverage")
    slider.focus()
    expect(slider).to_be_focused()
    for _ in range(30):
        page.keyboard.down("ArrowLeft")  # held: it repeats
    page.keyboard.up("ArrowLeft")
    page.keyboard.press("Escape")
    kept(page)
    doc = document(page, number)
    assert len(doc["alternatives"]) == 1
    layers = doc["alternatives"][0]["layers"]
    assert len(layers) == 7
    assert layers[0]["coverage"] == pytest.approx(0.70, abs=0.005)
    # zones: seven of ten removed in a row
    stage(page, "Cut")
    page.get_by_text("10 kept clear").click()
    for left in range(10, 3, -1):
        page.get_by_role("button", name="Remove drain").first.click(no_wait_after=True)
        expect(page.get_by_text(f"{left - 1} kept clear")).to_be_visible()
    # context: every field typed with Tab; then readings
    stage(page, "Listen")
    page.get_by_text("Context", exact=True).click()
    fields = page.locator("aside .two").nth(1).get_by_role("textbox")
    expect(fields.nth(7)).to_be_visible()
    count = fields.count()
    assert count >= 8
    for i in range(count):
        fields.nth(i).fill(f"value {i}")
        fields.nth(i).press("Tab")
    kept(page)
    page.get_by_text("Reading", exact=True).first.click()
    for i in range(5):
        keep_reading(page, f"7{i}.5")
    kept(page)
    final = document(page, number)
    assert len(final["surfaces"][0]["keep_clear"]) == 3
    assert sorted(final["rounds"][0]["context"].values()) == sorted(f"value {i}" for i in range(count))
    assert [r["level_db"] for r in final["readings"]] == [70.5 + i for i in range(5)]
    # six back, six again; the thirty presses were one step
    seen = [state(final)]
    for _ in range(6):
        with another_revision(page, number):
            page.get_by_role("button", name="undo").click()
        seen.append(state(document(page, number)))
        assert seen[-1] != seen[-2]
    for wanted in reversed(seen[:-1]):
        with another_revision(page, number):
            page.keyboard.press("Control+Shift+z")
        assert state(document(page, number)) == wanted
    for _ in range(5 + count + 7 + 1):
        page.keyboard.press("Control+z")
    for _ in range(150):
        if state(document(page, number))["alternatives"][0]["layers"][0]["coverage"] == 1:
            break
        page.wait_for_timeout(80)
    back = document(page, number)
    assert (len(back["alternatives"][0]["layers"]), back["alternatives"][0]["layers"][0]["coverage"]) == (7, 1)
    assert (back["readings"], back["rounds"][0]["context"], len(back["surfaces"][0]["keep_clear"])) == ([], {}, 10)


def test_with_the_network_cut_it_says_so_and_loses_nothing_even_when_closed(open_page: Open, number: int):
    page = open_page(f"/jobs/{number}/listen", expect_refusals=True)
    page.get_by_text("Places and conditions").click()
    page.route("**/edits", lambda route: route.abort())
    for name in ("Cab", "Bunk"):
        page.get_by_role("textbox", name="Another place").fill(name)
        page.get_by_role("textbox", name="Another place").press("Enter")
    waiting(page, 2)
    expect(page.get_by_test_id("kept")).to_have_text(re.compile(r"^2 waiting since \d\d:\d\d$"))
    asked: list[str] = []
    page.on("dialog", lambda d: (asked.append(d.type), d.accept()))
    with page.expect_event("close"):
        page.close(run_before_unload=True)
    again = page.context.new_page()
    again.goto(f"{page.url.split('/jobs')[0]}/jobs/{number}/listen")
    expect(again.get_by_role("rowheader", name="Bunk")).to_be_visible()
    kept(again)
    assert sorted(p["name"] for p in document(again, number)["positions"]) == ["Bunk", "Cab", "Ear"]
    assert asked == []  # all of it is written down here: nobody is held up
