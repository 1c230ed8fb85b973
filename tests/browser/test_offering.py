"""An offer in the page: three plans, a price that changed, a later version, accepted and judged; a report handed over."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader
from test_fitting import BUTYL, DOOR, JOB
from test_matrix import AXE

from serving import taken_in
from signals import as_wav, tone, until
from sphagnum.demo import rows
from worked import AUTHOR

Open = Callable[..., Page]


FLOOR = {"name": "Floor", "outline_mm": [[0, 0], [1500, 0], [1500, 1200], [0, 1200]],
         "substrate": {"material": "steel", "thickness_mm": 0.8}}
OFFERED = {**JOB, "surfaces": rows(DOOR, FLOOR),
           "paths": rows({"name": "Rear door", "surface_id": 1}, {"name": "Floor", "surface_id": 2}),
           "alternatives": [{**JOB["alternatives"][0], "name": "All of it", "chosen": True},
                                   {"id": 2, "version": 1, "surface_id": 1, "name": "Damped", "layers": [BUTYL],
                             "chosen": False}]}


def charges(page: Page, base: str, **values: Any) -> None:
    own = page.request.get(f"{base}/api/workshop").json()["document"]["workshop"]
    step = {"collection": "workshops", "row": own["id"], "version": own["version"], "values": values}
    assert page.request.post(f"{base}/api/workshop/edits", data={"steps": [step]}, headers=AUTHOR).ok


@pytest.mark.broad
def test_three_plans_one_price_changed_a_version_compared_accepted_and_judged(open_page: Open, base: str):
    page = open_page("/", expect_refusals=True)
    number = taken_in(page, base, OFFERED)
    page.goto(f"{base}/jobs/{number}/build?view=offer")
    first = page.get_by_role("article").first
    expect(first).to_contain_text(re.compile(r"−\d+\.\d dB\(A\)"))
    for name in ("enough", "quietest"):
        page.get_by_role("button", name="+ another plan").click()
        expect(page.get_by_role("article", name=name)).to_be_visible()
    expect(page.get_by_role("heading", level=1)).to_have_text("3 plans to offer.")
    page.get_by_role("article", name="enough").get_by_role("combobox").first.click()
    page.locator(".ant-select-dropdown:visible").get_by_text("as found", exact=True).click()
    expect(page.get_by_text("“enough” does nothing")).to_be_visible()
    page.get_by_role("article", name="enough").get_by_role("combobox").first.click()
    page.locator(".ant-select-dropdown:visible").get_by_text("Damped", exact=True).click()
    expect(page.get_by_text("does nothing")).to_have_count(0)
    press = page.get_by_role("button", name=re.compile("^Hand it over")).last
    press.click()
    paper = page.get_by_role("group", name=re.compile(r"^offer \d{4}-\d{4}$")).last
    expect(paper).to_contain_text("handed over")
    with page.expect_download() as file:
        paper.get_by_role("link", name="PDF").click()
    before = file.value.path().read_bytes()
    text = " ".join(p.extract_text() for p in PdfReader(io.BytesIO(before)).pages)
    assert all(name in text for name in ("As planned", "Enough", "Quietest"))

    # the price changes: what was handed over does not, and the next version says so
    own = page.request.get(f"{base}/api/workshop").json()["document"]["workshop"]
    charges(page, base, labour_per_hour=own["labour_per_hour"] + 20)
    try:
        page.reload()  # they are still to be offered
        expect(page.get_by_role("article", name="quietest")).to_be_visible()
        # in the place of one by hand, one of the planner's
        page.get_by_role("article", name="quietest").get_by_role("button", name="Leave it out").click()
        page.get_by_role("button", name="+ one the planner finds").click()
        page.get_by_role("button", name="Find a plan", exact=True).first.click()
        expect(page.get_by_role("button", name="Find again")).to_be_visible(timeout=240_000)
        page.get_by_role("button", name="The quietest").click()
        quieter = page.locator("aside p").first.inner_text().split(" dB")[0]
        assert quieter.startswith("−")
        page.get_by_role("button", name="Offer it").click()
        expect(page.get_by_role("article").last).to_contain_text(f"{quieter} dB(A)")
        expect(page.get_by_role("article").last).to_contain_text("Floor: ")  # what is done where, not what is chosen in Build
        page.get_by_role("button", name=re.compile("^Hand it over, after")).last.click()
        newest = page.get_by_role("group", name=re.compile(r"^offer \d{4}-\d{4}$")).first
        expect(newest).to_contain_text(re.compile(r"Follows \d{4}-\d{4}\. .*as planned: costs"))
        papers = page.request.get(f"{base}/api/jobs/{number}/papers").json()["papers"]
        assert page.request.get(f"{base}/api/papers/{papers[-1]['id']}.pdf").body() == before
    finally:
        charges(page, base, labour_per_hour=own["labour_per_hour"])

    # accepted: Build, board and Prove know
    newest.get_by_role("button", name="What they said …").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Who").fill("the baker")
    dialog.get_by_label("In which words").fill("Do that.")
    dialog.get_by_role("button", name="Keep it").click()
    expect(newest).to_contain_text("accepted")
    expect(newest).to_contain_text("the baker")
    document = page.request.get(f"{base}/api/jobs/{number}").json()["document"]
    assert document["promises"][-1]["occasion"] == "offer"
    page.goto(base)
    expect(page.locator(".job-card").filter(has_text=document["job"]["name"]).first).to_contain_text(
        f"offer {papers[0]['number']} accepted")

    # a report is handed over as it is now, not as this browser kept it of before, and has no script to run
    page.add_init_script(f"""const fetched = fetch;
        window.fetch = async (asked, how) => {{
          if (String(asked.url ?? asked).endsWith("/api/jobs/{number}")) await new Promise((on) => setTimeout(on, 800));
          return fetched(asked, how);
        }};""")
    page.goto(f"{base}/jobs/{number}/prove")
    page.get_by_role("button", name="Hand it over").click()
    expect(page.get_by_role("group", name=re.compile(r"^report \d{4}-\d{4}$"))).to_be_visible()
    report = page.request.get(f"{base}/api/jobs/{number}/papers").json()["papers"][0]
    answer = page.request.get(f"{base}/api/papers/{report['id']}.html")
    page.close()  # it would say that it is cut off
    alone = page.context.new_page()
    alone.set_content(answer.text())
    alone.context.set_offline(True)
    expect(alone.get_by_role("heading", level=1)).to_contain_text(report["number"])
    assert alone.evaluate("document.scripts.length") == 0
    for width in (390, 1280):
        alone.set_viewport_size({"width": width, "height": 800})
        until(lambda: alone.evaluate("document.documentElement.scrollWidth <= innerWidth"))
    alone.close()


HEARD = """() => Promise.all([...document.querySelectorAll("audio")].map((a) => new Promise((told) => {
    a.onended = () => told(a.currentTime);
    a.onerror = () => told(-1);
    a.muted = true;
    a.playbackRate = 16;
    void a.play();
})))"""


@pytest.mark.broad
def test_a_report_as_a_page_is_read_and_heard_by_anybody(open_page: Open, base: str):
    page = open_page("/", expect_refusals=True)
    number = taken_in(page, base, OFFERED)
    sound = {"name": "r.wav", "mimeType": "audio/wav", "buffer": as_wav(0.1 * tone(500, 9.0, 8000), 8000)}
    first = page.request.get(f"{base}/api/jobs/{number}").json()["document"]
    done = {"name": "Done", "state": "finished", "follows_id": first["rounds"][0]["id"]}
    assert page.request.post(f"{base}/api/jobs/{number}/rounds", data={"rows": [done]}, headers=AUTHOR).ok
    document = page.request.get(f"{base}/api/jobs/{number}").json()["document"]
    at = {f"{one}_id": str(document[f"{one}s"][0]["id"]) for one in ("position", "condition")}
    for stage in (document["rounds"][0], document["rounds"][-1]):
        sent = {"file": sound, "round_id": str(stage["id"]), **at}
        assert page.request.post(f"{base}/api/jobs/{number}/recordings", multipart=sent, headers=AUTHOR).ok
    pages = [page.request.get(f"{base}/api/jobs/{job}/report.html?for={whom}").text()
             for job, whom in ((1, "customer"), (2, "technical"), (number, "own"))]
    page.close()
    alone = page.context.new_page()
    for text in pages:
        alone.set_content(text)
        alone.evaluate(AXE.read_text("utf-8"))
        for width in (390, 1280):
            alone.set_viewport_size({"width": width, "height": 800})
            found = alone.evaluate("async () => (await axe.run(document)).violations.map(v => `${v.id}: ${v.nodes[0].html}`)")
            assert found == []
            until(lambda: alone.evaluate("document.documentElement.scrollWidth <= innerWidth"))
    played = alone.evaluate(HEARD)
    assert played == [pytest.approx(8.0, abs=0.1)] * 2  # before and after: eight seconds from the middle of nine
    alone.close()


def test_more_than_all_of_it_again_is_put_on_by_a_second_word_only(open_page: Open, base: str):
    page = open_page("/shelf?of=workshop")
    before = page.request.get(f"{base}/api/workshop").json()["document"]["workshop"]["margin_percent"]
    field = page.get_by_label("Put on material and labour")
    field.fill("150")
    field.press("Enter")
    page.get_by_role("button", name="Leave it as it was").click()
    expect(page.get_by_role("dialog", name=re.compile("^Put 150 %"))).to_have_count(0)
    assert page.request.get(f"{base}/api/workshop").json()["document"]["workshop"]["margin_percent"] == before
