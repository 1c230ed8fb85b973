"""A person's way through the real interface, from a new job to the report in hand."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from worked import worked_job

Open = Callable[..., Page]


def stage(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stages").get_by_role("link", name=name).click()
    expect(page.locator(f"main[data-stage={name.lower()}]")).to_be_visible()


def add(page: Page, label: str, text: str) -> None:
    page.get_by_role("textbox", name=label).fill(text)
    page.get_by_role("textbox", name=label).press("Enter")


def keep_reading(page: Page, text: str) -> None:
    """Takes the outlined cell's reading by keyboard: n, type, Enter."""
    page.locator("body").press("n")
    field = page.get_by_placeholder("74.8")
    expect(field).to_be_focused()
    field.fill(text)
    field.press("Enter")
    expect(field).to_have_value("")


def test_from_a_new_job_to_the_report(open_page: Open):
    page = open_page("/", expect_refusals=True)
    page.get_by_role("button", name="New job").first.click()
    page.get_by_label("What is it?").fill("Test wagon")
    page.get_by_role("button", name="Begin").click()

    # Listen: place, condition, goal, three readings, one of them refused first
    add(page, "Another place", "Driver's ear")
    add(page, "Another condition", "80 km/h")
    page.get_by_role("button", name="begin: as found").click()
    page.get_by_text("Goal", exact=True).first.click()
    page.get_by_role("button", name="Set a goal").click()
    expect(page.get_by_label("By how much")).to_have_value("5")
    page.get_by_text("Reading", exact=True).first.click()
    page.locator("body").press("n")
    field = page.get_by_placeholder("74.8")
    field.fill("very loud")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("is not a level")
    expect(field).to_have_value("very loud")
    for text in ("74,8", "74.5", "74..75"):
        keep_reading(page, text)
    expect(page.get_by_role("button", name=re.compile("74.6 dB.*3 read"))).to_be_visible()

    # Trace: a panel and a leak
    stage(page, "Trace")
    page.get_by_role("button", name="Add the first path").click()
    page.get_by_role("dialog").get_by_role("button", name="Measure the panel").click()
    dialog = page.get_by_role("dialog", name="A new surface")
    dialog.get_by_label("Name").fill("Rear doors")
    dialog.get_by_label("Width").fill("1 180")
    dialog.get_by_label("Height").fill("900")
    dialog.get_by_role("button", name="Draw it").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("heading", level=1)).to_contain_text("Rear doors carry 100 % of what the listener hears")
    knob = page.get_by_role("slider", name="Close Rear doors")
    knob.focus()
    for _ in range(2):
        knob.press("PageDown")
    expect(page.get_by_test_id("at-ear")).to_have_text("64.6")

    # Build: damping from the shelf, then a layer dropped in by mouse
    stage(page, "Build")
    page.get_by_role("button", name="Add Butyl damping sheet, aluminium faced").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("dB less through it. The plan so far:")
    page.get_by_role("button", name="absorber", exact=True).click()
    page.get_by_role("button", name="Add Open polyester fleece").drag_to(page.get_by_text("drop a layer here"))
    expect(page.get_by_role("button", name="Edit layer 2: Open polyester fleece")).to_be_visible()
    expect(page.get_by_text("Nothing here blocks")).to_be_visible()
    page.get_by_role("button", name="Edit layer 1").click()
    page.get_by_role("button", name="outwards").click()
    expect(page.get_by_text("Damping in layer 2 lies on no panel.")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_text("Damping in layer 2 lies on no panel.")).to_have_count(0)

    # Cut: a keep-clear zone outside is refused, one inside is kept; sheets and a list follow
    stage(page, "Cut")
    page.get_by_role("button", name="Keep clear …").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("From the left").fill("5000")
    dialog.get_by_role("button", name="Keep it clear").click()
    expect(dialog).to_contain_text("lies outside its surface")
    dialog.get_by_label("From the left").fill("500")
    dialog.get_by_role("button", name="Keep it clear").click()
    expect(page.get_by_text("1 kept clear")).to_be_visible()
    expect(page.get_by_role("heading", level=1)).to_contain_text("pieces from")
    expect(page.get_by_test_id("to-buy")).to_contain_text("Butyl damping sheet, aluminium faced, 2 mm")

    # Fit: who works here, what can hurt, then the first step
    stage(page, "Fit")
    page.get_by_label("Name", exact=True).fill("Ida")
    page.get_by_role("button", name="That is me").click()
    page.get_by_role("button", name="Read and understood").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Step 1 of")
    page.get_by_label("Note", exact=True).fill("two screws missing")
    page.get_by_role("button", name="Done ✓").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Step 2 of")

    # Listen again: the finished round, then the verdict and the report
    stage(page, "Listen")
    page.get_by_role("button", name="+ finished").click()
    expect(page.get_by_role("button", name="Finished", exact=True)).to_have_attribute("aria-pressed", "true")
    for text in ("68.9", "69.2", "69.0"):
        keep_reading(page, text)
    expect(page.get_by_role("button", name=re.compile("69.0 dB.*3 read"))).to_be_visible()
    stage(page, "Prove")
    expect(page.get_by_role("heading", level=1)).to_contain_text("5.6 dB quieter at driver's ear, 80 km/h")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Goal of 5 dB met as read, but not sure")
    with page.expect_download() as download:
        page.get_by_role("link", name="Customer report").click()
    text = " ".join(PdfReader(io.BytesIO(Path(download.value.path()).read_bytes())).pages[0].extract_text().split())
    assert "5.6 dB quieter at driver's ear, 80 km/h" in text
    assert "Test wagon" in text


@pytest.fixture
def worked_number(open_page: Open, base: str, tmp_path: Path) -> int:
    file = tmp_path / "worked.json"
    file.write_text(json.dumps({"format": "sphagnum-job", "format_version": 1, **worked_job()}), "utf-8")
    page = open_page("/")
    page.get_by_label("Job file").set_input_files(file)
    page.wait_for_url("**/jobs/*/**")
    return int(page.url.split("/jobs/")[1].split("/")[0])


def test_the_worked_job_shows_its_figures(open_page: Open, worked_number: int):
    page = open_page(f"/jobs/{worked_number}/trace")
    expect(page.get_by_role("heading", level=1)).to_have_text("Arches and doors carry 76 % of what the listener hears.")
    expect(page.get_by_test_id("at-ear")).to_have_text("60.9")
    for name, share, gain in (("arches", 47, "−2.8"), ("doors", 29, "−1.5"), ("roof", 14, "−0.7"), ("floor", 7, "−0.3"),
                              ("seal", 3, "−0.1")):
        row = page.locator("main .rows > div", has_text=name)
        expect(row).to_contain_text(f"{share} %")
        expect(row).to_contain_text(f"{gain} dB")
    expect(page.get_by_text("predicted 56.9 ± 1.6", exact=True)).to_be_visible()
    stage(page, "Cut")
    expect(page.get_by_test_id("to-buy")).to_contain_text("€ 46.00")
    stage(page, "Prove")
    expect(page.get_by_role("heading", level=1)).to_contain_text(
        "4.3 dB quieter at ear, running (95 %: 3.6 to 4.9). Goal of 4 dB met as read, but not sure")
    page.get_by_role("button", name="Show the working").click()
    expect(page.get_by_role("dialog")).to_contain_text("95 % interval 3.65 to 4.94 dB")


def test_two_browsers_never_overwrite_each_other_silently(open_page: Open, worked_number: int):
    """Whether or not the second sees what the first one did while it types: what it typed was typed over what was there."""
    first, second = (open_page(f"/jobs/{worked_number}/listen", expect_refusals=True) for _ in range(2))
    fields = []
    for page in (first, second):
        page.get_by_text("Places and conditions").click()
        fields.append(page.get_by_label("Place", exact=True))
        expect(fields[-1]).to_have_value("Ear")
    fields[1].fill("Second's ear")
    fields[0].fill("First's ear")
    fields[0].press("Enter")
    for page in (first, second):
        expect(page.get_by_role("rowheader", name="First's ear")).to_be_visible()
    expect(fields[1]).to_have_value("Second's ear")
    fields[1].press("Enter")
    asked = second.get_by_role("dialog")
    expect(asked).to_contain_text("Somebody changed this meanwhile")
    expect(asked).to_contain_text("First's ear")
    expect(asked).to_contain_text("Second's ear")
    asked.get_by_role("button", name="Put mine").click()
    expect(second.get_by_role("rowheader", name="Second's ear")).to_be_visible()


@pytest.mark.broad
def test_what_the_workshop_is_called_is_not_written_over_by_whoever_typed_longer(open_page: Open):
    first, second = (open_page("/shelf?of=workshop", expect_refusals=True) for _ in range(2))
    names = [page.get_by_label(re.compile("^Name")) for page in (first, second)]
    was = names[0].input_value()
    try:
        names[1].fill("Second's")
        names[0].fill("First's")
        names[0].press("Enter")
        expect(first.get_by_text("First's").first).to_be_visible()
        names[1].press("Enter")
        asked = second.get_by_role("dialog").filter(has_text="Somebody changed this meanwhile")
        expect(asked).to_contain_text("First's")
        expect(asked).to_contain_text("Second's")
        asked.get_by_role("button", name="Put mine").click()
        expect(asked).to_have_count(0)
        expect(second.get_by_text("Second's").first).to_be_visible()
    finally:
        names[1].fill(was)
        names[1].press("Enter")
        expect(second.get_by_text(f"the Shelf of {was}")).to_be_visible()


@pytest.mark.broad
def test_what_is_entered_while_the_one_before_is_on_its_way_is_kept_after_it(open_page: Open):
    page = open_page("/shelf?of=workshop", slow=("/api/workshop/edits", 1500, 1500))
    name = page.get_by_label(re.compile("^Name"))
    was = name.input_value()
    try:
        for told in ("One", "Other"):
            name.fill(told)
            name.press("Enter")
        expect(page.get_by_text("the Shelf of Other")).to_be_visible()
    finally:
        name.fill(was)
        name.press("Enter")
        expect(page.get_by_text(f"the Shelf of {was}")).to_be_visible()


def test_every_stage_of_the_finished_job_is_one_key_away(open_page: Open):
    page = open_page("/")
    expect(page.get_by_role("heading", name="Delivery van")).to_be_visible()
    page.goto(page.url + "jobs/1/listen")
    for key, name, mark in (("2", "Trace", "at ear"), ("3", "Build", "drop a layer here"), ("4", "Cut", "To buy"),
                            ("5", "Fit", "28 of 28 done"), ("6", "Prove", "Was it a fair comparison?"),
                            ("1", "Listen", "What does the meter say?")):
        page.locator("body").press(key)
        expect(page.locator(f"main[data-stage={name.lower()}]").get_by_text(mark).first).to_be_visible()
        expect(page.get_by_role("heading", level=1)).not_to_have_text("")
    page.locator("body").press("/")
    page.get_by_role("textbox", name="Find").fill("bulk")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Bulkhead")


def test_script_of_the_first_load_is_small(open_page: Open, base: str):
    page = open_page("/")
    page.wait_for_load_state("networkidle")
    sizes = page.evaluate("""() => performance.getEntriesByType('resource').filter(r => r.name.endsWith('.js'))
        .map(r => r.encodedBodySize)""")
    assert 50_000 < sum(sizes) <= 450_000
