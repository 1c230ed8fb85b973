"""Every picture is read by pointer, by finger, by arrow keys and as a table, and all four say the same."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Locator, Page, expect

from cases import rest_broad

Open = Callable[..., Page]

PICTURES = {
    "listen": ("/jobs/1/listen", "The level while it was read", "59.5 s"),
    "trace": ("/jobs/1/trace", "Ways in, by their share of what is heard", "Wheel arches"),
    "build": ("/jobs/1/build?surface=3", "Level at the listener through Bulkhead, per band", "125 Hz"),
    "cut": ("/jobs/1/cut?surface=2", "Rear doors, 780 mm by 1260 mm", "mm"),
    "prove": ("/jobs/1/prove", "Levels per band, As found and Finished, and their difference", "125 Hz"),
    "head": ("/jobs/1/fit", "Goal rule", "against the target"),
}


def figure_of(page: Page, label: str) -> tuple[Locator, Locator]:
    slider = page.get_by_role("slider", name=label, exact=False).first
    return slider, page.get_by_role("figure").filter(has=slider)


EVERY_POINT = """async (slider, count) => {
    const spoken = [];
    for (let i = 0; i < count; i++) {
        spoken.push(slider.getAttribute("aria-valuetext") ?? "");
        slider.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true }));
        await new Promise(requestAnimationFrame);
        await new Promise(requestAnimationFrame);
    }
    return spoken;
}"""
"""What a picture says at each of its points, as the arrow key goes through them."""
USUAL = {"build", "trace", "head"}
"""Pictures read in the ordinary run; of the others one way stands for the rest."""


@pytest.mark.parametrize("where", rest_broad(PICTURES, USUAL))
def test_a_picture_reads_out_four_ways(open_page: Open, where: str):
    path, label, holds = PICTURES[where]
    page = open_page(path)
    slider, figure = figure_of(page, label)
    expect(slider).to_be_visible()
    page.wait_for_load_state("networkidle")
    count = int(slider.get_attribute("aria-valuemax") or "0") + 1

    # arrow keys: every point from the first to the last, each as it is spoken
    slider.press("Home")
    spoken = slider.evaluate(EVERY_POINT, count)
    assert len(set(spoken)) == count
    assert slider.get_attribute("aria-valuetext") == spoken[-1]

    # the table says the same, row by row
    figure.get_by_role("button", name="table").click()
    rows = figure.locator("tr").evaluate_all("rows => rows.slice(1).map(r => [...r.cells].map(c => c.innerText))")
    assert len(rows) == count
    for (name, *cells), words in zip(rows, spoken, strict=True):
        values = [v for v in cells if v != "–"]
        assert words.startswith(f"{name}: ")
        assert all(v in words for v in values), (words, values)
    assert holds in " ".join(spoken) or holds in figure.inner_text()

    # by pointer: the picture's middle reads one of its points, shown beside it; gone when the pointer leaves
    page.locator("body").click(position={"x": 2, "y": 2})
    slider.evaluate("e => e.blur()")
    slider.scroll_into_view_if_needed()
    box = slider.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    shown = figure.get_by_test_id("read-out")
    by_pointer = slider.get_attribute("aria-valuetext")
    assert by_pointer in spoken
    expect(shown).to_contain_text(str(by_pointer).split(":")[0])
    page.mouse.move(2, 2)
    expect(slider).not_to_have_attribute("aria-valuetext", str(by_pointer))


@pytest.mark.parametrize("where", ["build", "trace"])
def test_a_picture_reads_out_by_finger(open_page: Open, where: str):
    path, label, _ = PICTURES[where]
    page = open_page(path)
    page.set_viewport_size({"width": 390, "height": 844})
    slider, _figure = figure_of(page, label)
    expect(slider).to_be_visible()
    slider.scroll_into_view_if_needed()
    box = slider.bounding_box()
    assert box
    at = {"x": box["x"] + box["width"] * 0.3, "y": box["y"] + min(box["height"] * 0.3, 200)}
    session = page.context.new_cdp_session(page)
    session.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [at]})
    session.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
    expect(slider).not_to_have_attribute("aria-valuetext", str(slider.get_attribute("aria-valuenow")))
    words = slider.get_attribute("aria-valuetext") or ""
    assert "arrow keys" not in words  # a point is read, and stays when the finger is lifted


def test_views_come_back_by_their_address(open_page: Open):
    page = open_page("/jobs/1/trace?side=tests")
    expect(page.get_by_role("heading", name="What the tests say")).to_be_visible()
    page.locator("body").press("3")
    page.get_by_role("group", name="Surfaces").get_by_role("button", name="Roof").click()
    page.get_by_role("group", name="Surfaces").get_by_role("button", name="Bulkhead").click()
    page.get_by_role("button", name="Edit layer 1").click()
    expect(page.get_by_role("dialog", name="Layer 1")).to_be_visible()
    page.reload()
    expect(page.get_by_role("dialog", name="Layer 1")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("button", name="Roof", pressed=True)).to_be_visible()
    # the surface in hand goes along to its pieces; the other stages are as they were left
    page.locator("body").press("4")
    expect(page.get_by_role("button", name="Roof", pressed=True)).to_be_visible()
    page.locator("body").press("2")
    expect(page.get_by_role("heading", name="What the tests say")).to_be_visible()
    # any address opens; one that leads nowhere says so
    for path, says in (("/", "jobs in hand"), ("/shelf", ""), ("/no/such/page", "nothing at this address")):
        answer = page.goto(page.url.split("/", 3)[0] + "//" + page.url.split("/", 3)[2] + path)
        assert answer
        assert answer.status == 200
        assert "text/html" in answer.headers["content-type"]
        expect(page.get_by_role("heading", level=1)).to_contain_text(says)
