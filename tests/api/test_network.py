"""Other devices come in: the workshop's authority and what it may vouch for, tickets, devices, and who is told of changes."""

from __future__ import annotations

import http.client
import json
import os
import ssl
import subprocess
import threading
import time
import urllib.error
import urllib.request
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from flask.testing import FlaskClient

from serving import free_port, served
from sphagnum.api.app import create_app
from sphagnum.api.doors import FAST, Door
from sphagnum.api.signed_in import TICKET_S, Devices
from sphagnum.api.together import MOST_STREAMS
from sphagnum.network.authority import LEAF_STAYS, kept
from sphagnum.network.first_visit import FirstVisit
from sphagnum.store.backup import backup
from sphagnum.store.connect import database_url, open_store
from worked import AUTHOR

FULL = os.environ.get("HARDEN") == "full"
NAMES, PLACES = ("werkstatt", "werkstatt.local", "localhost"), ("192.168.7.4", "127.0.0.1")
NOW = datetime(2026, 11, 30, 8, tzinfo=UTC)


def verified(authority: Path, leaf: Path, **asked: str) -> bool:
    """Whether a usual verifier takes a certificate, for a name or an address."""
    more = [w for k, v in asked.items() for w in (f"-verify_{k}", v)]
    at = ["-attime", str(int((NOW + timedelta(hours=1)).timestamp()))]
    return subprocess.run(["openssl", "verify", "-x509_strict", *at, *more, "-CAfile", authority, leaf],
                          capture_output=True).returncode == 0


def test_the_authority_vouches_for_this_machine_alone(tmp_path: Path) -> None:
    made = kept(tmp_path, NAMES, PLACES, NOW)
    assert made.made
    assert verified(made.authority, made.leaf, hostname="werkstatt.local")
    assert verified(made.authority, made.leaf, ip="192.168.7.4")
    assert not verified(made.authority, made.leaf, hostname="elsewhere.example")
    # stolen, its key vouches for no other name
    key = serialization.load_pem_private_key((made.authority.parent / "authority.key").read_bytes(), None)
    own = x509.load_pem_x509_certificate(made.authority.read_bytes())
    forged = (x509.CertificateBuilder().subject_name(own.subject).issuer_name(own.subject).public_key(own.public_key())
              .serial_number(7).not_valid_before(NOW).not_valid_after(NOW + timedelta(days=90))
              .add_extension(x509.SubjectAlternativeName([x509.DNSName("bank.example")]), False).sign(key, hashes.SHA256()))
    (tmp_path / "forged.crt").write_bytes(forged.public_bytes(serialization.Encoding.PEM))
    assert not verified(made.authority, tmp_path / "forged.crt")
    # for its owner alone, in no backup
    assert {f.name: oct(f.stat().st_mode)[-3:] for f in made.authority.parent.iterdir() if "key" in f.name} == {
        "authority.key": "600", "machine.key": "600"}
    open_store(database_url(tmp_path))
    backup(tmp_path, tmp_path / "copy.tar")
    names = subprocess.run(["tar", "tf", tmp_path / "copy.tar"], capture_output=True, text=True, check=True).stdout
    assert "authority" not in names
    assert "key" not in names


def test_certificates_are_renewed_in_time_and_the_authority_only_where_it_must(tmp_path: Path) -> None:
    first = kept(tmp_path, NAMES, PLACES, NOW)
    leaf = x509.load_pem_x509_certificate(first.leaf.read_bytes())
    assert leaf.not_valid_after_utc - leaf.not_valid_before_utc < timedelta(days=398)
    before = first.leaf.read_bytes()
    assert kept(tmp_path, NAMES, PLACES, NOW + timedelta(days=300)).leaf.read_bytes() == before
    late = kept(tmp_path, NAMES, PLACES, NOW + LEAF_STAYS)
    assert (late.made, late.sha256, late.leaf.read_bytes() == before) == (False, first.sha256, False)
    moved = kept(tmp_path, NAMES, ("10.0.0.9",), NOW)
    assert (moved.made, moved.sha256) == (False, first.sha256)
    assert verified(moved.authority, moved.leaf, ip="10.0.0.9")
    (tmp_path / "authority" / "machine.key").write_bytes(b"torn")
    assert verified(first.authority, kept(tmp_path, NAMES, PLACES, NOW).leaf)
    renamed = kept(tmp_path, ("halle", "halle.local", "localhost"), PLACES, NOW)
    assert renamed.made
    assert renamed.sha256 != first.sha256


def test_a_ticket_lets_one_device_in_once_and_soon(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    door = Door("moss", b"k", Devices(tmp_path / "devices.json"))
    app = create_app(open_store(database_url(tmp_path)), None, door)
    phone = app.test_client()
    word = door.devices.ticket()
    assert word not in json.dumps([d.model_dump() for d in door.devices.all()])
    answer = phone.post("/ticket", data={"ticket": word}, headers={"User-Agent": "Mozilla/5.0 (X; K) Mobile"})
    assert (answer.status_code, answer.location) == (303, "/")
    assert phone.get("/api/jobs").status_code == 200
    again = app.test_client().post("/ticket", data={"ticket": word})
    assert again.status_code == 401
    assert "used already" in again.text
    assert TICKET_S == 600
    monkeypatch.setattr("sphagnum.api.signed_in.TICKET_S", -1.0)
    assert app.test_client().post("/ticket", data={"ticket": door.devices.ticket()}).status_code == 401  # too late
    stranger = {"REMOTE_ADDR": "10.0.0.9"}
    guesses = [app.test_client().post("/ticket", data={"ticket": f"guess {i}"}, environ_base=stranger).status_code
               for i in range(FAST + 3)]
    assert guesses == [401] * FAST + [429] * 3
    # the list of devices outlives the server; one that is ended comes in no more
    [device] = door.devices.all()
    assert device.name == "phone"
    later = Door("moss", b"k", Devices(tmp_path / "devices.json"))
    anew = create_app(open_store(database_url(tmp_path)), None, later).test_client()
    cookie = phone.get_cookie("sphagnum")
    assert cookie is not None
    anew.set_cookie("sphagnum", cookie.value)
    assert anew.get("/api/devices").json["this"] == device.id
    assert anew.delete(f"/api/devices/{device.id}", headers=AUTHOR).status_code == 200
    assert anew.get("/api/jobs").status_code == 401
    assert oct((tmp_path / "devices.json").stat().st_mode)[-3:] == "600"


def test_a_device_signs_itself_out(tmp_path: Path) -> None:
    page = create_app(open_store(database_url(tmp_path)), None, Door("moss")).test_client()
    page.post("/sign-in", data={"passphrase": "moss"})
    assert page.get("/api/jobs").status_code == 200
    assert page.post("/sign-out", headers=AUTHOR).status_code == 204
    assert page.get("/api/jobs").status_code == 401


def test_what_is_before_the_door_holds_nothing_of_a_job(tmp_path: Path) -> None:
    page = create_app(open_store(database_url(tmp_path)), None, Door("moss")).test_client()
    for path, kind in (("/sw.js", "javascript"), ("/manifest.webmanifest", "manifest"), ("/icons/192.png", "png"),
                       ("/ticket.js", "javascript"), ("/door.css", "css"), ("/ticket", "html")):
        answer = page.get(path)
        assert (answer.status_code, kind in answer.content_type) == (200, True), path
    assert page.get("/sw.js").headers["Cache-Control"] == "no-cache"
    assert "manifest-src 'self'" in page.get("/ticket").headers["Content-Security-Policy"]
    assert page.get("/api/stream").status_code == 401


def test_the_page_for_phones_is_open_only_while_it_is_wanted(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    made = kept(tmp_path, NAMES, PLACES)
    monkeypatch.setattr("sphagnum.network.first_visit.STAYS_S", 1.0)
    visit = FirstVisit("127.0.0.1", 0, made.authority)
    at = f"http://127.0.0.1:{visit.want(made.sha256)}"
    assert made.sha256 in urllib.request.urlopen(at, timeout=5).read().decode()
    assert urllib.request.urlopen(f"{at}/sphagnum.crt", timeout=5).read() == made.authority.read_bytes()
    with pytest.raises(urllib.error.HTTPError, match="404"):
        urllib.request.urlopen(f"{at}/api/jobs", timeout=5)
    time.sleep(4.0)
    with pytest.raises(urllib.error.URLError):
        urllib.request.urlopen(at, timeout=5)


def test_where_no_phone_can_come_in_it_says_how_it_could(client: FlaskClient) -> None:
    way = client.post("/api/phone", headers=AUTHOR).json
    assert "sphagnum serve --tls" in way["sentence"]
    assert way["ways"] == []


@pytest.mark.broad
def test_thirty_listen_by_tls_each_hears_of_a_change_and_a_read_is_quick(tmp_path: Path) -> None:
    port = free_port()
    with served("serve", tmp_path / "d", tmp_path / "log", "--tls", "--host", "127.0.0.3", "--port", str(port),
                SPHAGNUM_PASSPHRASE="moss") as base:
        trusts = ssl.create_default_context(cafile=str(tmp_path / "d" / "authority" / "authority.crt"))
        assert base == f"https://127.0.0.3:{port}"
        with pytest.raises(urllib.error.URLError, match="CERTIFICATE_VERIFY_FAILED"):  # who does not trust it does not come in
            urllib.request.urlopen(f"{base}/sign-in", timeout=5, context=ssl.create_default_context())
        head = {"Authorization": "Basic eDptb3Nz", "X-Author": "a", "Content-Type": "application/json"}

        def link() -> http.client.HTTPSConnection:
            return http.client.HTTPSConnection("127.0.0.3", port, context=trusts, timeout=30)

        def ask(to: http.client.HTTPSConnection, method: str, path: str, body: object = None) -> tuple[int, bytes]:
            to.request(method, f"/api{path}", None if body is None else json.dumps(body), head)
            answer = to.getresponse()
            return answer.status, answer.read()

        one = link()
        assert ask(one, "POST", "/jobs", {"name": "Hall", "kind": "room"})[0] == 201
        streams, refused = [], 0
        for n in range(30):
            to = link()
            to.request("GET", f"/api/stream?of={n}", headers=head)
            answer = to.getresponse()
            full = b"full" in answer.readline()
            streams += [] if full else [answer]
            refused += full
        assert (len(streams), refused) == (MOST_STREAMS, 30 - MOST_STREAMS)
        # a window of a browser that listens already takes its place, beside no other's
        to = link()
        to.request("GET", "/api/stream?of=0", headers=head)
        streams[0] = to.getresponse()
        assert b"full" not in streams[0].readline()
        took: list[float] = []

        def polls() -> None:
            to = link()
            to.connect()
            for _ in range(3):
                began = time.monotonic()
                assert ask(to, "GET", "/jobs/1/revision")[0] == 200
                took.append(time.monotonic() - began)
                time.sleep(0.5)

        others = [threading.Thread(target=polls) for _ in range(24)]
        for other in others:
            other.start()
        assert ask(one, "POST", "/jobs/1/positions", {"rows": [{"name": "Ear"}]})[0] == 201
        for stream in streams:
            while not (line := stream.readline()).startswith(b"data"):
                assert line
            assert json.loads(line[5:]) == {"jobs": [1]}
        for other in others:
            other.join()
        assert not FULL or sorted(took)[int(0.95 * len(took))] < 0.3  # on a machine that does nothing else
        began = time.monotonic()
    assert not FULL or time.monotonic() - began < 5.0  # who listens does not hold up its end


def test_tls_wants_a_passphrase_and_no_proxy(tmp_path: Path) -> None:
    from test_service import sphagnum

    assert "needs a passphrase" in sphagnum("serve", "--tls", "--data", tmp_path).stderr
    os.environ["SPHAGNUM_PASSPHRASE"] = "moss"
    try:
        assert "one of them speaks TLS" in sphagnum("serve", "--tls", "--behind-proxy", "--data", tmp_path).stderr
    finally:
        del os.environ["SPHAGNUM_PASSPHRASE"]
