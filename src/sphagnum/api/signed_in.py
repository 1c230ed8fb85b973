"""Devices that are signed in, each ended by a press; and tickets that let one more in, each for once and a short while."""

from __future__ import annotations

import contextlib
import hashlib
import json
import secrets
import threading
import time
from collections import OrderedDict
from pathlib import Path

from pydantic import ValidationError

from ..core.errors import BadInput
from ..core.schema import Strict
from ..exchange.files import write_whole

STAYS_S = 30 * 24 * 3600
TICKET_S = 600.0
MOST_TICKETS, MOST_DEVICES = 50, 200
NOTED_S = 3600.0
"""When a device was last seen is written down no more often."""
KINDS = (("Tablet", "tablet"), ("Mobile", "phone"))
"""What browsers say of what they run on; whoever says nothing of it is a desk."""


class Device(Strict):
    """A browser that was let in: what it is, when that was and when it was seen last (seconds since 1970)."""

    id: str
    name: str
    since: float
    seen: float


class Devices:
    """The devices of a workshop, kept in a file of their owner's; in memory alone without one."""

    def __init__(self, file: Path | None = None) -> None:
        self._file, self._lock = file, threading.Lock()
        self._by: OrderedDict[str, Device] = OrderedDict()
        self._tickets: OrderedDict[str, float] = OrderedDict()
        if file is not None and file.is_file():
            try:
                for row in json.loads(file.read_text("utf-8")):
                    device = Device.model_validate(row)
                    self._by[device.id] = device
            except (ValueError, TypeError, ValidationError):  # whoever was signed in signs in once more
                self._by.clear()

    def add(self, agent: str) -> str:
        """A device that was let in, by what its browser says of itself; its id."""
        now = time.time()
        device = Device(id=secrets.token_hex(8), name=named(agent), since=now, seen=now)
        with self._lock:
            self._by[device.id] = device
            for old in [d.id for d in self._by.values() if d.seen < now - STAYS_S]:
                del self._by[old]
            while len(self._by) > MOST_DEVICES:
                self._by.popitem(last=False)
            self._write()
        return device.id

    def knows(self, device_id: str) -> bool:
        """Whether a device is still let in; it was seen just now."""
        with self._lock:
            device = self._by.get(device_id)
            if device is None:
                return False
            if (now := time.time()) - device.seen > NOTED_S:
                self._by[device_id] = device.model_copy(update={"seen": now})
                with contextlib.suppress(BadInput):  # who is in stays in, whatever the disk says
                    self._write()
            return True

    def end(self, device_id: str) -> bool:
        """A device comes in no more; whether there was one."""
        with self._lock:
            found = self._by.pop(device_id, None) is not None
            self._write()
            return found

    def all(self) -> tuple[Device, ...]:
        """Those there are, the newest first."""
        with self._lock:
            return tuple(reversed(self._by.values()))

    def ticket(self) -> str:
        """A word that lets one device in, once, within ten minutes."""
        word, now = secrets.token_urlsafe(24), time.monotonic()
        with self._lock:
            self._tickets[_digest(word)] = now + TICKET_S
            while len(self._tickets) > MOST_TICKETS:
                self._tickets.popitem(last=False)
        return word

    def redeem(self, word: str) -> bool:
        """Whether a ticket lets in; it does so once."""
        with self._lock:
            return self._tickets.pop(_digest(word), 0.0) > time.monotonic()

    def _write(self) -> None:
        if self._file is not None:
            write_whole({self._file: json.dumps([d.model_dump() for d in self._by.values()]).encode()})


def _digest(word: str) -> str:
    return hashlib.sha256(word.encode()).hexdigest()


def named(agent: str) -> str:
    """What a device is, in a word.

    >>> named("Mozilla/5.0 (X; K) Mobile Safari/537.36")
    'phone'
    """
    return next((kind for mark, kind in KINDS if mark in agent), "desk")
