"""Light and dark: each looks as it does when a page opens in it, however often they were changed; styles met once stay."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

Open = Callable[..., Page]
STAGES = ("listen", "trace", "build", "cut", "fit", "prove")
LOOK = """() => [...document.querySelectorAll("body, main, h1, .ant-app, .ant-input, .ant-select, .ant-btn, .ant-segmented")]
  .map((e) => { const c = getComputedStyle(e);
    return [e.className || e.tagName, c.backgroundColor, c.color, c.borderColor, c.borderRadius, c.fontSize].join(" "); })"""
WATCH = """() => {
  window.styles = 0;
  new MutationObserver((seen) => {
    for (const m of seen) for (const n of [...m.addedNodes, ...m.removedNodes]) if (n.nodeName === "STYLE") window.styles++;
  }).observe(document, { childList: true, subtree: true });
}"""


def through_the_stages(page: Page) -> None:
    for key, stage in enumerate(STAGES, start=1):
        page.evaluate("document.activeElement?.blur()")
        page.keyboard.press(str(key))
        expect(page.locator(f"main[data-stage={stage}] h1")).not_to_be_empty()


def looks(page: Page) -> list[str]:
    expect(page.locator("main[data-stage=listen] h1")).not_to_be_empty()
    page.locator(".ant-segmented").first.wait_for()
    return list(page.evaluate(LOOK))


def test_each_scheme_looks_as_when_a_page_opens_in_it_and_no_style_goes(open_page: Open) -> None:
    page = open_page("/jobs/1/listen")
    fresh = {}
    for scheme in ("dark", "light"):
        page.evaluate("s => localStorage.setItem('scheme', s)", scheme)
        page.reload()
        fresh[scheme] = looks(page)
    assert len(fresh["light"]) > 5
    assert fresh["dark"] != fresh["light"]
    for scheme in ("dark", "light", "dark"):
        page.get_by_role("button", name=scheme, exact=True).click()
        page.wait_for_function("s => document.documentElement.dataset.scheme === s", arg=scheme)
        assert looks(page) == fresh[scheme], scheme
    through_the_stages(page)
    page.evaluate(WATCH)
    through_the_stages(page)
    assert page.evaluate("window.styles") == 0  # what is dropped is worked out anew, and all that stands is styled again
