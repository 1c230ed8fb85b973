"""Everything can be reached without a mouse; pages, pictures and what is picked come back by their address."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

Open = Callable[..., Page]


def test_the_keyboard_alone_takes_a_reading_and_pulls_a_gate(open_page: Open):
    page = open_page("/jobs/3/listen")
    expect(page.get_by_role("heading", level=1)).not_to_have_text("")
    page.keyboard.press("n")
    expect(page.get_by_placeholder("74.8")).to_be_focused()
    page.keyboard.type("37,4")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="2 read")).to_be_visible()
    page.goto(page.url.replace("jobs/3/listen", "jobs/1/trace"))
    knob = page.get_by_role("slider", name="Close Wheel arches")
    knob.focus()
    before = page.get_by_test_id("at-ear").text_content()
    page.keyboard.press("PageDown")
    expect(page.get_by_test_id("at-ear")).not_to_have_text(before)
