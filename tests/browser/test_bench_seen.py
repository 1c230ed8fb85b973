"""The Bench in the page: samples named, an order drawn, readings typed one after another, a tie told."""

from __future__ import annotations

import random
import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from signals import until

Open = Callable[..., Page]
KEEPS = {"Board": (16, 20, 25, 29, 33, 34), "Board, glued": (16.1, 20.1, 25, 29.1, 33, 34.1),
         "Board, vinyl": (22, 27, 32, 37, 41, 42)}


def test_samples_are_read_in_a_drawn_order_and_a_tie_is_told(open_page: Open, base: str):
    page = open_page("/", expect_refusals=True)
    page.get_by_role("link", name="The Bench").click()
    page.get_by_role("button", name="+ a series").click()
    for name in KEEPS:
        another = page.get_by_label("Another sample")
        another.fill(name)
        another.press("Enter")
        expect(another).to_have_value("")
        expect(page.locator("summary").get_by_text(name, exact=True)).to_be_visible()

    def kept() -> dict[str, Any]:
        return dict(page.request.get(f"{base}/api/workshop").json()["document"]["series"][-1])

    levels = page.get_by_label("Levels, low to high")
    levels.fill("71 72")
    levels.press("Enter")
    expect(page.get_by_text(re.compile("Type 6 levels in dB, from 125 Hz up"))).to_be_visible()
    rng = random.Random(4)
    for n in range(13):
        card = page.request.get(f"{base}/api/bench").json()["cards"][-1]
        expect(page.get_by_text(f"{n} of 13 read")).to_be_visible()
        expect(page.get_by_text(card["next"], exact=True)).to_be_visible()
        of = KEEPS.get(card["next_sample"] or "", (0,) * 6)
        put = rng.gauss(0, 0.4) if card["next_sample"] else 0.0
        levels.fill(" ".join(f"{86 - 0.05 * n - x + put:.1f}" for x in of))
        levels.press("Enter")
        until(lambda n=n: len(kept()["runs"]) == n + 1)  # type: ignore[misc]
    expect(page.get_by_role("heading", level=1)).to_contain_text("Board, vinyl keeps back most.")
    groups = page.get_by_label("Groups that nothing tells apart, the best first").get_by_role("listitem")
    expect(groups).to_have_count(2)
    expect(groups.last).to_contain_text("a tie")
    assert [r["sample"] for r in kept()["runs"]].count("Board, vinyl") == 3
    page.get_by_role("button", name="Take the last reading back").click()
    expect(page.get_by_text("12 of 13 read")).to_be_visible()
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_text("12 of 13 read")).to_have_count(0)
