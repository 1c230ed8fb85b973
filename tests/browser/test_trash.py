"""A job is thrown away from its own page and brought back from the board."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect
from test_measuring import new_job

Open = Callable[..., Page]


@pytest.mark.broad
def test_a_job_is_thrown_away_and_brought_back(open_page: Open):
    page = open_page("/", expect_refusals=True)  # what still asks about the job as it goes is told that it went
    new_job(page)
    name = page.title() and page.locator(".top .where").inner_text().split(" ")[0]
    number = page.url.split("/jobs/")[1].split("/")[0]
    page.goto(page.url.split("?")[0] + "?panel=goal")
    page.get_by_role("button", name="Throw this job away").click()
    page.get_by_role("button", name="Throw it away").click()
    expect(page.get_by_role("button", name="Thrown away (1)")).to_be_visible()
    expect(page.locator(".job-card").first).to_be_visible()
    expect(page.locator(f".job-card[href^='/jobs/{number}/']")).to_have_count(0)
    before = page.locator(".job-card").count()
    page.get_by_role("button", name="Thrown away (1)").click()
    page.get_by_role("dialog").get_by_role("button", name="Bring back").click()
    expect(page.get_by_text("Nothing is here.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator(".job-card")).to_have_count(before + 1)
    expect(page.locator(".job-card").filter(has_text=name).first).to_be_visible()
