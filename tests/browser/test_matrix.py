"""Every view on every screen it is held on: nothing scrolls sideways, lies on something else or is too small to hit.

A short form runs with the other tests; ``make matrix`` (MATRIX=full) walks all of it.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

Open = Callable[..., Page]
FULL = os.environ.get("MATRIX") == "full"
HERE = Path(__file__).parent
MEASURE = (HERE / "layout.js").read_text("utf-8").split("\n", 1)[1].rstrip().rstrip(";")
AXE = HERE.parents[1] / "web" / "node_modules" / "axe-core" / "axe.min.js"

SIZES = {
    "phone": (390, 844), "tablet": (768, 1024), "tablet upright": (820, 1180), "tablet flat": (1024, 768),
    "desk": (1280, 800), "desk at 200 %": (640, 400), "small phone": (320, 640), "phone flat": (844, 390),
    "phone, text at 200 %": (391, 844),
}
LARGE_TEXT = "phone, text at 200 %"
SHORT = ("phone", "tablet flat")
GLOVES = ("listen", "fit")

Act = Callable[[Page], Any]


def press(name: str, role: str = "button", nth: int = 0) -> Act:
    """Presses a control by its name."""
    return lambda page: page.get_by_role(role, name=name).nth(nth).click()  # type: ignore[arg-type]


def side(name: str) -> Act:
    """Turns to a part of the panel."""
    return lambda page: page.locator("aside .ant-segmented-item-label", has_text=name).first.click()


def unfold(text: str) -> Act:
    """Opens what is folded up."""
    return lambda page: page.locator("summary", has_text=text).first.click()


def both(*acts: Act) -> Act:
    """One after another."""
    return lambda page: [a(page) for a in acts]


def open_layer(page: Page) -> None:
    page.get_by_role("button", name="Edit layer 1").click()
    expect(page.get_by_role("button", name="Take out")).to_be_visible()


def name_oneself(page: Page) -> None:
    """The name a device asks for once."""
    name = page.get_by_label("Name", exact=True)
    if name.count():
        name.fill("Ida")
        page.get_by_role("button", name="That is me").click()


def come_to_work(page: Page) -> None:
    """A name given and the hazards of the day read, where they are asked for."""
    expect(page.get_by_role("article").or_(page.get_by_label("Name", exact=True))
           .or_(page.get_by_role("region", name="Before anything else"))).to_be_visible()
    name_oneself(page)
    if page.get_by_role("region", name="Before anything else").count():
        page.get_by_role("button", name="Read and understood").click()
    expect(page.get_by_role("article")).to_be_visible()


def find_plan(page: Page) -> None:
    page.get_by_role("button", name="Find a plan", exact=True).first.click()
    expect(page.get_by_role("button", name="Find again")).to_be_visible(timeout=240_000)


def shaped(page: Page) -> None:
    page.get_by_role("button", name="+ surface").click()
    page.get_by_role("combobox", name="Its shape").click()
    page.get_by_text("corners taped to one another").click()
    page.get_by_label("Lengths between corners").fill("AB 800, AC 600, BC 1000")
    page.get_by_label("Corners in order round the edge").fill("ABC")
    expect(page.locator(".drawn-shape")).to_be_visible()


VIEWS: dict[str, tuple[str, Act | None]] = {
    "board": ("/", None),
    "new job": ("/", press("New job")),
    "nowhere": ("/nowhere", None),
    "listen": ("/jobs/1/listen", None),
    "listen: places": ("/jobs/1/listen", unfold("Places and conditions")),
    "listen: context": ("/jobs/1/listen?panel=context", None),
    "listen: goal": ("/jobs/1/listen?panel=goal", None),
    "listen: heard": ("/jobs/1/listen?panel=heard", None),
    "listen: signals": ("/jobs/1/listen", unfold("Test signals")),
    "listen: bands": ("/jobs/1/listen", press("bands …")),
    "listen: live": ("/jobs/2/listen", press("live meter")),
    "listen: a room": ("/jobs/3/listen", None),
    "trace": ("/jobs/1/trace", None),
    "trace: tests": ("/jobs/1/trace?side=tests", None),
    "trace: found": ("/jobs/2/trace?side=found", None),
    "trace: desk": ("/jobs/2/trace?side=desk&desk=all", None),
    "trace: a calculation": ("/jobs/2/trace?side=desk&desk=hood", None),
    "trace: add a path": ("/jobs/1/trace", press("Add a path")),
    "trace: usual ways": ("/jobs/1/trace", press("Usual ways in")),
    "trace: a path": ("/jobs/1/trace?path=1", None),
    "trace: a panel measured": ("/jobs/1/trace?path=1", press("Measure and draw it")),
    "trace: add a test": ("/jobs/1/trace?side=tests", press("Add a test")),
    "trace: add a rattle": ("/jobs/2/trace?side=found", press("Add a rattle")),
    "trace: add a measure": ("/jobs/2/trace", press("Add a measure")),
    "trace: by octave": ("/jobs/2/trace", both(press("Add a measure"), lambda p: p.get_by_text("by octave", exact=True).click())),
    "trace: working": ("/jobs/1/trace", press("Show the working")),
    "trace: a loudspeaker": ("/jobs/4/trace", None),
    "build": ("/jobs/1/build?surface=3", None),
    "build: a layer": ("/jobs/1/build?surface=3", open_layer),
    "build: about": ("/jobs/1/build?surface=3", unfold("About this surface")),
    "build: another surface": ("/jobs/1/build", press("+ surface")),
    "build: another surface, taped": ("/jobs/1/build", shaped),
    "build: before a plan": ("/jobs/1/build?view=plan", None),
    "build: a plan": ("/jobs/1/build?view=plan", find_plan),
    "build: onto what stands": ("/jobs/3/build", None),
    "build: how it is held": ("/jobs/1/build?surface=3", both(open_layer, unfold("How it is held"))),
    "build: absorbers": ("/jobs/5/build?view=builds", None),
    "build: box": ("/jobs/6/build?view=builds", None),
    "build: side by side": ("/jobs/3/build?view=table", None),
    "build: coverage": ("/jobs/1/build?surface=2&view=coverage", None),
    "build: schools": ("/jobs/1/build?surface=2&view=schools", None),
    "bench": ("/bench", None),
    "shelf": ("/shelf", None),
    "shelf: a material": ("/shelf?material=butyl-foil", None),
    "shelf: a new one": ("/shelf?material=new", None),
    "shelf: the workshop": ("/shelf?of=workshop", None),
    "cut": ("/jobs/1/cut?surface=2", None),
    "cut: kept clear": ("/jobs/1/cut?surface=2", unfold("kept clear")),
    "cut: a zone": ("/jobs/1/cut?surface=2", press("Keep clear …")),
    "cut: points": ("/jobs/1/cut?surface=2", press("Outline by points")),
    "cut: a sheet": ("/jobs/1/cut?surface=1&sheet=4", None),
    "build: the offer": ("/jobs/1/build?view=offer", None),
    "cut: apart": ("/jobs/1/cut?surface=1&layer=apart", None),
    "cut: strips": ("/jobs/4/cut?surface=1&layer=2", None),
    "cut: access": ("/jobs/4/cut?surface=1", press("Through an opening")),
    "cut: template": ("/jobs/1/cut?surface=2", press("Keep as a template")),
    "cut: a piece": ("/jobs/1/cut?surface=2", press("Add a piece")),
    "fit": ("/jobs/2/fit", come_to_work),
    "fit: hazards": ("/jobs/2/fit", lambda page: name_oneself(page)),
    "fit: nothing yet": ("/jobs/3/fit", None),
    "fit: strip": ("/jobs/1/fit?step=strip+surface+2", None),
    "fit: fixings": ("/jobs/1/fit?step=log+fixings+surface+2", press("six-lobe screw")),
    "fit: pieces": ("/jobs/1/fit?step=apply+surface+2+layer+1", unfold("More about this step")),
    "fit: checks": ("/jobs/1/fit?step=check+function+surface+2", None),
    "fit: refit": ("/jobs/1/fit?step=refit+surface+2", None),
    "fit: clocks": ("/jobs/2/fit", both(come_to_work, press("Side walls: elastic acoustic sealant"), press("working time"))),
    "prove": ("/jobs/1/prove", None),
    "prove: the hood": ("/jobs/2/prove", None),
    "prove: loudspeakers": ("/jobs/4/prove", None),
    "prove: a figure": ("/jobs/2/prove", press("note a figure")),
    "words": ("/jobs/1/listen", lambda page: page.locator("body").press("?")),
    "find": ("/jobs/1/listen", lambda page: page.locator("body").press("/")),
}
AXED = tuple(VIEWS) if FULL else ("listen", "build: a layer", "build: the offer", "fit: pieces", "prove")
SHORTER = ("board", "listen", "trace", "build: a layer", "build: the offer", "cut: a zone", "fit: pieces", "prove")


def settled(page: Page) -> None:
    expect(page.locator("h1, h2").first).not_to_have_text("")
    page.wait_for_load_state("networkidle")


STILL = """() => document.getAnimations().every(a =>
    a.playState !== "running" || a.effect.getComputedTiming().iterations === Infinity)"""


def act_on(page: Page, act: Act | None) -> None:
    """Open what a view is about, and wait until it has come in: half faded in, nothing has its contrast yet."""
    if act:
        act(page)
        page.wait_for_timeout(300)
        page.wait_for_function(STILL)


@pytest.mark.parametrize("view", VIEWS if FULL else SHORTER)
def test_nothing_overflows_overlaps_or_is_too_small(open_page: Open, view: str):
    path, act = VIEWS[view]
    page = open_page(path)
    settled(page)
    act_on(page, act)
    least = 44 if any(f"/{stage}" in path for stage in GLOVES) else 24
    wrong = {}
    for name in SIZES if FULL else SHORT:
        width, height = SIZES[name]
        if name == LARGE_TEXT and "/fit" not in path:
            continue
        page.evaluate("size => { document.documentElement.style.fontSize = size; }", "200%" if name == LARGE_TEXT else "")
        page.set_viewport_size({"width": width, "height": height})
        for _ in range(20):  # pictures follow their width a moment later
            page.wait_for_timeout(250)
            found = page.evaluate(f"({MEASURE})({least})")
            if found["sideways"] <= 0 and not found["overlaps"] and not found["small"]:
                break
        else:
            wrong[name] = found
    assert wrong == {}, view


def test_the_head_of_a_phone_has_the_goals_figures_and_its_menu_leads_everywhere(open_page: Open):
    page = open_page("/jobs/1/trace")
    page.set_viewport_size({"width": 390, "height": 844})
    figures = page.locator(".goal-figures")
    expect(figures).to_have_text("found 74.8goal 71.3now 70.3dB(A)")
    head = page.locator(".top").bounding_box()
    assert head
    assert head["height"] < 56
    figures.click()
    expect(page.get_by_role("slider", name="Goal rule")).to_be_visible()
    page.get_by_role("button", name="choose another").click()
    page.get_by_role("dialog").get_by_role("link", name="5 Fit").click()
    action = page.get_by_role("button", name="Not done after all").first
    expect(action).to_be_visible()
    box = action.bounding_box()
    assert box
    assert box["y"] > 844 - 80
    page.get_by_role("button", name="Menu").click()
    page.get_by_role("button", name="/ find").click()
    expect(page.get_by_placeholder("a surface, a path")).to_be_focused()


@pytest.mark.broad
@pytest.mark.parametrize("scheme", ["light", "dark"] if FULL else ["light"])
@pytest.mark.parametrize("width", [1280, 390] if FULL else [390])
def test_axe_finds_nothing(open_page: Open, scheme: str, width: int):
    page = open_page("/")
    page.evaluate("s => localStorage.setItem('scheme', s)", scheme)
    page.set_viewport_size({"width": width, "height": 800})
    source = AXE.read_text("utf-8")
    base = page.url.rstrip("/")
    wrong = {}
    for view, (path, act) in VIEWS.items():
        if not FULL and view not in AXED:
            continue
        page.goto(base + path)
        settled(page)
        act_on(page, act)
        page.evaluate(source)
        found = page.evaluate(
            "async () => (await axe.run(document, {rules: {'label-content-name-mismatch': {enabled: true}}}))"
            ".violations.map(v => `${v.id}: ${v.nodes.slice(0, 3).map(n => n.html.slice(0, 120)).join(' | ')}`)")
        if found:
            wrong[view] = found
    assert wrong == {}
