"""What stands before the server where it speaks TLS itself: relay, certificates renewed in time, addresses, the first visit."""

from __future__ import annotations

import socket
from collections.abc import Callable
from pathlib import Path

from .addresses import addresses, names
from .authority import Kept, kept
from .first_visit import FirstVisit
from .relay import Relay

TLS_PORT = 8443
EVERYWHERE = ("0.0.0.0", "::")
"""Hosts that mean every address of this machine."""


class Front:
    """The way in for other devices, on a port that stays the same.

    ``said``: what is told when the authority is a new one, so that phones trust it anew.
    """

    def __init__(self, data: Path, listening: socket.socket, host: str, server_port: int, word: str,
                 said: Callable[[str], None]) -> None:
        self._data, self._said, self._host = data, said, host
        self.port = int(listening.getsockname()[1])
        self._seen = self._certificates()
        self._first_visit = FirstVisit(host, self.port + 1, self._seen.authority)
        self._relay = Relay(listening, server_port, word, str(self._seen.leaf), str(self._seen.key))

    @property
    def sha256(self) -> str:
        """Of the authority's certificate, as phones show it."""
        return self._seen.sha256

    def reached(self) -> tuple[str, ...]:
        """Where others reach it: by name before by address; of a host that was given, there alone."""
        if self._host not in EVERYWHERE:
            return (f"https://{self._host}:{self.port}",)
        every = (*names(), *addresses())
        away = [a for a in every if a not in ("localhost", "127.0.0.1", "::1")]
        return tuple(f"https://{a}:{self.port}" for a in away or every[:1])

    def open_first_visit(self) -> str | None:
        """Open the page with the certificate, or keep it open a while longer; where it is, None where it cannot be."""
        port = self._first_visit.want(self.sha256)
        host = self.reached()[0].removeprefix("https://").rpartition(":")[0]
        return None if port is None else f"http://{host}:{port}/"

    def close_first_visit(self) -> None:
        """Nobody wants the page any more."""
        self._first_visit.close()

    def renew(self) -> None:
        """Make the certificate anew where it is near its end, or this machine has another name or address."""
        before = self._seen.leaf.read_bytes()
        self._seen = self._certificates()
        if self._seen.leaf.read_bytes() != before:
            self._relay.renewed(str(self._seen.leaf), str(self._seen.key))

    def close(self) -> None:
        """Nobody comes in any more."""
        self._first_visit.close()
        self._relay.close()

    def _certificates(self) -> Kept:
        own = self._host not in EVERYWHERE and self._host[0].isdigit() and self._host not in addresses()
        extra = (self._host,) if own else ()
        found = kept(self._data, names(), (*addresses(), *extra))
        if found.made:
            self._said("A new authority of this workshop was made: phones trust it once more, "
                       "under “Open on a phone” on the board.")
        return found
