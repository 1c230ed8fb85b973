"""A browser that trusts the workshop comes in by TLS and a ticket, and opens without a network; one that does not, does not."""

from __future__ import annotations

import os
import re
import subprocess
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Error, Playwright, expect

from serving import CHROMIUM, free_port, served


def trusting(play: Playwright, home: Path, authority: Path) -> Browser:
    """A browser of a home of its own, that trusts one authority more."""
    store = home / ".pki" / "nssdb"
    store.mkdir(parents=True)
    at = ["certutil", "-d", f"sql:{store}"]
    subprocess.run([*at, "-N", "--empty-password"], check=True, capture_output=True)
    subprocess.run([*at, "-A", "-t", "C,,", "-n", "workshop", "-i", authority], check=True, capture_output=True)
    return play.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"], env={**os.environ, "HOME": str(home)})


@pytest.mark.broad
def test_a_phone_that_trusts_the_workshop_comes_in_by_a_code_and_opens_it_without_a_network(
    play: Playwright, browser: Browser, tmp_path: Path,
):
    port = free_port()
    with served("demo", tmp_path / "d", tmp_path / "log", "--tls", "--host", "127.0.0.2", "--port", str(port),
                SPHAGNUM_PASSPHRASE="moss and peat") as base:
        with pytest.raises(Error, match="ERR_CERT_AUTHORITY_INVALID"):
            browser.new_page().goto(base)
        own = trusting(play, tmp_path / "home", tmp_path / "d" / "authority" / "authority.crt")
        desk = own.new_context(viewport={"width": 1280, "height": 800}).new_page()
        desk.goto(base)
        desk.get_by_label("passphrase").fill("moss and peat")
        desk.get_by_role("button", name="Sign in").click()
        desk.get_by_role("button", name="Open on a phone").click()
        dialog = desk.get_by_role("dialog", name="Open on a phone")
        expect(dialog.get_by_role("img", name=f"http://127.0.0.2:{port + 1}/")).to_be_visible()
        expect(dialog).to_contain_text(re.compile("([0-9A-F]{2}:){31}[0-9A-F]{2}"))
        dialog.get_by_text("2 Come in").click()
        expect(dialog.get_by_role("img", name=base)).to_be_visible()
        word = desk.evaluate("fetch('/api/phone', { method: 'POST', headers: { 'X-Author': 'a' } }).then((a) => a.json())")
        assert word["ways"][0]["address"] == base
        away = own.new_context(viewport={"width": 390, "height": 844})
        phone = away.new_page()
        phone.goto(f"{base}/ticket#guessed")
        phone.get_by_role("button", name="Come in").click()
        expect(phone.get_by_role("alert")).to_contain_text("Show a new one at the desk")
        ticket = word["ways"][0]["opens"]
        assert ticket.startswith(f"{base}/ticket#")
        phone.goto(ticket)
        phone.get_by_role("button", name="Come in").click()
        expect(phone.get_by_role("heading", level=1)).to_contain_text("jobs in hand")
        assert "#" not in phone.url
        # its worker is installed; with no network the board opens as it was
        phone.evaluate("navigator.serviceWorker.ready.then(() => true)")
        phone.reload()
        expect(phone.get_by_role("heading", level=1)).to_contain_text("jobs in hand")
        phone.wait_for_function("navigator.serviceWorker.controller !== null")
        phone.wait_for_timeout(1000)
        away.set_offline(True)
        phone.reload()
        expect(phone.get_by_role("heading", level=1)).to_contain_text("jobs in hand")
        away.set_offline(False)
        # at the desk it stands among the devices, and is ended there
        desk.keyboard.press("Escape")
        desk.get_by_role("button", name="Open on a phone").click()
        desk.get_by_role("button", name="End it").click()
        expect(desk.get_by_role("button", name="End it")).to_have_count(0)
        assert phone.evaluate("fetch('/api/jobs', { headers: { 'X-Tab': 'a' } }).then((a) => a.status)") == 401
        own.close()

