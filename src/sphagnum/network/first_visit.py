"""The page a phone sees first: the authority's certificate and how to trust it; open only while somebody at the desk wants it."""

from __future__ import annotations

import contextlib
import html
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

STAYS_S = 75.0
"""It closes so long after the desk last asked for it."""
REQUEST_S = 10.0
SHIPPED = Path(__file__).parent.parent / "web_dist"
POLICY = "default-src 'none'; style-src 'self'; img-src 'self'; frame-ancestors 'none'"
LOOKS = {"door.css": "text/css", "mark.svg": "image/svg+xml"}


class FirstVisit:
    """Serves a certificate on a plain port of its own, while it is wanted."""

    def __init__(self, host: str, port: int, certificate: Path) -> None:
        self._host, self._port, self._certificate = host, port, certificate
        self._lock = threading.Lock()
        self._server: ThreadingHTTPServer | None = None
        self._until = 0.0

    def want(self, sha256: str) -> int | None:
        """Open it, or keep it open a while longer; its port, None where another program listens there."""
        with self._lock:
            self._until = time.monotonic() + STAYS_S
            if self._server is None:
                answers = handler(self._certificate.read_bytes(), sha256)
                try:
                    self._server = ThreadingHTTPServer((self._host, self._port), answers)
                except OSError:
                    return None
                self._server.daemon_threads = True
                threading.Thread(target=self._server.serve_forever, args=(0.5,), name="first visit", daemon=True).start()
                threading.Thread(target=self._watch, name="first visit's end", daemon=True).start()
            return int(self._server.server_address[1])

    def close(self) -> None:
        """Nobody wants it any more."""
        with self._lock:
            server, self._server = self._server, None
        if server is not None:
            server.shutdown()
            server.server_close()

    def _watch(self) -> None:
        while self._server is not None:
            time.sleep(1.0)
            if time.monotonic() > self._until:
                self.close()


def handler(certificate: bytes, sha256: str) -> type[BaseHTTPRequestHandler]:
    """What answers on the plain port: the certificate, and the page that explains it; nothing else is there."""
    looks = {f"/{n}": (kind, (SHIPPED / n).read_bytes()) for n, kind in LOOKS.items() if (SHIPPED / n).is_file()}
    pages = {"/": ("text/html; charset=utf-8", page(sha256).encode()), **looks,
             "/sphagnum.crt": ("application/x-x509-ca-cert", certificate)}

    class Answers(BaseHTTPRequestHandler):
        timeout = REQUEST_S
        server_version, sys_version = "", ""

        def do_GET(self) -> None:
            """One of the pages."""
            kind, body = pages.get(self.path.partition("?")[0], ("text/plain", b""))
            self.send_response(200 if body else 404)
            self.send_header("Content-Type", kind)
            self.send_header("Content-Length", str(len(body)))
            self.send_header("Content-Security-Policy", POLICY)
            self.send_header("X-Content-Type-Options", "nosniff")
            self.send_header("Connection", "close")
            self.end_headers()
            with contextlib.suppress(OSError):
                self.wfile.write(body)

        def log_message(self, *_: object) -> None:
            """Kept quiet."""

    return Answers


HEAD = ('<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, '
        'initial-scale=1"><link rel="icon" href="/mark.svg"><link rel="stylesheet" href="/door.css">')
"""How pages before the door begin."""
STEPS = (
    ("Fetch it", "Press the button and keep the file."),
    ("Trust it, where the phone speaks of certificates",
     "Settings, security, more security settings, install a certificate, CA certificate; choose the file."),
    ("Trust it, where the phone speaks of profiles",
     "Allow the profile; settings, general, profiles: install it; settings, general, about, trust settings: switch it on."),
    ("Compare it", "What the phone shows as SHA-256 must be what the desk shows, letter by letter:"))


def page(sha256: str) -> str:
    """How a phone comes to trust the workshop."""
    steps = "".join(f"<li><p><b>{html.escape(name)}.</b> {html.escape(how)}</p></li>" for name, how in STEPS)
    return (f'{HEAD}<title>Sphagnum: trust this workshop</title></head><body><main><h1>Trust this workshop</h1>'
            "<p>The certificate vouches for this workshop's machine alone, and for no other address in the world.</p>"
            f'<p><a class="large" href="/sphagnum.crt">The workshop\'s certificate</a></p><ol>{steps}</ol>'
            f"<p><code>{html.escape(sha256)}</code></p><p>Then come back to the desk and take the second code.</p>"
            "</main></body></html>")
