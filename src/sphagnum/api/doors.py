"""Who may come in: the passphrase, guessed at only slowly; the cookie of a browser that signed in; bodies refused at the door."""

from __future__ import annotations

import base64
import binascii
import hashlib
import hmac
import html
import os
import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.utilities import Error

from ..network.first_visit import HEAD
from .signed_in import STAYS_S, Devices

COOKIE = "sphagnum"
LETS_IN = ("/sign-in", "/ticket")
"""Where a body is taken from whoever is not in yet."""
HEAD_S = 10.0
"""A request's head must be there within this."""
FAST, PER_S = 5, 2.0
"""Wrong passphrases an address may give at once, and then so many a second."""
FAST_IN_ALL, PER_S_IN_ALL = 60, 10.0
MOST_ADDRESSES = 10_000
Answer = Literal["in", "wrong", "later"]


class Bucket:
    """Lets so many through at once, and then so many a second."""

    def __init__(self, size: float, per_s: float) -> None:
        self.size, self.per_s, self.left, self.at = size, per_s, size, time.monotonic()

    def ready(self) -> bool:
        """Whether one more may pass now."""
        now = time.monotonic()
        self.left = min(self.size, self.left + (now - self.at) * self.per_s)
        self.at = now
        return self.left >= 1

    def take(self) -> None:
        """One passed."""
        self.left -= 1


class Door:
    """The passphrase of a workshop. An empty one leaves the door open."""

    def __init__(self, passphrase: str = "", key: bytes | None = None, devices: Devices | None = None) -> None:
        self.passphrase, self.devices = passphrase, devices or Devices()
        self._key = hashlib.sha256((key or secrets.token_bytes(32)) + passphrase.encode()).digest()
        self._lock = threading.Lock()
        self._by: OrderedDict[str, Bucket] = OrderedDict()
        self._all = Bucket(FAST_IN_ALL, PER_S_IN_ALL)

    def cookie(self, agent: str = "") -> str:
        """A cookie's value for a device that was let in: until when, which device, signed."""
        told = f"{int(time.time()) + STAYS_S}.{self.devices.add(agent)}"
        return f"{told}.{self._signed(told)}"

    def _signed(self, told: str) -> str:
        return hmac.new(self._key, told.encode(), "sha256").hexdigest()

    def device(self, cookies: str) -> str:
        """The device a request's cookies are of, where they are ours and still count; else empty."""
        for part in cookies.split(";"):
            name, _, value = part.strip().partition("=")
            told, _, sign = value.rpartition(".")
            until, _, device = told.partition(".")
            if name == COOKIE and until.isdecimal() and hmac.compare_digest(sign.encode(), self._signed(told).encode()):
                return device if int(until) > time.time() and self.devices.knows(device) else ""
        return ""

    def admits(self, authorization: str, cookies: str, address: str) -> Answer:
        """Whether a request may come in, by its cookie or by a passphrase given the Basic way."""
        if not self.passphrase or self.device(cookies):
            return "in"
        kind, _, packed = authorization.partition(" ")
        if kind.lower() != "basic":
            return "wrong"
        try:
            given = base64.b64decode(packed, validate=True).decode("utf-8", "replace").partition(":")[2]
        except (binascii.Error, ValueError):
            given = ""
        return self.tries(given, address)

    def tries(self, given: str, address: str) -> Answer:
        """A passphrase tried from an address; "later" where too many wrong ones came: then it is not even looked at."""
        return self._tried(address, lambda: hmac.compare_digest(given.encode(), self.passphrase.encode()))

    def redeems(self, ticket: str, address: str) -> Answer:
        """A ticket tried from an address; slowed down as passphrases are."""
        return self._tried(address, lambda: self.devices.redeem(ticket))

    def _tried(self, address: str, right: Callable[[], bool]) -> Answer:
        with self._lock:
            own = self._by.setdefault(address, Bucket(FAST, PER_S))
            self._by.move_to_end(address)
            while len(self._by) > MOST_ADDRESSES:
                self._by.popitem(last=False)
            fresh = own.left >= own.size  # who never was wrong does not wait for those who are
            if not own.ready() or not (fresh or self._all.ready()):
                return "later"
            if right():
                return "in"
            own.take()
            self._all.take()
            return "wrong"


def key_of(data: Path) -> bytes:
    """The key cookies are signed with, kept in the data folder for its owner alone."""
    file = data / "cookie.key"
    if not file.is_file():
        number = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(number, "wb") as out:
            out.write(secrets.token_bytes(32))
    return file.read_bytes()


def sign_in_page(to: str, said: str = "") -> str:
    """The page on which a browser signs in; no script."""
    sentence = f'<p role="alert"><b>{html.escape(said)}</b></p>' if said else ""
    return (
        f'{HEAD}<title>Sphagnum: sign in</title></head><body><main><h1>Sphagnum</h1>'
        f'{sentence}<form method="post" action="/sign-in"><input type="hidden" name="to" value="{html.escape(to, quote=True)}">'
        '<p><label>The workshop\'s passphrase<br><input type="password" name="passphrase" autocomplete="current-password" '
        'autofocus required></label></p><p><button type="submit">Sign in</button></p></form></main></body></html>')


def ticket_page(said: str = "") -> str:
    """The page on which a device that was shown a ticket lets itself in by a press; its script reads the ticket behind the #."""
    sentence = f'<p role="alert"><b>{html.escape(said)}</b></p>' if said else ""
    return (
        f'{HEAD}<title>Sphagnum: come in</title><script src="/ticket.js" defer></script></head><body><main>'
        f'<h1>Sphagnum</h1>{sentence}<form method="post" action="/ticket"><input type="hidden" name="ticket" value="">'
        '<p>This device is let in for thirty days.</p><p><button type="submit">Come in</button></p></form>'
        '<p><a href="/sign-in">Sign in with the passphrase</a></p></main></body></html>')


class _Refused(Error):  # type: ignore[misc]
    """An answer given before a request's body is read."""

    def __init__(self, code: int, reason: str, more: tuple[tuple[str, str], ...] = ()) -> None:
        super().__init__(reason)
        self.code, self.reason, self.more = code, reason, more

    def to_response(self, ident: str | None = None) -> Any:
        """Status, headers and body."""
        status, headers, body = super().to_response(ident)
        return status, [*headers, *self.more], body


MOST_WORD = 200
"""Of what a relay tells before the first byte."""


def channel_of(door: Door, most_body: Callable[[str], int], relay: str = "") -> type[HTTPChannel]:
    """Connections that look at a request's head before they take its body.

    ``most_body``: the largest body an address of the application takes. ``relay``: the word of a relay that speaks TLS with the
    caller; it and the caller's address come before the first byte, and without them nothing is taken.
    """

    class Parser(HTTPRequestParser):  # type: ignore[misc]
        address = ""

        def parse_header(self, header_plus: bytes) -> None:
            """A head as it came; a body that will be refused is not waited for."""
            super().parse_header(header_plus)
            if relay:
                self.url_scheme = "https"
            length, chunked = int(self.content_length), bool(self.chunked)  # type: ignore[has-type]
            if length <= 0 and not chunked:
                return
            refused = None
            if length > most_body(self.path):
                refused = _Refused(413, "Payload Too Large")
            elif self.path not in LETS_IN:
                found = door.admits(self.headers.get("AUTHORIZATION", ""), self.headers.get("COOKIE", ""), self.address)
                if found == "wrong":
                    refused = _Refused(401, "Unauthorized", (("WWW-Authenticate", 'Basic realm="Sphagnum"'),))
                elif found == "later":
                    refused = _Refused(429, "Too Many Requests", (("Retry-After", "2"),))
            if refused is not None:
                self.error, self.completed, self.body_rcv = refused, True, None
                self.content_length, self.chunked = 0, False

    class Channel(HTTPChannel):  # type: ignore[misc]
        def __init__(self, server: Any, sock: Any, addr: Any, adj: Any, map: Any = None) -> None:
            self.head_since = time.monotonic()
            self.told = b"" if relay else None
            self.parser_class = lambda adj: self._parser(adj)
            super().__init__(server, sock, addr, adj, map)

        def _parser(self, adj: Any) -> Parser:
            parser = Parser(adj)
            parser.address = str(self.addr[0]) if isinstance(self.addr, tuple) else str(self.addr)
            self.head_since = time.monotonic()
            return parser

        def received(self, data: bytes) -> bool:
            """Data as it comes; who takes too long over a head is let go."""
            if self.told is not None:
                self.told += data
                line, end, data = self.told.partition(b"\r\n")
                if not end and len(line) <= MOST_WORD:
                    return True
                word, _, caller = line.decode("ascii", "replace").partition(" ")
                if not hmac.compare_digest(word.encode(), relay.encode()):
                    self.will_close = True
                    return False
                self.told, self.addr = None, (caller, 0)
                if not data:
                    return True
            request = self.request
            if request is not None and not request.headers_finished and time.monotonic() - self.head_since > HEAD_S:
                self.will_close = True
                return False
            return bool(super().received(data))

    return Channel
