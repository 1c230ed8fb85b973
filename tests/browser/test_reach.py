"""Everything can be reached and named without a mouse; what is meant for gloves is large; dark and narrow hold."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

Open = Callable[..., Page]
STAGES = ("listen", "trace", "build", "cut", "fit", "prove")

NAMELESS = """() => [...document.querySelectorAll('button, a[href], input:not([hidden]), select, [role=slider], [role=combobox]')]
  .filter(e => e.getClientRects().length && !e.closest('[aria-hidden=true]'))
  .filter(e => !(e.getAttribute('aria-label') || e.getAttribute('aria-labelledby') || e.textContent?.trim() || e.title
    || e.labels?.length || e.closest('label')?.textContent.trim() || e.placeholder))
  .map(e => e.outerHTML.slice(0, 140))"""
FAINT = """() => {
  const parse = c => c.match(/[\\d.]+/g).map(Number);
  const light = ([r, g, b]) => [r, g, b].map(v => v / 255).map(v => v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
    .reduce((s, v, i) => s + v * [0.2126, 0.7152, 0.0722][i], 0);
  const ground = e => { for (; e; e = e.parentElement) { const c = parse(getComputedStyle(e).backgroundColor);
    if (c.length < 4 || c[3] > 0.99) return c; } return [255, 255, 255]; };
  return [...document.querySelectorAll('h1, h2, h3, p, span, b, td, th, button, a, summary')]
    .filter(e => e.getClientRects().length && !e.closest('[disabled], [aria-hidden], .ant-select, svg') &&
      [...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim()))
    .map(e => { const s = getComputedStyle(e); const [a, b] = [light(parse(s.color)), light(ground(e))];
      return [(Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05), e.textContent.trim().slice(0, 50)]; })
    .filter(([ratio]) => ratio < 4.5)
}"""


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_all_controls_have_names_and_text_has_contrast(open_page: Open, scheme: str):
    page = open_page("/")
    page.evaluate("s => localStorage.setItem('scheme', s)", scheme)
    page.goto(f"{page.url}jobs/1/listen")
    for number, stage in enumerate(STAGES, start=1):
        page.locator("body").press(str(number))
        expect(page.locator(f"main[data-stage={stage}]").get_by_role("heading", level=1)).not_to_have_text("")
        page.wait_for_load_state("networkidle")
        assert page.evaluate(NAMELESS) == [], stage
        assert page.evaluate(FAINT) == [], stage  # WCAG 2.2, 1.4.3: 4.5 to 1
        for side in ("Tests", "Found", "Desk") if stage == "trace" else ():
            page.locator("aside .ant-segmented-item-label", has_text=side).click()
            page.wait_for_load_state("networkidle")
            assert page.evaluate(NAMELESS) == [], side
            assert page.evaluate(FAINT) == [], side


@pytest.mark.parametrize(("path", "targets"), [
    ("/jobs/2/fit", [".done-button", ".time-button", ".step"]), ("/jobs/2/listen", [".cell", ".chip.wide", ".places summary"])])
def test_targets_for_gloved_hands_are_large(open_page: Open, path: str, targets: list[str]):
    page = open_page(path)
    expect(page.get_by_role("heading", level=1)).not_to_have_text("")
    if path.endswith("listen"):
        page.get_by_role("button", name="live meter").click()
        expect(page.get_by_test_id("live")).to_have_attribute("data-state", "live")
    for selector in targets:
        for box in (e.bounding_box() for e in page.locator(selector).all()):
            assert box
            assert box["height"] >= 44, selector


def test_a_tablet_in_portrait_has_no_sideways_scroll(open_page: Open):
    page = open_page("/")
    page.set_viewport_size({"width": 820, "height": 1180})
    for stage in STAGES:
        page.goto(f"{page.url.split('/jobs')[0].rstrip('/')}/jobs/1/{stage}")
        expect(page.get_by_role("heading", level=1)).not_to_have_text("")
        page.wait_for_load_state("networkidle")
        assert page.evaluate("() => document.documentElement.scrollWidth - innerWidth") <= 0, stage


def test_the_keyboard_alone_takes_a_reading_and_pulls_a_gate(open_page: Open):
    page = open_page("/jobs/3/listen")
    expect(page.get_by_role("heading", level=1)).not_to_have_text("")
    page.keyboard.press("n")
    expect(page.get_by_placeholder("74.8")).to_be_focused()
    page.keyboard.type("37,4")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="2 read")).to_be_visible()
    page.goto(page.url.replace("jobs/3/listen", "jobs/1/trace"))
    knob = page.get_by_role("slider").first
    knob.focus()
    before = page.get_by_test_id("at-ear").text_content()
    page.keyboard.press("PageDown")
    expect(page.get_by_test_id("at-ear")).not_to_have_text(before)
