"""A new surface as it is measured: off a chalk line, corner to corner, in inches, and out of a drawing."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from shapely import Polygon


def shape_of(page: Page, name: str) -> Polygon:
    """The outline the job keeps of a surface."""
    expect(page.get_by_role("button", name=name, exact=True)).to_be_visible()
    number = page.url.split("/jobs/")[1].split("/")[0]
    doc = page.request.get(f"{page.url.split('/jobs')[0]}/api/jobs/{number}").json()["document"]
    return Polygon(next(s for s in doc["surfaces"] if s["name"] == name)["outline_mm"])


def begin(page: Page, name: str, form: str) -> None:
    page.get_by_role("button", name="+ surface").click()
    page.get_by_label("Name").fill(name)
    page.get_by_role("combobox", name="Its shape").click()
    page.get_by_text(form, exact=True).last.click()


def test_surfaces_are_made_from_what_a_tape_gives_and_from_a_drawing(open_page: Callable[..., Page], tmp_path: Path):
    page = open_page("/jobs/4/build", expect_refusals=True)
    begin(page, "Side panel", "a curved edge, taped off a chalk line")
    page.get_by_label("Length of the chalk line").fill("1,2 m")
    page.get_by_label("Left of the line").fill("0 310; 300 355; 1200 290")
    expect(page.get_by_text("1200 mm × 355 mm, 0.390 m²")).to_be_visible()
    page.get_by_role("button", name="Draw it").click()
    assert shape_of(page, "Side panel").area == pytest.approx((332.5 * 300 + 322.5 * 900), rel=1e-3)

    # a length too many that does not fit is said while it is typed, and what is typed stays
    begin(page, "Corner", "corners taped to one another")
    lengths = page.get_by_label("Lengths between corners")
    lengths.fill("AB 800, AC 600, BC 1000, BD 600, CD 800, AD 1040")
    page.get_by_label("Corners in order round the edge").fill("ABDC")
    expect(page.get_by_text("AD 1040 → 1000")).to_be_visible()
    lengths.fill("AB 800, AC 600, BC 1000, BD 600, CD 800, AD 1000")
    expect(page.get_by_text("800 mm × 600 mm, 0.480 m²")).to_be_visible()
    page.get_by_role("button", name="Draw it").click()
    assert shape_of(page, "Corner").area == pytest.approx(480_000, rel=1e-6)

    # drawn elsewhere: asked for its unit, then one of its outlines picked
    drawing = tmp_path / "doors.svg"
    drawing.write_text('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><rect id="flap" width="30" height="20"/>'
                       '<circle id="hatch" cx="70" cy="60" r="20"/></svg>')
    begin(page, "Hatch", "from a drawing (SVG, DXF)")
    page.get_by_label("Drawing", exact=True).set_input_files(drawing)
    expect(page.get_by_role("alert")).to_contain_text("does not say in which unit")
    page.get_by_role("combobox", name=re.compile("Drawn in")).click()
    page.get_by_text("cm", exact=True).last.click()
    page.get_by_label("Drawing", exact=True).set_input_files(drawing)
    page.get_by_role("button", name="hatch").click()
    expect(page.get_by_text("400 mm × 400 mm")).to_be_visible()
    page.get_by_role("button", name="Draw it").click()
    assert shape_of(page, "Hatch").area == pytest.approx(3.14159 * 200**2, rel=5e-4)
