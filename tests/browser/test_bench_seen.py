"""The Bench in the page: rig and ceiling, samples named, an order drawn, readings typed and cut from a recording, a tie told; an
own property taken onto the Shelf and used in Build."""

from __future__ import annotations

import random
import re
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from signals import as_wav, until
from sphagnum.core.bench.played import bench_signal
from sphagnum.core.levels.signals import RATE_HZ

Open = Callable[..., Page]
BANDS = (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0)
EMPTY = (0.0,) * 6
KEEPS = {"Board": (16, 20, 25, 29, 33, 34), "Board, glued": (16.1, 20.1, 25, 29.1, 33, 34.1),
         "Board, vinyl": (22, 27, 32, 37, 41, 42), "Felt": (3, 4, 6, 9, 13, 15), "Vinyl": (11, 15, 19, 24, 29, 33)}
TYPED = 7


@pytest.mark.broad
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

    def card() -> dict[str, Any]:
        return dict(page.request.get(f"{base}/api/bench").json()["cards"][-1])
    ceiling = page.get_by_label("Its own ceiling, dB a band")
    ceiling.fill("40 44 48 50 52 54")
    ceiling.press("Enter")
    until(lambda: kept()["rig"]["ceiling_db"] == {"125": 40, "250": 44, "500": 48, "1000": 50, "2000": 52, "4000": 54})
    page.get_by_role("combobox", name="Signal").click()
    page.locator(".ant-select-item-option", has_text="noise, all bands at once").click()
    until(lambda: kept()["signal"] == "noise")
    # what a sample is made of weighs and is predicted
    page.locator("summary").get_by_text("Vinyl", exact=True).click()
    made = page.get_by_role("combobox", name="Made of, from the loudspeaker on").last
    made.click()
    made.fill("vinyl-5@2.5")
    made.press("Enter")
    expect(page.get_by_text(re.compile("Predicted at this size"))).to_be_visible()

    levels = page.get_by_label("Levels, low to high")
    levels.fill("71 72")
    levels.press("Enter")
    expect(page.get_by_text(re.compile("Type 6 levels in dB, from 125 Hz up"))).to_be_visible()
    rng = random.Random(4)

    def read(n: int, name: str | None) -> list[float]:
        put = rng.gauss(0, 0.3) if name else 0.0
        return [round(86 - 0.03 * n - x + put, 1) for x in KEEPS.get(name or "", EMPTY)]
    for n in range(TYPED):
        now = card()
        expect(page.get_by_text(f"{n} of 19 read")).to_be_visible()
        expect(page.get_by_text(now["next"], exact=True)).to_be_visible()
        levels.fill(" ".join(str(x) for x in read(n, now["next_sample"])))
        levels.press("Enter")
        until(lambda n=n: len(kept()["runs"]) == n + 1)  # type: ignore[misc]
    order = card()["order"][TYPED:]
    picker = page.get_by_label("Recording of the series")
    picker.set_input_files({"name": "tone.wav", "mimeType": "audio/wav", "buffer": as_wav(np.zeros(RATE_HZ), RATE_HZ)})
    expect(page.get_by_role("alert").filter(has_text="no silences part this recording")).to_be_visible()
    picker.set_input_files({"name": "series.wav", "mimeType": "audio/wav", "buffer": _recording(
        [read(TYPED + i, None if name == "the empty opening" else name) for i, name in enumerate(order)])})
    expect(page.get_by_text("12 of the 12 readings to come were found, by the silences between them.")).to_be_visible()
    page.get_by_role("button", name="Keep these 12").click()
    until(lambda: len(kept()["runs"]) == 19)
    assert [r["sample"] or "the empty opening" for r in kept()["runs"]] == card()["order"]
    expect(page.get_by_role("heading", level=1)).to_contain_text("Board, vinyl keeps back most.")
    groups = page.get_by_label("Groups that nothing tells apart, the best first").get_by_role("listitem")
    expect(groups).to_have_count(4)
    expect(groups.nth(1)).to_contain_text("a tie")
    for name, true in KEEPS.items():
        found = next(s for s in card()["result"]["samples"] if s["sample"] == name)
        assert np.array(found["difference_db"]) == pytest.approx(true, abs=1.2)
    page.get_by_role("button", name="Take the last reading back").click()
    expect(page.get_by_text("18 of 19 read")).to_be_visible()
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_text("18 of 19 read")).to_have_count(0)


def _recording(readings: list[list[float]]) -> bytes:
    """One after another, two seconds each and a silence between, as a recorder in a quiet room has them."""
    rng, parts = np.random.default_rng(8), []
    gains = [{f"{f:g}": level - 86.0 for f, level in zip(BANDS, one, strict=True)} for one in readings]
    plain = {f: bench_signal((f,), "noise", {})[:2 * RATE_HZ] for f in BANDS}
    for gain in gains:
        sound = np.sum([0.2 * plain[f] * 10 ** (gain[f"{f:g}"] / 20) for f in BANDS], axis=0)
        parts += [np.zeros(round(1.4 * RATE_HZ)), sound]
    whole = np.concatenate([*parts, np.zeros(round(1.4 * RATE_HZ))])
    return as_wav(whole + rng.normal(0, 1e-6, whole.size), RATE_HZ)


def test_an_own_property_is_taken_onto_the_shelf_and_narrows_what_build_says(open_page: Open, base: str):
    page = open_page("/bench?own=1", expect_refusals=True)

    def arches() -> float:
        return float(page.request.get(f"{base}/api/jobs/1/build?surface_id=1").json()["curves"]["error_db"])
    before = arches()
    page.get_by_role("button", name="Flow resistivity, by a pressure drop").click()
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_role("alert")).to_be_visible()  # nothing was typed
    page.get_by_role("combobox", name="Material").click()
    page.get_by_role("combobox", name="Material").fill("otton felt")
    page.locator(".ant-select-item-option", has_text="otton felt").first.click()
    for label, text in (("Thickness", "20"), ("Area of the tube", "78.5"), ("Flows, one after another", "1 2 3"),
                        ("Pressures at them, one after another", "6.4 12.8 19.2")):
        page.get_by_label(re.compile(f"^{re.escape(label)}")).fill(text)
    page.get_by_role("button", name="Work it out").click()
    # 1 l/min through 78.5 cm² is 2.12 mm/s; 6.4 Pa over 20 mm of it: 150 700 Pa·s/m²
    expect(page.get_by_role("heading", level=1)).to_contain_text("15072")
    expect(page.get_by_text(re.compile("far from the 25000"))).to_be_visible()
    page.get_by_label(re.compile("^Pressures at them")).fill("1.3 2.6 3.9")
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("30615")
    page.get_by_role("button", name="Take it onto the Shelf").click()
    expect(page.get_by_text("It is on the Shelf, as measured in the shop.", exact=False)).to_be_visible()
    felt = next(c["material"] for c in page.request.get(f"{base}/api/shelf").json()["materials"]
                if c["material"]["id"] == "cotton-felt")
    assert felt["sources"]["flow_resistivity_pa_s_m2"] == "measured"
    assert "3 readings" in felt["references"]["flow_resistivity_pa_s_m2"]
    # the van was planned with the felt as it was: it is asked, and takes it
    page.goto(f"{base}/jobs/1/build?surface=1")
    page.get_by_text("The shelf has moved on for 2 materials of this job.").click()
    expect(page.get_by_text(re.compile("flow resistivity", re.IGNORECASE)).first).to_be_visible()
    page.get_by_role("button", name="Take all").click()
    until(lambda: arches() < before)
    page.get_by_role("button", name="undo").click()
    until(lambda: arches() == before)
    # what others see on the Shelf is as it was
    page.goto(f"{base}/bench")
    page.get_by_role("button", name="undo").click()
    until(lambda: "flow_resistivity_pa_s_m2" not in next(
        c["material"] for c in page.request.get(f"{base}/api/shelf").json()["materials"]
        if c["material"]["id"] == "cotton-felt")["sources"])
