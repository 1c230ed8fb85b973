"""What a plan promises, as it is seen: its width on the tape, in the sentence, and a box that would cook its machine."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect


@pytest.mark.broad
def test_a_promise_has_its_width_wherever_it_is_read(open_page: Callable[..., Page]) -> None:
    page = open_page("/jobs/1/trace")
    expect(page.get_by_text("predicted 71.3 ± 1.8")).to_be_visible()
    expect(page.get_by_text("The plan gives −3.5 dB, 95 %: −5.2 to −1.9.")).to_be_visible()
    expect(page.get_by_role("link", name=re.compile("3 Build"))).to_contain_text("−3.5 ± 1.7 dB at 44.9 kg")
    page.get_by_role("figure", name=re.compile("^Goal rule")).get_by_role("button", name="table").click()
    expect(page.get_by_role("row", name=re.compile("^predicted"))).to_contain_text("71.3 dB(A) ± 1.8")
    page.goto(page.url.replace("/trace", "/build"))
    expect(page.get_by_role("heading", level=1)).to_contain_text("The plan so far: −3.5 ± 1.7 dB at the ear.")
    page.goto(page.url.replace("/build", "/prove"))
    expect(page.get_by_text("Predicted 71.3 ± 1.8 , measured 70.3 dB(A).").or_(
        page.get_by_text("Predicted 71.3 ± 1.8, measured 70.3 dB(A)."))).to_be_visible()


def test_a_box_without_its_fan_is_too_warm_and_a_fan_typed_in_cools_it(open_page: Callable[..., Page]) -> None:
    page = open_page("/jobs/2/build")
    warm = page.locator(".meter", has_text="Warmer inside than outside")
    expect(warm).to_contain_text("13.7 of 15 K")
    expect(warm).to_contain_text("400 cm² of vents, a fan of 400 m³/h")
    page.goto(page.url.replace("/build", "/trace"))
    fan = page.get_by_role("article").filter(has_text="Fan in the outlet")
    expect(fan).to_be_visible()
    fan.get_by_role("button", name=re.compile("in the plan")).first.click()
    page.goto(page.url.replace("/trace", "/build"))
    expect(warm).to_contain_text("by its own buoyancy, no fan")
    expect(page.get_by_text(re.compile(r"It gets \d+ K warmer in the box than outside; the machine stands 15 K"))).to_be_visible()
    page.goto(page.url.replace("/build", "/trace"))
    page.get_by_role("button", name="Add a measure").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What").fill("Larger fan")
    dialog.get_by_label("Takes off").fill("0")
    dialog.get_by_label("Air it moves, of a fan").fill("600")
    dialog.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("article").filter(has_text=re.compile("^Larger fan"))).to_be_visible()
    page.goto(page.url.replace("/trace", "/build"))
    expect(warm).to_contain_text("a fan of 600 m³/h")
    expect(page.get_by_text("warmer in the box than outside")).to_have_count(0)
