"""Build by hand and the Shelf, as somebody works them: a second leaf, a planned box, own material, drags, schools, inches."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, Request, expect

Open = Callable[..., Page]
BOARD = {"material": "gypsum-board", "thickness_mm": 12.5}


@pytest.fixture
def bring(open_page: Open, tmp_path: Path) -> Callable[..., tuple[Page, int]]:
    """A job brought in through the board, opened in Build; its page and number."""

    def bringing(kind: str, **parts: Any) -> tuple[Page, int]:
        body = {"format": "sphagnum-job", "format_version": 4, "job": {"id": 1, "version": 1, "name": "By hand", "kind": kind},
                **{name: [{"id": i, "version": 1, **row} for i, row in enumerate(rows, start=1)] for name, rows in parts.items()}}
        (tmp_path / "job.json").write_text(json.dumps(body), "utf-8")
        page = open_page("/", expect_refusals=True)
        page.get_by_label("Job file").set_input_files(tmp_path / "job.json")
        page.wait_for_url("**/jobs/*/**")
        number = int(page.url.split("/jobs/")[1].split("/")[0])
        page.goto(f"{page.url.split('/jobs')[0]}/jobs/{number}/build")
        return page, number

    return bringing


def kept(page: Page) -> None:
    expect(page.get_by_test_id("kept")).to_have_text("all changes kept")


def asked(page: Page, number: int, what: str) -> Any:
    return page.request.get(f"{page.url.split('/jobs')[0]}/api/jobs/{number}{what}").json()


def to_buy(page: Page, number: int) -> list[dict[str, Any]]:
    """The buying list once it is laid out."""
    kept(page)
    for _ in range(100):
        seen = asked(page, number, "/cut")
        if not seen["work"]:
            return seen["buy"]
        page.wait_for_timeout(100)
    raise AssertionError(seen)


def material_here(page: Page, number: int) -> float:
    meters = asked(page, number, "/build?surface_id=1")["meters"]
    return next(m["value"] for m in meters if m["label"] == "Material here")


def layers(page: Page, number: int) -> list[dict[str, Any]]:
    kept(page)
    return asked(page, number, "")["document"]["alternatives"][0]["layers"]


def drag(page: Page, what: Locator, dx: float, dy: float = 0.0, start: tuple[float, float] = (0.5, 0.5)) -> None:
    box = what.bounding_box()
    while box != (again := what.bounding_box()) or page.wait_for_timeout(200) or again != what.bounding_box():
        box = what.bounding_box()  # a hand waits until the picture stands still
    assert box
    x, y = box["x"] + box["width"] * start[0], box["y"] + box["height"] * start[1]
    page.mouse.move(x, y)
    page.mouse.down()
    for i in range(1, 9):
        page.mouse.move(x + dx * i / 8, y + dy * i / 8)
    page.mouse.up()


def field(inside: Locator, label: str) -> Locator:
    return inside.locator("label.field", has_text=re.compile(f"^{label}")).first.locator("input")


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label).last.click()
    page.locator(".ant-select-dropdown:visible .ant-select-item-option", has_text=re.compile(f"^{option}$")).click()


def wall() -> dict[str, Any]:
    tied = {"material": "air-gap", "thickness_mm": 75, "tie": {"kind": "light-steel-studs", "spacing_mm": 600}}
    return {"surfaces": [{"name": "Partition", "outline_mm": [[0, 0], [3000, 0], [3000, 2500], [0, 2500]], "substrate": BOARD,
                          "present": [tied, BOARD]}], "paths": [{"name": "Partition", "surface_id": 1}]}


@pytest.mark.broad
def test_a_partition_gets_a_second_leaf_on_channels_bought_with_all_that_goes_with_it(bring):
    page, number = bring("room", **wall())
    shelf = page.get_by_placeholder("by name")
    for name, add in (("Air gap", "Add Air gap"), ("Stone wool slab", "Lay 50 mm of Stone wool slab"),
                      ("Gypsum board", "Lay 12.5 mm of Gypsum board")):
        shelf.fill(name)
        page.get_by_role("button", name=add).first.click()
    expect(page.get_by_role("button", name=re.compile("^Edit layer"))).to_have_count(3)
    # nothing that stands went: both boards and the studs are there
    expect(page.get_by_text("stays: take it out")).to_have_count(2)
    page.get_by_role("button", name=re.compile("Edit layer 3: Air gap")).click()
    page.get_by_text("How it is held, and where").click()
    choose(page, "What ties the leaves beside it", "resilient channels")
    page.get_by_role("textbox", name="Apart").fill("24 in")
    page.get_by_role("textbox", name="Apart").press("Enter")
    page.keyboard.press("Escape")
    made = layers(page, number)
    assert [x["material"] for x in made] == ["air-gap", "stone-wool", "gypsum-board"]
    assert made[0]["tie"]["kind"] == "channels"
    assert made[0]["tie"]["spacing_mm"] == pytest.approx(609.6)
    seen = asked(page, number, "/build?surface_id=1")
    assert [v["state"] for v in seen["section"]] == ["panel", "stays", "stays", "new", "new", "new"]
    rail = next(g for g in seen["goods"] if g["material"] == "resilient-channel")
    assert rail["amount"] == pytest.approx((2500 / 609.6 + 1) * 3.0, abs=0.06)
    bought = {b["material"]: b for b in to_buy(page, number)}
    assert set(bought) == {"stone-wool", "gypsum-board", "resilient-channel", "drywall-screw"}
    assert bought["gypsum-board"]["kg"] == pytest.approx(3 * 3.0 * 0.0125 * 690, abs=0.1)  # 7.5 m² from three sheets of 3 m²
    # a rule's mend is clicked, another is gone against with a reason, and the reason stays
    page.get_by_role("button", name="Run elastic acoustic sealant round").click()
    expect(page.get_by_role("button", name=re.compile("Edit layer 6: Elastic acoustic sealant"))).to_be_visible()
    said = page.locator(".note", has_text="Before cutting into an old building")
    said.get_by_text("do it all the same").click()
    said.get_by_label("Why it is done all the same").fill("built last year")
    said.get_by_role("button", name="Keep the reason").click()
    expect(page.get_by_text("Gone against, with a reason (1)")).to_be_visible()
    kept(page)
    assert asked(page, number, "")["document"]["alternatives"][0]["overrides"] == [
        {"id": "old-building", "reason": "built last year"}]


def test_a_box_that_does_not_stand_yet_is_planned_and_its_boards_are_priced(bring):
    page, number = bring("enclosure")
    page.get_by_role("button", name="Add a surface").first.click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Side")
    dialog.get_by_label("Width").fill("1,2 m")
    dialog.get_by_label("Height").fill("900")
    dialog.get_by_label("It does not stand yet").check()
    dialog.get_by_role("button", name="Draw it").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("heading", level=1)).to_contain_text("dB less through it")
    expect(page.get_by_text("to be built")).to_be_visible()
    bought = to_buy(page, number)
    assert [(b["name"], b["units"], b["money"]) for b in bought][:1] == [("Plywood, 9 mm", 1, 54.0)]
    curves = asked(page, number, "/build?surface_id=1")["curves"]
    assert curves["loss_now_db"] == [0.0] * 21
    assert min(curves["loss_after_db"]) > 5


def test_layers_are_dragged_pulled_and_swapped_and_copied(bring):
    panel = {"outline_mm": [[0, 0], [1500, 0], [1500, 900], [0, 900]], "substrate": {"material": "steel", "thickness_mm": 0.8}}
    page, number = bring("vehicle", surfaces=[{"name": "Left", **panel}, {"name": "Right", **panel}], alternatives=[
        {"surface_id": 1, "layers": [{"material": "butyl-foil", "thickness_mm": 2}, {"material": "wool-felt", "thickness_mm": 10},
                                     {"material": "vinyl-5", "thickness_mm": 2.5}]}])
    hits = page.locator("[data-section] > span")
    expect(hits).to_have_count(3)
    drag(page, hits.nth(2), -300)
    expect(page.get_by_role("button", name=re.compile("Edit layer 1: Loaded vinyl"))).to_be_visible()
    assert [x["material"] for x in layers(page, number)] == ["vinyl-5", "butyl-foil", "wool-felt"]
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_role("button", name=re.compile("Edit layer 1: Butyl"))).to_be_visible()
    # pulled at the edge the felt snaps to the other thickness that is sold; let go outside, a layer stays where it was
    drag(page, page.locator("[data-edge]").nth(1), -400)
    expect(page.get_by_role("button", name=re.compile("Wool felt 5 mm"))).to_be_visible()
    drag(page, hits.nth(2), -300, 500)
    assert [(x["material"], x["thickness_mm"]) for x in layers(page, number)] == [
        ("butyl-foil", 2), ("wool-felt", 5), ("vinyl-5", 2.5)]
    drag(page, page.locator("[data-crown]").first, 0, 45)
    expect(page.get_by_role("button", name=re.compile("Edit layer 1: Butyl"))).to_contain_text(re.compile("(3[6-9]|4[0-4]) %"))
    assert layers(page, number)[0]["coverage"] == pytest.approx(0.4, abs=0.05)
    # two clicks to another material, its figures seen before
    page.get_by_role("button", name=re.compile("Edit layer 3: Loaded vinyl 5")).click()
    other = page.get_by_role("group", name="In its place").locator("button", has_text="Loaded vinyl 10 kg/m² 5 mm")
    expect(other).to_contain_text(re.compile(r"−\d+\.\d dB · \d+\.\d kg"))
    other.click()
    expect(page.get_by_role("button", name=re.compile("Edit layer 3: Loaded vinyl 10"))).to_be_visible()
    page.keyboard.press("Escape")
    # the same on the other side, and two beside one another
    page.get_by_role("button", name="Copy to …").click()
    page.get_by_role("dialog", name="Copy to other surfaces").get_by_role("button", name="Right").click()
    page.get_by_role("button", name="Copy and choose it there").click()
    kept(page)
    both = asked(page, number, "")["document"]["alternatives"]
    assert [(a["surface_id"], [x["material"] for x in a["layers"]]) for a in both] == [
        (a["surface_id"], ["butyl-foil", "wool-felt", "vinyl-10"]) for a in both]
    assert len({a["surface_id"] for a in both}) == 2
    page.get_by_role("button", name="+ alternative").click()
    expect(page.get_by_role("button", name="Plan B", exact=True)).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name=re.compile("Edit layer 1")).click()
    page.get_by_role("button", name="Take out").click()
    page.get_by_role("tab", name="Side by side").click()
    expect(page.get_by_role("columnheader")).to_have_count(3)
    rows = asked(page, number, f"/alternatives-table?surface_id={both[0]['surface_id']}")["rows"]
    assert rows[0]["kg"] > rows[1]["kg"]
    assert rows[0]["through_db"] < rows[1]["through_db"]
    expect(page.get_by_role("row", name=re.compile("through it"))).to_contain_text(f"{abs(rows[0]['through_db']):.1f} dB")


@pytest.mark.broad
def test_the_coverage_school_is_opened_and_forty_percent_chosen(bring):
    page, number = bring("vehicle", surfaces=[{
        "name": "Panel", "outline_mm": [[0, 0], [1500, 0], [1500, 900], [0, 900]],
        "substrate": {"material": "steel", "thickness_mm": 0.8}}], alternatives=[
        {"surface_id": 1, "layers": [{"material": "butyl-foil", "thickness_mm": 2}]}])
    page.get_by_role("tab", name="How much to cover").click()
    expect(page.get_by_role("slider", name="What coverage gives")).to_be_visible()
    page.get_by_role("button", name="40 %", exact=True).click()
    expect(page.get_by_role("row", name=re.compile("^40 %"))).to_contain_text("chosen")
    assert layers(page, number)[0]["coverage"] == 0.4
    page.get_by_role("tab", name="Where fitters disagree").click()
    page.get_by_role("button", name="Barrier sandwiched flat, or limp over a decoupler").click()
    expect(page.get_by_role("columnheader")).to_have_count(4)
    page.get_by_role("button", name="Put them among the alternatives").click()
    expect(page.get_by_role("group", name="Alternatives").get_by_role("button", name="Limp over felt")).to_be_visible()


@pytest.mark.broad
def test_an_own_material_is_made_asked_about_and_used_and_a_price_is_offered_to_an_open_job(bring, open_page: Open):
    page, number = bring("vehicle", surfaces=[{
        "name": "Panel", "outline_mm": [[0, 0], [1500, 0], [1500, 900], [0, 900]],
        "substrate": {"material": "steel", "thickness_mm": 0.8}}])
    base = page.url.split("/jobs")[0]
    shelf = open_page("/shelf", expect_refusals=True)
    shelf.get_by_role("button", name="New material").click()
    sheet = shelf.get_by_role("dialog")
    sheet.get_by_role("button", name="Type all its properties").click()
    field(sheet, "Name").fill("Butyl of the next town")
    for label, value in (("Density", "9000"), ("Young’s modulus", "3"), ("Loss factor", "0,7"), ("Thickness", "1/8 in"),
                         ("Width", "500"), ("Length", "800"), ("Price each", "9,50")):
        field(sheet, label).fill(value)
    sheet.get_by_role("button", name="Keep it").click()
    expect(sheet).to_contain_text("A density of 9 000 kg/m³ is unusual for damping: 700 to 3 000 kg/m³")
    field(sheet, "Density").fill("1450")
    sheet.get_by_role("button", name="Keep it").click()
    expect(shelf.get_by_role("button", name=re.compile("Butyl of the next town"))).to_contain_text("4.6 kg/m²")
    # used in the job, then dearer on the shelf: the job keeps its price until it is taken
    page.reload()
    page.get_by_placeholder("by name").fill("next town")
    page.get_by_role("button", name=re.compile("^Add Butyl of the next town")).click()
    expect(page.get_by_role("button", name=re.compile("Edit layer 1: Butyl of the next town"))).to_be_visible()
    assert layers(page, number)[0]["thickness_mm"] == pytest.approx(3.175)
    before = material_here(page, number)
    shelf.get_by_role("button", name=re.compile("Butyl of the next town")).click()
    field(shelf.get_by_role("dialog"), "Price each").fill("12.80")
    shelf.get_by_role("dialog").get_by_role("button", name="Keep it").click()
    expect(shelf.get_by_role("dialog")).to_have_count(0)
    page.reload()
    offer = page.get_by_text("The shelf has moved on for 1 material of this job.")
    expect(offer).to_contain_text("price of 3.175 mm 9.50 → 12.80")
    assert material_here(page, number) == before
    offer.click()
    page.get_by_role("button", name="Take it").click()
    expect(offer).to_have_count(0)
    assert material_here(page, number) == pytest.approx(before * 12.8 / 9.5, abs=0.1)
    assert page.request.get(f"{base}/api/jobs/1/shelf").json()["offers"][0]["name"].startswith("Butyl damping sheet")


def test_a_hand_on_the_slider_finds_its_first_step_worked_out(bring):
    page, _ = bring("vehicle", surfaces=[{
        "name": "Panel", "outline_mm": [[0, 0], [1500, 0], [1500, 900], [0, 900]],
        "substrate": {"material": "steel", "thickness_mm": 0.8}}], alternatives=[
        {"surface_id": 1, "layers": [{"material": "butyl-foil", "thickness_mm": 2, "coverage": 0.8}]}])
    page.get_by_role("button", name=re.compile("Edit layer 1: Butyl")).click()

    def tried(request: Request) -> float | None:
        return request.post_data_json["steps"][-1]["operations"][0]["value"] if request.url.endswith("/preview") else None

    with page.expect_response(lambda r: tried(r.request) == 0.81):  # a step up is asked for after one down
        page.get_by_role("slider", name="Coverage").focus()
    curve = page.locator("[data-curve=after]").first
    before = str(curve.get_attribute("d"))
    with page.expect_request(lambda r: tried(r) is not None) as asked_for:
        page.keyboard.press("ArrowLeft")
    assert tried(asked_for.value) == 0.78  # what comes next: the step itself is known
    for _ in range(9):  # a piece is cut to whole centimetres: a hundredth may be none of them
        page.keyboard.press("ArrowLeft")
    expect(curve).not_to_have_attribute("d", before)
    kept(page)


@pytest.mark.broad
def test_in_inches_and_pounds_all_is_shown_and_typed_so(bring, open_page: Open):
    page, number = bring("vehicle", surfaces=[{
        "name": "Panel", "outline_mm": [[0, 0], [1500, 0], [1500, 900], [0, 900]], "depth_limit_mm": 50.8,
        "substrate": {"material": "steel", "thickness_mm": 0.8}}], alternatives=[
        {"surface_id": 1, "layers": [{"material": "butyl-foil", "thickness_mm": 2}]}])
    shelf = open_page("/shelf?of=workshop")
    shelf.get_by_text("inches, feet, pounds").click()
    try:
        expect(shelf.get_by_role("button", name=re.compile("Loaded vinyl 5"))).to_contain_text("1.00 lb/ft²")
        page.reload()
        page.get_by_role("button", name=re.compile("Edit layer 1: Butyl")).click()
        thickness = page.get_by_label("Thickness")
        thickness.fill("1/8 in")
        thickness.press("Enter")
        page.keyboard.press("Escape")
        expect(page.get_by_role("button", name=re.compile("Edit layer 1: Butyl"))).to_contain_text("1/8 in")
        assert layers(page, number)[0]["thickness_mm"] == pytest.approx(3.175)
        expect(page.get_by_text("Nobody on the shelf sells Butyl damping sheet, aluminium faced 1/8 in.")).to_be_visible()
        page.get_by_text("About this surface").click()
        depth = page.get_by_label("Depth there is")
        expect(depth).to_have_value("2")
        depth.fill("5 stone")
        depth.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("The unit 'stone' is not known here")
        depth.fill("3")
        depth.press("Enter")
        expect(page.get_by_role("alert")).to_have_count(0)
        kept(page)
        assert asked(page, number, "")["document"]["surfaces"][0]["depth_limit_mm"] == pytest.approx(76.2)
    finally:
        shelf.get_by_text("mm, m, kg").click()
        expect(shelf.get_by_role("button", name=re.compile("Loaded vinyl 5"))).to_contain_text("4.9 kg/m²")


@pytest.mark.broad
def test_what_stands_is_told_by_hand_and_an_offcut_is_taken_and_given_back(open_page: Open):
    page = open_page("/")
    page.get_by_role("button", name="New job").first.click()
    page.get_by_label("What is it?").fill("Bedroom wall")
    page.locator(".ant-segmented-item", has_text=re.compile("room", re.I)).click()
    page.get_by_role("button", name="Begin").click()
    page.wait_for_url("**/listen")
    number = int(page.url.split("/jobs/")[1].split("/")[0])
    page.goto(page.url.replace("listen", "build"))
    page.get_by_role("button", name="Add a surface").first.click()
    dialog = page.get_by_role("dialog")
    for label, text in (("Name", "Party wall"), ("Width", "3600"), ("Height", "2500")):
        dialog.get_by_label(label).fill(text)
    dialog.get_by_text("studs and a board behind").click()
    dialog.get_by_role("button", name="Draw it").click()
    expect(page.get_by_text("light steel studs 600 mm apart")).to_be_visible()
    page.get_by_text("About this surface").click()
    page.get_by_role("combobox", name="Add what stands behind it").click()
    page.keyboard.type("Brick")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="It is not there: Gypsum board").click()
    kept(page)
    stands = asked(page, number, "")["document"]["surfaces"][0]["present"]
    assert [x["material"] for x in stands] == ["air-gap", "brick"]

    base = page.url.split("/jobs")[0]
    page.goto(f"{base}/jobs/2/cut")

    def whose() -> tuple[int, int]:
        kept(page)
        return (len(asked(page, 2, "")["document"]["offcuts_taken"]),
                len(page.request.get(f"{base}/api/workshop").json()["document"]["offcuts"]))

    assert whose() == (0, 1)
    page.get_by_role("button", name="Cut from it").click()
    expect(page.get_by_text("Taken: R1, Loaded vinyl")).to_be_visible()
    expect(page.get_by_text("offcut R1, rack by the door")).to_be_visible()
    assert whose() == (1, 0)
    page.get_by_role("button", name="Give back").click()
    expect(page.get_by_role("button", name="Cut from it")).to_be_visible()
    assert whose() == (0, 1)
