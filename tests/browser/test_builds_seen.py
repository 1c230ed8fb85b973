"""Built things in the page: a hood from its name plate to its cut sheet, a platform, a door's holes, priced and in the order."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from test_rooms_seen import ROOMS, document

from serving import taken_in
from signals import until
from sphagnum.demo_builds import blower, mixer

Open = Callable[..., Page]


def fill(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(re.compile(f"^{re.escape(label)}")).first
    field.fill(text)
    field.press("Enter")
    expect(page.get_by_text("all changes kept")).to_be_visible()


@pytest.mark.broad
def test_a_hood_from_its_name_plate_to_its_cut_sheet(open_page: Open, base: str):
    page = open_page("/", expect_refusals=True)
    raw = blower()
    number = taken_in(page, base, ROOMS | raw | {"builds": []})
    page.goto(f"{base}/jobs/{number}/build?view=builds")
    page.get_by_role("button", name="Begin with a box round a machine").click()
    said = page.get_by_role("heading", level=1)
    # what its plate says makes it too hot: it is refused in words, beside its figures, and counts for nothing
    expect(said).to_contain_text("the machine bears 45 °C")
    expect(page.get_by_text("It counts for nothing until then.")).to_be_visible()
    fill(page, "It takes", "600")
    fill(page, "It bears inside", "60")
    expect(said).to_contain_text("the machine bears 60 °C")

    # the trade: a point with a fan is picked, and the box is that one
    spots = page.get_by_label("Decibels against degrees").get_by_role("button")
    picked = spots.filter(has_text=re.compile(r"fan of")).last
    words = picked.get_attribute("aria-label") or ""
    picked.click()
    degrees = re.search(r"(\d+) °C", words)
    assert degrees
    expect(said).to_contain_text(f"and {degrees[1]} °C inside")
    expect(page.get_by_text(re.compile("predicted"))).to_be_visible()
    kept = document(page, base, number)["builds"][0]["given"]
    assert f"fan of {kept['fan_m3_h']:.0f}" in words

    # a door is added; one that is too large is refused at its field, and nothing is lost
    page.get_by_role("button", name="+ door").click()
    page.get_by_text("door, front: 450 × 450 mm").click()
    fill(page, "Leaf, wide", "5000")
    expect(page.get_by_text(re.compile("do not go into the front")).first).to_be_visible()
    fill(page, "Leaf, wide", "420")
    expect(said).to_contain_text("dB(A) less")
    expect(page.get_by_role("list", name="What leaves by each way")).to_contain_text("air in at the left")

    # the same again, 200 mm wider, beside the first: only what is chosen counts
    page.get_by_role("button", name="Another like it").click()
    expect(page.get_by_role("button", name="Hood, another", exact=True)).to_have_attribute("aria-pressed", "true")
    fill(page, "Length", "820")
    until(lambda: document(page, base, number)["builds"][1]["given"]["machine"]["size_mm"][0] == 820)
    builds = page.request.get(f"{base}/api/jobs/{number}/builds-view").json()["cards"]
    wide = [next(p for p in c["built"]["parts"] if p["name"] == "top")["size_mm"][0] for c in builds]
    assert wide[1] == wide[0] + 200
    assert [c["chosen"] for c in builds] == [True, False]

    page.goto(f"{base}/jobs/{number}/cut")
    expect(page.get_by_text(re.compile("Medium-density fibreboard")).first).to_be_visible()
    until(lambda: any(b["material"] == "bulb-seal" for b in page.request.get(f"{base}/api/jobs/{number}/cut").json()["buy"]))
    until(lambda: not page.request.get(f"{base}/api/jobs/{number}/cut").json()["work"])
    view = page.request.get(f"{base}/api/jobs/{number}/cut").json()
    cut = sorted({x for sheet in view["sheets"] for p in sheet["pieces"] for x in (p["label"], *p["also"])})
    assert cut == sorted(f"B{builds[0]['id']}-{p['id']}" for p in builds[0]["built"]["parts"])
    steps = page.request.get(f"{base}/api/jobs/{number}/fit").json()["steps"]
    assert [s["phase"] for s in steps if s["ref"]["build_id"]] == ["build", "cover", "hang"]
    told = page.request.get(f"{base}/api/jobs/{number}/report.html").text()
    assert "Hood" in told


def test_a_platform_and_a_door_s_holes_are_priced_cut_and_in_the_order(open_page: Open, base: str):
    page = open_page("/", expect_refusals=True)
    number = taken_in(page, base, ROOMS | mixer())
    page.goto(f"{base}/jobs/{number}/build?view=builds")
    said = page.get_by_role("heading", level=1)
    expect(said).to_contain_text("less into this floor")
    expect(page.get_by_label("What passes into the floor").first).to_be_visible()
    fill(page, "Where they sit, from the middle, mm", "-340, -300; -340, 300; -300, 0")
    expect(page.get_by_text(re.compile("it tips over")).first).to_be_visible()
    page.get_by_role("button", name="undo").click()
    expect(said).to_contain_text("less into this floor")

    page.get_by_role("button", name="+ holes beside a loudspeaker").click()
    expect(said).to_contain_text("dB of bass")
    fill(page, "Holes by the tape, wide, high, mm", "300, 150; 120, 80")
    # what is open is what the tape says, said by the core: the page sums nothing
    expect(page.get_by_text(re.compile("546 cm² are open now"))).to_be_visible()
    assert document(page, base, number)["builds"][1]["given"]["open_cm2"] is None

    def labels() -> set[str]:
        view: Any = page.request.get(f"{base}/api/jobs/{number}/cut").json()
        return {x.split("-")[1] for sheet in view["sheets"] for p in sheet["pieces"] for x in (p["label"], *p["also"])}

    until(lambda: labels() >= {"P1", "P2", "L1", "L2", "L3"})
    steps = page.request.get(f"{base}/api/jobs/{number}/fit").json()["steps"]
    assert [s["what"] for s in steps if s["ref"]["build_id"]] == [
        "Platform under the mixer: boards", "Platform under the mixer: pads and machine",
        "Closed door: close the holes", "Closed door: damping", "Closed door: loudspeaker and sweep"]
    cards = page.request.get(f"{base}/api/jobs/{number}/builds-view").json()["cards"]
    assert all(c["money"] > 0 and not c["unpriced"] for c in cards)
