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

COOKIE = "sphagnum"
STAYS_S = 30 * 24 * 3600
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

    def __init__(self, passphrase: str = "", key: bytes | None = None) -> None:
        self.passphrase = passphrase
        self._key = hashlib.sha256((key or secrets.token_bytes(32)) + passphrase.encode()).digest()
        self._lock = threading.Lock()
        self._by: OrderedDict[str, Bucket] = OrderedDict()
        self._all = Bucket(FAST_IN_ALL, PER_S_IN_ALL)

    def cookie(self) -> str:
        """A cookie's value for a browser that gave the passphrase: until when, signed."""
        until = str(int(time.time()) + STAYS_S)
        return f"{until}.{self._signed(until)}"

    def _signed(self, until: str) -> str:
        return hmac.new(self._key, until.encode(), "sha256").hexdigest()

    def knows(self, cookies: str) -> bool:
        """Whether a request's cookies hold one of ours that still counts."""
        for part in cookies.split(";"):
            name, _, value = part.strip().partition("=")
            until, _, sign = value.partition(".")
            if name == COOKIE and until.isdecimal() and hmac.compare_digest(sign.encode(), self._signed(until).encode()):
                return int(until) > time.time()
        return False

    def admits(self, authorization: str, cookies: str, address: str) -> Answer:
        """Whether a request may come in, by its cookie or by a passphrase given the Basic way."""
        if not self.passphrase or self.knows(cookies):
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
        with self._lock:
            own = self._by.setdefault(address, Bucket(FAST, PER_S))
            self._by.move_to_end(address)
            while len(self._by) > MOST_ADDRESSES:
                self._by.popitem(last=False)
            fresh = own.left >= own.size  # who never was wrong does not wait for those who are
            if not own.ready() or not (fresh or self._all.ready()):
                return "later"
            if hmac.compare_digest(given.encode(), self.passphrase.encode()):
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
        '<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, '
        'initial-scale=1"><title>Sphagnum: sign in</title></head><body><main><h1>Sphagnum</h1>'
        f'{sentence}<form method="post" action="/sign-in"><input type="hidden" name="to" value="{html.escape(to, quote=True)}">'
        '<p><label>The workshop\'s passphrase<br><input type="password" name="passphrase" autocomplete="current-password" '
        'autofocus required></label></p><p><button type="submit">Sign in</button></p></form></main></body></html>')


class _Refused(Error):  # type: ignore[misc]
    """An answer given before a request's body is read."""

    def __init__(self, code: int, reason: str, more: tuple[tuple[str, str], ...] = ()) -> None:
        super().__init__(reason)
        self.code, self.reason, self.more = code, reason, more

    def to_response(self, ident: str | None = None) -> Any:
        """Status, headers and body."""
        status, headers, body = super().to_response(ident)
        return status, [*headers, *self.more], body


def channel_of(door: Door, most_body: Callable[[str], int]) -> type[HTTPChannel]:
    """Connections that look at a request's head before they take its body.

    ``most_body``: the largest body an address of the application takes.
    """

    class Parser(HTTPRequestParser):  # type: ignore[misc]
        address = ""

        def parse_header(self, header_plus: bytes) -> None:
            """A head as it came; a body that will be refused is not waited for."""
            super().parse_header(header_plus)
            length, chunked = int(self.content_length), bool(self.chunked)  # type: ignore[has-type]
            if length <= 0 and not chunked:
                return
            refused = None
            if length > most_body(self.path):
                refused = _Refused(413, "Payload Too Large")
            elif self.path != "/sign-in":
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
            self.parser_class = lambda adj: self._parser(adj, addr)
            super().__init__(server, sock, addr, adj, map)

        def _parser(self, adj: Any, addr: Any) -> Parser:
            parser = Parser(adj)
            parser.address = str(addr[0]) if isinstance(addr, tuple) else str(addr)
            self.head_since = time.monotonic()
            return parser

        def received(self, data: bytes) -> bool:
            """Data as it comes; who takes too long over a head is let go."""
            request = self.request
            if request is not None and not request.headers_finished and time.monotonic() - self.head_since > HEAD_S:
                self.will_close = True
                return False
            return bool(super().received(data))

    return Channel
