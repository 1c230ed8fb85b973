"""A phone in the yard: the server stopped and the network gone, the work goes on, and all of it is there once, in order."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, ViewportSize, expect
from test_fitting import JOB, photograph
from test_journey import keep_reading

from serving import free_port, served, taken_in
from signals import until

PHONE: ViewportSize = {"width": 390, "height": 844}
AUTHOR = {"X-Author": "elsewhere"}


def settled(page: Page, base: str, number: int) -> None:
    """The job lies in this browser: its worker rules, and what a phone takes along is kept."""
    page.goto(f"{base}/jobs/{number}/fit")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.reload()
    until(lambda: page.evaluate("navigator.serviceWorker.controller !== null"))
    until(lambda: sum(bool(re.search("job_id}/(fit|cut|listen) ", k)) for k in stored(page, "answers")) >= 3)
    until(lambda: "The pieces are being laid out" not in kept_sheets(page), 60)


def stored(page: Page, name: str) -> list[Any]:
    """The keys of what this browser keeps under a name."""
    return page.evaluate("""(name) => new Promise((go) => {
        const open = indexedDB.open("sphagnum");
        open.onsuccess = () => {
            const asked = open.result.transaction(name).objectStore(name).getAllKeys();
            asked.onsuccess = () => { open.result.close(); go(asked.result); };
        };
    })""", name)


def kept_sheets(page: Page) -> str:
    """What this browser keeps of Cut."""
    return page.evaluate("""() => new Promise((go) => {
        const open = indexedDB.open("sphagnum");
        open.onsuccess = () => {
            const asked = open.result.transaction("answers").objectStore("answers").getAll();
            asked.onsuccess = () => {
                open.result.close();
                go(asked.result.filter((a) => a.hash.includes("/cut ")).map((a) => a.data).join());
            };
        };
    })""")


def kept(page: Page) -> Any:
    return page.get_by_test_id("kept")


def waiting(page: Page, many: int) -> None:
    """So much waits, and is written down: a hand sees it before it turns to something else."""
    expect(kept(page)).to_have_text(re.compile(rf"^{many} waiting since"))
    until(lambda: len(stored(page, "waiting")) == many)


def work(page: Page, base: str, number: int) -> None:
    """Ten actions of six kinds, and a photograph, with one hand."""
    article = page.get_by_role("article")
    expect(article).to_contain_text("Take the trim off")
    page.get_by_role("button", name="six-lobe screw").click()
    page.get_by_role("button", name="T20").click()
    page.get_by_role("button", name="4", exact=True).click()
    page.get_by_role("button", name="Into bag B1: 4 six-lobe screw T20").click()  # 1
    row = page.get_by_role("group", name="1: six-lobe screw T20")
    row.get_by_role("button", name="One more").click()  # the eleventh, of a row that has no number yet
    expect(row).to_contain_text("5")
    page.get_by_label("Photograph of this step").set_input_files(
        {"name": "door.jpg", "mimeType": "image/jpeg", "buffer": photograph()})  # 2
    expect(page.get_by_role("button", name="Open photograph, before")).to_be_visible()
    page.get_by_role("button", name="Start the clock").click()  # 3
    expect(page.get_by_role("button", name=re.compile(r"Stop · \d"))).to_be_visible()
    page.get_by_label("Note", exact=True).fill("clips are brittle")
    page.get_by_label("Note", exact=True).press("Tab")  # 4
    page.get_by_role("button", name="Done ✓").first.click()  # 5
    expect(article).to_contain_text("Log and bag")
    page.get_by_text("More about this step").click()
    page.get_by_role("button", name="Leave it out …").click()
    page.get_by_label("Why").fill("logged while stripping")
    page.get_by_role("dialog").get_by_role("button", name="Leave it out").click()  # 6
    expect(article).to_contain_text("Clean and degrease")
    page.get_by_role("button", name="Done ✓").first.click()  # 7
    expect(article).to_contain_text("Lay every piece")
    page.get_by_text("More about this step").click()
    page.get_by_role("button", name="A step of my own after it …").click()
    page.get_by_label("What is done").fill("Sweep the sill")
    page.get_by_role("dialog").get_by_role("button", name="Add it").click()  # 8
    waiting(page, 9)
    page.goto(f"{base}/jobs/{number}/listen")
    expect(page.get_by_placeholder("74.8")).to_be_visible()
    keep_reading(page, "73.5")  # 9
    waiting(page, 10)
    page.goto(f"{base}/jobs/{number}/fit")
    expect(article).to_contain_text("Lay every piece")  # what was done is seen done, after being opened anew too
    page.get_by_role("button", name="Done ✓").first.click()  # 10
    expect(article).not_to_contain_text("Lay every piece")


@pytest.mark.broad
def test_with_network_and_server_gone_the_work_goes_on_and_is_there_once(browser: Browser, tmp_path: Path):
    context: BrowserContext = browser.new_context(viewport=PHONE)
    page = context.new_page()
    page.set_default_timeout(30_000)
    data, log = tmp_path / "data", tmp_path / "server.log"
    port = str(free_port())
    with served("serve", data, log, "--port", port) as base:
        number = taken_in(page, base, JOB)
        page.goto(f"{base}/jobs/{number}/fit")
        page.get_by_label("Name").fill("Ida")
        page.get_by_role("button", name="That is me").click()
        page.get_by_role("button", name="Read and understood").click()
        expect(page.get_by_role("article")).to_be_visible()
        settled(page, base, number)
    context.set_offline(True)
    page.reload()
    expect(page.get_by_role("article")).to_contain_text("Take the trim off")
    # the sheets and the readings came along too, though nobody had opened them
    page.goto(f"{base}/jobs/{number}/cut")
    expect(page.get_by_role("heading", level=1)).to_contain_text("pieces from")
    page.goto(f"{base}/jobs/{number}/listen")
    expect(page.get_by_role("heading", level=1)).to_contain_text("1 of 1 places read")
    page.goto(f"{base}/jobs/{number}/fit")
    work(page, base, number)
    expect(kept(page)).to_have_text(re.compile(r"^11 waiting since \d\d:\d\d$"))
    head = page.locator(".top").bounding_box()
    assert head
    assert head["height"] < 56, "what waits pushes the goal's figures into two lines"
    page.get_by_role("button", name=re.compile("waiting since")).click()
    expect(page.get_by_role("dialog")).to_contain_text("a photograph")
    with page.expect_download() as file:
        page.get_by_role("button", name="Keep it as a file").click()
    listed = tmp_path / "waiting.json"
    file.value.save_as(listed)
    page.close()
    page = context.new_page()
    page.goto(f"{base}/jobs/{number}/fit")
    expect(page.get_by_role("article")).to_be_visible()
    expect(kept(page)).to_have_text(re.compile("waiting since"))
    with served("serve", data, log, "--port", port) as base:
        second = browser.new_context().new_page()
        second.goto(f"{base}/jobs/{number}/fit")
        second.get_by_label("Name").fill("Bo")
        second.get_by_role("button", name="That is me").click()
        second.get_by_role("button", name="Read and understood").click()
        expect(second.get_by_role("article")).to_contain_text("Take the trim off")
        context.set_offline(False)
        expect(kept(page)).to_have_text("all changes kept", timeout=90_000)
        expect(second.get_by_role("article")).to_contain_text("Sweep the sill", timeout=2000)
        document = page.request.get(f"{base}/api/jobs/{number}").json()["document"]
        told = [e["what"] for e in document["step_events"] if e["phase"] not in ("hazards", "day")]
        assert told == ["started", "note", "done", "skipped", "done", "done"]
        seen = [e["sequence"] for e in document["step_events"] if e["who"] == "Ida"]
        assert seen == sorted(set(seen))
        assert [(f["count"], f["size"]) for f in document["fixings"]] == [(5, "T20")]
        assert len(document["photos"]) == 1
        assert page.request.get(f"{base}/api/pictures/{document['photos'][0]['file']}").ok
        assert [s["text"] for s in document["own_steps"]] == ["Sweep the sill"]
        assert [r["level_db"] for r in document["readings"]] == [74.0, 73.5]
        # the list that was kept as a file is taken in by another browser, twice: all of it is there already
        second.goto(f"{base}/")
        for _ in range(2):
            second.get_by_label("Job file").set_input_files(listed)
            expect(second.get_by_text("changes of a waiting list taken in").first).to_be_visible()
        until(lambda: not stored(second, "waiting"))
        again = page.request.get(f"{base}/api/jobs/{number}").json()["document"]
        assert {k: len(again[k]) for k in ("step_events", "photos", "readings", "fixings")} == {
            k: len(document[k]) for k in ("step_events", "photos", "readings", "fixings")}
        a_conflict_is_asked_about(page, base, number)
    context.close()


def a_conflict_is_asked_about(page: Page, base: str, number: int) -> None:
    """The same field changed here without a network and there with one."""
    def screws() -> dict[str, Any]:
        return page.request.get(f"{base}/api/jobs/{number}").json()["document"]["fixings"][0]

    page.route("**/edits", lambda route: route.abort())
    page.goto(f"{base}/jobs/{number}/fit?step=strip+surface+{screws()['surface_id']}")
    row = page.get_by_role("group", name="1: six-lobe screw T20")
    row.get_by_role("button", name="One more").click()
    expect(kept(page)).to_have_text(re.compile("^1 waiting since"))
    assert page.request.patch(f"{base}/api/jobs/{number}/fixings/{screws()['id']}", headers=AUTHOR, data={
        "version": screws()["version"], "changes": {"count": 9}}).ok
    page.unroute("**/edits")
    page.get_by_role("button", name="Put mine").click()
    until(lambda: screws()["count"] == 6)
