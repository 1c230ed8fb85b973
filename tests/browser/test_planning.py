"""Find a plan in the browser: watched, stopped, pinned, struck, found again, picked, heard without a gap, taken and undone."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from serving import taken_in
from signals import until
from sphagnum.demo import van

CLOCK = """
window.heard = { starts: [], turns: [] };
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (when, ...more) {
  window.heard.starts.push({ when, loop: this.loop, seconds: this.buffer.duration });
  return start.call(this, when, ...more);
};
const turn = AudioParam.prototype.setTargetAtTime;
AudioParam.prototype.setTargetAtTime = function (value, at, slope) {
  window.heard.turns.push({ value, at, slope });
  return turn.call(this, value, at, slope);
};
"""
NUMBER = re.compile(r"[−+]?\d+\.\d")


def figure(text: str) -> float:
    found = NUMBER.search(text)
    assert found, text
    return float(found[0].replace("−", "-"))


def test_the_best_plan_of_a_small_job_is_taken_and_undone(open_page: Callable[..., Page]):
    page = open_page("/")
    rows = {name: van()[name] for name in ("job", "positions", "conditions", "rounds", "readings", "goals")}
    rows |= {name: van()[name][:1] for name in ("surfaces", "paths")} | {"job": rows["job"] | {"name": "Two arches"}}
    number = taken_in(page, page.url.rstrip("/"), rows)
    page.goto(f"{page.url}jobs/{number}/build")
    headline = page.get_by_role("heading", level=1)
    expect(headline).to_contain_text("nothing planned yet")
    before = headline.inner_text()
    page.get_by_role("button", name="Find a plan for the whole job").click()
    page.get_by_role("button", name="Find a plan", exact=True).click()
    expect(page.get_by_role("button", name="Find again")).to_be_visible(timeout=240_000)
    page.get_by_role("slider", name=re.compile("^Plans")).press("End")
    less = -figure(page.locator("aside p").first.inner_text())
    page.get_by_role("button", name="Take into Build").click()
    expect(headline).to_contain_text(re.compile(rf"−{less:.1f} ± \d\.\d dB at the ear"), timeout=240_000)
    page.get_by_role("button", name="undo").click()
    expect(headline).to_have_text(before, timeout=240_000)


@pytest.mark.broad
def test_a_plan_is_found_stopped_found_again_picked_heard_taken_and_undone(open_page: Callable[..., Page]):
    page = open_page("/jobs/1/build")
    page.add_init_script(CLOCK)
    page.get_by_role("button", name="Find a plan for the whole job").click()
    # the van is finished: planned as if nothing were laid yet, there is something to find
    page.get_by_role("button", name="plan as if nothing were laid yet").click()
    page.get_by_role("button", name="Find a plan", exact=True).click()
    expect(page.get_by_role("status")).to_contain_text("stacks compared", timeout=240_000)  # layouts may be before it
    bar = page.get_by_role("progressbar")
    first = bar.get_attribute("aria-valuenow") or "0"
    expect(page.get_by_text("Surface by surface")).to_be_visible()  # a first answer while it goes on
    expect(bar).not_to_have_attribute("aria-valuenow", first, timeout=240_000)
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_text("Stopped. This is the best it had by then.")).to_be_visible()

    # the roof stays as planned, one material is left out
    roof = page.get_by_role("row", name=re.compile("^Roof"))
    roof.get_by_role("button", name="keep as planned now").click()
    expect(roof.get_by_role("button", name="kept as planned now")).to_have_attribute("aria-pressed", "true")
    page.goto(page.url + "&strike=stone-wool,stone-wool-dense,stone-wool-light")
    again = page.get_by_role("button", name="Find again")
    again.click()
    expect(page.get_by_role("progressbar")).to_be_visible()
    expect(again).to_be_visible(timeout=240_000)
    expect(page.get_by_role("row", name=re.compile("^Roof"))).to_contain_text("as it is")
    assert "stone wool" not in (page.locator("aside").inner_text().lower())

    # a plan that takes no more of anything than the one made by hand, and gives at least as much
    page.get_by_role("button", name="No more of anything than planned now").click()
    beside = page.locator("aside .note.good")
    expect(beside).to_contain_text(re.compile(r"quieter|the same; .* less"))
    for word in ("weight", "money", "work"):
        assert re.search(rf"{word} (the same|[\d.]+ \S+ less|\S+ \d+ less)", beside.inner_text()), beside.inner_text()
    less = -figure(page.locator("aside p").first.inner_text())
    assert less >= 3.5
    expect(page.locator("aside")).to_contain_text("left alone, it would be")

    # the picture is picked from by keyboard too: at its beginning stands the plan that gives least
    picture = page.get_by_role("slider", name=re.compile("^Plans"))
    picture.focus()
    picture.press("Home")
    expect(page.locator("aside p").first).not_to_have_text(re.compile(f"^−{less:.1f} dB"))
    page.get_by_role("button", name="No more of anything than planned now").click()

    # heard: both begin at one instant of the audio clock, and a switch only crosses their gains
    page.get_by_role("group", name="Listen to it").get_by_role("button", name="Play").click()
    expect(page.get_by_role("group", name="Listen to it").get_by_role("button", name="Stop")).to_be_visible()
    until(lambda: len(page.evaluate("window.heard.starts")) > 1)
    page.get_by_role("button", name="After", exact=True).click()
    page.get_by_role("button", name="Before", exact=True).click()
    heard = page.evaluate("window.heard")
    assert len(heard["starts"]) == 2
    assert heard["starts"][0] == heard["starts"][1], "they do not begin together or are not of one length"
    assert heard["starts"][0]["loop"]
    for one, other in (heard["turns"][0:2], heard["turns"][2:4]):
        assert (one["at"], one["slope"]) == (other["at"], other["slope"])
        assert one["value"] + other["value"] == 1, "between them is a gap"
    expect(page.locator("aside")).to_contain_text("small loudspeakers")

    # taken into Build it is what stands there, and one undo takes all of it back
    page.get_by_role("button", name="Take into Build").click()
    # the sentence says the very figure the plan was picked for, with its width
    said = re.compile(rf"−{less:.1f} ± \d\.\d dB at the ear")
    expect(page.get_by_role("heading", level=1)).to_contain_text(said, timeout=240_000)
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("−3.5 ± 1.7 dB at the ear", timeout=240_000)
